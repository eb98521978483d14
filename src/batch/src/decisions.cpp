// Results against decision limits.
#include "nuvat/core/stats/decision.h"

#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "stages.h"

#include <algorithm>
#include <limits>

namespace nuvat {

namespace {

/// What is known of a sample's content.
struct Content {
    std::optional<double> value, low, high;
    double se = 0, df = 0;
    std::optional<double> atLeast, atMost; ///< beyond the range
};

/// Beyond the range an inequality is known, of several dilutions the sharpest.
Content beyondRange(const AnalyteEvaluation& evaluation, const std::vector<const SampleResult*>& results) {
    Content out;
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

Content contentOf(const AnalyteEvaluation& evaluation, int sample, const std::vector<const SampleResult*>& results) {
    const CombinedSample* combined = evaluation.combinedOf({Role::Unknown, sample});
    if (combined != nullptr && combined->value) {
        return {combined->value, combined->low, combined->high, combined->se.value_or(0), evaluation.fit.df, {}, {}};
    }
    for (const SampleResult* result : results) { // the least diluted one that is in range
        if (result->result) {
            return {result->result, result->low, result->high, result->se, result->df, {}, {}};
        }
    }
    return beyondRange(evaluation, results);
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

SampleDecision decided(const DecisionRule& rule, double confidence, int sample, const Content& content) {
    SampleDecision out;
    out.sample = sample;
    out.value = content.value;
    if (!content.value) {
        out.lowest = content.atLeast ? classOf(rule.limits, *content.atLeast) : 0;
        out.highest = content.atMost ? classOf(rule.limits, *content.atMost) : rule.limits.size();
        return out;
    }
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
    std::map<int, std::vector<const SampleResult*>> samples;
    for (const SampleResult& result : evaluation.results) {
        if (result.group.role == Role::Unknown) {
            samples[result.group.number].push_back(&result);
        }
    }
    for (const auto& [sample, results] : samples) {
        const Content content = contentOf(evaluation, sample, results);
        if (content.value || content.atLeast || content.atMost) {
            evaluation.decisions.push_back(decided(rule, batch.method.confidence, sample, content));
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
    std::string limits;
    for (std::size_t i = decision.lowest; i < decision.highest; ++i) {
        limits += (limits.empty() ? "" : i + 1 == decision.highest ? " and " : ", ") + formatNumber(rule.limits[i]);
    }
    return "spans " + limits;
}

std::vector<std::size_t> countClasses(const DecisionRule& rule, const std::vector<SampleDecision>& decisions) {
    std::vector<std::size_t> out(rule.limits.size() + 2);
    for (const SampleDecision& one : decisions) {
        ++out[one.isDecided() ? one.lowest : out.size() - 1];
    }
    return out;
}

} // namespace nuvat
