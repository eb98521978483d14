#include "criteria.h"
#include "evaluate_part.h"
#include "evaluation_memory.h"
#include "nuvat/batch/internal_standard.h"
#include "nuvat/batch/kept_curve.h"
#include "nuvat/core/fit/detection.h"
#include "nuvat/core/stats/distributions.h"
#include "samples.h"
#include "scatter.h"
#include "stages.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace nuvat {

namespace {

/// Groups and results stand in the order of the index, so they are found by halving.
template<class T> const T* findGroup(const std::vector<T>& all, Assignment wanted) {
    const auto found = std::lower_bound(all.begin(), all.end(), wanted,
                                        [](const T& one, const Assignment& group) { return one.group < group; });
    return found != all.end() && found->group == wanted ? &*found : nullptr;
}

std::size_t countIn(const std::vector<CriterionResult>& criteria, Outcome outcome) {
    return static_cast<std::size_t>(std::count_if(criteria.begin(), criteria.end(), [&](const CriterionResult& c) {
        return c.outcome == outcome && !c.isOverridden();
    }));
}

std::size_t countOverriddenIn(const std::vector<CriterionResult>& criteria) {
    return static_cast<std::size_t>(
        std::count_if(criteria.begin(), criteria.end(), [](const auto& c) { return c.isOverridden(); }));
}

} // namespace

std::string_view name(ResultStatus status) {
    switch (status) {
    case ResultStatus::Reported:
        return "reported";
    case ResultStatus::Extrapolated:
        return "extrapolated";
    case ResultStatus::BelowRange:
        return "below-range";
    case ResultStatus::AboveRange:
        return "above-range";
    case ResultStatus::BelowCurve:
        return "below-curve";
    case ResultStatus::AboveCurve:
        return "above-curve";
    case ResultStatus::AcrossLimit:
        return "across-limit";
    case ResultStatus::NotDefined:
        return "not-defined";
    }
    throw std::invalid_argument("name: not a result status");
}

std::string_view name(Outcome outcome) {
    switch (outcome) {
    case Outcome::Pass:
        return "pass";
    case Outcome::Review:
        return "review";
    case Outcome::Fail:
        return "fail";
    case Outcome::NotApplicable:
        return "not-applicable";
    }
    throw std::invalid_argument("name: not an outcome");
}

const Response& AnalyteEvaluation::at(Place place) const {
    const auto found = index->find(place);
    if (!found) {
        throw std::out_of_range("AnalyteEvaluation::at: no carrier holds the place");
    }
    return responses.at(*found);
}

const AdditionLine* AnalyteEvaluation::shownLine() const {
    const auto found = std::find_if(additions.begin(), additions.end(),
                                    [&](const AdditionLine& line) { return line.sample == shownSample && line.line; });
    return found == additions.end() ? nullptr : &*found;
}

const GroupValue* AnalyteEvaluation::group(Assignment wanted) const {
    return findGroup(groups, wanted);
}

const SampleResult* AnalyteEvaluation::result(Assignment wanted) const {
    return findGroup(results, wanted);
}

const CombinedSample* AnalyteEvaluation::combinedOf(Assignment wanted) const {
    const auto found = std::find_if(combined.begin(), combined.end(), [&](const CombinedSample& one) {
        return wanted.role == Role::Unknown && one.sample == wanted.number;
    });
    return found == combined.end() ? nullptr : &*found;
}

const SampleDecision* AnalyteEvaluation::decisionOf(Assignment wanted) const {
    const auto found = std::find_if(decisions.begin(), decisions.end(), [&](const SampleDecision& one) {
        return wanted.role == Role::Unknown && one.sample == wanted.number;
    });
    return found == decisions.end() ? nullptr : &*found;
}

const AnalyteEvaluation* Evaluation::find(int number, int carrier, int bracket) const {
    const AnalyteEvaluation* first = nullptr; // of the carrier, where it has no such bracket
    for (const AnalyteEvaluation& one : analytes) {
        if (one.analyte != number || (carrier != 0 && one.carrier != 0 && one.carrier != carrier)) {
            continue;
        }
        if (bracket == 0 || one.bracket == 0 || one.bracket == bracket) {
            return &one;
        }
        first = first == nullptr ? &one : first;
    }
    return first;
}

const AnalyteEvaluation& Evaluation::at(int number, Place place) const {
    for (const AnalyteEvaluation& one : analytes) {
        if (one.analyte == number && one.carrier == place.carrier && one.bracket != 0) {
            const auto isIn = [place](const GroupValue& group) {
                return std::ranges::find(group.places, place) != group.places.end();
            };
            if (std::ranges::any_of(one.groups, isIn)) {
                return one;
            }
        }
    }
    return analyte(number, place.carrier);
}

const AnalyteEvaluation& Evaluation::analyte(int number, int carrier, int bracket) const {
    const AnalyteEvaluation* found = find(number, carrier, bracket);
    if (found == nullptr) {
        throw std::out_of_range("Evaluation::analyte: there is no such analyte");
    }
    return *found;
}

std::size_t AnalyteEvaluation::countCriteria(Outcome outcome) const {
    return countIn(criteria, outcome);
}

std::size_t AnalyteEvaluation::countOverridden() const {
    return countOverriddenIn(criteria);
}

std::size_t Evaluation::countOverridden() const {
    std::size_t count = countOverriddenIn(criteria);
    for (const AnalyteEvaluation& analyte : analytes) {
        count += analyte.countOverridden();
    }
    return count;
}

std::size_t Evaluation::countCriteria(Outcome outcome) const {
    std::size_t count = countIn(criteria, outcome);
    for (const AnalyteEvaluation& analyte : analytes) {
        count += analyte.countCriteria(outcome);
    }
    return count;
}

std::string curveName(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const std::string& analyte = analyteOf(batch, evaluation).name;
    if (evaluation.carrier == 0) {
        return analyte;
    }
    const bool hasCarrier = evaluation.bracket == 0 || batch.carriers.size() > 1;
    const std::string carrier = hasCarrier ? carrierName(batch.carriers, evaluation.carrier) : std::string();
    const std::string bracket = evaluation.bracket == 0 ? std::string() : bracketName(evaluation.bracket);
    return (analyte.empty() ? "" : analyte + ", ") + carrier + (carrier.empty() || bracket.empty() ? "" : ", ") +
           bracket;
}

ReadOffOptions readOffOptions(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const Analyte& analyte = batch.method.analyte(evaluation.analyte);
    ReadOffOptions options;
    options.confidence = batch.method.confidence;
    options.average = analyte.average;
    // A method for intervals that the model does not know falls back to the one that every model knows.
    options.interval =
        isDefinedFor(analyte.interval, analyte.fit.model) ? analyte.interval : IntervalMethod::Propagation;
    // A blank that standards and samples share cancels where the curve has a free end to follow it.
    // Where carriers have blanks of their own, what remains is each sample's own: see blankShare.
    if (batch.method.blankEntersInterval && evaluation.blank.se && !cancelsBlank(analyte.fit)) {
        options.blankSe = *evaluation.blank.se * std::abs(evaluation.responseFactor);
        options.blankDf = evaluation.blank.df;
    }
    if (evaluation.fit.isUsable() && evaluation.fit.df > 0) {
        options.factor = studentFactor(options.confidence, evaluation.fit.df);
    }
    return options;
}

namespace {

/// From the lowest to the highest level that is in use; an anchor lies beyond the range.
void setRangeOfLevels(AnalyteEvaluation& evaluation) {
    std::optional<double> lowest, highest;
    for (const LevelValue& level : evaluation.levels) {
        if (isJudged(level)) {
            lowest = std::min(lowest.value_or(*level.onAxis), *level.onAxis);
            highest = std::max(highest.value_or(*level.onAxis), *level.onAxis);
        }
    }
    if (lowest && *lowest < *highest) {
        evaluation.range = {lowest, highest};
    }
}

void setRange(const Batch& batch, AnalyteEvaluation& evaluation, const ReadOffOptions& options) {
    const RangeRule& rule = batch.method.analyte(evaluation.analyte).range;
    const KeptCurve* kept = keptCurve(batch.method.analyte(evaluation.analyte));
    if (!evaluation.fit.isUsable()) {
        evaluation.range = {};
    } else if (kept != nullptr && (rule.by == RangeBy::Criteria || rule.by == RangeBy::Levels)) {
        evaluation.range = {kept->lloq, kept->uloq}; // its standards were judged in their own batch
    } else if (rule.by == RangeBy::Hand) {
        evaluation.range = {rule.lloq, rule.uloq};
        if (!rule.lloq || !rule.uloq) {
            evaluation.problems.push_back({"The range is set by hand, but LLOQ or ULOQ is missing; type both.", {}});
        }
    } else if (rule.by == RangeBy::Precision) {
        const PrecisionRange range = rangeByPrecision(evaluation.fit, rule.precisionPercent, options);
        evaluation.range = {range.lowest, range.highest};
    } else if (rule.by == RangeBy::Levels) {
        setRangeOfLevels(evaluation);
    }
}

} // namespace

AnalyteEvaluation evaluateWith(const Batch& batch, const Measured& measured, EvaluationPart part,
                               std::shared_ptr<const PlaceIndex> index, AnalyteMemory& memory) {
    AnalyteEvaluation evaluation;
    evaluation.analyte = part.analyte;
    evaluation.carrier = part.carrier;
    evaluation.bracket = part.bracket;
    evaluation.index = std::move(index);
    respond(batch, measured, evaluation);
    relate(batch, measured, evaluation);
    correct(batch, evaluation);
    const CurveOf curve = batch.method.analyte(part.analyte).source.curve;
    if (curve == CurveOf::Sample || curve == CurveOf::None) {
        curve == CurveOf::Sample ? addLines(batch, evaluation) : addDirectResults(batch, evaluation);
        memory.keepOnly(*evaluation.index);
        addExtras(batch, evaluation);
        decideSamples(batch, evaluation);
        applyCriteria(batch, evaluation);
        return evaluation;
    }
    if (isOnlyInternal(batch, part.analyte)) {
        evaluation.isOnlyInternal = true;
        describeResponses(batch, evaluation);
        evaluation.fit.message = "It is an internal standard: no curve is asked of it.";
        memory.keepOnly(*evaluation.index);
        applyCriteria(batch, evaluation);
        return evaluation;
    }
    calibrate(batch, evaluation, memory);
    judgeLevelsAndFindRange(batch, evaluation);
    ReadOffOptions options = readOffOptions(batch, evaluation);
    setRange(batch, evaluation, options);
    options.bootstrap = memory.curves(evaluation.fit, options);
    if (options.blankSe > 0) {
        options.sharedBlank = memory.sharedBlank(evaluation.fit, options.blankSe);
    }
    const BatchScatter scatter(batch, evaluation);
    for (const GroupValue& group : evaluation.groups) {
        if (isReadOff(group.group.role)) {
            evaluation.results.push_back(
                memory.sample(sampleInput(batch, evaluation, group, options, scatter),
                              [&](const SampleInput& input) { return readSample(evaluation.fit, input, options); }));
        }
    }
    memory.keepOnly(*evaluation.index);
    testScatter(evaluation, scatter);
    combineSamples(batch, evaluation);
    addExtras(batch, evaluation);
    decideSamples(batch, evaluation);
    applyCriteria(batch, evaluation);
    return evaluation;
}

AnalyteEvaluation evaluateAnalyte(const Batch& batch, int analyte) {
    AnalyteMemory memory;
    return evaluateWith(batch, measure(batch, {}, 1), {analyte, 0}, std::make_shared<const PlaceIndex>(batch), memory);
}

} // namespace nuvat
