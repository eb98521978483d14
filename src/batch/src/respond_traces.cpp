// From traces to responses: peaks where they are expected, and values between markers.
#include "respond_traces.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace nuvat {

namespace {

/// A response before the place is looked at.
struct Taken {
    std::optional<double> value;
    std::optional<double> position;
    bool isFound = true; ///< false: there is no such peak
    std::string why;
    std::optional<Stretch> stretch{};
    std::vector<double> apexes{};
};

/// The analyte that a person gave each peak to, nothing where nobody did. A peak is held by position, as everything
/// drawn is.
std::vector<std::optional<int>> ownersOf(const MeasuredTrace& trace) {
    const std::vector<Peak>& peaks = trace.features.peaks;
    std::vector<std::optional<int>> out(peaks.size());
    for (const PeakEdit& edit : trace.rules.edits) {
        std::optional<std::size_t> best;
        for (std::size_t i = 0; edit.kind == PeakEditKind::Give && i < peaks.size(); ++i) {
            const bool spans = peaks[i].start <= edit.at && edit.at <= peaks[i].end;
            best = spans && (!best || peaks[i].end - peaks[i].start < peaks[*best].end - peaks[*best].start) ? i : best;
        }
        if (best) {
            out[*best] = edit.owner;
        }
    }
    return out;
}

} // namespace

std::vector<const Peak*> peaksFor(const Finder& finder, const MeasuredTrace& trace) {
    const auto owners = ownersOf(trace);
    std::vector<const Peak*> given, found;
    for (std::size_t i = 0; i < owners.size(); ++i) {
        const Peak& peak = trace.features.peaks[i];
        if (owners[i] == finder.analyte) {
            given.push_back(&peak);
        } else if (!owners[i] && isInWindow(finder.rule, peak.apex, finder.shift)) {
            found.push_back(&peak);
        }
    }
    if (finder.rule.pick == PeakPick::All) {
        found.insert(found.end(), given.begin(), given.end());
        std::ranges::sort(found, {}, &Peak::apex);
        return found;
    }
    const auto& among = given.empty() ? found : given;
    if (among.empty()) {
        return {};
    }
    const double expected = finder.rule.expected * finder.shift;
    const auto isBetter = [&](const Peak* one, const Peak* other) {
        switch (finder.rule.pick) {
        case PeakPick::Largest:
            return one->height > other->height;
        case PeakPick::First:
            return one->apex < other->apex;
        case PeakPick::Nearest:
        case PeakPick::All:
            break;
        }
        return std::abs(one->apex - expected) < std::abs(other->apex - expected);
    };
    return {*std::ranges::min_element(among, isBetter)}; // of equally good ones the first
}

namespace {

/// The one that stands for an analyte: of a group the largest. nullptr: there is none.
const Peak* peakFor(const Finder& finder, const MeasuredTrace& trace) {
    const auto peaks = peaksFor(finder, trace);
    const auto largest = std::ranges::max_element(peaks, {}, &Peak::height);
    return largest == peaks.end() ? nullptr : *largest;
}

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
    std::map<const Peak*, double> factors;
    for (std::size_t i = 0; i < method.analytes.size(); ++i) {
        const auto* other = std::get_if<PeakRule>(&method.analytes[i].source.rule);
        if (other && other->channel == rule.channel) {
            for (const Peak* peak : peaksFor({static_cast<int>(i) + 1, *other}, trace)) {
                factors[peak] = other->factor;
            }
        }
    }
    double sum = 0;
    for (const Peak& peak : trace.features.peaks) {
        const auto factor = factors.find(&peak);
        sum += std::max(peak.area, 0.0) * (factor == factors.end() ? 1 : factor->second);
    }
    return sum;
}

/// @param data nullptr unless the window is measured without a peak; @param taken the peak, or the largest of a group
Taken takePeak(const Method& method, const Finder& finder, const MeasuredTrace& trace, const Trace* data,
               std::optional<Peak>& taken) {
    Taken out{std::nullopt, std::nullopt, true, {}};
    const double total = finder.rule.quantity == PeakQuantity::AreaPercent ? totalArea(method, finder.rule, trace) : 0;
    const auto add = [&](const Peak& peak) {
        taken = taken && taken->height >= peak.height ? taken : std::optional(peak);
        const auto value = quantityOf(peak, finder.rule, trace, total);
        if (!value) {
            out.why = finder.rule.quantity == PeakQuantity::Charge ? "no charge: units or scan rate are missing"
                                                                   : "there is no area to be a share of";
            return;
        }
        out.value = out.value.value_or(0) + *value;
        out.position = out.position.value_or(peak.apex);
        out.stretch = {out.stretch ? out.stretch->from : peak.start, peak.end};
        out.apexes.push_back(peak.apex);
    };
    for (const Peak* peak : peaksFor(finder, trace)) {
        add(*peak);
    }
    if (!out.value && out.why.empty()) {
        const auto measured = data ? measureWindow(finder.rule, *data, trace.rules.signal, finder.shift) : std::nullopt;
        if (!measured) {
            const auto owners = ownersOf(trace);
            bool isGivenAway = false;
            for (std::size_t i = 0; i < owners.size(); ++i) {
                isGivenAway =
                    isGivenAway || (owners[i] && isInWindow(finder.rule, trace.features.peaks[i].apex, finder.shift));
            }
            return {std::nullopt, std::nullopt, false,
                    isGivenAway ? "the peak within the window was given away by hand" : "no peak within the window"};
        }
        add(*measured);
        out.position.reset();
        out.apexes.clear();
    }
    return out;
}

/// What was measured between the markers of a rule.
Taken takeBand(const BandRule& rule, const MeasuredTrace& trace) {
    const auto index = std::ranges::find(trace.rules.bands, rule) - trace.rules.bands.begin();
    const BandValue& found = trace.bands.at(static_cast<std::size_t>(index)); // the batch asked for it
    const Stretch stretch{std::min(rule.from, rule.to), std::max(rule.from, rule.to)};
    return {found.value, rule.from, true, found.why, found.value ? std::optional(stretch) : std::nullopt};
}

Response responseOf(const Batch& batch, int analyte, Place place, const Taken& taken) {
    Response out;
    if (batch.at(place).role == Role::Empty) {
        return out;
    }
    out.why = taken.why;
    out.position = taken.position;
    out.stretch = taken.stretch;
    out.apexes = taken.apexes;
    if (taken.value && std::isfinite(*taken.value)) {
        out.raw = taken.value;
    }
    const bool isExcluded = batch.isExcluded(place, analyte);
    out.state = isExcluded       ? ResponseState::Excluded
                : out.raw        ? ResponseState::Used
                : !taken.isFound ? ResponseState::NotFound
                                 : ResponseState::Unusable;
    return out;
}

/// Says where the peak was looked for, and whether it lies near an edge of that.
void setWindow(const Finder& finder, Response& response) {
    constexpr double kInner = 0.8; // of either half; what is further out is likely to be lost with the next drift
    const double half = halfWindow(finder.rule, finder.shift), expected = finder.rule.expected * finder.shift;
    response.window = Stretch{expected - half, expected + half};
    response.isNearEdge = response.position && finder.rule.pick != PeakPick::All &&
                          isInWindow(finder.rule, *response.position, finder.shift) &&
                          std::abs(*response.position - expected) > kInner * half;
}

/// The mean place of a reference peak over the standards; nothing where it is found in none.
std::optional<double> meanOfReference(const Batch& batch, const Measured& measured, const Finder& reference) {
    double sum = 0, count = 0;
    for (const auto& [slot, trace] : measured.traces) {
        if (slot.channel != reference.rule.channel || batch.at(*slot.place).role != Role::Standard ||
            batch.isExcluded(*slot.place, reference.analyte)) {
            continue;
        }
        if (const Peak* peak = peakFor(reference, *trace)) {
            sum += peak->apex;
            count += 1;
        }
    }
    return count > 0 ? std::optional(sum / count) : std::nullopt;
}

/// How far the reference peak of a run has moved, as a factor.
class Shift {
public:
    Shift(const Batch& batch, const Measured& measured, int reference) : m_measured(measured), m_analyte(reference) {
        const auto count = static_cast<int>(batch.method.analytes.size());
        if (reference >= 1 && reference <= count) {
            m_rule = std::get_if<PeakRule>(&batch.method.analyte(reference).source.rule);
            m_mean = m_rule ? meanOfReference(batch, measured, {reference, *m_rule}) : std::nullopt;
        }
    }
    /// 1 where there is no reference, or it is not found.
    double at(Place place) const {
        const auto found =
            m_mean ? m_measured.traces.find({place.carrier, place, m_rule->channel}) : m_measured.traces.end();
        const Peak* peak = found == m_measured.traces.end() ? nullptr : peakFor({m_analyte, *m_rule}, *found->second);
        return peak && *m_mean != 0 ? peak->apex / *m_mean : 1;
    }

private:
    const Measured& m_measured;
    int m_analyte;
    const PeakRule* m_rule = nullptr;
    std::optional<double> m_mean;
};

} // namespace

bool respondFromTraces(const Batch& batch, const Measured& measured, const ResponseRule& rule,
                       AnalyteEvaluation& evaluation) {
    const Analyte& analyte = batch.method.analyte(evaluation.analyte);
    const auto* peak = std::get_if<PeakRule>(&rule);
    const auto* band = std::get_if<BandRule>(&rule);
    if (peak == nullptr && band == nullptr) {
        return false;
    }
    const std::string& channel = peak ? peak->channel : band->channel;
    const Shift shift(batch, measured, peak ? peak->reference : 0);
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
            evaluation.responses.push_back(
                responseOf(batch, evaluation.analyte, place, {std::nullopt, std::nullopt, true, trace.problem}));
        } else if (peak) {
            std::optional<Peak> taken;
            const Reading* reading = peak->isWindowTaken ? batch.reading(slot) : nullptr;
            const auto data = reading ? reading->payload.trace() : nullptr;
            const Finder finder{evaluation.analyte, *peak, shift.at(place)};
            evaluation.responses.push_back(
                responseOf(batch, evaluation.analyte, place, takePeak(batch.method, finder, trace, data.get(), taken)));
            setWindow(finder, evaluation.responses.back());
            if (taken) {
                evaluation.peaks[place] = *taken;
            }
        } else {
            evaluation.responses.push_back(responseOf(batch, evaluation.analyte, place, takeBand(*band, trace)));
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

std::vector<int> takersOf(const Batch& batch, const Evaluation& evaluation, const Slot& slot) {
    const auto trace = evaluation.traces.find(slot);
    if (trace == evaluation.traces.end() || !slot.place) {
        return {};
    }
    std::vector<int> out(trace->second->features.peaks.size(), 0);
    for (int number = 1; number <= static_cast<int>(batch.method.analytes.size()); ++number) {
        const auto* rule = std::get_if<PeakRule>(&batch.method.analyte(number).source.rule);
        if (!rule || rule->channel != slot.channel) {
            continue;
        }
        const auto& apexes = evaluation.analyte(number, slot.carrier).at(*slot.place).apexes;
        for (std::size_t i = 0; i < out.size(); ++i) {
            const bool isTaken = std::ranges::find(apexes, trace->second->features.peaks[i].apex) != apexes.end();
            out[i] = isTaken ? number : out[i];
        }
    }
    return out;
}

} // namespace nuvat
