// Whether the separation of an analyte is fit for quantifying it: limits of the method, one criterion each.
#include "criterion_parts.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/groups.h"
#include "peak_figures.h"
#include "stages.h"

#include <cmath>
#include <functional>

namespace nuvat {

namespace {

/// Runs whose peak counts, of roles whose content is known.
std::vector<Place> knownRuns(const Batch& batch, const AnalyteEvaluation& evaluation) {
    std::vector<Place> out;
    for (const auto& [place, peak] : evaluation.peaks) {
        const Role role = batch.at(place).role;
        const bool isKnown = role == Role::Standard || hasNominal(role);
        if (isKnown && evaluation.at(place).state == ResponseState::Used) {
            out.push_back(place);
        }
    }
    return out;
}

std::optional<double> medianOf(const AnalyteEvaluation& evaluation, const std::vector<Place>& runs,
                               std::optional<double> Peak::*figure) {
    std::vector<double> values;
    for (const Place place : runs) {
        if (const auto& value = evaluation.peaks.at(place).*figure) {
            values.push_back(*value);
        }
    }
    return median(values);
}

/// The lowest level that counts, absent without one.
const LevelValue* lowestLevel(const AnalyteEvaluation& evaluation) {
    const LevelValue* lowest = nullptr;
    for (const LevelValue& level : evaluation.levels) {
        lowest = isJudged(level) && (lowest == nullptr || *level.x < *lowest->x) ? &level : lowest;
    }
    return lowest;
}

const LevelValue* highestLevel(const AnalyteEvaluation& evaluation) {
    const LevelValue* highest = nullptr;
    for (const LevelValue& level : evaluation.levels) {
        highest = isJudged(level) && (highest == nullptr || *level.x > *highest->x) ? &level : highest;
    }
    return highest;
}

std::vector<Place> usedPlaces(const AnalyteEvaluation& evaluation, const LevelValue& level) {
    std::vector<Place> out;
    addPlaces(evaluation, {Role::Standard, level.number}, out);
    std::erase_if(out, [&](Place place) { return evaluation.at(place).state != ResponseState::Used; });
    return out;
}

std::optional<double> meanRaw(const AnalyteEvaluation& evaluation, const std::vector<Place>& places) {
    std::vector<double> values;
    for (const Place place : places) {
        if (const auto& raw = evaluation.at(place).raw) {
            values.push_back(*raw);
        }
    }
    return describe(values).mean;
}

std::optional<double> noiseRatioAtLowest(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const LevelValue* lowest = lowestLevel(evaluation);
    const auto* rule = std::get_if<PeakRule>(&analyteOf(batch, evaluation).source.rule);
    if (lowest == nullptr || rule == nullptr) {
        return std::nullopt;
    }
    const auto blank = blankTrace(batch, rule->channel);
    std::vector<double> values;
    for (const Place place : usedPlaces(evaluation, *lowest)) {
        const auto peak = evaluation.peaks.find(place);
        const auto ratio = peak == evaluation.peaks.end() ? std::nullopt : signalToNoise(peak->second, blank.get());
        if (ratio) {
            values.push_back(*ratio);
        }
    }
    return describe(values).mean;
}

std::optional<double> rsdOfTimes(const AnalyteEvaluation& evaluation) {
    std::vector<double> times;
    for (const auto& [place, peak] : evaluation.peaks) {
        if (evaluation.at(place).state == ResponseState::Used) {
            times.push_back(peak.apex);
        }
    }
    return describe(times).cvPercent;
}

/// The largest response of a blank that is measured right after the highest standard, in percent of the mean at the
/// lowest level. Absent where no blank follows one.
std::optional<double> carryOver(const Batch& batch, const AnalyteEvaluation& evaluation, std::vector<Place>& places) {
    const LevelValue *lowest = lowestLevel(evaluation), *highest = highestLevel(evaluation);
    if (lowest == nullptr || highest == nullptr) {
        return std::nullopt;
    }
    const auto reference = meanRaw(evaluation, usedPlaces(evaluation, *lowest));
    std::optional<double> worst;
    std::vector<Place> standards;
    addPlaces(evaluation, {Role::Standard, highest->number}, standards);
    for (const Place standard : standards) {
        const Place next{standard.row + 1, standard.column, standard.carrier};
        if (!reference || *reference <= 0 || !batch.holds(next) || !isBlank(batch.at(next).role) ||
            batch.isExcluded(next, evaluation.analyte)) {
            continue;
        }
        const Response& blank = evaluation.at(next);
        const bool isRead = blank.raw || blank.state == ResponseState::NotFound;
        if (isRead) {
            // Without its own division: a blank without internal standard has no ratio.
            const double response = blank.raw.value_or(0);
            worst = std::max(worst.value_or(0), 100 * response / *reference);
            places.push_back(next);
        }
    }
    return worst;
}

/// What is asked and what was found.
struct Ask {
    const char *key, *title, *why, *unit;
    std::optional<double> limit, found;
    bool isFloor = false;
    std::vector<Place> places{};
};

CriterionResult judged(const Ask& ask) {
    CriterionResult out;
    out.key = std::string("suitability-") + ask.key;
    out.title = ask.title;
    out.why = ask.why;
    out.isFloor = ask.isFloor;
    out.limitText = (ask.isFloor ? "at least " : "at most ") + formatNumber(*ask.limit) + ask.unit;
    if (!ask.found) {
        return out;
    }
    out.foundText = formatFigures(*ask.found, 3) + ask.unit;
    out.used = *ask.found / *ask.limit;
    const bool isMet = ask.isFloor ? *ask.found >= *ask.limit : *ask.found <= *ask.limit;
    out.outcome = isMet ? Outcome::Pass : Outcome::Fail;
    if (!isMet) {
        out.places = ask.places;
    }
    return out;
}

} // namespace

std::vector<CriterionResult> suitability(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const SuitabilityLimits& limits = analyteOf(batch, evaluation).suitability;
    const std::vector<Place> known = knownRuns(batch, evaluation);
    const auto figure = [&](std::optional<double> Peak::*which) { return medianOf(evaluation, known, which); };
    std::vector<Place> blanks;
    const auto over = limits.carryOver ? carryOver(batch, evaluation, blanks) : std::nullopt;
    std::vector<Ask> asks{
        {"tailing", "Tailing", "A peak with a long tail hides what follows it, and its end is a matter of taste.", "",
         limits.tailing, figure(&Peak::tailing5), false, known},
        {"plates", "Theoretical plates", "A column that has aged gives broad peaks, which overlap sooner.", "",
         limits.plates, figure(&Peak::platesHalf), true, known},
        {"resolution", "Resolution", "Peaks that are not resolved take area from each other.", "", limits.resolution,
         figure(&Peak::resolutionHalf), true, known},
        {"signal-to-noise", "Signal to noise at the lowest level",
         "The lowest standard has to stand clear of the noise to be measured at all.", "", limits.signalToNoise,
         limits.signalToNoise ? noiseRatioAtLowest(batch, evaluation) : std::nullopt, true},
        {"time-rsd", "RSD of the retention times", "Times that wander lead to peaks that are taken for others.", " %",
         limits.timeRsd, rsdOfTimes(evaluation), false, known},
        {"carry-over", "Carry-over", "What a run leaves behind is found in the next one.", " % of the lowest level",
         limits.carryOver, over, false, blanks},
    };
    std::vector<CriterionResult> out;
    for (const Ask& ask : asks) {
        if (ask.limit) {
            out.push_back(judged(ask));
        }
    }
    return out;
}

} // namespace nuvat
