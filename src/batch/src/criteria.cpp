#include "criteria.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

/// The one that weighs more; what is not applicable does not.
Outcome worse(Outcome left, Outcome right) {
    if (left == Outcome::NotApplicable || right == Outcome::NotApplicable) {
        return left == Outcome::NotApplicable ? right : left;
    }
    return std::max(left, right);
}

/// Takes the decision of a person into account. One that was given while the criterion read otherwise does not count
/// any more, but is not dropped either: the criterion says so.
void applyOverride(const Override& decision, CriterionResult& criterion) {
    const bool isMissed = criterion.outcome == Outcome::Fail || criterion.outcome == Outcome::Review;
    if (!isMissed) {
        return;
    }
    if (decision.limitText.empty() || decision.limitText == criterion.limitText) {
        criterion.overrideReason = decision.reason;
        return;
    }
    criterion.where = "It was overridden (" + decision.reason + ") while it read \"" + decision.limitText +
                      "\"; decide again. " + criterion.where;
}

/// Marks what a person decided and finds the worst outcome that stands.
/// @param canPass there is a curve: without one nothing is accepted, whatever was overridden
Outcome judge(const Batch& batch, int analyte, std::vector<CriterionResult>& criteria, bool canPass) {
    Outcome verdict = Outcome::NotApplicable;
    for (CriterionResult& criterion : criteria) {
        const Outcome found = criterion.outcome;
        if (const auto decision = batch.overrides.find({analyte, criterion.key}); decision != batch.overrides.end()) {
            applyOverride(decision->second, criterion);
        }
        if (canPass) {
            verdict = worse(verdict, criterion.isOverridden() ? Outcome::Pass : criterion.outcome);
        } else if (found == Outcome::Fail) {
            verdict = Outcome::Fail;
        }
    }
    return verdict;
}

} // namespace

bool isJudged(const LevelValue& level) {
    return level.x && *level.x > 0 && level.response.n > 0 && !level.isAnchor;
}

std::string joined(const std::vector<std::string>& parts) {
    std::string text;
    for (std::size_t i = 0; i < parts.size(); ++i) {
        if (i == 3 && parts.size() > 4) {
            return text + " and " + std::to_string(parts.size() - i) + " more";
        }
        text += (i == 0 ? "" : ", ") + parts[i];
    }
    return text;
}

void addPlaces(const AnalyteEvaluation& evaluation, Assignment group, std::vector<Place>& places) {
    if (const GroupValue* value = evaluation.group(group)) {
        places.insert(places.end(), value->places.begin(), value->places.end());
    }
}

void judgeLevelsAndFindRange(const Batch& batch, AnalyteEvaluation& evaluation) {
    const CriteriaLimits& limits = batch.method.limits;
    std::vector<LevelValue*> ordered;
    for (LevelValue& level : evaluation.levels) {
        if (isJudged(level)) {
            ordered.push_back(&level);
        }
    }
    std::stable_sort(ordered.begin(), ordered.end(), [](const auto* l, const auto* r) { return *l->x < *r->x; });
    for (LevelValue* level : ordered) {
        // Without a limit every level that can be read off counts as within.
        const bool isLowest = level->x == ordered.front()->x;
        const bool isHighest = level->x == ordered.back()->x;
        level->limitPercent = !limits.backCalculated ? 0
                              : isLowest             ? limits.backCalculatedAtLowest
                              : isHighest            ? limits.backCalculatedAtHighest
                                                     : *limits.backCalculated;
        level->isWithin =
            level->errorPercent && (!limits.backCalculated || std::abs(*level->errorPercent) <= level->limitPercent);
    }
    for (const StandardValue& standard : evaluation.standards) {
        for (LevelValue* level : ordered) {
            if (standard.isUsed && standard.level == level->number) {
                ++level->standards;
                const bool isWithin =
                    standard.errorPercent &&
                    (!limits.backCalculated || std::abs(*standard.errorPercent) <= level->limitPercent);
                level->standardsWithin += isWithin ? 1 : 0;
            }
        }
    }
    for (LevelValue* level : ordered) {
        // An interpolation runs through the level's mean; its single replicates cannot be judged.
        if (isInterpolation(evaluation.fit.model)) {
            level->standardsWithin = level->isWithin ? level->standards : 0;
        }
        level->isAccepted =
            level->standards > 0 && 100.0 * level->standardsWithin >= limits.standardsAtLevel * level->standards;
    }
    // Going inward from either end: the first level that is within its limit and agrees in itself. A level that fails
    // in between is for the criterion on levels to judge; it does not cut the range in two.
    const auto isGood = [&](const LevelValue* level) {
        const bool cvOk = !level->cvPercent || !limits.standardCv || *level->cvPercent <= *limits.standardCv;
        return level->isWithin && cvOk;
    };
    const auto lowest = std::find_if(ordered.begin(), ordered.end(), isGood);
    const auto highest = std::find_if(ordered.rbegin(), ordered.rend(), isGood);
    if (lowest != ordered.end() && *(*lowest)->x < *(*highest)->x) {
        evaluation.range = {(*lowest)->onAxis, (*highest)->onAxis};
    }
}

void applyCriteria(const Batch& batch, AnalyteEvaluation& evaluation) {
    auto& criteria = evaluation.criteria;
    criteria = builtInCriteria(batch, evaluation);
    for (CriterionResult& own : ownCriteria(batch, evaluation)) {
        criteria.push_back(std::move(own));
    }
    if (evaluation.isOnlyInternal) { // what is asked of a curve and of results is not asked of it
        std::erase_if(criteria, [](const CriterionResult& one) { return !one.key.starts_with("suitability-"); });
    }
    // Without a curve nothing is accepted, however well what little there is may look.
    const bool hasResults = evaluation.fit.isUsable() || evaluation.isOnlyInternal ||
                            analyteOf(batch, evaluation).source.curve == CurveOf::None;
    evaluation.verdict = judge(batch, evaluation.analyte, criteria, hasResults);
}

void applyBatchCriteria(const Batch& batch, Evaluation& evaluation) {
    evaluation.criteria = ownBatchCriteria(batch, evaluation);
    const auto hasVerdict = [](const AnalyteEvaluation& a) { return a.verdict != Outcome::NotApplicable; };
    const auto& analytes = evaluation.analytes;
    const bool isAnyJudged = std::any_of(analytes.begin(), analytes.end(), hasVerdict);
    const bool isEachJudged = std::all_of(analytes.begin(), analytes.end(), [&](const AnalyteEvaluation& a) {
        return hasVerdict(a) || a.isOnlyInternal;
    });
    evaluation.verdict = judge(batch, 0, evaluation.criteria, isAnyJudged);
    for (const AnalyteEvaluation& analyte : analytes) {
        evaluation.verdict = worse(evaluation.verdict, analyte.verdict);
    }
    if (isAnyJudged && !isEachJudged) { // what was not judged is not accepted along with the others
        evaluation.verdict = worse(evaluation.verdict, Outcome::Review);
    }
}

} // namespace nuvat
