// Results against decision limits.
#include "nuvat/core/stats/decision.h"

#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "stages.h"

#include <algorithm>
#include <limits>

namespace nuvat {

namespace {

/// Beyond the range an inequality is known, of several dilutions the sharpest.
struct Bounds {
    std::optional<double> atLeast, atMost;
};

Bounds boundsOf(const AnalyteEvaluation& evaluation, const std::vector<const SampleResult*>& results) {
    Bounds out;
    for (const SampleResult* result : results) {
        const bool isAbove = result->status == ResultStatus::AboveRange || result->status == ResultStatus::AboveCurve;
        const bool isBelow = result->status == ResultStatus::BelowRange || result->status == ResultStatus::BelowCurve;
        if (isAbove && evaluation.range.uloq) {
            const double bound = *evaluation.range.uloq * result->dilution;
            out.atLeast = std::max(out.atLeast.value_or(bound), bound);
        } else if (isBelow && evaluation.range.lloq) {
            const double bound = *evaluation.range.lloq * result->dilution;
            out.atMost = std::min(out.atMost.value_or(bound), bound);
        }
    }
    return out;
}

/// Limits below a value; one that is equal to it is not below.
std::size_t classOf(const std::vector<double>& limits, double value) {
    return static_cast<std::size_t>(std::ranges::lower_bound(limits, value) - limits.begin());
}

void decideByTests(const DecisionRule& rule, const Decision& found, SampleDecision& out) {
    const bool isAbove = rule.by == DecisionBy::ShownAbove;
    const auto shown = static_cast<std::size_t>(std::ranges::count_if(
        found.limits, [&](const Decision::Guarded& one) { return isAbove ? one.isAbove : !one.isBelow; }));
    out.lowest = out.highest = shown;
}

SampleDecision decided(const DecisionRule& rule, const Bounds& bounds) {
    SampleDecision out;
    out.lowest = bounds.atLeast ? classOf(rule.limits, *bounds.atLeast) : 0;
    out.highest = bounds.atMost ? classOf(rule.limits, *bounds.atMost) : rule.limits.size();
    return out;
}

SampleDecision decided(const DecisionRule& rule, double confidence, const Content& content) {
    SampleDecision out;
    out.value = content.value;
    out.low = content.low;
    out.high = content.high;
    // An SE that comes from dilutions alone is known; it has no degrees of freedom.
    const double df = content.df > 0 ? content.df : std::numeric_limits<double>::infinity();
    const Decision found = decide({*content.value, content.se, df}, rule.limits, confidence);
    for (const Decision::Guarded& one : found.limits) {
        out.probabilityAbove.push_back(one.probabilityAbove);
    }
    out.lowest = out.highest = found.byValue;
    if (rule.by == DecisionBy::Interval && content.low && content.high) {
        out.lowest = classOf(rule.limits, *content.low);
        out.highest =
            static_cast<std::size_t>(std::ranges::upper_bound(rule.limits, *content.high) - rule.limits.begin());
    } else if (rule.by == DecisionBy::ShownAbove || rule.by == DecisionBy::ShownBelow) {
        decideByTests(rule, found, out);
    }
    return out;
}

} // namespace

void decideSamples(const Batch& batch, AnalyteEvaluation& evaluation) {
    const DecisionRule& rule = analyteOf(batch, evaluation).decisions;
    if (rule.limits.empty()) {
        return;
    }
    for (const auto& [sample, results] : resultsBySample(evaluation)) {
        const Content content = contentOf(evaluation, sample, results);
        const Bounds bounds = content.value ? Bounds{} : boundsOf(evaluation, results);
        if (content.value || bounds.atLeast || bounds.atMost) {
            evaluation.decisions.push_back(content.value ? decided(rule, batch.method.confidence, content)
                                                         : decided(rule, bounds));
            evaluation.decisions.back().sample = sample;
        }
    }
}

std::string className(const DecisionRule& rule, std::size_t number) {
    if (number < rule.classes.size() && !rule.classes[number].empty()) {
        return rule.classes[number];
    }
    return number == 0 ? "up to " + formatNumber(rule.limits.front())
           : number == rule.limits.size()
               ? "above " + formatNumber(rule.limits.back())
               : formatNumber(rule.limits[number - 1]) + " to " + formatNumber(rule.limits[number]);
}

std::string decisionText(const DecisionRule& rule, const SampleDecision& decision) {
    if (decision.isDecided()) {
        return className(rule, decision.lowest);
    }
    const auto spanned = std::span(rule.limits).subspan(decision.lowest, decision.highest - decision.lowest);
    return "spans " + joinedNumbers(spanned);
}

std::vector<std::size_t> countClasses(const DecisionRule& rule, const std::vector<SampleDecision>& decisions) {
    std::vector<std::size_t> out(rule.limits.size() + 2);
    for (const SampleDecision& one : decisions) {
        ++out[one.isDecided() ? one.lowest : out.size() - 1];
    }
    return out;
}

} // namespace nuvat
