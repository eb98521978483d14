// Built-in criteria on QCs, check standards and blanks.
#include "criterion_parts.h"
#include "nuvat/core/base/number.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

std::string limitPercent(double value) {
    std::string text = formatDecimals(value, 1);
    if (text.ends_with(".0")) {
        text.resize(text.size() - 2);
    }
    return text + " %";
}

std::string recoveryKey(Assignment group) {
    return (group.role == Role::Qc ? "qc-" : "check-") + std::to_string(group.number);
}

/// Blanks judged in response. Rising curves: what the blanks lie over the response at zero, against what LLOQ lies over
/// it (ICH M10, 3.2.5.2 carry-over and 3.3.2). Falling curves, where blanks give the least response: their share of the
/// response at zero as read (common practice for non-specific binding).
CriterionResult blankOfLloq(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const double limit = *batch.method.limits.blankOfLloq;
    CriterionResult out;
    out.key = "blank-of-lloq";
    out.title = "Blank response";
    out.why = "A blank that responds like a sample means carry-over, contamination or non-specific binding.";
    const Fit& fit = evaluation.fit;
    const bool rises = fit.isUsable() && response(fit, fit.highestX) > response(fit, fit.lowestX);
    out.limitText =
        "at most " + limitPercent(limit) + (rises ? " of the response at LLOQ" : " of the response at zero");
    const double factor = evaluation.responseFactor, subtracted = evaluation.blank.subtracted * factor;
    const auto& asRead = evaluation.blank.description.mean;
    const std::optional<double> mean = asRead ? std::optional(*asRead * factor) : std::nullopt;
    if (!mean || !fit.isUsable() || !evaluation.range.lloq || fit.model == Model::LogLog ||
        isInterpolation(fit.model)) {
        return out;
    }
    const double zero = response(fit, 0);
    const double atLloq = response(fit, *evaluation.range.lloq);
    const double share =
        rises ? 100 * std::abs(*mean - subtracted - zero) / (atLloq - zero) : 100 * *mean / (zero + subtracted);
    if (!std::isfinite(share)) {
        return out;
    }
    out.foundText = formatPercent(share);
    out.used = std::max(0.0, share) / limit;
    out.outcome = out.used <= 1 ? Outcome::Pass : Outcome::Fail;
    if (out.outcome != Outcome::Pass) {
        addPlaces(evaluation, {Role::Blank, 0}, out.places);
        out.where = "mean of the blanks " + formatFigures(*asRead, 3) + " as read";
    }
    return out;
}

CriterionResult qcRecovery(const Batch& batch, const AnalyteEvaluation& evaluation, const SampleResult& qc) {
    const double limit = *batch.method.limits.qcRecovery;
    CriterionResult out;
    out.key = recoveryKey(qc.group);
    out.title = shortName(batch, qc.group) + " recovery";
    if (qc.nominal) {
        out.title =
            shortName(batch, qc.group) + ", " + formatFigures(*qc.nominal, 3) + " " + analyteOf(batch, evaluation).unit;
    }
    out.limitText = limitPercent(100 - limit);
    out.limitText.resize(out.limitText.size() - 2);
    out.limitText += " to " + limitPercent(100 + limit);
    out.why = qc.group.role == Role::Qc
                  ? "A QC of known concentration that is not found again puts the whole batch in doubt."
                  : "A check standard that is not found again shows that the curve no longer holds.";
    if (!qc.nominal) {
        out.where = "The nominal concentration is not set; type it under Layout.";
        addPlaces(evaluation, qc.group, out.places);
        out.outcome = Outcome::Review;
        out.foundText = "no nominal";
        return out;
    }
    if (!evaluation.fit.isUsable()) {
        return out;
    }
    if (!qc.recoveryPercent) {
        out.outcome = Outcome::Fail;
        out.foundText = "not read";
        out.where = qc.remark.empty() ? "Its response is beyond the curve." : qc.remark;
        addPlaces(evaluation, qc.group, out.places);
        return out;
    }
    out.foundText = formatPercent(*qc.recoveryPercent);
    out.used = std::abs(*qc.recoveryPercent - 100) / limit;
    // Where shares of the replicates decide, a mean outside is a warning.
    // A check standard is none of those that are counted, so it decides by itself.
    const bool isCountedElsewhere = batch.method.limits.qcWithin && qc.group.role == Role::Qc;
    const Outcome missed = isCountedElsewhere ? Outcome::Review : Outcome::Fail;
    out.outcome = out.used <= 1 ? Outcome::Pass : missed;
    if (out.outcome != Outcome::Pass) {
        out.where = "read off " + formatFigures(*qc.readOff.x, 3) + " " + analyteOf(batch, evaluation).unit;
        addPlaces(evaluation, qc.group, out.places);
    }
    return out;
}

CriterionResult qcWithin(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const CriteriaLimits& limits = batch.method.limits;
    CriterionResult out;
    out.key = "qc-within";
    out.title = "QC replicates within limits";
    out.limitText = "at least " + limitPercent(*limits.qcWithin) + " of all and " +
                    limitPercent(limits.qcWithinAtLevel) + " at each level, ±" + limitPercent(*limits.qcRecovery);
    out.why = "A batch whose QCs are not found again cannot vouch for its unknowns.";
    out.isFloor = true;
    std::size_t total = 0;
    std::size_t within = 0;
    double worst = 1e300; // share of a level over its limit
    std::vector<std::string> outside;
    for (const SampleResult& qc : evaluation.results) {
        if (qc.group.role != Role::Qc || !qc.nominal) {
            continue;
        }
        std::size_t all = 0;
        std::size_t good = 0;
        for (const ReplicateResult& replicate : qc.replicates) {
            if (replicate.state != ResponseState::Used) {
                continue;
            }
            ++all;
            const auto& x = replicate.readOff.x;
            if (x && std::abs(100 * *x * qc.internalShare / *qc.nominal - 100) <= *limits.qcRecovery) {
                ++good;
            } else {
                outside.push_back(shortName(batch, qc.group) + " in " + placeName(batch, replicate.place));
                out.places.push_back(replicate.place);
            }
        }
        total += all;
        within += good;
        if (all > 0) {
            worst =
                std::min(worst, 100.0 * static_cast<double>(good) / static_cast<double>(all) / limits.qcWithinAtLevel);
        }
    }
    if (total == 0 || !evaluation.fit.isUsable()) {
        out.places.clear();
        return out;
    }
    constexpr double kRounding = 1e-9; // two of three are two thirds
    const double share = 100.0 * static_cast<double>(within) / static_cast<double>(total) / *limits.qcWithin;
    out.foundText = std::to_string(within) + " of " + std::to_string(total);
    out.used = std::min(share, worst);
    out.outcome = out.used >= 1 - kRounding ? Outcome::Pass : Outcome::Fail;
    out.where = joined(outside);
    return out;
}

CriterionResult blankBelowLloq(const Batch& batch, const AnalyteEvaluation& evaluation) {
    CriterionResult out;
    out.key = "blank-below-lloq";
    out.title = "Blank below LLOQ";
    out.limitText = "read off below LLOQ";
    out.why = "A blank that reads like a sample means carry-over, or a blank that is none.";
    if (!evaluation.blank.description.mean || !evaluation.fit.isUsable() || !evaluation.range.lloq) {
        return out;
    }
    if (response(evaluation.fit, evaluation.fit.highestX) < response(evaluation.fit, evaluation.fit.lowestX)) {
        return out; // on a falling curve a blank without response reads as the highest concentration
    }
    const ReadOff read = readOffPoint(
        evaluation.fit, (*evaluation.blank.description.mean - evaluation.blank.subtracted) * evaluation.responseFactor);
    if (read.status == ReadOffStatus::BelowCurve) {
        out.outcome = Outcome::Pass;
        out.foundText = "below the curve";
        return out;
    }
    if (!read.x) {
        out.outcome = Outcome::Fail;
        out.foundText = "above the curve";
    } else {
        out.foundText = formatFigures(*read.x, 3) + " " + analyteOf(batch, evaluation).unit;
        out.used = std::max(0.0, *read.x / *evaluation.range.lloq);
        out.outcome = *read.x < *evaluation.range.lloq ? Outcome::Pass : Outcome::Fail;
    }
    if (out.outcome != Outcome::Pass) {
        out.where = "LLOQ " + formatFigures(*evaluation.range.lloq, 3) + " " + analyteOf(batch, evaluation).unit;
        addPlaces(evaluation, {Role::Blank, 0}, out.places);
    }
    return out;
}

} // namespace nuvat
