#include "nuvat/batch/compare_fits.h"

#include "evaluation_memory.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

FitInput standardsInUse(const AnalyteEvaluation& evaluation) {
    FitInput data;
    for (const StandardValue& standard : evaluation.standards) {
        if (standard.isUsed) {
            data.x.push_back(standard.x);
            data.y.push_back(standard.y);
            data.level.push_back(standard.level);
        }
    }
    const Description& blank = evaluation.blank.description;
    if (blank.sd) {
        data.blankSd = *blank.sd;
        data.blankDf = static_cast<double>(blank.n) - 1;
    }
    data.offset = evaluation.blank.subtracted;
    return data;
}

bool isSameChoice(const FitOptions& left, const FitOptions& right) {
    return left.model == right.model &&
           (left.weighting == right.weighting || isInterpolation(left.model)); // which have no weights
}

std::vector<FitOptions> candidatesFor(const Analyte& analyte, const CalibrationData& data) {
    const FitOptions& inUse = analyte.fit;
    const bool isPositive = std::all_of(data.x.begin(), data.x.end(), [](double x) { return x > 0; });
    std::vector<FitOptions> out;
    for (const FitOptions& usual : usualCandidates(data)) {
        FitOptions one = inUse;
        one.model = usual.model;
        one.weighting = usual.weighting;
        // As evaluate() does: smooth on the axis it is looked at.
        one.isSplineInLogX =
            inUse.isSplineInLogX || (one.model == Model::Spline && analyte.isConcentrationLogarithmic && isPositive);
        if (!isSameChoice(one, inUse)) {
            out.push_back(one);
        }
    }
    out.push_back(inUse);
    return out;
}

void readSamples(const Batch& batch, const AnalyteEvaluation& before, ComparedFit& one) {
    Batch changed = batch;
    changed.method.analyte(before.analyte).fit = one.options;
    const Evaluation whole = evaluate(changed);
    for (const SampleResult& now : before.results) {
        const SampleResult* then = whole.analyte(before.analyte).result(now.group);
        ResultChange change{now.group, now.result, then == nullptr ? std::nullopt : then->result, {}};
        if (change.inUse && change.other && *change.inUse != 0) {
            change.changePercent = 100 * (*change.other - *change.inUse) / std::abs(*change.inUse);
        }
        one.lost += change.inUse && !change.other ? 1u : 0u;
        one.gained += !change.inUse && change.other ? 1u : 0u;
        one.changes.push_back(change);
    }
}

} // namespace

const ResultChange* ComparedFit::largest() const {
    const ResultChange* out = nullptr;
    for (const ResultChange& change : changes) {
        if (change.changePercent &&
            (out == nullptr || std::abs(*change.changePercent) > std::abs(*out->changePercent))) {
            out = &change;
        }
    }
    return out;
}

std::vector<ComparedFit> compareFits(const Batch& batch, const AnalyteEvaluation& evaluation, Progress& progress) {
    const FitInput input = standardsInUse(evaluation);
    if (input.x.empty()) {
        return {};
    }
    const FitOptions inUse = batch.method.analyte(evaluation.analyte).fit;
    const CriteriaLimits& limits = batch.method.limits;
    ComparisonOptions options;
    options.limitPercent = limits.backCalculated.value_or(options.limitPercent);
    options.limitPercentLowest = limits.backCalculated ? limits.backCalculatedAtLowest : options.limitPercentLowest;
    std::vector<ComparedFit> out;
    for (Candidate& candidate :
         compareModels(candidatesFor(batch.method.analyte(evaluation.analyte), input.data()), input.data(), options)) {
        ComparedFit one;
        one.options = candidate.fit.options;
        one.isInUse = isSameChoice(one.options, inUse);
        one.options = one.isInUse ? inUse : one.options;
        one.candidate = std::move(candidate);
        out.push_back(std::move(one));
    }
    for (std::size_t i = 0; i < out.size(); ++i) {
        if (progress.cancelled()) {
            return {};
        }
        if (out[i].candidate.fit.isUsable()) {
            readSamples(batch, evaluation, out[i]);
        }
        progress.report(static_cast<double>(i + 1) / static_cast<double>(out.size()));
    }
    return out;
}

} // namespace nuvat
