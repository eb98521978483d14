// What the history says of changes of a method.
#include "command_parts.h"
#include "nuvat/batch/kinetics.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"

namespace nuvat {

namespace {

std::string numberText(const std::optional<double>& value, const std::string& otherwise) {
    return value ? formatNumber(*value) : otherwise;
}

/// What differs between two fits besides model and weighting; empty when nothing does.
std::string fitLabel(const FitOptions& before, const FitOptions& after) {
    if (before.fitTo != after.fitTo) {
        return after.fitTo == FitTo::Means ? "Fitted to level means" : "Fitted to each replicate";
    }
    if (before.weightFrom != after.weightFrom) {
        return after.weightFrom == WeightSource::Observed    ? "y in the weights → response of the point"
               : after.weightFrom == WeightSource::LevelMean ? "y in the weights → mean of its level"
                                                             : "y in the weights → fitted response";
    }
    if (before.heldA != after.heldA) {
        return "Response at zero, a → " + numberText(after.heldA, "fitted");
    }
    if (before.heldD != after.heldD) {
        return "Response at ∞, d → " + numberText(after.heldD, "fitted");
    }
    if (before.theta != after.theta) {
        return "Exponent of the variance → " + numberText(after.theta, "estimated");
    }
    if (before.weightFloor != after.weightFloor) {
        return "Floor of y in the weights → " + numberText(after.weightFloor, "from the scatter");
    }
    if (before.fixedX != after.fixedX || before.fixedY != after.fixedY) {
        return "Fixed point → " + formatNumber(after.fixedX) + ", " + formatNumber(after.fixedY);
    }
    return before != after ? "Fit of the curve changed" : "";
}

std::string rangeLabel(const RangeRule& before, const RangeRule& after) {
    if (before.extrapolation != after.extrapolation) {
        return after.extrapolation > 1
                   ? "Results up to a factor of " + formatNumber(after.extrapolation) + " beyond the range are marked"
                   : "Results beyond the range are not given";
    }
    switch (after.by) {
    case RangeBy::Criteria:
        return "Range → from the criteria";
    case RangeBy::Precision:
        return "Range → SE at most " + formatNumber(after.precisionPercent) + " %";
    case RangeBy::Hand:
        return "Range → " + numberText(after.lloq, "open") + " to " + numberText(after.uloq, "open") + ", by hand";
    case RangeBy::Levels:
        return "Range → all levels";
    }
    return {};
}

/// "area at 3.42": what a rule takes.
std::string ruleWords(const ResponseRule& rule) {
    if (const auto* peak = std::get_if<PeakRule>(&rule)) {
        const std::string what = peak->quantity == PeakQuantity::Area          ? "area"
                                 : peak->quantity == PeakQuantity::Charge      ? "charge"
                                 : peak->quantity == PeakQuantity::AreaPercent ? "share of the area"
                                                                               : "height";
        return what + " of the peak at " + formatNumber(peak->expected) + " ± " + formatNumber(peak->window) +
               (peak->windowOf == WindowOf::Percent ? " %" : "");
    }
    if (const auto* band = std::get_if<BandRule>(&rule)) {
        return std::string(name(band->quantity)) + " at " + formatNumber(band->from) +
               (band->quantity == BandQuantity::Value ? "" : " to " + formatNumber(band->to));
    }
    if (const auto* kinetic = std::get_if<KineticRule>(&rule)) {
        return kineticWords(*kinetic);
    }
    const auto& formula = valueFormula(rule);
    return formula.empty() ? "the reading in use" : formula;
}

/// "Decision limits 0.45 and 0.9 mg/L"
std::string decisionLabel(const Analyte& analyte) {
    const auto& limits = analyte.decisions.limits;
    return limits.empty()
               ? "No decision limits"
               : "Decision limits " + joinedNumbers(limits) + (analyte.unit.empty() ? "" : " " + analyte.unit);
}

/// What differs between two analytes; empty when nothing does that has words of its own.
std::string analyteLabel(const Analyte& before, const Analyte& after) {
    if (before.fit.model != after.fit.model) {
        return "Model " + modelTitle(before.fit.model) + " → " + modelTitle(after.fit.model);
    }
    if (before.fit.weighting != after.fit.weighting) {
        return "Weighting " + weightingTitle(before.fit.weighting) + " → " + weightingTitle(after.fit.weighting);
    }
    if (std::string label = fitLabel(before.fit, after.fit); !label.empty()) {
        return label;
    }
    if (before.interval != after.interval) {
        return "Interval → " + intervalTitle(after.interval);
    }
    if (before.average != after.average) {
        return after.average == AverageOf::Concentrations ? "Replicates are averaged as concentrations"
                                                          : "Replicates are averaged as responses";
    }
    if (before.scatter != after.scatter) {
        return after.scatter == ScatterFrom::Batch   ? "Scatter of samples from the batch's replicates"
               : after.scatter == ScatterFrom::Curve ? "Scatter of samples from the curve"
                                                     : "Scatter of samples from their own replicates";
    }
    if (before.range != after.range) {
        return rangeLabel(before.range, after.range);
    }
    if (before.isConcentrationLogarithmic != after.isConcentrationLogarithmic) {
        return after.isConcentrationLogarithmic ? "Concentration axis → logarithmic" : "Concentration axis → linear";
    }
    if (before.unit != after.unit) {
        return "Unit → " + after.unit;
    }
    if (before.name != after.name) {
        return "Analyte → " + after.name;
    }
    if (before.responseName != after.responseName) {
        return "Response → " + after.responseName;
    }
    if (before.kept != after.kept && after.kept && after.source.curve == CurveOf::Kept) {
        return "Kept curve " + after.kept->name + " is used";
    }
    if (before.source.curve != after.source.curve) {
        return after.source.curve == CurveOf::Carrier   ? "A curve for each plate"
               : after.source.curve == CurveOf::Sample  ? "Standard addition, a line for each sample"
               : after.source.curve == CurveOf::None    ? "No curve: the response is the result"
               : after.source.curve == CurveOf::Bracket ? "A curve for each bracket"
                                                        : "One curve for the batch";
    }
    if (before.source.additionStandard != after.source.additionStandard) {
        return after.source.additionStandard
                   ? "Added solution → " + formatNumber(*after.source.additionStandard) + " " + after.unit
                   : "Volumes of additions are equal";
    }
    if (before.percentOf != after.percentOf) {
        return after.percentOf == PercentOf::Nothing        ? "Responses as read"
               : after.percentOf == PercentOf::ZeroStandard ? "Responses in percent of the zero standard"
                                                            : "Responses in percent of the highest standard";
    }
    if (before.decisions != after.decisions) {
        return decisionLabel(after);
    }
    if (before.derived != after.derived) {
        return after.derived.empty() ? "No derived values" : "Derived values → " + after.derived.back().name;
    }
    if (before.figure != after.figure) {
        return "Figure of the curve of " + after.name;
    }
    if (before.internal != after.internal || before.addedConcentration != after.addedConcentration) {
        return "Internal standard of " + after.name;
    }
    if (before.qualifiers != after.qualifiers) {
        return "Qualifiers of " + after.name;
    }
    if (before.suitability != after.suitability) {
        return "Suitability of the separation of " + after.name;
    }
    if (before.source.rule != after.source.rule) {
        return "Response" + (after.name.empty() ? "" : " of " + after.name) + " → " + ruleWords(after.source.rule);
    }
    return "";
}

std::string replicateLabel(const ReplicateRule& before, const ReplicateRule& after) {
    if (before.outlierTest != after.outlierTest) {
        return "Outlier test → " + std::string(name(after.outlierTest));
    }
    return after.keepBest > 0 ? "The best " + std::to_string(after.keepBest) + " replicates are kept"
                              : "All replicates are kept";
}

} // namespace

std::string methodLabel(const Method& before, const Method& after) {
    if (before.analytes.size() != after.analytes.size()) {
        return after.analytes.size() > before.analytes.size() ? "Analyte " + after.analytes.back().name + " added"
                                                              : "Analyte " + before.analytes.back().name + " removed";
    }
    for (std::size_t i = 0; i < before.analytes.size(); ++i) {
        if (std::string label = analyteLabel(before.analytes[i], after.analytes[i]); !label.empty()) {
            return (before.analytes.size() > 1 ? after.analytes[i].name + ": " : "") + label;
        }
    }
    if (before.signalRules != after.signalRules) {
        return "How peaks are found";
    }
    if (before.traceRecipe != after.traceRecipe) {
        return "How files of traces are taken in";
    }
    if (before.plateRecipe != after.plateRecipe) {
        return "How files of plates are taken in";
    }
    if (before.blankBy != after.blankBy) {
        return after.blankBy == BlankBy::Carrier ? "Blank of the whole plate"
               : after.blankBy == BlankBy::Row   ? "Blank of each row"
                                                 : "Blank of each column";
    }
    if (before.leastDilution != after.leastDilution) {
        return "Least dilution → × " + formatNumber(after.leastDilution);
    }
    if (before.subtractsBlank != after.subtractsBlank) {
        return after.subtractsBlank ? "Blank is subtracted" : "Blank is not subtracted";
    }
    if (before.replicates != after.replicates) {
        return replicateLabel(before.replicates, after.replicates);
    }
    if (before.criteriaName != after.criteriaName) {
        return "Criteria → " + after.criteriaName;
    }
    if (before.limits != after.limits) {
        return "Limits of the criteria changed";
    }
    if (before.criteria != after.criteria) {
        return "Custom criteria changed";
    }
    if (before.blankEntersInterval != after.blankEntersInterval) {
        return after.blankEntersInterval ? "Blank's share counts in intervals" : "Blank's share left out of intervals";
    }
    if (before.dilutionRelativeSe != after.dilutionRelativeSe) {
        return "SE of a dilution → " + formatNumber(100 * after.dilutionRelativeSe) + " %";
    }
    if (before.confidence != after.confidence) {
        return "Confidence → " + formatNumber(100 * after.confidence) + " %";
    }
    if (before.reportBlocks != after.reportBlocks) {
        return "Blocks of the report changed";
    }
    if (before.resultColumns != after.resultColumns) {
        return "Columns of results changed";
    }
    if (before.reportTop != after.reportTop || before.reportFoot != after.reportFoot) {
        return "Top and foot of pages changed";
    }
    if (before.fileName != after.fileName) {
        return "Names of files → " + after.fileName;
    }
    if (before.whenComplete != after.whenComplete) {
        return "What is done when a reading came in";
    }
    if (before.nameRules != after.nameRules) {
        return "Roles by names of runs";
    }
    if (before.runRule != after.runRule) {
        return "How lists are measured";
    }
    if (before.plan != after.plan) {
        return after.plan ? "Plan of the standards" : "No plan of the standards";
    }
    return "Method changed";
}
} // namespace nuvat
