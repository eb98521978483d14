// Each built-in criterion: what it asks, what was found, where.
#include "criteria.h"
#include "criterion_parts.h"

#include "nuvat/batch/kept_curve.h"
#include "nuvat/core/base/number.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

std::string standardText(const Batch& batch, const LevelValue& level) {
    return shortName(batch, {Role::Standard, level.number});
}

/// "±20 % (±25 % at the ends)"
std::string levelLimitText(const CriteriaLimits& limits) {
    const std::string all = "±" + limitPercent(*limits.backCalculated);
    const bool lowestDiffers = limits.backCalculatedAtLowest != *limits.backCalculated;
    const bool highestDiffers = limits.backCalculatedAtHighest != *limits.backCalculated;
    if (lowestDiffers && highestDiffers && limits.backCalculatedAtLowest == limits.backCalculatedAtHighest) {
        return all + " (±" + limitPercent(limits.backCalculatedAtLowest) + " at the ends)";
    }
    std::string ends = lowestDiffers ? "±" + limitPercent(limits.backCalculatedAtLowest) + " at the lowest" : "";
    if (highestDiffers) {
        ends += (ends.empty() ? "±" : ", ±") + limitPercent(limits.backCalculatedAtHighest) + " at the highest";
    }
    return ends.empty() ? all : all + " (" + ends + ")";
}

std::string signedPercent(double value) {
    return (value > 0 ? "+" : "") + formatPercent(value);
}

/// Without a curve a criterion of the fit fails, once there is something to fit.
void failWithoutCurve(const Batch& batch, const AnalyteEvaluation& evaluation, CriterionResult& out) {
    const bool isMissing = !evaluation.levels.empty() && batch.firstReading(evaluation.analyte) != nullptr;
    if (isMissing && !evaluation.fit.isUsable()) {
        out.outcome = Outcome::Fail;
        out.foundText = "no curve";
        out.where = evaluation.fit.message;
    }
}

CriterionResult levelsWithin(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const CriteriaLimits& limits = batch.method.limits;
    CriterionResult out;
    out.key = "levels-within";
    out.title = "Standards within limits";
    out.limitText = "at least " + limitPercent(limits.levelsWithin) + " of standards and " +
                    std::to_string(limits.levelsAtLeast) + " levels, " + levelLimitText(limits);
    out.why = "A curve can be used only where it gives the standards back; too few levels within limits mean that it "
              "is not the right curve for these standards.";
    out.isFloor = true;
    int total = 0; // standards
    int within = 0;
    int levels = 0;
    int accepted = 0;
    std::vector<std::string> outside;
    for (const LevelValue& level : evaluation.levels) {
        if (!isJudged(level)) {
            continue;
        }
        ++levels;
        total += level.standards;
        within += level.standardsWithin;
        accepted += level.isAccepted ? 1 : 0;
        if (level.standardsWithin == level.standards) {
            continue;
        }
        outside.push_back(standardText(batch, level) +
                          (level.errorPercent ? " " + signedPercent(*level.errorPercent) : " cannot be read off"));
        addPlaces(evaluation, {Role::Standard, level.number}, out.places);
    }
    if (total == 0 || !evaluation.fit.isUsable()) {
        return out;
    }
    out.foundText = std::to_string(within) + " of " + std::to_string(total) + ", " + std::to_string(accepted) + " of " +
                    std::to_string(levels) + " levels";
    // Without a least share or number the other one decides; with neither there is nothing to miss.
    constexpr double kNothingAsked = 2;
    const double share = limits.levelsWithin > 0 ? 100.0 * within / total / limits.levelsWithin : kNothingAsked;
    const double number =
        limits.levelsAtLeast > 0 ? static_cast<double>(accepted) / limits.levelsAtLeast : kNothingAsked;
    out.used = std::min(share, number);
    out.outcome = out.used >= 1 ? Outcome::Pass : Outcome::Fail;
    out.where = joined(outside);
    return out;
}

CriterionResult worstLevel(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const CriteriaLimits& limits = batch.method.limits;
    CriterionResult out;
    out.key = "worst-level";
    out.title = "Worst back-calculated level";
    out.limitText = levelLimitText(limits);
    out.why = "It shows how far the curve is from the level it fits worst; levels outside narrow the range.";
    const LevelValue* worst = nullptr;
    for (const LevelValue& level : evaluation.levels) {
        if (!isJudged(level) || !level.errorPercent) {
            continue;
        }
        const double used = std::abs(*level.errorPercent) / level.limitPercent;
        if (worst == nullptr || used > out.used) {
            worst = &level;
            out.used = used;
        }
    }
    if (worst == nullptr) {
        return out;
    }
    out.foundText = signedPercent(*worst->errorPercent);
    out.outcome = out.used <= 1 ? Outcome::Pass : Outcome::Review;
    if (out.outcome != Outcome::Pass) {
        out.where =
            standardText(batch, *worst) + ", " + formatFigures(*worst->x, 3) + " " + analyteOf(batch, evaluation).unit;
        addPlaces(evaluation, {Role::Standard, worst->number}, out.places);
    }
    return out;
}

/// R² and r, which have to come near 1. The bar counts what is missing to 1, so that 0.999 and 0.99 look as different
/// as they are.
void judgeNearOne(CriterionResult& out, double found, double limit) {
    out.foundText = formatDecimals(found, 4);
    out.outcome = found >= limit ? Outcome::Pass : Outcome::Fail;
    out.used =
        found >= limit ? 1 + 0.6 * (found - limit) / std::max(1 - limit, 1e-12) : std::max(0.0, found / limit) * 0.97;
}

CriterionResult fitCriterion(const Batch& batch, const AnalyteEvaluation& evaluation) {
    CriterionResult out;
    out.key = "r-squared";
    out.title = "Fit, R²";
    out.isFloor = true;
    out.limitText = "at least " + formatDecimals(*batch.method.limits.rSquared, 3);
    out.why = "It catches a curve that has little to do with its standards; it says nothing on how well a curve gives "
              "concentrations back, which the levels do.";
    if (!evaluation.fit.rSquared) {
        failWithoutCurve(batch, evaluation, out);
        return out;
    }
    judgeNearOne(out, *evaluation.fit.rSquared, *batch.method.limits.rSquared);
    return out;
}

CriterionResult standardCv(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const double limit = *batch.method.limits.standardCv;
    CriterionResult out;
    out.key = "standard-cv";
    out.title = "Replicate CV of standards";
    out.limitText = "at most " + limitPercent(limit);
    out.why = "Replicates of one level that disagree by more than this put the level in doubt.";
    std::vector<std::string> above;
    double worst = -1;
    for (const LevelValue& level : evaluation.levels) {
        if (!isJudged(level) || !level.cvPercent) {
            continue;
        }
        worst = std::max(worst, *level.cvPercent);
        if (*level.cvPercent > limit) {
            above.push_back(standardText(batch, level) + " " + formatPercent(*level.cvPercent));
            addPlaces(evaluation, {Role::Standard, level.number}, out.places);
        }
    }
    if (worst < 0) {
        return out;
    }
    out.foundText = formatPercent(worst);
    out.used = worst / limit;
    out.outcome = above.empty() ? Outcome::Pass : Outcome::Review;
    out.where = joined(above);
    return out;
}

CriterionResult unknownCv(const Batch& batch, AnalyteEvaluation& evaluation) {
    const double limit = *batch.method.limits.unknownCv;
    CriterionResult out;
    out.key = "unknown-cv";
    out.title = "Replicate CV of unknowns";
    out.limitText = "at most " + limitPercent(limit);
    out.why = "Two replicates that disagree by more than this cannot both be right; the mean hides it.";
    std::vector<std::string> above;
    double worst = -1;
    for (SampleResult& sample : evaluation.results) {
        if (sample.group.role != Role::Unknown || !sample.concentration.cvPercent) {
            continue;
        }
        // Outside the range a CV says little; the sample is not reported with a number anyway.
        if (sample.status != ResultStatus::Reported) {
            continue;
        }
        worst = std::max(worst, *sample.concentration.cvPercent);
        if (*sample.concentration.cvPercent > limit) {
            sample.needsReview = true;
            sample.remark = "Replicate CV " + formatPercent(*sample.concentration.cvPercent) + " is above " +
                            limitPercent(limit) + ".";
            above.push_back(shortName(batch, sample.group) + " " + fullName(batch, sample.group));
            addPlaces(evaluation, sample.group, out.places);
        }
    }
    if (worst < 0) {
        return out;
    }
    out.foundText = formatPercent(worst);
    out.used = worst / limit;
    out.outcome = above.empty() ? Outcome::Pass : Outcome::Review;
    out.where = joined(above);
    return out;
}

/// Samples whose replicates disagree more than the batch's do, or lie on both sides of a limit of the range.
CriterionResult sampleScatter(const Batch& batch, AnalyteEvaluation& evaluation) {
    CriterionResult out;
    out.key = "sample-scatter";
    out.title = "Scatter of samples";
    out.limitText = "replicates scatter as the batch's do (p at least 5 %)";
    out.why = "The interval takes the scatter of the whole batch; a sample that scatters more is not described by it.";
    std::vector<std::string> outside;
    std::size_t tested = 0;
    double least = 1;
    const bool isTested = analyteOf(batch, evaluation).scatter == ScatterFrom::Batch;
    for (SampleResult& sample : evaluation.results) {
        const bool isAcross = sample.status == ResultStatus::AcrossLimit;
        if (!isAcross && (!isTested || !sample.scatter || sample.status != ResultStatus::Reported)) {
            continue;
        }
        ++tested;
        if (!isAcross) {
            least = std::min(least, sample.scatter->p);
        }
        if (!isAcross && !sample.scatter->needsReview) {
            continue;
        }
        std::string values;
        for (const ReplicateResult& replicate : sample.replicates) {
            if (replicate.state == ResponseState::Used && replicate.readOff.x) {
                values += (values.empty() ? "" : " and ") + formatFigures(*replicate.readOff.x, 3);
            }
        }
        sample.needsReview = true;
        if (sample.remark.empty()) {
            sample.remark = "Its replicates (" + values + ") scatter more than those of the batch.";
        }
        outside.push_back(shortName(batch, sample.group) + ": " + values);
        addPlaces(evaluation, sample.group, out.places);
    }
    if (tested == 0) {
        return out;
    }
    out.isFloor = true;
    out.foundText = outside.empty() ? "all agree" : std::to_string(outside.size()) + " of " + std::to_string(tested);
    out.used = outside.empty() ? 1 + least : 0.5;
    out.outcome = outside.empty() ? Outcome::Pass : Outcome::Review;
    out.where = joined(outside);
    return out;
}

/// Dilutions of one sample that say different things.
CriterionResult dilutionsAgree(const Batch& batch, AnalyteEvaluation& evaluation) {
    CriterionResult out;
    out.key = "dilutions";
    out.title = "Dilutions agree";
    out.limitText = "within ±20 % of their mean, chi-squared p above 1 %, no rise with dilution";
    out.why = "A result that changes with dilution is not the sample's alone: a hook or the matrix takes part in it.";
    out.isFloor = true;
    std::size_t judged = 0;
    std::vector<std::string> outside;
    for (const CombinedSample& sample : evaluation.combined) {
        if (sample.dilutions.size() < 2) {
            continue;
        }
        ++judged;
        if (!sample.hasDoubt()) {
            continue;
        }
        const std::string why = sample.found.warnings.empty() ? std::string("Its dilutions differ by more than chance.")
                                                              : sample.found.warnings.front();
        outside.push_back(shortName(batch, {Role::Unknown, sample.sample}) + ": " + why);
        for (SampleResult& result : evaluation.results) {
            if (result.group.role == Role::Unknown && result.group.number == sample.sample) {
                result.needsReview = true;
                result.remark = result.remark.empty() ? why : result.remark;
                addPlaces(evaluation, result.group, out.places);
            }
        }
    }
    if (judged == 0) {
        return out;
    }
    out.foundText = std::to_string(judged - outside.size()) + " of " + std::to_string(judged);
    out.used = static_cast<double>(judged - outside.size()) / static_cast<double>(judged);
    out.outcome = outside.empty() ? Outcome::Pass : Outcome::Review;
    out.where = joined(outside);
    return out;
}

bool isStillPlanned(const Batch& batch, Place place) {
    const auto run = batch.runs.find(place);
    return run != batch.runs.end() &&
           (run->second.state == RunState::Planned || run->second.state == RunState::Running);
}

CriterionResult replicatesUsable(const Batch& batch, AnalyteEvaluation& evaluation) {
    CriterionResult out;
    out.key = "replicates";
    out.title = "Replicates usable";
    out.limitText = "every place that was read";
    out.why = "A sample from fewer replicates than planned has a wider interval, and nothing to compare with when one "
              "is left.";
    std::vector<std::string> lost;
    std::size_t places = 0;
    std::size_t unusable = 0;
    for (SampleResult& sample : evaluation.results) {
        for (const ReplicateResult& replicate : sample.replicates) {
            if (isStillPlanned(batch, replicate.place)) {
                continue; // nothing is lost: it has yet to be measured
            }
            ++places;
            if (replicate.state == ResponseState::Unusable || replicate.state == ResponseState::NotRead) {
                ++unusable;
                sample.needsReview = true;
                lost.push_back(shortName(batch, sample.group) + " in " + placeName(batch, replicate.place));
                out.places.push_back(replicate.place);
            }
        }
    }
    if (places == 0 || batch.firstReading(evaluation.analyte) == nullptr) {
        return out;
    }
    out.foundText = std::to_string(places - unusable) + " of " + std::to_string(places);
    out.isFloor = true;
    out.used = static_cast<double>(places - unusable) / static_cast<double>(places);
    out.outcome = unusable == 0 ? Outcome::Pass : Outcome::Review;
    out.where = joined(lost);
    return out;
}

CriterionResult correlation(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const double limit = *batch.method.limits.r;
    CriterionResult out;
    out.key = "correlation";
    out.title = "Correlation, r";
    out.isFloor = true;
    out.limitText = "at least " + formatDecimals(limit, 3);
    out.why = "It catches a line that has little to do with its standards; it does not show that they lie on a line.";
    if (!evaluation.fit.r) {
        failWithoutCurve(batch, evaluation, out);
        return out; // only straight lines have one
    }
    judgeNearOne(out, std::abs(*evaluation.fit.r), limit);
    return out;
}

} // namespace

std::vector<CriterionResult> builtInCriteria(const Batch& batch, AnalyteEvaluation& evaluation) {
    const CriteriaLimits& limits = batch.method.limits;
    std::vector<CriterionResult> criteria;
    if (keptCurve(analyteOf(batch, evaluation)) != nullptr) {
        criteria.push_back(keptCurveHolds(batch, evaluation));
    }
    if (limits.backCalculated) {
        criteria.push_back(levelsWithin(batch, evaluation));
    }
    if (limits.rSquared) {
        criteria.push_back(fitCriterion(batch, evaluation));
    }
    if (limits.r) {
        criteria.push_back(correlation(batch, evaluation));
    }
    if (limits.backCalculated) {
        criteria.push_back(worstLevel(batch, evaluation));
    }
    if (limits.standardCv) {
        criteria.push_back(standardCv(batch, evaluation));
    }
    if (limits.unknownCv) {
        criteria.push_back(unknownCv(batch, evaluation));
    }
    criteria.push_back(sampleScatter(batch, evaluation));
    if (!evaluation.combined.empty()) {
        criteria.push_back(dilutionsAgree(batch, evaluation));
    }
    if (!analyteOf(batch, evaluation).decisions.limits.empty()) {
        criteria.push_back(clearOfLimits(batch, evaluation));
    }
    if (internalOf(batch.method, evaluation.analyte) != 0 && limits.internalHigh) {
        criteria.push_back(internalRecovery(batch, evaluation));
    }
    for (std::size_t i = 0; i < evaluation.qualifiers.size(); ++i) {
        criteria.push_back(qualifierRatio(batch, evaluation, i));
    }
    for (CriterionResult& one : suitability(batch, evaluation)) {
        criteria.push_back(std::move(one));
    }
    criteria.push_back(replicatesUsable(batch, evaluation));
    if (limits.isBlankBelowLloq) {
        criteria.push_back(blankBelowLloq(batch, evaluation));
    }
    if (limits.blankOfLloq) {
        criteria.push_back(blankOfLloq(batch, evaluation));
    }
    const bool hasQcs = std::any_of(evaluation.results.begin(), evaluation.results.end(),
                                    [](const SampleResult& r) { return r.group.role == Role::Qc; });
    if (limits.qcWithin && limits.qcRecovery && hasQcs) {
        criteria.push_back(qcWithin(batch, evaluation));
    }
    for (const SampleResult& result : evaluation.results) {
        if (hasNominal(result.group.role) && limits.qcRecovery) {
            criteria.push_back(qcRecovery(batch, evaluation, result));
        }
    }
    return criteria;
}

} // namespace nuvat
