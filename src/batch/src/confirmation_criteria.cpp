// Built-in criteria on internal standards and on the ratios of qualifiers.
#include "criterion_parts.h"
#include "nuvat/core/base/number.h"
#include "stages.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

/// Asks for a look at the sample that a place belongs to.
void askForReview(const Batch& batch, AnalyteEvaluation& evaluation, Place place, const std::string& remark) {
    const Assignment group = batch.at(place);
    for (SampleResult& result : evaluation.results) {
        if (result.group == group) {
            result.needsReview = true;
            result.remark += (result.remark.empty() ? "" : " ") + remark;
        }
    }
}

bool isCounted(const Batch& batch, int analyte, Place place) {
    const Role role = batch.at(place).role;
    return role != Role::DoubleBlank && !batch.isExcluded(place, analyte);
}

} // namespace

CriterionResult internalRecovery(const Batch& batch, AnalyteEvaluation& evaluation) {
    const double low = batch.method.limits.internalLow.value_or(0), high = *batch.method.limits.internalHigh;
    CriterionResult out;
    out.key = "internal-standard";
    out.title = "Internal standard";
    out.limitText = limitPercent(low) + " to " + limitPercent(high) + " of the median of standards and QCs";
    out.why = "A run that lost or gained internal standard was prepared or measured otherwise than the standards were.";
    std::vector<std::string> outside;
    double worst = 0;
    std::size_t count = 0;
    for (const Place place : placesOf(*evaluation.index)) {
        const auto percent = internalPercent(evaluation, place);
        if (!percent || !isCounted(batch, evaluation.analyte, place)) {
            continue;
        }
        ++count;
        // On a scale on which either limit is 1.
        const double used = *percent > 100 ? (*percent - 100) / (high - 100) : (100 - *percent) / (100 - low);
        worst = std::max(worst, used);
        if (*percent < low || *percent > high) {
            outside.push_back(shortPlaceName(batch, place) + " " + formatPercent(*percent));
            out.places.push_back(place);
            askForReview(batch, evaluation, place, "Internal standard " + formatPercent(*percent) + " of the median.");
        }
    }
    if (count == 0) {
        return out;
    }
    out.foundText = std::to_string(count - outside.size()) + " of " + std::to_string(count);
    out.used = worst;
    out.outcome = outside.empty() ? Outcome::Pass : Outcome::Review;
    out.where = joined(outside);
    return out;
}

CriterionResult qualifierRatio(const Batch& batch, AnalyteEvaluation& evaluation, std::size_t index) {
    const Qualifier& qualifier = analyteOf(batch, evaluation).qualifiers[index];
    const QualifierValue& found = evaluation.qualifiers[index];
    CriterionResult out;
    out.key = "qualifier-" + std::to_string(index + 1);
    out.title = "Ratio of qualifier " + qualifier.channel;
    out.why = "Two channels of one substance go with each other in one ratio; another ratio means that something else "
              "lies under one of the peaks.";
    const std::string tolerance = qualifier.toleranceOf == ToleranceOf::Relative
                                      ? "±" + limitPercent(qualifier.tolerance) + " of it"
                                      : "±" + formatNumber(qualifier.tolerance) + " percentage points";
    out.limitText = found.window ? formatFigures(found.window->reference, 4) + " % " + tolerance : tolerance;
    if (!found.window) {
        return out;
    }
    std::vector<std::string> outside;
    std::size_t count = 0;
    for (const auto& [place, ratio] : found.ratios) {
        if (!isCounted(batch, evaluation.analyte, place) || isBlank(batch.at(place).role)) {
            continue;
        }
        ++count;
        const double away = std::abs(ratio.percent - found.window->reference);
        out.used = std::max(out.used, found.window->half > 0 ? away / found.window->half : 0);
        if (!ratio.isWithin) {
            outside.push_back(shortPlaceName(batch, place) + " " + formatPercent(ratio.percent));
            out.places.push_back(place);
            askForReview(batch, evaluation, place,
                         "Ratio of qualifier " + qualifier.channel + " " + formatPercent(ratio.percent) +
                             ", expected " + formatFigures(found.window->low, 3) + " to " +
                             formatFigures(found.window->high, 3) + " %.");
        }
    }
    if (count == 0) {
        return out;
    }
    out.foundText = std::to_string(count - outside.size()) + " of " + std::to_string(count);
    out.outcome = outside.empty() ? Outcome::Pass : Outcome::Review;
    out.where = joined(outside);
    return out;
}

} // namespace nuvat
