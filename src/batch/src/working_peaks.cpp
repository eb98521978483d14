// What is asked of the peak of one run, and what it has.
#include "nuvat/batch/internal_standard.h"
#include "nuvat/batch/other_curves.h"
#include "nuvat/core/base/number.h"
#include "peak_figures.h"
#include "working_traces.h"

#include <cmath>

namespace nuvat {

namespace {

std::string withSign(double value, int figures) {
    return (value > 0 ? "+" : "") + formatFigures(value, figures);
}

WorkingCheck checked(std::string title, std::string found, bool isGood) {
    return {std::move(title), std::move(found), isGood ? Outcome::Pass : Outcome::Review};
}

void addTimeCheck(const Response& response, const std::string& unit, Working& working) {
    if (response.window && response.position) {
        const double expected = (response.window->from + response.window->to) / 2;
        working.checks.push_back(checked("Time in its window",
                                         withSign(*response.position - expected, 2) + (unit.empty() ? "" : " " + unit),
                                         !response.isNearEdge));
    }
}

void addRatioChecks(const Analyte& analyte, const AnalyteEvaluation& evaluation, Place place, Working& working) {
    for (std::size_t i = 0; i < evaluation.qualifiers.size(); ++i) {
        const QualifierValue& found = evaluation.qualifiers[i];
        const auto ratio = found.ratios.find(place);
        if (ratio == found.ratios.end() || !found.window) {
            continue;
        }
        const Qualifier& qualifier = analyte.qualifiers.at(i);
        const bool isRelative = qualifier.toleranceOf == ToleranceOf::Relative;
        const double reference = (found.window->low + found.window->high) / 2;
        const double off = ratio->second.percent - reference;
        working.checks.push_back(checked(
            "Qualifier " + qualifier.channel + " ±" + formatNumber(qualifier.tolerance) +
                (isRelative ? " %" : " points"),
            withSign(isRelative ? 100 * off / reference : off, 2) + (isRelative ? " %" : ""), ratio->second.isWithin));
    }
}

void addInternalCheck(const Batch& batch, const AnalyteEvaluation& evaluation, Place place, Working& working) {
    const auto percent = internalPercent(evaluation, place);
    const CriteriaLimits& limits = batch.method.limits;
    if (percent && limits.internalHigh && internalOf(batch.method, evaluation.analyte) != 0) {
        const double low = limits.internalLow.value_or(0);
        working.checks.push_back(
            checked("Internal standard " + formatNumber(low) + "–" + formatNumber(*limits.internalHigh) + " %",
                    formatPercent(*percent), *percent >= low && *percent <= *limits.internalHigh));
    }
}

void addShapeChecks(const SuitabilityLimits& limits, const Peak& peak, Working& working) {
    const auto add = [&](const char* title, const std::optional<double>& limit, const std::optional<double>& found,
                         bool isFloor) {
        if (limit) {
            const bool isGood = found && (isFloor ? *found >= *limit : *found <= *limit);
            working.checks.push_back(
                checked(std::string(title) + (isFloor ? " at least " : " at most ") + formatNumber(*limit),
                        found ? formatFigures(*found, 3) : "not defined", isGood));
        }
    };
    add("Resolution", limits.resolution, peak.resolutionHalf, true);
    add("Tailing", limits.tailing, peak.tailing5, false);
    add("Plates", limits.plates, peak.platesHalf, true);
}

} // namespace

void addQualifierSteps(const Batch& batch, const AnalyteEvaluation& evaluation, Place place, Working& working) {
    const Analyte& analyte = analyteOf(batch, evaluation);
    for (std::size_t i = 0; i < evaluation.qualifiers.size(); ++i) {
        if (const auto x = readByQualifier(batch, evaluation, i, place)) {
            constexpr int kFigures = 4;
            working.steps.push_back({"Read off by qualifier " + analyte.qualifiers.at(i).channel + ", on its own curve",
                                     {formatFigures(*x, kFigures) + (analyte.unit.empty() ? "" : " " + analyte.unit)},
                                     false});
        }
    }
}

void addPeakChecks(const Batch& batch, const AnalyteEvaluation& evaluation, Place place, Working& working) {
    const Analyte& analyte = analyteOf(batch, evaluation);
    const auto* rule = std::get_if<PeakRule>(&analyte.source.rule);
    const auto peak = evaluation.peaks.find(place);
    if (rule == nullptr || peak == evaluation.peaks.end()) {
        return;
    }
    const Reading* reading = batch.reading(Slot{place.carrier, place, rule->channel});
    const auto trace = reading == nullptr ? nullptr : reading->payload.trace();
    addTimeCheck(evaluation.at(place), trace ? trace->xUnit : std::string(), working);
    addRatioChecks(analyte, evaluation, place, working);
    addInternalCheck(batch, evaluation, place, working);
    addShapeChecks(analyte.suitability, peak->second, working);
    if (const auto& least = analyte.suitability.signalToNoise) {
        const auto ratio = signalToNoise(peak->second, blankTrace(batch, rule->channel).get());
        working.checks.push_back(checked("Signal to noise at least " + formatNumber(*least),
                                         ratio ? formatFigures(*ratio, 3) : "not defined", ratio && *ratio >= *least));
    }
}

} // namespace nuvat
