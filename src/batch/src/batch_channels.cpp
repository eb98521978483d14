// Which channels a batch has, and which of them an analyte is read from.
#include "nuvat/batch/batch.h"
#include "nuvat/batch/kinetics.h"
#include "nuvat/batch/value_formula.h"

#include <algorithm>
#include <iterator>

namespace nuvat {

std::vector<std::string> Batch::channels() const {
    std::vector<std::string> out;
    for (const auto& [key, reading] : readings) {
        const auto used = inUse.find(reading->slot);
        if (used != inUse.end() && used->second == key &&
            std::find(out.begin(), out.end(), reading->slot.channel) == out.end()) {
            out.push_back(reading->slot.channel);
        }
    }
    return out;
}

std::vector<std::string> Batch::channelsOf(int analyte) const {
    const ResponseRule& rule = method.analyte(analyte).source.rule;
    if (const auto* band = std::get_if<BandRule>(&rule)) {
        return {band->channel};
    }
    if (const auto* peak = std::get_if<PeakRule>(&rule)) {
        return {peak->channel};
    }
    if (const auto* kinetic = std::get_if<KineticRule>(&rule)) {
        std::vector<std::string> out;
        const auto all = timedChannels(*this);
        if (const TimedChannel* timed = timedChannel(all, kinetic->channel)) {
            std::ranges::transform(timed->reads, std::back_inserter(out), [](const auto& read) { return read.second; });
        }
        return out;
    }
    if (!std::holds_alternative<ValueRule>(rule)) {
        return {};
    }
    const std::string& formula = valueFormula(rule);
    return formula.empty() ? std::vector{info.channel} : channelsIn(formula, channels());
}

std::vector<std::string> Batch::channelsBehind(int analyte) const {
    std::vector<std::string> out = channelsOf(analyte);
    for (const Qualifier& one : method.analyte(analyte).qualifiers) {
        out.push_back(one.channel);
    }
    if (const int internal = internalOf(method, analyte); internal != 0) {
        std::ranges::copy(channelsOf(internal), std::back_inserter(out));
    }
    return out;
}

const Reading* Batch::firstReading(int analyte) const {
    for (const auto& [number, carrier] : carriers) {
        if (const Reading* found = firstReading(analyte, number)) {
            return found;
        }
    }
    return nullptr;
}

const Reading* Batch::firstReading(int analyte, int carrier) const {
    for (const std::string& channel : channelsOf(analyte)) {
        if (const Reading* found = reading(carrier, channel)) {
            return found;
        }
        const auto trace = std::find_if(inUse.begin(), inUse.end(), [&](const auto& entry) {
            return entry.first.carrier == carrier && entry.first.place && entry.first.channel == channel;
        });
        if (trace != inUse.end()) {
            return reading(trace->first);
        }
    }
    return nullptr;
}

} // namespace nuvat
