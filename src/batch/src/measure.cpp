// What is taken from each reading, whatever other readings there are.
#include "nuvat/core/base/units.h"
#include "share_out.h"
#include "stages.h"

namespace nuvat {

namespace {

std::vector<PeakEdit> editsOf(const Batch& batch, const Slot& slot) {
    std::vector<PeakEdit> out;
    if (const auto found = batch.handEdits.find(slot); found != batch.handEdits.end()) {
        for (const HandEdit& edit : found->second.list) {
            out.push_back(edit.edit);
        }
    }
    return out;
}

/// An area of current over time or over potential as a charge in C.
std::optional<double> chargeFactor(const Trace& trace, const SignalRule& rule) {
    const auto current = converted(1, unitSymbol(trace.yUnit), "A");
    const auto time = converted(1, unitSymbol(trace.xUnit), "s");
    if (current && time) {
        return *current * *time;
    }
    const auto potential = converted(1, unitSymbol(trace.xUnit), "V");
    return current && potential && rule.scanRate ? std::optional(*current * *potential / *rule.scanRate) : std::nullopt;
}

/// Work on one payload that is not known yet.
struct Task {
    const Payload* payload = nullptr;
    std::shared_ptr<const Grid>* grid = nullptr; ///< where it goes, for a grid
    std::shared_ptr<const MeasuredTrace>* trace = nullptr;
    const SignalRule* rule = nullptr;
    std::vector<PeakEdit> edits;
    std::shared_ptr<const MeasuredTrace> before; ///< the trace by another rule, or nullptr
};

} // namespace

const Grid* Measured::grid(const Reading& reading) const {
    const auto found = grids.find(reading.payload.id());
    return found == grids.end() ? nullptr : found->second.get();
}

MeasuredTrace measureTrace(const PayloadId& id, const std::shared_ptr<const Trace>& trace, const SignalRule& rule,
                           std::vector<PeakEdit> edits, const MeasuredTrace* before) {
    MeasuredTrace out{id, rule, std::move(edits), {}, {}, {}, {}, {}};
    if (trace == nullptr) {
        out.problem = "it cannot be read from the batch file";
        return out;
    }
    out.xUnit = trace->xUnit;
    out.yUnit = trace->yUnit;
    out.chargeFactor = chargeFactor(*trace, rule);
    auto [x, y] = trace->points();
    if (rule.isCathodicPositive) {
        for (double& value : y) {
            value = -value;
        }
    }
    const bool isKnown = before && before->payload == id && before->problem.empty();
    auto features =
        measurePeaks(x, y, rule.peaks, out.edits, isKnown ? std::optional(before->features.noise) : std::nullopt);
    if (features) {
        out.features = std::move(*features);
    } else {
        out.problem = features.error().message;
    }
    return out;
}

Measured measure(const Batch& batch, const Measured& before, unsigned processors) {
    Measured out;
    std::vector<Task> tasks;
    for (const auto& [slot, key] : batch.inUse) {
        const auto reading = batch.readings.find(key);
        if (reading == batch.readings.end()) {
            continue;
        }
        const Payload& payload = reading->second->payload;
        if (slot.place) {
            const SignalRule& rule = batch.method.signal(slot.channel);
            std::vector<PeakEdit> edits = editsOf(batch, slot);
            auto& target = out.traces[slot];
            const auto known = before.traces.find(slot);
            if (known != before.traces.end() && known->second->payload == payload.id() && known->second->rule == rule &&
                known->second->edits == edits) {
                target = known->second;
            } else {
                tasks.push_back({&payload, nullptr, &target, &rule, std::move(edits),
                                 known == before.traces.end() ? nullptr : known->second});
            }
            continue;
        }
        const auto [target, isNew] = out.grids.try_emplace(payload.id());
        if (const auto known = before.grids.find(payload.id()); isNew && known != before.grids.end()) {
            target->second = known->second;
        } else if (isNew) {
            tasks.push_back({&payload, &target->second, nullptr, nullptr, {}, nullptr});
        }
    }
    shareOut(tasks.size(), processors, {}, [&](std::size_t i) {
        Task& task = tasks[i];
        if (task.grid != nullptr) {
            *task.grid = task.payload->grid();
        } else {
            *task.trace = std::make_shared<const MeasuredTrace>(measureTrace(
                task.payload->id(), task.payload->trace(), *task.rule, std::move(task.edits), task.before.get()));
        }
    });
    return out;
}

} // namespace nuvat
