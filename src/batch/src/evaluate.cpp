#include "criteria.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace nuvat {

namespace {

std::size_t indexOf(const Evaluation& evaluation, Place place) {
    return static_cast<std::size_t>(place.row * evaluation.columns + place.column);
}

void readPlaces(const Batch& batch, Evaluation& evaluation) {
    evaluation.rows = batch.info.rows;
    evaluation.columns = batch.info.columns;
    evaluation.places.resize(static_cast<std::size_t>(evaluation.rows * evaluation.columns));
    const Reading* reading = batch.reading();
    const bool fits = reading != nullptr && reading->rows == evaluation.rows && reading->columns == evaluation.columns;
    for (int row = 0; row < evaluation.rows; ++row) {
        for (int column = 0; column < evaluation.columns; ++column) {
            const Place place{row, column};
            PlaceValue& value = evaluation.places[indexOf(evaluation, place)];
            const bool isAssigned = batch.at(place).role != Role::Empty;
            value.state = isAssigned ? PlaceState::NotRead : PlaceState::Empty;
            if (!fits) {
                continue;
            }
            const ReadingWell& well = reading->wells[indexOf(evaluation, place)];
            value.raw = well.value;
            if (!isAssigned) {
                continue;
            }
            if (batch.exclusions.contains(place)) {
                value.state = PlaceState::Excluded;
            } else if (well.value) {
                value.state = PlaceState::Used;
            } else if (!well.text.empty()) {
                value.state = PlaceState::Unusable;
            }
        }
    }
}

void correctForBlank(const Batch& batch, Evaluation& evaluation) {
    std::vector<double> blanks;
    for (const Place place : batch.placesOf({Role::Blank, 0})) {
        if (batch.holds(place) && evaluation.at(place).state == PlaceState::Used) {
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
        if (blanks.empty() && batch.reading() != nullptr) {
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

std::vector<Assignment> groupsInOrder(const Batch& batch) {
    std::vector<Assignment> groups;
    for (const Role role : {Role::Standard, Role::Blank, Role::Qc, Role::Unknown}) {
        for (const int number : batch.numbersOf(role)) {
            groups.push_back({role, number});
        }
    }
    return groups;
}

void describeGroups(const Batch& batch, Evaluation& evaluation) {
    for (const Assignment group : groupsInOrder(batch)) {
        GroupValue value;
        value.group = group;
        std::vector<double> used;
        for (const Place place : batch.placesOf(group)) {
            if (!batch.holds(place)) {
                continue;
            }
            value.places.push_back(place);
            if (evaluation.at(place).state == PlaceState::Used) {
                used.push_back(*evaluation.at(place).response);
            }
        }
        value.response = describe(used);
        evaluation.groups.push_back(std::move(value));
    }
}

void fitCurve(const Batch& batch, Evaluation& evaluation) {
    std::vector<double> x;
    std::vector<double> y;
    for (const GroupValue& group : evaluation.groups) {
        if (group.group.role != Role::Standard) {
            continue;
        }
        const auto level = batch.levels.find(group.group.number);
        const auto concentration = level == batch.levels.end() ? std::nullopt : level->second.concentration;
        if (!concentration) {
            evaluation.problems.push_back({"Level " + shortName(batch, group.group) +
                                               " has no concentration, so its standards are left out; "
                                               "type it under Layout.",
                                           group.places});
        }
        evaluation.levels.push_back({.number = group.group.number, .x = concentration, .response = group.response});
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
            if (standard.isUsed) {
                x.push_back(standard.x);
                y.push_back(standard.y);
            }
            evaluation.standards.push_back(standard);
        }
    }
    evaluation.fit = fitCalibration(batch.method.model, batch.method.weighting, x, y);
    const bool anyStandard = !evaluation.levels.empty();
    if (!evaluation.fit.isUsable() && anyStandard && batch.reading() != nullptr) {
        evaluation.problems.push_back({evaluation.fit.message, {}});
    }
    if (batch.method.unit.empty() && anyStandard) {
        evaluation.problems.push_back({"The unit of concentration is not set; type it under Layout.", {}});
    }
}

void backCalculate(Evaluation& evaluation) {
    const Fit& fit = evaluation.fit;
    if (!fit.isUsable()) {
        return;
    }
    const std::vector<double> weights = fit.normalisedWeights();
    std::size_t used = 0;
    ReadOffOptions options;
    options.factor = 1; // only the concentration is used here
    for (StandardValue& standard : evaluation.standards) {
        standard.fitted = response(fit, standard.x);
        if (standard.isUsed) {
            standard.normalisedWeight = weights[used++];
        }
        const ReadOff back = readOff(fit, standard.y, options);
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
        if (allRead) {
            level.backCalculated = describe(back).mean;
        }
        if (level.backCalculated && level.x && *level.x != 0) {
            level.errorPercent = 100 * (*level.backCalculated - *level.x) / *level.x;
        }
    }
}

ResultStatus statusOf(const SampleResult& sample, const Evaluation& evaluation) {
    switch (sample.readOff.status) {
    case ReadOffStatus::AboveCurve:
        return ResultStatus::AboveCurve;
    case ReadOffStatus::BelowCurve:
        return ResultStatus::BelowCurve;
    case ReadOffStatus::NotDefined:
        return ResultStatus::NotDefined;
    case ReadOffStatus::Ok:
        break;
    }
    // Without a range nothing could be said to lie inside it.
    if (!evaluation.range.lloq || !evaluation.range.uloq) {
        return ResultStatus::NotDefined;
    }
    if (*sample.readOff.x < *evaluation.range.lloq) {
        return ResultStatus::BelowRange;
    }
    return *sample.readOff.x > *evaluation.range.uloq ? ResultStatus::AboveRange : ResultStatus::Reported;
}

/// The mean of a sample whose replicates do not all meet the curve counts as beyond it on the side of those that do
/// not.
SampleResult readSample(const Batch& batch, const Evaluation& evaluation, const GroupValue& group,
                        const ReadOffOptions& options) {
    SampleResult sample;
    sample.group = group.group;
    sample.response = group.response;
    std::vector<double> responses;
    std::vector<double> concentrations;
    for (const Place place : group.places) {
        const PlaceValue& value = evaluation.at(place);
        ReplicateResult replicate{place, value.state, value.response, {}};
        if (value.response) {
            replicate.readOff = readOff(evaluation.fit, *value.response, options);
        }
        if (value.state == PlaceState::Used) {
            responses.push_back(*value.response);
            if (replicate.readOff.x) {
                concentrations.push_back(*replicate.readOff.x);
            }
        }
        sample.replicates.push_back(replicate);
    }
    sample.concentration = describe(concentrations);
    sample.readOff = readOffMean(evaluation.fit, responses, options);
    if (group.group.role == Role::Unknown) {
        const auto itsSample = batch.samples.find(group.group.number);
        sample.dilution = itsSample == batch.samples.end() ? 1 : itsSample->second.dilution;
    } else if (const auto qc = batch.qcs.find(group.group.number); qc != batch.qcs.end()) {
        sample.nominal = qc->second.nominal;
    }
    sample.status = statusOf(sample, evaluation);
    if (sample.status == ResultStatus::Reported) {
        sample.result = *sample.readOff.x * sample.dilution;
        sample.low = *sample.readOff.low * sample.dilution;
        sample.high = *sample.readOff.high * sample.dilution;
    }
    // The recovery of a QC is that of its read-off, also where that lies outside the range: a QC above ULOQ is a
    // finding.
    if (sample.nominal && sample.readOff.x) {
        sample.recoveryPercent = 100 * *sample.readOff.x / *sample.nominal;
    }
    const std::size_t placed = group.places.size();
    if (responses.empty()) {
        sample.remark = "No replicate is usable.";
    } else if (responses.size() < placed) {
        sample.remark = "From " + std::to_string(responses.size()) + " of " + std::to_string(placed) + " replicates.";
    } else if (!evaluation.fit.isUsable()) {
        sample.remark = "There is no curve to read it off.";
    } else if (sample.status == ResultStatus::NotDefined) {
        sample.remark = "The curve has no range in which the standards meet the criteria.";
    }
    return sample;
}

} // namespace

std::string_view name(ResultStatus status) {
    switch (status) {
    case ResultStatus::Reported:
        return "reported";
    case ResultStatus::BelowRange:
        return "below-range";
    case ResultStatus::AboveRange:
        return "above-range";
    case ResultStatus::BelowCurve:
        return "below-curve";
    case ResultStatus::AboveCurve:
        return "above-curve";
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

const PlaceValue& Evaluation::at(Place place) const {
    return places.at(indexOf(*this, place));
}

const GroupValue* Evaluation::group(Assignment wanted) const {
    const auto found = std::find_if(groups.begin(), groups.end(), [&](const auto& g) { return g.group == wanted; });
    return found == groups.end() ? nullptr : &*found;
}

const SampleResult* Evaluation::result(Assignment wanted) const {
    const auto found = std::find_if(results.begin(), results.end(), [&](const auto& r) { return r.group == wanted; });
    return found == results.end() ? nullptr : &*found;
}

std::size_t Evaluation::countCriteria(Outcome outcome) const {
    return static_cast<std::size_t>(
        std::count_if(criteria.begin(), criteria.end(), [&](const auto& c) { return c.outcome == outcome; }));
}

ReadOffOptions readOffOptions(const Batch& batch, const Evaluation& evaluation) {
    ReadOffOptions options;
    options.confidence = batch.method.confidence;
    if (batch.method.blankEntersInterval) {
        options.blankSe = evaluation.blank.se.value_or(0);
    }
    if (evaluation.fit.isUsable()) {
        options.factor = studentFactor(options.confidence, evaluation.fit.df);
    }
    return options;
}

Evaluation evaluate(const Batch& batch) {
    Evaluation evaluation;
    readPlaces(batch, evaluation);
    correctForBlank(batch, evaluation);
    describeGroups(batch, evaluation);
    fitCurve(batch, evaluation);
    backCalculate(evaluation);
    judgeLevels(batch, evaluation);
    ReadOffOptions options = readOffOptions(batch, evaluation);
    for (const GroupValue& group : evaluation.groups) {
        if (group.group.role == Role::Qc || group.group.role == Role::Unknown) {
            evaluation.results.push_back(readSample(batch, evaluation, group, options));
        }
    }
    applyCriteria(batch, evaluation);
    return evaluation;
}

} // namespace nuvat
