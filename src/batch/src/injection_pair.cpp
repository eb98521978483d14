#include "nuvat/batch/injection_pair.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/groups.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

const std::vector<Peak>* peaksOf(const Evaluation& evaluation, const Slot& slot) {
    const auto found = evaluation.traces.find(slot);
    return found == evaluation.traces.end() ? nullptr : &found->second->features.peaks;
}

std::optional<std::size_t> nearest(const std::vector<Peak>& peaks, double apex) {
    if (peaks.empty()) {
        return std::nullopt;
    }
    const auto found =
        std::ranges::min_element(peaks, {}, [apex](const Peak& peak) { return std::abs(peak.apex - apex); });
    return static_cast<std::size_t>(found - peaks.begin());
}

} // namespace

std::optional<InjectionPair> compareInjections(const Evaluation& evaluation, const Slot& first, const Slot& second) {
    const auto *a = peaksOf(evaluation, first), *b = peaksOf(evaluation, second);
    if (a == nullptr || b == nullptr) {
        return std::nullopt;
    }
    std::vector<double> shifts, areas;
    for (std::size_t i = 0; i < a->size(); ++i) {
        const Peak& one = (*a)[i];
        const auto partner = nearest(*b, one.apex);
        if (!partner || nearest(*a, (*b)[*partner].apex) != i) {
            continue;
        }
        const Peak& other = (*b)[*partner];
        if (std::abs(other.apex - one.apex) <= std::max(one.width50.value_or(0), other.width50.value_or(0))) {
            shifts.push_back(other.apex - one.apex);
            areas.push_back(one.area == 0 ? 100 : 100 * other.area / one.area);
        }
    }
    if (shifts.empty()) {
        return std::nullopt;
    }
    InjectionPair out{shifts.size(), a->size() - shifts.size(), b->size() - shifts.size()};
    out.medianShift = *median(shifts);
    out.largestShift = *std::ranges::max_element(shifts, {}, [](double shift) { return std::abs(shift); });
    out.medianAreaPercent = *median(areas);
    out.farthestAreaPercent = *std::ranges::max_element(areas, {}, [](double area) { return std::abs(area - 100); });
    return out;
}

std::vector<std::string> injectionWords(const InjectionPair& pair, const std::string& xUnit) {
    const auto signedText = [&](double shift) {
        return (shift > 0 ? "+" : "") + formatFigures(shift, 2) + (xUnit.empty() ? "" : " " + xUnit);
    };
    const std::size_t all = pair.matched + pair.onlyFirst + pair.onlySecond;
    std::vector<std::string> out{std::to_string(pair.matched) + " of " + std::to_string(all) + " peaks in both"};
    out.push_back("times " + signedText(pair.medianShift) + ", at most " + signedText(pair.largestShift));
    out.push_back("areas " + formatPercent(pair.medianAreaPercent) + " of the first, farthest " +
                  formatPercent(pair.farthestAreaPercent));
    return out;
}

} // namespace nuvat
