#include "nuvat/batch/compare_fits.h"

#include "criteria.h"
#include "evaluation_memory.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

bool isSameChoice(const FitOptions& left, const FitOptions& right) {
    return left.model == right.model &&
           (left.weighting == right.weighting || isInterpolation(left.model)); // which have no weights
}

std::vector<FitOptions> candidatesFor(const Analyte& analyte, const CalibrationData& data) {
    std::vector<FitOptions> out;
    for (const FitOptions& usual : usualCandidates(data)) {
        FitOptions one = analyte.fit;
        one.model = usual.model;
        one.weighting = usual.weighting;
        if (!isSameChoice(one, analyte.fit)) {
            out.push_back(fitOptions(analyte, one, data.x));
        }
    }
    out.push_back(fitOptions(analyte, analyte.fit, data.x));
    return out;
}

void compareSamples(const AnalyteEvaluation& before, const AnalyteEvaluation& after, ComparedFit& one) {
    for (const SampleResult& now : before.results) {
        const SampleResult* then = after.result(now.group);
        ResultChange change{now.group, now.result, then == nullptr ? std::nullopt : then->result, {}};
        if (change.inUse && change.other && *change.inUse != 0) {
            change.changePercent = 100 * (*change.other - *change.inUse) / std::abs(*change.inUse);
        }
        one.lost += change.inUse && !change.other ? 1u : 0u;
        one.gained += !change.inUse && change.other ? 1u : 0u;
        one.changes.push_back(change);
    }
}

void compareChecks(const AnalyteEvaluation& before, const AnalyteEvaluation& after, ComparedFit& one) {
    std::vector<const LevelValue*> levels;
    for (const LevelValue& level : after.levels) {
        if (isJudged(level)) {
            levels.push_back(&level);
        }
    }
    std::sort(levels.begin(), levels.end(), [](const auto* left, const auto* right) { return *left->x > *right->x; });
    for (const LevelValue* level : levels) {
        one.levelsWithin.push_back(level->isWithin);
    }
    for (const CriterionResult& then : after.criteria) {
        const auto now = std::find_if(before.criteria.begin(), before.criteria.end(),
                                      [&](const CriterionResult& c) { return c.key == then.key; });
        if (now != before.criteria.end() && now->outcome != then.outcome && !now->isOverridden()) {
            one.criteria.push_back({then.title, now->foundText, then.foundText, now->outcome, then.outcome});
        }
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
    const Analyte& analyte = batch.method.analyte(evaluation.analyte);
    const FitInput input = fitInput(analyte, evaluation);
    if (input.x.empty()) {
        return {};
    }
    const CriteriaLimits& limits = batch.method.limits;
    ComparisonOptions options;
    options.limitPercent = limits.backCalculated.value_or(options.limitPercent);
    options.limitPercentLowest = limits.backCalculated ? limits.backCalculatedAtLowest : options.limitPercentLowest;
    std::vector<ComparedFit> out;
    for (Candidate& candidate : compareModels(candidatesFor(analyte, input.data()), input.data(), options)) {
        ComparedFit one;
        one.isInUse = isSameChoice(candidate.fit.options, analyte.fit);
        one.options = analyte.fit; // what follows from the axis is no choice of the method
        if (!one.isInUse) {
            one.options.model = candidate.fit.model;
            one.options.weighting = candidate.fit.options.weighting;
        }
        one.candidate = std::move(candidate);
        out.push_back(std::move(one));
    }
    Evaluator evaluator; // remembers what another fit leaves as it is
    Batch changed = batch;
    for (std::size_t i = 0; i < out.size(); ++i) {
        if (progress.cancelled()) {
            return {};
        }
        if (out[i].candidate.fit.isUsable()) {
            changed.method.analyte(evaluation.analyte).fit = out[i].options;
            const std::shared_ptr<const Evaluation> then = evaluator.evaluate(changed);
            compareSamples(evaluation, then->analyte(evaluation.analyte), out[i]);
            compareChecks(evaluation, then->analyte(evaluation.analyte), out[i]);
        }
        progress.report(static_cast<double>(i + 1) / static_cast<double>(out.size()));
    }
    return out;
}

} // namespace nuvat
