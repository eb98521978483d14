#pragma once

#include "nuvat/core/signal/peaks.h"

#include <cstddef>
#include <span>
#include <vector>

namespace nuvat {

/// A maximum between two minima, by indexes of samples.
struct TurningPoint {
    std::size_t apex = 0;
    std::size_t before = 0; ///< the lowest sample between it and the maximum before, or the begin
    std::size_t after = 0;
};

/// Maxima that rise and fall by at least `hysteresis`, from left to right in one pass.
std::vector<TurningPoint> turningPoints(std::span<const double> y, double hysteresis);

/// Where a peak leaves the ground and comes back to it.
struct FoundPeak {
    std::size_t apex = 0;
    std::size_t start = 0, end = 0;
    bool isStartOpen = false, isEndOpen = false; ///< it does not come to a straight stretch there
    std::size_t valley = 0;                      ///< of the next peak: the lowest sample between the two
    bool touchesNext = false;
};

/// Peaks of a piece of a trace. @param x strictly rising; @param hysteresis as for turningPoints
/// @return by apex; start and end are indexes into the piece
std::vector<FoundPeak> findPeaks(std::span<const double> x, std::span<const double> y, const Noise& noise,
                                 double hysteresis);

} // namespace nuvat
