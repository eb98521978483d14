// Built-in criteria on decisions and on kept curves.
#include "criterion_parts.h"
#include "nuvat/batch/kept_curve.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

CriterionResult clearOfLimits(const Batch& batch, AnalyteEvaluation& evaluation) {
    const DecisionRule& rule = analyteOf(batch, evaluation).decisions;
    CriterionResult out;
    out.key = "decisions";
    out.title = "Clear of the decision limits";
    out.limitText = rule.by == DecisionBy::Interval ? "no interval holds a limit" : "every sample has a class";
    out.why = "A sample whose interval holds a limit may belong to either class; only a further measurement can tell.";
    std::vector<std::string> open;
    for (const SampleDecision& one : evaluation.decisions) {
        if (one.isDecided()) {
            continue;
        }
        open.push_back(shortName(batch, {Role::Unknown, one.sample}) + " " + decisionText(rule, one));
        for (SampleResult& result : evaluation.results) {
            if (result.group.role == Role::Unknown && result.group.number == one.sample) {
                result.needsReview = true;
                addPlaces(evaluation, result.group, out.places);
            }
        }
    }
    const std::size_t all = evaluation.decisions.size();
    if (all == 0) {
        return out;
    }
    out.foundText = std::to_string(all - open.size()) + " of " + std::to_string(all);
    out.isFloor = true;
    out.used = static_cast<double>(all - open.size()) / static_cast<double>(all);
    out.outcome = open.empty() ? Outcome::Pass : Outcome::Review;
    out.where = joined(open);
    return out;
}

CriterionResult keptCurveHolds(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const KeptCurve& kept = *keptCurve(analyteOf(batch, evaluation));
    CriterionResult out;
    out.key = "kept-curve";
    out.title = "Kept curve holds";
    out.limitText =
        (kept.validDays ? "at most " + formatNumber(*kept.validDays) + " days old, " : std::string("of any age, ")) +
        "with a QC in this batch";
    out.why = "Reagents and instruments drift: a curve of another day is good only while its QCs say so.";
    const auto age = ageOfKeptCurve(batch, evaluation.analyte);
    if (!age) {
        return out;
    }
    const bool hasQc = std::ranges::any_of(
        evaluation.results, [](const SampleResult& r) { return hasNominal(r.group.role) && r.recoveryPercent; });
    const bool isOld = kept.validDays && *age > *kept.validDays;
    out.foundText =
        formatNumber(std::floor(*age)) + (std::floor(*age) == 1 ? " day" : " days") + (hasQc ? "" : ", no QC");
    out.used = kept.validDays ? std::max(0.0, *age) / *kept.validDays : 0;
    out.outcome = isOld ? Outcome::Fail : hasQc ? Outcome::Pass : Outcome::Review;
    out.where = isOld    ? "\"" + kept.name + "\" from " + kept.batch + " is no longer valid"
                : !hasQc ? "no QC with a nominal was read"
                         : "";
    return out;
}

} // namespace nuvat
