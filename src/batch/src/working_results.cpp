#include "working_results.h"

#include "nuvat/batch/kept_curve.h"
#include "nuvat/core/base/number.h"

namespace nuvat {

namespace {

void addRecovery(const Batch& batch, const SampleResult& result, Working& working) {
    const auto sample = batch.samples.find(result.group.number);
    if (result.group.role != Role::Spike || sample == batch.samples.end()) {
        return;
    }
    const auto& added = sample->second.added;
    working.steps.push_back({"Recovery of the spike",
                             {!added                   ? "what was added is not typed; do so under Layout"
                              : result.recoveryPercent ? "what it reads over its sample ÷ " + formatNumber(*added) +
                                                             " added: " + formatPercent(*result.recoveryPercent)
                                                       : "spike or sample has no result"},
                             false});
}

void addDerived(const SampleResult& result, const Analyte& analyte, Working& working) {
    for (std::size_t i = 0; i < result.derived.size(); ++i) {
        const DerivedValue& rule = analyte.derived[i];
        const DerivedResult& value = result.derived[i];
        WorkingStep step{rule.name + " = " + rule.formula, {}, value.value.has_value()};
        if (!value.value) {
            step.lines.emplace_back("not defined: no result, or volume or mass are not typed");
        } else {
            step.lines.push_back(valueText(*value.value, value.low, value.high) +
                                 (rule.unit.empty() ? "" : " " + rule.unit));
            if (const std::string interval = intervalText(*value.value, value.low, value.high); !interval.empty()) {
                step.lines.push_back(interval);
            }
        }
        working.steps.push_back(step);
    }
}

void addDecision(const SampleResult& result, const AnalyteEvaluation& evaluation, const Analyte& analyte,
                 Working& working) {
    const SampleDecision* decision = evaluation.decisionOf(result.group);
    if (decision == nullptr) {
        return;
    }
    const DecisionRule& rule = analyte.decisions;
    WorkingStep step{
        "Decision limits " + joinedNumbers(rule.limits) + (analyte.unit.empty() ? "" : " " + analyte.unit), {}, false};
    if (!decision->value) {
        step.lines.emplace_back("beyond the range of the curve, so by the inequality");
    }
    for (std::size_t i = 0; i < decision->probabilityAbove.size(); ++i) {
        step.lines.push_back("above " + formatNumber(rule.limits[i]) + " with probability " +
                             formatFigures(decision->probabilityAbove[i], 3));
    }
    step.lines.push_back(decisionText(rule, *decision));
    working.steps.push_back(step);
}

void addKept(const Analyte& analyte, Working& working) {
    if (const KeptCurve* kept = keptCurve(analyte)) {
        working.steps.push_back({"Kept curve " + kept->name,
                                 {std::to_string(kept->x.size()) + " standards of " + kept->batch + ", " +
                                  kept->method + ", revision " + std::to_string(kept->revision)},
                                 false});
    }
}

} // namespace

void addResultSteps(const Batch& batch, const SampleResult& result, const AnalyteEvaluation& evaluation,
                    Working& working) {
    const Analyte& analyte = analyteOf(batch, evaluation);
    addKept(analyte, working);
    addRecovery(batch, result, working);
    addDerived(result, analyte, working);
    addDecision(result, evaluation, analyte, working);
}

} // namespace nuvat
