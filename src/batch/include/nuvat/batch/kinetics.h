#pragma once

#include "nuvat/batch/batch.h"
#include "nuvat/core/base/error.h"

#include <functional>
#include <span>
#include <string_view>

namespace nuvat {

/// When a read was taken, as its name says: "450 nm, 60 s".
struct ReadTime {
    std::string of; ///< the name without the time: "450 nm"; may be empty
    double seconds = 0;
};
/// Reads the time at the end of a channel's name: "60 s", "1.5 min", "2 h", "0:05:30" (h:min:s), alone or after what
/// else the name says, parted by a comma or in brackets. @return nothing when the name does not end in a time
std::optional<ReadTime> readTime(std::string_view channel);

/// A channel that was read at times, in their order.
struct TimedChannel {
    std::string of;
    std::vector<std::pair<double, std::string>> reads; ///< time [s] and name of the channel
};
/// Channels that were read at three times or more, each once, by the first of their reads.
std::vector<TimedChannel> timedChannels(const Batch& batch);
/// @return nullptr when there is none of that name
const TimedChannel* timedChannel(const std::vector<TimedChannel>& all, const std::string& of);

/// What a well showed over time. Reads in which the well has no number are left out.
struct WellTrace {
    std::vector<double> x; ///< [s], rising
    std::vector<double> y; ///< [Y]
};
/// @param grids of the channel's reads, in their order; null where a carrier lacks one
WellTrace wellTrace(const TimedChannel& channel, std::span<const Grid* const> grids, Place place);

/// The response that a rule takes from it: the slope of the straight line by least squares through the points from
/// `from` to `to`, their mean, the value at `from` between its two neighbours, or the difference of two such values.
/// @return [Y], of a slope [Y/s]; kinetics.outside, kinetics.few-points
Result<double> responseOf(const KineticRule& rule, const WellTrace& trace);
/// "Slope of 450 nm from 60 to 300 s".
std::string kineticWords(const KineticRule& rule);

} // namespace nuvat
