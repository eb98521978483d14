#include "criteria.h"

#include "evaluation_memory.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/fit/detection.h"
#include "nuvat/core/stats/distributions.h"
#include "replicate_rules.h"
#include "samples.h"
#include "scatter.h"

#include <algorithm>
#include <cmath>
#include <iterator>
#include <stdexcept>

namespace nuvat {

namespace {

/// The analyte's reading when it has the size of the layout; says so when something is there that cannot be used.
const Reading* readingOf(const Batch& batch, AnalyteEvaluation& evaluation) {
    const Reading* reading = batch.reading(evaluation.analyte);
    const Analyte& analyte = batch.method.analyte(evaluation.analyte);
    if (reading == nullptr) {
        if (analyte.reading != 0) {
            evaluation.problems.push_back({"The responses of " + analyte.name + " come from reading " +
                                               std::to_string(analyte.reading) +
                                               ", which is not in this batch; import it under Data or choose another.",
                                           {}});
        }
        return nullptr;
    }
    const Carrier& carrier = batch.carriers.begin()->second;
    if (reading->rows != carrier.rows || reading->columns != carrier.columns) {
        evaluation.problems.push_back({reading->source + " is a plate of " + std::to_string(reading->rows) + " × " +
                                           std::to_string(reading->columns) + " wells, but the layout is for " +
                                           std::to_string(carrier.rows) + " × " + std::to_string(carrier.columns) +
                                           "; nothing is read from it. Choose another reading under Data.",
                                       {}});
        return nullptr;
    }
    return reading;
}

/// What was read at a place, and whether it counts.
PlaceValue readPlace(const Batch& batch, Place place, const Reading* reading) {
    PlaceValue value;
    const bool isAssigned = batch.at(place).role != Role::Empty;
    value.state = isAssigned ? PlaceState::NotRead : PlaceState::Empty;
    const ReadingWell* well = reading == nullptr ? nullptr : reading->at(place);
    if (well == nullptr) {
        return value;
    }
    value.raw = well->value;
    if (!isAssigned) {
        return value;
    }
    if (batch.exclusions.contains(place)) {
        value.state = PlaceState::Excluded;
    } else if (well->value) {
        value.state = PlaceState::Used;
    } else if (!well->text.empty()) {
        value.state = PlaceState::Unusable;
    }
    return value;
}

void readPlaces(const Batch& batch, AnalyteEvaluation& evaluation) {
    const Reading* reading = readingOf(batch, evaluation);
    evaluation.places.reserve(evaluation.index->size());
    for (const auto& [number, carrier] : batch.carriers) {
        for (int row = 0; row < carrier.rows; ++row) {
            for (int column = 0; column < carrier.columns; ++column) {
                evaluation.places.push_back(readPlace(batch, {row, column, number}, reading));
            }
        }
    }
}

void correctForBlank(const Batch& batch, AnalyteEvaluation& evaluation) {
    std::vector<double> blanks;
    for (const Place place : evaluation.index->members({Role::Blank, 0})) {
        if (evaluation.at(place).state == PlaceState::Used) {
            blanks.push_back(*evaluation.at(place).raw);
        }
    }
    evaluation.blank.description = describe(blanks);
    if (batch.method.subtractsBlank) {
        evaluation.blank.subtracted = evaluation.blank.description.mean.value_or(0);
        if (evaluation.blank.description.sd) {
            evaluation.blank.se =
                *evaluation.blank.description.sd / std::sqrt(static_cast<double>(evaluation.blank.description.n));
        }
        if (blanks.empty() && batch.reading(evaluation.analyte) != nullptr) {
            evaluation.problems.push_back({"The method subtracts the blank, but no usable blank is on the plate; "
                                           "nothing is subtracted.",
                                           {}});
        }
    }
    for (PlaceValue& value : evaluation.places) {
        if (value.raw) {
            value.response = *value.raw - evaluation.blank.subtracted;
        }
    }
}

void describeGroups(AnalyteEvaluation& evaluation) {
    for (const Assignment group : evaluation.index->groups()) {
        GroupValue value;
        value.group = group;
        std::vector<double> used;
        std::vector<double> unchosen;
        for (const Place place : evaluation.index->members(group)) {
            value.places.push_back(place);
            const PlaceValue& at = evaluation.at(place);
            if (at.state == PlaceState::Used) {
                used.push_back(*at.response);
            }
            if (at.state == PlaceState::Used || at.isUnchosen) {
                unchosen.push_back(*at.response);
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

void poolReplicateCv(AnalyteEvaluation& evaluation) {
    double squares = 0;
    double freedom = 0;
    for (const GroupValue& group : evaluation.groups) {
        if (group.group.role != Role::Blank && group.unchosen.cvPercent) {
            const double df = static_cast<double>(group.unchosen.n) - 1;
            squares += df * *group.unchosen.cvPercent * *group.unchosen.cvPercent;
            freedom += df;
        }
    }
    if (freedom > 0) {
        evaluation.pooledCvPercent = std::sqrt(squares / freedom);
    }
}

/// Levels and standards of the analyte, in the order of the groups.
void placeStandards(const Batch& batch, AnalyteEvaluation& evaluation) {
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
        const auto level = batch.levels.find({group.group.number, evaluation.analyte});
        evaluation.levels.push_back({.number = group.group.number,
                                     .x = concentration,
                                     .isAnchor = level != batch.levels.end() && level->second.isAnchor,
                                     .response = group.response,
                                     .cvPercent = group.unchosen.cvPercent});
        for (const Place place : group.places) {
            const PlaceValue& value = evaluation.at(place);
            if (!concentration || !value.response) {
                continue;
            }
            StandardValue standard;
            standard.place = place;
            standard.level = group.group.number;
            standard.x = *concentration;
            standard.y = *value.response;
            standard.isUsed = value.state == PlaceState::Used;
            evaluation.standards.push_back(standard);
        }
    }
}

void fitCurve(const Batch& batch, AnalyteEvaluation& evaluation, AnalyteMemory& memory) {
    const Analyte& analyte = batch.method.analyte(evaluation.analyte);
    evaluation.fit = memory.fit(fitInput(analyte, evaluation));
    const bool anyStandard = !evaluation.levels.empty();
    if (!evaluation.fit.isUsable() && anyStandard && batch.reading(evaluation.analyte) != nullptr) {
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
                    back.push_back(*standard.backCalculated);
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

const PlaceValue& AnalyteEvaluation::at(Place place) const {
    const auto found = index->find(place);
    if (!found) {
        throw std::out_of_range("AnalyteEvaluation::at: no carrier holds the place");
    }
    return places.at(*found);
}

const GroupValue* AnalyteEvaluation::group(Assignment wanted) const {
    return findGroup(groups, wanted);
}

const SampleResult* AnalyteEvaluation::result(Assignment wanted) const {
    return findGroup(results, wanted);
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

ReadOffOptions readOffOptions(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const Analyte& analyte = batch.method.analyte(evaluation.analyte);
    ReadOffOptions options;
    options.confidence = batch.method.confidence;
    options.average = analyte.average;
    // A method for intervals that the model does not know falls back to the one that every model knows.
    options.interval =
        isDefinedFor(analyte.interval, analyte.fit.model) ? analyte.interval : IntervalMethod::Propagation;
    // A blank that standards and samples share cancels where the curve has a free end to follow it.
    if (batch.method.blankEntersInterval && evaluation.blank.se && !cancelsBlank(analyte.fit)) {
        options.blankSe = *evaluation.blank.se;
        options.blankDf = static_cast<double>(evaluation.blank.description.n) - 1;
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
            lowest = lowest ? std::min(*lowest, *level.x) : *level.x;
            highest = highest ? std::max(*highest, *level.x) : *level.x;
        }
    }
    if (lowest && *lowest < *highest) {
        evaluation.range = {lowest, highest};
    }
}

void setRange(const Batch& batch, AnalyteEvaluation& evaluation, const ReadOffOptions& options) {
    const RangeRule& rule = batch.method.analyte(evaluation.analyte).range;
    if (!evaluation.fit.isUsable()) {
        evaluation.range = {};
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

AnalyteEvaluation evaluateWith(const Batch& batch, int analyte, std::shared_ptr<const PlaceIndex> index,
                               AnalyteMemory& memory) {
    AnalyteEvaluation evaluation;
    evaluation.analyte = analyte;
    evaluation.index = std::move(index);
    readPlaces(batch, evaluation);
    correctForBlank(batch, evaluation);
    applyReplicateRules(batch.method.replicates, evaluation);
    describeGroups(evaluation);
    poolReplicateCv(evaluation);
    placeStandards(batch, evaluation);
    fitCurve(batch, evaluation, memory);
    backCalculate(evaluation);
    judgeLevelsAndFindRange(batch, evaluation);
    ReadOffOptions options = readOffOptions(batch, evaluation);
    setRange(batch, evaluation, options);
    options.bootstrap = memory.curves(evaluation.fit, options);
    if (options.blankSe > 0) {
        options.sharedBlank = memory.sharedBlank(evaluation.fit, options.blankSe);
    }
    const BatchScatter scatter(batch, evaluation);
    for (const GroupValue& group : evaluation.groups) {
        if (group.group.role == Role::Qc || group.group.role == Role::Unknown) {
            evaluation.results.push_back(
                memory.sample(sampleInput(batch, evaluation, group, options, scatter),
                              [&](const SampleInput& input) { return readSample(evaluation.fit, input, options); }));
        }
    }
    memory.keepOnly(*evaluation.index);
    testScatter(evaluation, scatter);
    applyCriteria(batch, evaluation);
    return evaluation;
}

} // namespace

AnalyteEvaluation evaluateAnalyte(const Batch& batch, int analyte) {
    AnalyteMemory memory;
    return evaluateWith(batch, analyte, std::make_shared<const PlaceIndex>(batch), memory);
}

Evaluation evaluate(const Batch& batch) {
    return Evaluator().compute(batch);
}

namespace {

/// The entries of a map that belong to one analyte.
template<class Key, class Value> auto ofAnalyte(const std::map<Key, Value>& all, int analyte) {
    std::vector<std::pair<Key, Value>> out;
    std::copy_if(all.begin(), all.end(), std::back_inserter(out),
                 [analyte](const auto& entry) { return entry.first.analyte == analyte; });
    return out;
}

/// Whether all that analytes share is as before: plate, layout, samples, decisions on places, the method but for its
/// analytes.
bool sharesAll(const Batch& a, const Batch& b) {
    const auto rest = [](Method method) {
        method.analytes.clear();
        return method;
    };
    return a.carriers == b.carriers && a.exclusions == b.exclusions && a.samples == b.samples && a.places == b.places &&
           rest(a.method) == rest(b.method);
}

/// Whether nothing of what the analyte alone depends on has changed. QCs have the names that they have for analyte 1.
bool isSameAnalyte(const Batch& a, const Batch& b, int analyte) {
    const Reading* before = a.reading(analyte);
    const Reading* now = b.reading(analyte);
    const bool isSameReading = before == nullptr || now == nullptr ? before == now : *before == *now;
    return isSameReading && a.method.analyte(analyte) == b.method.analyte(analyte) &&
           ofAnalyte(a.levels, analyte) == ofAnalyte(b.levels, analyte) &&
           ofAnalyte(a.qcs, analyte) == ofAnalyte(b.qcs, analyte) && ofAnalyte(a.qcs, 1) == ofAnalyte(b.qcs, 1) &&
           ofAnalyte(a.overrides, analyte) == ofAnalyte(b.overrides, analyte);
}

} // namespace

struct Evaluator::Memory {
    std::vector<AnalyteMemory> analytes;
    std::optional<Batch> batch; ///< of the last time
    std::shared_ptr<const Evaluation> evaluation;
};

Evaluator::Evaluator() : m_memory(std::make_unique<Memory>()) {}
Evaluator::~Evaluator() = default;
Evaluator::Evaluator(Evaluator&&) noexcept = default;
Evaluator& Evaluator::operator=(Evaluator&&) noexcept = default;

std::shared_ptr<const Evaluation> Evaluator::evaluate(const Batch& batch) {
    auto made = std::make_shared<const Evaluation>(compute(batch));
    m_memory->batch = batch;
    m_memory->evaluation = made;
    return made;
}

Evaluation Evaluator::compute(const Batch& batch) {
    m_work = {};
    Memory& memory = *m_memory;
    const bool sharesRest = memory.batch && sharesAll(*memory.batch, batch);
    const std::size_t before = memory.analytes.size();
    memory.analytes.resize(batch.method.analytes.size());
    Evaluation out;
    out.index = std::make_shared<const PlaceIndex>(batch);
    for (std::size_t i = 0; i < memory.analytes.size(); ++i) {
        const int analyte = static_cast<int>(i) + 1;
        if (sharesRest && i < before && isSameAnalyte(*memory.batch, batch, analyte)) {
            out.analytes.push_back(memory.evaluation->analytes[i]);
            out.analytes.back().index = out.index;
            continue;
        }
        AnalyteMemory& own = memory.analytes[i];
        own.startCounting();
        out.analytes.push_back(evaluateWith(batch, analyte, out.index, own));
        m_work.fits += own.fits();
        m_work.samples += own.samples();
    }
    applyBatchCriteria(batch, out);
    return out;
}

} // namespace nuvat
