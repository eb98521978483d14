#include "nuvat/batch/readings_before.h"

namespace nuvat {

std::optional<Batch> withReadingsBefore(const Batch& batch) {
    std::optional<Batch> out;
    for (const auto& [slot, used] : batch.inUse) {
        int before = 0;
        for (const auto& [key, reading] : batch.readings) {
            before = key < used && reading->slot == slot ? key : before;
        }
        if (before > 0) {
            out = out ? std::move(out) : std::optional(batch);
            out->inUse[slot] = before;
        }
    }
    return out;
}

} // namespace nuvat
