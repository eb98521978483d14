#pragma once

#include "nuvat/batch/evaluation.h"

#include <string>
#include <vector>

namespace nuvat {

/// What a second injection of the same shows against the first, peak by peak.
struct InjectionPair {
    std::size_t matched = 0;
    std::size_t onlyFirst = 0, onlySecond = 0; ///< peaks without a partner
    double medianShift = 0, largestShift = 0;  ///< of the apexes, second less first [x]; the largest with its sign
    double medianAreaPercent = 0;              ///< area of the second in percent of the first
    double farthestAreaPercent = 0;            ///< the one that is farthest from 100
};
/// Peaks are partners when each is the other's nearest and they lie closer than the wider of their half widths. The
/// rules of finding are those of the method, which need not have analytes yet: it can be looked at before a batch is
/// built.
/// @return nothing when a trace is missing or nothing matches
std::optional<InjectionPair> compareInjections(const Evaluation& evaluation, const Slot& first, const Slot& second);
/// The same in words, a line each: "6 of 6 peaks in both", "times +0.004 min, at most +0.01 min".
std::vector<std::string> injectionWords(const InjectionPair& pair, const std::string& xUnit);

} // namespace nuvat
