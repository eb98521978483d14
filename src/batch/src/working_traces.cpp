#include "working_traces.h"

#include "nuvat/batch/internal_standard.h"
#include "nuvat/core/base/number.h"

#include <algorithm>

namespace nuvat {

namespace {

constexpr int kFigures = 4;

/// The trace at a place, for its units; nullptr where there is none.
std::shared_ptr<const Trace> traceAt(const Batch& batch, Place place, const std::string& channel) {
    const Reading* reading = batch.reading(Slot{place.carrier, place, channel});
    return reading ? reading->payload.trace() : nullptr;
}

std::string withUnit(const std::string& number, const std::string& unit) {
    return unit.empty() ? number : number + " " + unit;
}

std::string baselineWords(BaselineKind kind) {
    switch (kind) {
    case BaselineKind::Straight:
        return "a straight baseline";
    case BaselineKind::Valleys:
        return "a baseline from valley to valley";
    case BaselineKind::Horizontal:
        return "a horizontal baseline";
    case BaselineKind::Level:
        return "a level baseline";
    case BaselineKind::Tangent:
        return "a tangent";
    case BaselineKind::Polynomial:
        return "a polynomial baseline";
    case BaselineKind::AsymmetricLeastSquares:
        return "a baseline by asymmetric least squares";
    case BaselineKind::None:
        return "0";
    }
    return {};
}

std::string quantityTitle(const PeakRule& rule) {
    switch (rule.quantity) {
    case PeakQuantity::Area:
        return rule.pick == PeakPick::All ? "Areas, added," : "Area";
    case PeakQuantity::Height:
        return "Height of the apex";
    case PeakQuantity::SampleHeight:
        return "Height of the largest sample";
    case PeakQuantity::Charge:
        return "Charge";
    case PeakQuantity::AreaPercent:
        return "Share of all areas";
    }
    return {};
}

std::string unitOf(const PeakRule& rule, const Trace& trace) {
    const bool hasUnits = !trace.xUnit.empty() && !trace.yUnit.empty();
    return rule.quantity == PeakQuantity::Area          ? (hasUnits ? trace.yUnit + "·" + trace.xUnit : std::string())
           : rule.quantity == PeakQuantity::Charge      ? std::string("C")
           : rule.quantity == PeakQuantity::AreaPercent ? std::string("%")
                                                        : trace.yUnit;
}

/// Whether something was drawn by hand on the stretch of a trace, or its peak was given to the analyte.
std::string handWords(const Batch& batch, Place place, const std::string& channel, const Stretch& stretch) {
    const auto edits = batch.handEdits.find(Slot{place.carrier, place, channel});
    bool isDrawn = false, isGiven = false;
    if (edits == batch.handEdits.end()) {
        return {};
    }
    for (const HandEdit& hand : edits->second.list) {
        const PeakEdit& edit = hand.edit;
        const bool isGift = edit.kind == PeakEditKind::Give;
        const bool touches = stretch.contains(edit.at) || (edit.from < stretch.to && edit.to > stretch.from);
        isDrawn = isDrawn || (touches && !isGift);
        isGiven = isGiven || (touches && isGift);
    }
    return std::string(isDrawn ? ", drawn by hand" : "") + (isGiven ? ", given by hand" : "");
}

std::string foundWords(const Response& response, const Trace& trace) {
    return response.position ? withUnit(formatFigures(*response.position, kFigures), trace.xUnit)
           : response.raw    ? std::string("no peak, so the window was measured")
                             : std::string("not found");
}

void addPeak(const Batch& batch, const AnalyteEvaluation& evaluation, const PeakRule& rule,
             const std::vector<Place>& places, Working& working) {
    WorkingStep found{"Peak expected at " + formatNumber(rule.expected) + " ± " + formatNumber(rule.window) +
                          (rule.windowOf == WindowOf::Percent ? " %" : "") + ", found at",
                      {},
                      false};
    WorkingStep measured{quantityTitle(rule) + " above " +
                             baselineWords(batch.method.signal(rule.channel).peaks.baseline.kind),
                         {},
                         false};
    for (const Place place : places) {
        const Response& response = evaluation.at(place);
        const auto trace = traceAt(batch, place, rule.channel);
        const std::string name = places.size() > 1 ? evaluation.index->name(place) + "  " : std::string();
        if (!trace) {
            found.lines.push_back(name + "not read");
            continue;
        }
        found.lines.push_back(name + foundWords(response, *trace));
        const auto& own = measuredOf(response); // the internal standard comes later
        if (own && response.stretch) {
            measured.lines.push_back(name + withUnit(formatFigures(*own, kFigures), unitOf(rule, *trace)) + ", from " +
                                     formatFigures(response.stretch->from, kFigures) + " to " +
                                     formatFigures(response.stretch->to, kFigures) +
                                     handWords(batch, place, rule.channel, *response.stretch) +
                                     (response.state == ResponseState::Excluded ? ", excluded" : ""));
        } else if (!response.why.empty()) {
            measured.lines.push_back(name + response.why);
        }
    }
    working.steps.push_back(std::move(found));
    if (!measured.lines.empty()) {
        working.steps.push_back(std::move(measured));
    }
}

void addBand(const Batch& batch, const AnalyteEvaluation& evaluation, const BandRule& rule,
             const std::vector<Place>& places, Working& working) {
    const std::string from = formatNumber(rule.from), to = formatNumber(rule.to);
    const std::string title = rule.quantity == BandQuantity::Value        ? "Value at " + from
                              : rule.quantity == BandQuantity::Mean       ? "Mean from " + from + " to " + to
                              : rule.quantity == BandQuantity::Difference ? "At " + to + " less at " + from
                                                                          : "Slope from " + from + " to " + to;
    WorkingStep step{title, {}, false};
    for (const Place place : places) {
        const Response& response = evaluation.at(place);
        const auto trace = traceAt(batch, place, rule.channel);
        const std::string name = places.size() > 1 ? evaluation.index->name(place) + "  " : std::string();
        const std::string unit = !trace                                 ? std::string()
                                 : rule.quantity == BandQuantity::Slope ? trace->yUnit + "/" + trace->xUnit
                                                                        : trace->yUnit;
        step.lines.push_back(name + (response.raw           ? withUnit(formatFigures(*response.raw, kFigures), unit)
                                     : response.why.empty() ? std::string("not read")
                                                            : response.why));
    }
    working.steps.push_back(std::move(step));
}

} // namespace

bool addTraceSteps(const Batch& batch, const AnalyteEvaluation& evaluation, const std::vector<Place>& places,
                   Working& working) {
    const ResponseRule& rule = batch.method.analyte(evaluation.analyte).source.rule;
    if (const auto* peak = std::get_if<PeakRule>(&rule)) {
        addPeak(batch, evaluation, *peak, places, working);
        return true;
    }
    if (const auto* band = std::get_if<BandRule>(&rule)) {
        addBand(batch, evaluation, *band, places, working);
        return true;
    }
    return false;
}

bool addAdditionSteps(const Batch& batch, const SampleResult& result, const AnalyteEvaluation& evaluation,
                      Working& working) {
    const auto found = std::find_if(evaluation.additions.begin(), evaluation.additions.end(),
                                    [&](const AdditionLine& one) { return one.sample == result.group.number; });
    if (found == evaluation.additions.end() || !found->line) {
        return false;
    }
    const StandardAddition& line = *found->line;
    const std::string& unit = analyteOf(batch, evaluation).unit;
    WorkingStep points{"Line through the sample and its additions, n = " + std::to_string(line.n), {}, false};
    for (std::size_t i = 0; i < found->places.size(); ++i) {
        points.lines.push_back(evaluation.index->name(found->places[i]) + "  + " +
                               withUnit(formatFigures(found->added[i], 4), unit) + "  " +
                               formatFigures(found->response[i], kFigures));
    }
    if (const auto& standard = analyteOf(batch, evaluation).source.additionStandard) {
        points.lines.push_back("responses times 1 + added ÷ " + withUnit(formatNumber(*standard), unit) +
                               ", as the volume grew");
    }
    working.steps.push_back(std::move(points));
    working.steps.push_back({"y = a + b·x",
                             {"a " + formatFigures(line.a, 4) + " ± " + formatFigures(line.seA, 2),
                              "b " + formatFigures(line.b, 4) + " ± " + formatFigures(line.seB, 2),
                              "R² " + formatDecimals(line.rSquared, 5)},
                             false});
    working.steps.push_back({"Content, a ÷ b",
                             {withUnit(concentrationText(result.readOff), unit), "SE " + formatFigures(line.se, 2)},
                             true});
    if (result.readOff.low && result.readOff.high) {
        working.steps.push_back(
            {formatNumber(100 * batch.method.confidence) +
                 " % limits by Fieller's theorem, t = " + formatFigures(line.t, 4),
             {withUnit(intervalText(line.content, *result.readOff.low, *result.readOff.high), unit)},
             true});
    }
    return true;
}

} // namespace nuvat
