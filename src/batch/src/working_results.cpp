#include "working_results.h"

#include "nuvat/batch/kept_curve.h"
#include "nuvat/batch/sample_potency.h"
#include "nuvat/core/base/number.h"

#include <algorithm>

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

void addOfControl(const SampleResult& result, Working& working) {
    if (!result.ofControl) {
        return;
    }
    const PercentOfControl& found = *result.ofControl;
    const std::string interval = percentOfControlInterval(found);
    working.steps.push_back({"Of the negative controls",
                             {percentOfControlText(found, found.percent) + " % (" + interval + ")",
                              "inhibition " + percentOfControlText(found, 100 - found.percent) + " %"},
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

void addPotency(const Batch& batch, const AnalyteEvaluation& evaluation, Assignment group, Working& working) {
    const auto found = group.role == Role::Unknown ? samplePotency(batch, evaluation, group.number) : std::nullopt;
    if (!found) {
        return;
    }
    WorkingStep step{"Against the standards by parallel curves", {}, false};
    if (!*found) {
        step.lines.push_back("not determined: " + found->error().message);
        working.steps.push_back(std::move(step));
        return;
    }
    const SamplePotency& potency = **found;
    const auto [low, high] = potency.found.interval;
    step.title += ", " + std::to_string(potency.dilutions) + " dilutions";
    step.lines.push_back(withUnit(valueText(potency.found.potency, low, high), analyteOf(batch, evaluation)) + " (" +
                         intervalText(potency.found.potency, low, high) + ")");
    if (potency.isParallel) {
        step.lines.push_back(std::string(*potency.isParallel ? "parallel" : "not parallel") + ": F " +
                             formatFigures(*potency.found.f, 3) + " with " + formatNumber(potency.found.df1) + " and " +
                             formatNumber(potency.found.df2) + " df, p " + formatFigures(*potency.found.p, 2));
    }
    if (potency.isParallel == false) {
        step.lines.push_back("the curve of the sample has another shape: no one content describes it");
    }
    working.steps.push_back(std::move(step));
}

} // namespace

std::string percentOfControlText(const PercentOfControl& found, double value) {
    const double half = found.deltaLimits.second - found.percent;
    return valueText(value, value - half, value + half);
}

std::string percentOfControlInterval(const PercentOfControl& found) {
    return found.fiellerLimits ? intervalText(found.percent, found.fiellerLimits->first, found.fiellerLimits->second)
                               : std::string("not bounded: control and blank hardly differ");
}

std::string withUnit(const std::string& text, const Analyte& analyte) {
    return analyte.unit.empty() || text.empty() ? text : text + " " + analyte.unit;
}

/// What the other dilutions of the sample say.
void addCombined(const Batch& batch, const AnalyteEvaluation& evaluation, Assignment group, Working& working) {
    const CombinedSample* sample = evaluation.combinedOf(group);
    if (sample == nullptr) {
        addPotency(batch, evaluation, group, working); // also where no dilution is in range
        return;
    }
    const Analyte& analyte = analyteOf(batch, evaluation);
    WorkingStep step{"Dilutions taken together", {}, sample->value.has_value()};
    for (std::size_t i = 0; i < sample->dilutions.size(); ++i) {
        const bool isReported = std::ranges::find(sample->found.reported, i) != sample->found.reported.end();
        step.lines.push_back("× " + formatNumber(batch.dilution(sample->dilutions[i])) + "  " +
                             withUnit(formatFigures(sample->found.timesFactor[i], 4), analyte) +
                             (isReported ? "" : ", left out"));
    }
    if (sample->value) {
        step.lines.push_back("together " + withUnit(valueText(*sample->value, sample->low, sample->high), analyte));
        if (const std::string interval = intervalText(*sample->value, sample->low, sample->high); !interval.empty()) {
            step.lines.push_back(interval);
        }
    }
    for (const std::string& warning : sample->found.warnings) {
        step.lines.push_back(warning);
    }
    working.steps.push_back(step);
    addPotency(batch, evaluation, group, working);
}

void addResultSteps(const Batch& batch, const SampleResult& result, const AnalyteEvaluation& evaluation,
                    Working& working) {
    const Analyte& analyte = analyteOf(batch, evaluation);
    addKept(analyte, working);
    addRecovery(batch, result, working);
    addOfControl(result, working);
    addDerived(result, analyte, working);
    addDecision(result, evaluation, analyte, working);
}

} // namespace nuvat
