// What is taken from each reading, whatever other readings there are.
#include "share_out.h"
#include "stages.h"

namespace nuvat {

const Grid* Measured::grid(const Reading& reading) const {
    const auto found = grids.find(reading.payload.id());
    return found == grids.end() ? nullptr : found->second.get();
}

Measured measure(const Batch& batch, const Measured& before, unsigned processors) {
    Measured out;
    std::vector<const Payload*> left;
    std::vector<std::shared_ptr<const Grid>*> targets;
    for (const auto& [slot, key] : batch.inUse) {
        const auto reading = batch.readings.find(key);
        if (reading == batch.readings.end()) {
            continue;
        }
        const Payload& payload = reading->second->payload;
        const auto [target, isNew] = out.grids.try_emplace(payload.id());
        if (const auto known = before.grids.find(payload.id()); isNew && known != before.grids.end()) {
            target->second = known->second;
        } else if (isNew) {
            left.push_back(&payload);
            targets.push_back(&target->second);
        }
    }
    shareOut(left.size(), processors, {}, [&](std::size_t i) { *targets[i] = left[i]->grid(); });
    return out;
}

} // namespace nuvat
