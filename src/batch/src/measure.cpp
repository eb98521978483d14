// What is taken from each reading, whatever other readings there are.
#include "nuvat/core/base/units.h"
#include "share_out.h"
#include "stages.h"

#include <algorithm>
#include <functional>
#include <map>
#include <tuple>

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

/// What analytes want to know of a channel's traces besides peaks, each once.
std::vector<BandRule> bandsOf(const Method& method, const std::string& channel) {
    std::vector<BandRule> out;
    const auto add = [&](const BandRule& band) {
        if (band.channel == channel && std::ranges::find(out, band) == out.end()) {
            out.push_back(band);
        }
    };
    for (const Analyte& analyte : method.analytes) {
        if (const auto* band = std::get_if<BandRule>(&analyte.source.rule)) {
            add(*band);
            for (const Qualifier& qualifier : analyte.qualifiers) {
                BandRule other = *band;
                other.channel = qualifier.channel;
                add(other);
            }
        }
    }
    return out;
}

double meanBetween(std::span<const double> x, std::span<const double> y, double from, double to, double& count) {
    double sum = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const bool isIn = x[i] >= from && x[i] <= to;
        sum += isIn ? y[i] : 0;
        count += isIn ? 1 : 0;
    }
    return sum / count;
}

BandValue measureBand(const BandRule& rule, std::span<const double> x, std::span<const double> y) {
    const double from = std::min(rule.from, rule.to), to = std::max(rule.from, rule.to);
    if (x.size() < 2) {
        return {std::nullopt, "the trace is too short"};
    }
    if (from < x.front() || to > x.back()) {
        return {std::nullopt, "outside the trace"};
    }
    switch (rule.quantity) {
    case BandQuantity::Value:
        return {interpolated(x, y, rule.from), {}};
    case BandQuantity::Difference:
        return {interpolated(x, y, rule.to) - interpolated(x, y, rule.from), {}};
    case BandQuantity::Mean: {
        double count = 0;
        const double mean = meanBetween(x, y, from, to, count);
        return count > 0 ? BandValue{mean, {}} : BandValue{std::nullopt, "no sample between the markers"};
    }
    case BandQuantity::Slope:
        break;
    }
    const auto line = lineBetween(x, y, {from, to});
    return line ? BandValue{line->b, {}} : BandValue{std::nullopt, line.error().message};
}

/// The points of a trace as peaks are measured in them; what need not be copied is not.
class Samples {
public:
    Samples(const Trace& trace, bool isTurned) : m_trace(trace), m_isWhole(trace.missing.empty()) {
        if (!m_isWhole) {
            std::tie(m_x, m_y) = trace.points();
        } else if (trace.x.empty()) {
            const double from = trace.x0, step = trace.step; // of its own, so that several are worked out at once
            m_x.resize(trace.size());
            for (std::size_t i = 0; i < m_x.size(); ++i) {
                m_x[i] = from + static_cast<double>(i) * step;
            }
        }
        if (isTurned) {
            m_y = m_isWhole ? trace.y : std::move(m_y);
            std::ranges::transform(m_y, m_y.begin(), std::negate());
        }
    }
    std::span<const double> x() const { return m_isWhole && !m_trace.x.empty() ? m_trace.x : m_x; }
    std::span<const double> y() const { return m_isWhole && m_y.empty() ? m_trace.y : m_y; }

private:
    const Trace& m_trace;
    bool m_isWhole;
    std::vector<double> m_x, m_y;
};

/// Work on one payload that is not known yet.
struct Task {
    const Payload* payload = nullptr;
    std::shared_ptr<const Grid>* grid = nullptr; ///< where it goes, for a grid
    std::shared_ptr<const MeasuredTrace>* trace = nullptr;
    TraceRules rules;
    std::shared_ptr<const MeasuredTrace> before; ///< the trace by another rule, or nullptr
};

} // namespace

const Grid* Measured::grid(const Reading& reading) const {
    const auto found = grids.find(reading.payload.id());
    return found == grids.end() ? nullptr : found->second.get();
}

TraceRules traceRules(const Batch& batch, const Slot& slot) {
    return {batch.method.signal(slot.channel), editsOf(batch, slot), bandsOf(batch.method, slot.channel)};
}

std::string measuringVersion() {
    return NUVAT_MEASURING_VERSION;
}

MeasuredTrace measureTrace(const PayloadId& id, const std::shared_ptr<const Trace>& trace, const TraceRules& rules,
                           const MeasuredTrace* before) {
    MeasuredTrace out{id, rules, {}, {}, {}, {}, {}, {}};
    if (trace == nullptr) {
        out.problem = "it cannot be read from the batch file";
        return out;
    }
    out.xUnit = trace->xUnit;
    out.yUnit = trace->yUnit;
    out.chargeFactor = chargeFactor(*trace, rules.signal);
    const Samples samples(*trace, rules.signal.isCathodicPositive);
    const std::span<const double> x = samples.x(), y = samples.y();
    for (const BandRule& band : rules.bands) {
        out.bands.push_back(measureBand(band, x, y));
    }
    const bool isKnown = before && before->payload == id && before->problem.empty();
    if (isKnown && before->rules.signal == rules.signal && before->rules.edits == rules.edits) {
        out.features = before->features; // only what is asked between markers has changed
        return out;
    }
    auto features = measurePeaks(x, y, rules.signal.peaks, rules.edits,
                                 isKnown ? std::optional(before->features.noise) : std::nullopt);
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
    std::map<std::string, TraceRules> byChannel; // of traces on which nothing was drawn
    for (const auto& [slot, key] : batch.inUse) {
        const auto reading = batch.readings.find(key);
        if (reading == batch.readings.end()) {
            continue;
        }
        const Payload& payload = reading->second->payload;
        if (slot.place) {
            const auto [common, isFirst] = byChannel.try_emplace(slot.channel);
            if (isFirst) {
                common->second = traceRules(batch, {0, std::nullopt, slot.channel});
            }
            std::optional<TraceRules> own;
            if (batch.handEdits.contains(slot)) {
                own = traceRules(batch, slot);
            }
            const TraceRules& rules = own ? *own : common->second;
            auto& target = out.traces.try_emplace(out.traces.end(), slot)->second;
            const auto known = before.traces.find(slot);
            if (known != before.traces.end() && known->second->holdsFor(payload.id(), rules)) {
                target = known->second;
            } else {
                tasks.push_back(
                    {&payload, nullptr, &target, rules, known == before.traces.end() ? nullptr : known->second});
            }
            continue;
        }
        const auto [target, isNew] = out.grids.try_emplace(payload.id());
        if (const auto known = before.grids.find(payload.id()); isNew && known != before.grids.end()) {
            target->second = known->second;
        } else if (isNew) {
            tasks.push_back({&payload, &target->second, nullptr, {}, nullptr});
        }
    }
    shareOut(tasks.size(), processors, {}, [&](std::size_t i) {
        Task& task = tasks[i];
        if (task.grid != nullptr) {
            *task.grid = task.payload->grid();
        } else {
            *task.trace = std::make_shared<const MeasuredTrace>(
                measureTrace(task.payload->id(), task.payload->trace(), task.rules, task.before.get()));
        }
    });
    return out;
}

} // namespace nuvat
