#include "nuvat/core/signal/normalise.h"

#include <algorithm>
#include <stdexcept>

namespace nuvat {

Result<std::vector<NormalisedPeak>> normalise(std::span<const double> area, std::span<const double> factor,
                                              std::span<const std::size_t> ignored) {
    if (!factor.empty() && factor.size() != area.size()) {
        throw std::invalid_argument("areas and factors differ in number");
    }
    const auto factorOf = [&](std::size_t i) { return factor.empty() ? 1.0L : factor[i]; };
    const auto counts = [&](std::size_t i) { return std::ranges::find(ignored, i) == ignored.end(); };
    long double areas = 0, weighted = 0;
    for (std::size_t i = 0; i < area.size(); ++i) {
        if (counts(i)) {
            areas += area[i];
            weighted += area[i] * factorOf(i);
        }
    }
    if (!(areas > 0) || !(weighted > 0)) {
        return fail("normalise.no-area", "The areas that count do not sum to more than 0.",
                    "Check which peaks are ignored.");
    }
    std::vector<NormalisedPeak> out(area.size());
    for (std::size_t i = 0; i < area.size(); ++i) {
        if (counts(i)) {
            out[i].areaPercent = static_cast<double>(100 * area[i] / areas);
            out[i].percent = static_cast<double>(100 * area[i] * factorOf(i) / weighted);
        }
    }
    return out;
}

} // namespace nuvat
