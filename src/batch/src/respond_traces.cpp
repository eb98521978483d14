// From traces to responses: peaks where they are expected, and values between markers.
#include "respond_traces.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

/// A response before the place is looked at.
struct Taken {
    std::optional<double> value;
    std::optional<double> position;
    bool isFound = true; ///< false: there is no such peak
    std::string why;
    std::optional<Stretch> stretch{};
};

std::optional<double> quantityOf(const Peak& peak, const PeakRule& rule, const MeasuredTrace& trace, double total) {
    switch (rule.quantity) {
    case PeakQuantity::Area:
        return peak.area;
    case PeakQuantity::Height:
        return peak.height;
    case PeakQuantity::SampleHeight:
        return peak.heightSample;
    case PeakQuantity::AreaPercent:
        return total > 0 ? std::optional(100 * peak.area * rule.factor / total) : std::nullopt;
    case PeakQuantity::Charge:
        return trace.chargeFactor ? std::optional(peak.area * *trace.chargeFactor) : std::nullopt;
    }
    return std::nullopt;
}

/// What stands in the window where no peak was found: from end to end, above a straight line.
std::optional<Peak> measureWindow(const PeakRule& rule, const Trace& data, const SignalRule& signal, double shift) {
    const double half = halfWindow(rule, shift);
    const Stretch window{rule.expected * shift - half, rule.expected * shift + half};
    PeakRules rules;
    rules.given = {window};
    auto [x, y] = data.points();
    if (x.empty() || window.from < x.front() || window.to > x.back()) {
        return std::nullopt;
    }
    if (signal.isCathodicPositive) {
        std::ranges::transform(y, y.begin(), [](double value) { return -value; });
    }
    const auto features = measurePeaks(x, y, rules);
    return features && !features->peaks.empty() ? std::optional(features->peaks.front()) : std::nullopt;
}

/// The sum of all areas of a trace, each times the factor of the analyte that takes it; negative ones are left out.
double totalArea(const Method& method, const PeakRule& rule, const MeasuredTrace& trace) {
    double sum = 0;
    for (const Peak& peak : trace.features.peaks) {
        double factor = 1;
        for (const Analyte& analyte : method.analytes) {
            const auto* other = std::get_if<PeakRule>(&analyte.source.rule);
            const bool isTaken = other && other->channel == rule.channel && isInWindow(*other, peak.apex);
            factor = isTaken && (other->pick == PeakPick::All || peakFor(*other, trace.features) == &peak)
                         ? other->factor
                         : factor;
        }
        sum += std::max(peak.area, 0.0) * factor;
    }
    return sum;
}

/// @param data nullptr unless the window is measured without a peak; @param taken the peak, or the largest of a group
Taken takePeak(const Method& method, const PeakRule& rule, const MeasuredTrace& trace, const Trace* data, double shift,
               std::optional<Peak>& taken) {
    Taken out{std::nullopt, std::nullopt, true, {}};
    const double total = rule.quantity == PeakQuantity::AreaPercent ? totalArea(method, rule, trace) : 0;
    const auto add = [&](const Peak& peak) {
        taken = taken && taken->height >= peak.height ? taken : std::optional(peak);
        const auto value = quantityOf(peak, rule, trace, total);
        if (!value) {
            out.why = rule.quantity == PeakQuantity::Charge ? "no charge: units or scan rate are missing"
                                                            : "there is no area to be a share of";
            return;
        }
        out.value = out.value.value_or(0) + *value;
        out.position = out.position.value_or(peak.apex);
        out.stretch = {out.stretch ? out.stretch->from : peak.start, peak.end};
    };
    if (rule.pick == PeakPick::All) {
        for (const Peak& peak : trace.features.peaks) {
            if (isInWindow(rule, peak.apex, shift)) {
                add(peak);
            }
        }
    } else if (const Peak* peak = peakFor(rule, trace.features, shift)) {
        add(*peak);
    }
    if (!out.value && out.why.empty()) {
        const auto measured = data ? measureWindow(rule, *data, trace.rule, shift) : std::nullopt;
        if (!measured) {
            return {std::nullopt, std::nullopt, false, "no peak within the window"};
        }
        add(*measured);
        out.position.reset();
    }
    return out;
}

/// What was measured between the markers of a rule.
Taken takeBand(const BandRule& rule, const MeasuredTrace& trace) {
    const auto found = std::ranges::find(trace.bands, rule, &BandValue::rule);
    if (found == trace.bands.end()) {
        return {std::nullopt, std::nullopt, true, "it was not measured"};
    }
    const Stretch stretch{std::min(rule.from, rule.to), std::max(rule.from, rule.to)};
    return {found->value, rule.from, true, found->why, found->value ? std::optional(stretch) : std::nullopt};
}

Response responseOf(const Batch& batch, Place place, const Taken& taken) {
    Response out;
    if (batch.at(place).role == Role::Empty) {
        return out;
    }
    out.why = taken.why;
    out.position = taken.position;
    out.stretch = taken.stretch;
    if (taken.value && std::isfinite(*taken.value)) {
        out.raw = taken.value;
    }
    const bool isExcluded = batch.exclusions.contains(place);
    out.state = isExcluded       ? ResponseState::Excluded
                : out.raw        ? ResponseState::Used
                : !taken.isFound ? ResponseState::NotFound
                                 : ResponseState::Unusable;
    return out;
}

/// The mean place of a reference peak over the standards; nothing where it is found in none.
std::optional<double> meanOfReference(const Batch& batch, const Measured& measured, const PeakRule& reference) {
    double sum = 0, count = 0;
    for (const auto& [slot, trace] : measured.traces) {
        if (slot.channel != reference.channel || batch.at(*slot.place).role != Role::Standard ||
            batch.exclusions.contains(*slot.place)) {
            continue;
        }
        if (const Peak* peak = peakFor(reference, trace->features)) {
            sum += peak->apex;
            count += 1;
        }
    }
    return count > 0 ? std::optional(sum / count) : std::nullopt;
}

/// How far the reference peak of a run has moved, as a factor.
class Shift {
public:
    Shift(const Batch& batch, const Measured& measured, const PeakRule& rule) : m_measured(measured) {
        const auto count = static_cast<int>(batch.method.analytes.size());
        if (rule.reference >= 1 && rule.reference <= count) {
            m_reference = std::get_if<PeakRule>(&batch.method.analyte(rule.reference).source.rule);
            m_mean = m_reference ? meanOfReference(batch, measured, *m_reference) : std::nullopt;
        }
    }
    /// 1 where there is no reference, or it is not found.
    double at(Place place) const {
        const auto found =
            m_mean ? m_measured.traces.find({place.carrier, place, m_reference->channel}) : m_measured.traces.end();
        const Peak* peak = found == m_measured.traces.end() ? nullptr : peakFor(*m_reference, found->second->features);
        return peak && *m_mean != 0 ? peak->apex / *m_mean : 1;
    }

private:
    const Measured& m_measured;
    const PeakRule* m_reference = nullptr;
    std::optional<double> m_mean;
};

} // namespace

const Peak* peakFor(const PeakRule& rule, const TraceFeatures& features, double shift) {
    const double expected = rule.expected * shift;
    const auto isBetter = [&](const Peak& peak, const Peak& best) {
        switch (rule.pick) {
        case PeakPick::Largest:
        case PeakPick::All: // the largest stands for its group
            return peak.height > best.height;
        case PeakPick::First:
            return peak.apex < best.apex;
        case PeakPick::Nearest:
            break;
        }
        return std::abs(peak.apex - expected) < std::abs(best.apex - expected);
    };
    const Peak* best = nullptr;
    for (const Peak& peak : features.peaks) {
        if (isInWindow(rule, peak.apex, shift) && (best == nullptr || isBetter(peak, *best))) {
            best = &peak;
        }
    }
    return best;
}

bool respondFromTraces(const Batch& batch, const Measured& measured, AnalyteEvaluation& evaluation) {
    const Analyte& analyte = batch.method.analyte(evaluation.analyte);
    const auto* peak = std::get_if<PeakRule>(&analyte.source.rule);
    const auto* band = std::get_if<BandRule>(&analyte.source.rule);
    if (peak == nullptr && band == nullptr) {
        return false;
    }
    const std::string& channel = peak ? peak->channel : band->channel;
    const Shift shift(batch, measured, peak ? *peak : PeakRule{}); // of none for a band
    bool isAnyRead = false;
    for (const Place place : placesOf(batch)) {
        const Slot slot{place.carrier, place, channel};
        const auto found = measured.traces.find(slot);
        if (found == measured.traces.end()) {
            Response response;
            response.state = batch.at(place).role == Role::Empty ? ResponseState::Empty : ResponseState::NotRead;
            evaluation.responses.push_back(response);
            continue;
        }
        isAnyRead = true;
        const MeasuredTrace& trace = *found->second;
        if (!trace.problem.empty()) {
            evaluation.responses.push_back(responseOf(batch, place, {std::nullopt, std::nullopt, true, trace.problem}));
        } else if (peak) {
            std::optional<Peak> taken;
            const Reading* reading = peak->isWindowTaken ? batch.reading(slot) : nullptr;
            const auto data = reading ? reading->payload.trace() : nullptr;
            evaluation.responses.push_back(
                responseOf(batch, place, takePeak(batch.method, *peak, trace, data.get(), shift.at(place), taken)));
            if (taken) {
                evaluation.peaks[place] = *taken;
            }
        } else {
            evaluation.responses.push_back(responseOf(batch, place, takeBand(*band, trace)));
        }
    }
    if (!isAnyRead) {
        evaluation.problems.push_back({"The response of " + analyte.name + " is taken from traces of " +
                                           (channel.empty() ? "a channel" : channel) +
                                           ", and this batch has none; import them under Data, or choose another "
                                           "channel under Response.",
                                       {}});
    }
    return true;
}

} // namespace nuvat
