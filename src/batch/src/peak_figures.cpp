#include "peak_figures.h"

namespace nuvat {

std::shared_ptr<const Trace> blankTrace(const Batch& batch, const std::string& channel) {
    for (const auto& [place, group] : batch.places) {
        const Reading* reading = isBlank(group.role) ? batch.reading(Slot{place.carrier, place, channel}) : nullptr;
        if (reading && !batch.isExcluded(place)) {
            return reading->payload.trace();
        }
    }
    return nullptr;
}

std::optional<double> signalToNoise(const Peak& peak, const Trace* blank) {
    if (!blank || !peak.width50) {
        return std::nullopt;
    }
    const auto [x, y] = blank->points();
    const auto noise = blankStretch(x, y, {peak.apex - 10 * *peak.width50, peak.apex + 10 * *peak.width50});
    return noise && noise->peakToPeak > 0 ? std::optional(2 * peak.height / noise->peakToPeak) : std::nullopt;
}

} // namespace nuvat
