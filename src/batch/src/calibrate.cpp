#include "nuvat/batch/kept_curve.h"
#include "nuvat/core/stats/best_subset.h"
#include "nuvat/core/stats/descriptive.h"
#include "replicate_rules.h"
#include "stages.h"

#include <cmath>

namespace nuvat {

void describeGroups(AnalyteEvaluation& evaluation) {
    for (const Assignment group : evaluation.index->groups()) {
        GroupValue value;
        value.group = group;
        std::vector<double> used;
        std::vector<double> unchosen;
        for (const Place place : evaluation.index->members(group)) {
            value.places.push_back(place);
            const Response& at = evaluation.at(place);
            if (at.state == ResponseState::Used) {
                used.push_back(*at.value);
            }
            if (at.state == ResponseState::Used || at.isUnchosen) {
                unchosen.push_back(*at.value);
            }
        }
        value.response = describe(used);
        value.unchosen = describe(unchosen);
        if (unchosen.size() > used.size()) {
            value.varianceFactor = bestSubsetVariance(used.size(), unchosen.size()) * static_cast<double>(used.size());
        }
        evaluation.groups.push_back(std::move(value));
    }
}

namespace {

void poolReplicateCv(AnalyteEvaluation& evaluation) {
    double squares = 0;
    double freedom = 0;
    for (const GroupValue& group : evaluation.groups) {
        if (!isBlank(group.group.role) && group.unchosen.cvPercent) {
            const double df = static_cast<double>(group.unchosen.n) - 1;
            squares += df * *group.unchosen.cvPercent * *group.unchosen.cvPercent;
            freedom += df;
        }
    }
    if (freedom > 0) {
        evaluation.pooledCvPercent = std::sqrt(squares / freedom);
    }
}

/// The mean place of a level on the axis: its standards may hold different amounts of internal standard.
std::optional<double> onAxis(const Batch& batch, int analyte, const std::vector<Place>& places,
                             const std::optional<double>& concentration) {
    if (!concentration || internalOf(batch.method, analyte) == 0 || places.empty()) {
        return concentration;
    }
    double sum = 0;
    for (const Place place : places) {
        sum += *concentration / internalShare(batch, analyte, place);
    }
    return sum / static_cast<double>(places.size());
}

/// Levels and standards of the analyte, in the order of the groups.
void placeStandards(const Batch& batch, AnalyteEvaluation& evaluation) {
    const bool isKept = keptCurve(analyteOf(batch, evaluation)) != nullptr; // they are read off, not fitted
    for (const GroupValue& group : evaluation.groups) {
        if (group.group.role != Role::Standard) {
            continue;
        }
        const auto concentration = batch.concentration(group.group.number, evaluation.analyte);
        if (!concentration) {
            evaluation.problems.push_back({"Level " + shortName(batch, group.group) +
                                               " has no concentration, so its standards are left out; "
                                               "type it under Layout.",
                                           group.places});
        }
        evaluation.levels.push_back({.number = group.group.number,
                                     .x = concentration,
                                     .onAxis = onAxis(batch, evaluation.analyte, group.places, concentration),
                                     .isAnchor = isAnchor(batch, {group.group.number, evaluation.analyte}),
                                     .response = group.response,
                                     .cvPercent = group.unchosen.cvPercent});
        for (const Place place : group.places) {
            const Response& value = evaluation.at(place);
            if (!concentration || !value.value) {
                continue;
            }
            StandardValue standard;
            standard.place = place;
            standard.level = group.group.number;
            standard.x = *concentration / internalShare(batch, evaluation.analyte, place);
            standard.y = *value.value;
            standard.isUsed = value.state == ResponseState::Used && !isKept;
            evaluation.standards.push_back(standard);
        }
    }
}

void fitCurve(const Batch& batch, AnalyteEvaluation& evaluation, AnalyteMemory& memory) {
    const Analyte& analyte = batch.method.analyte(evaluation.analyte);
    evaluation.fit = memory.fit(fitInput(analyte, evaluation));
    const bool anyStandard = !evaluation.levels.empty() || keptCurve(analyte) != nullptr;
    if (!evaluation.fit.isUsable() && anyStandard && batch.firstReading(evaluation.analyte) != nullptr) {
        evaluation.problems.push_back({evaluation.fit.message, {}});
    }
    if (analyte.unit.empty() && anyStandard) {
        evaluation.problems.push_back({"The unit of concentration is not set; type it under Layout.", {}});
    }
}

void backCalculate(AnalyteEvaluation& evaluation) {
    const Fit& fit = evaluation.fit;
    if (!fit.isUsable()) {
        return;
    }
    std::vector<double> fittedX;
    for (const StandardValue& standard : evaluation.standards) {
        if (standard.isUsed) {
            fittedX.push_back(standard.x);
        }
    }
    const auto weights = readingWeights(fit, fittedX);
    std::size_t used = 0;
    for (StandardValue& standard : evaluation.standards) {
        standard.fitted = response(fit, standard.x);
        if (standard.isUsed) {
            standard.normalisedWeight = weights[used++].value_or(1);
        }
        const ReadOff back = readOffPoint(fit, standard.y);
        if (back.status == ReadOffStatus::Ok) {
            standard.backCalculated = back.x;
            if (standard.x != 0) {
                standard.errorPercent = 100 * (*back.x - standard.x) / standard.x;
            }
        }
    }
    for (LevelValue& level : evaluation.levels) {
        std::vector<double> back;
        bool allRead = true;
        for (const StandardValue& standard : evaluation.standards) {
            if (standard.level == level.number && standard.isUsed) {
                allRead = allRead && standard.backCalculated.has_value();
                if (standard.backCalculated) {
                    const double share =
                        standard.x != 0 && level.x ? *level.x / standard.x : 1; // of the internal standard
                    back.push_back(*standard.backCalculated * share);
                }
            }
        }
        if (isInterpolation(fit.model) && level.response.mean) {
            // The curve runs through the level's mean; single replicates of an end level lie beyond it.
            level.backCalculated = readOffPoint(fit, *level.response.mean).x;
        } else if (allRead) {
            level.backCalculated = describe(back).mean;
        }
        if (level.backCalculated && level.x && *level.x != 0) {
            level.errorPercent = 100 * (*level.backCalculated - *level.x) / *level.x;
        }
    }
}

} // namespace

void calibrate(const Batch& batch, AnalyteEvaluation& evaluation, AnalyteMemory& memory) {
    applyReplicateRules(batch.method.replicates, evaluation);
    describeGroups(evaluation);
    poolReplicateCv(evaluation);
    placeStandards(batch, evaluation);
    fitCurve(batch, evaluation, memory);
    backCalculate(evaluation);
}

} // namespace nuvat
