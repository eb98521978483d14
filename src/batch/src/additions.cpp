// Results without a common curve: a line for each sample by standard addition, or the response itself.
#include "replicate_rules.h"
#include "stages.h"

#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

/// Adds the used places of a group to the line. @param dilution by what was added, 1: none
void addPoints(const AnalyteEvaluation& evaluation, Assignment group, double added, double dilution,
               AdditionLine& line) {
    const GroupValue* found = evaluation.group(group);
    if (found == nullptr) {
        return;
    }
    for (const Place place : found->places) {
        const Response& response = evaluation.at(place);
        if (response.state == ResponseState::Used && response.value) {
            line.places.push_back(place);
            line.added.push_back(added);
            line.response.push_back(*response.value * dilution);
        }
    }
}

AdditionLine lineOf(const Batch& batch, AnalyteEvaluation& evaluation, int sample) {
    AdditionLine out;
    out.sample = sample;
    const auto& standard = analyteOf(batch, evaluation).source.additionStandard;
    addPoints(evaluation, {Role::Unknown, sample}, 0, 1, out);
    for (const GroupValue& group : evaluation.groups) {
        if (group.group.role != Role::Addition || group.group.number != sample) {
            continue;
        }
        const auto added = batch.concentration(group.group.preparation, evaluation.analyte);
        if (!added) {
            evaluation.problems.push_back({"Addition " + std::to_string(group.group.preparation) +
                                               " has no concentration, so it is left out; type that of level " +
                                               std::to_string(group.group.preparation) + " under Layout.",
                                           group.places});
            continue;
        }
        // Added x per volume of sample, v*C/V0, took v/V0 = x/C of volume.
        addPoints(evaluation, group.group, *added, standard ? 1 + *added / *standard : 1, out);
    }
    auto line = standardAddition(out.added, out.response, batch.method.confidence);
    if (line) {
        out.line = *line;
    } else {
        out.problem = line.error().message;
    }
    return out;
}

/// The points and the fit of one line, for the page of the curve.
void showLine(const Batch& batch, const AdditionLine& line, AnalyteEvaluation& evaluation) {
    for (std::size_t i = 0; i < line.places.size(); ++i) {
        const Assignment group = batch.at(line.places[i]);
        StandardValue point;
        point.place = line.places[i];
        point.level = group.role == Role::Addition ? group.preparation : 0;
        point.x = line.added[i];
        point.y = line.response[i];
        point.isUsed = true;
        point.normalisedWeight = 1;
        if (line.line) {
            point.fitted = line.line->a + line.line->b * point.x;
            point.backCalculated = (point.y - line.line->a) / line.line->b;
            if (point.x > 0) {
                point.errorPercent = 100 * (*point.backCalculated - point.x) / point.x;
            }
        }
        evaluation.standards.push_back(point);
    }
    if (line.line) {
        evaluation.fit = fitCalibration(Model::Line, Weighting::None, line.added, line.response);
    } else {
        evaluation.fit.message = line.problem;
    }
}

void setLevels(const Batch& batch, int sample, AnalyteEvaluation& evaluation) {
    for (const GroupValue& group : evaluation.groups) {
        if (group.group.role == Role::Addition && group.group.number == sample) {
            LevelValue level;
            level.number = group.group.preparation;
            level.x = batch.concentration(level.number, evaluation.analyte);
            level.isAnchor = true; // there is nothing to judge it by
            level.response = group.response;
            level.cvPercent = group.unchosen.cvPercent;
            evaluation.levels.push_back(level);
        }
    }
}

void showSample(const Batch& batch, const AdditionLine& line, AnalyteEvaluation& evaluation) {
    evaluation.shownSample = line.sample;
    evaluation.levels.clear();
    evaluation.standards.clear();
    evaluation.fit = {};
    setLevels(batch, line.sample, evaluation);
    showLine(batch, line, evaluation);
}

/// A result of which the sample and its replicates are known.
SampleResult begunResult(const Batch& batch, const AnalyteEvaluation& evaluation, const GroupValue& group) {
    SampleResult out;
    out.group = group.group;
    out.response = group.response;
    out.dilution = batch.dilution(group.group);
    for (const Place place : group.places) {
        const Response& response = evaluation.at(place);
        out.replicates.push_back({place, response.state, response.value, {}});
    }
    return out;
}

/// Reports what was read off. @param t Student factor of its limits
void report(const Batch& batch, double t, SampleResult& out) {
    out.readOff.status = ReadOffStatus::Ok;
    out.status = ResultStatus::Reported;
    const double relativeSe = out.dilution == 1 ? 0 : batch.method.dilutionRelativeSe;
    const ReadOff result = scaled(out.readOff, out.dilution, relativeSe, t);
    out.result = result.x;
    out.se = result.se.value_or(0);
    out.df = out.readOff.df;
    out.low = result.low;
    out.high = result.high;
}

SampleResult resultOf(const Batch& batch, const AnalyteEvaluation& evaluation, const GroupValue& group,
                      const AdditionLine& line) {
    SampleResult out = begunResult(batch, evaluation, group);
    out.remark = line.problem;
    if (!line.line) {
        return out;
    }
    const StandardAddition& found = *line.line;
    out.readOff.x = found.content;
    out.readOff.se = found.se;
    out.readOff.seCurve = found.se;
    out.readOff.df = found.df;
    if (found.fiellerLimits) {
        out.readOff.low = found.fiellerLimits->first;
        out.readOff.high = found.fiellerLimits->second;
    } else {
        out.remark = "The slope of its line does not differ from 0 at this confidence, so there are no limits.";
    }
    report(batch, found.t, out);
    return out;
}

/// A result that is the response itself: its mean, and limits from the scatter of its replicates.
SampleResult directResult(const Batch& batch, const AnalyteEvaluation& evaluation, const GroupValue& group) {
    SampleResult out = begunResult(batch, evaluation, group);
    out.nominal = batch.nominal(group.group, evaluation.analyte);
    if (!group.response.mean) {
        out.remark = "No replicate is usable.";
        return out;
    }
    out.readOff.x = group.response.mean;
    double t = 0;
    if (group.response.sd && group.response.n > 1) {
        const auto n = static_cast<double>(group.response.n);
        t = studentFactor(batch.method.confidence, n - 1);
        out.readOff.df = n - 1;
        out.readOff.se = *group.response.sd / std::sqrt(n);
        out.readOff.seResponse = *out.readOff.se;
        out.readOff.low = *out.readOff.x - t * *out.readOff.se;
        out.readOff.high = *out.readOff.x + t * *out.readOff.se;
    }
    out.concentration = group.response;
    report(batch, t, out);
    if (out.nominal) {
        out.recoveryPercent = 100 * *out.readOff.x / *out.nominal;
    }
    return out;
}

} // namespace

void describeResponses(const Batch& batch, AnalyteEvaluation& evaluation) {
    applyReplicateRules(batch.method.replicates, evaluation);
    describeGroups(evaluation);
}

void addDirectResults(const Batch& batch, AnalyteEvaluation& evaluation) {
    describeResponses(batch, evaluation);
    evaluation.fit.message = "The method says that the response is the result: there is no curve.";
    for (const GroupValue& group : evaluation.groups) {
        if (isReadOff(group.group.role)) {
            evaluation.results.push_back(directResult(batch, evaluation, group));
        }
    }
}

void addLines(const Batch& batch, AnalyteEvaluation& evaluation) {
    applyReplicateRules(batch.method.replicates, evaluation);
    describeGroups(evaluation);
    std::vector<int> samples;
    for (const GroupValue& group : evaluation.groups) {
        const bool isOne = group.group.role == Role::Unknown || group.group.role == Role::Addition;
        if (isOne && std::find(samples.begin(), samples.end(), group.group.number) == samples.end()) {
            samples.push_back(group.group.number);
        }
    }
    std::sort(samples.begin(), samples.end());
    for (const int sample : samples) {
        evaluation.additions.push_back(lineOf(batch, evaluation, sample));
    }
    if (!evaluation.additions.empty()) {
        const auto usable =
            std::ranges::find_if(evaluation.additions, [](const AdditionLine& one) { return one.line.has_value(); });
        showSample(batch, usable == evaluation.additions.end() ? evaluation.additions.front() : *usable, evaluation);
    } else if (batch.hasTraces() || !batch.readings.empty()) {
        evaluation.problems.push_back(
            {"The method says standard addition, and no sample has additions; paint them under Layout.", {}});
    }
    for (const GroupValue& group : evaluation.groups) {
        const auto line = std::find_if(evaluation.additions.begin(), evaluation.additions.end(),
                                       [&](const AdditionLine& one) { return one.sample == group.group.number; });
        if (group.group.role == Role::Unknown && group.group.preparation == 1 && line != evaluation.additions.end()) {
            evaluation.results.push_back(resultOf(batch, evaluation, group, *line));
        }
    }
    if (batch.method.analyte(evaluation.analyte).unit.empty()) {
        evaluation.problems.push_back({"The unit of concentration is not set; type it under Layout.", {}});
    }
}

AnalyteEvaluation withLineOf(const Batch& batch, AnalyteEvaluation evaluation, int sample) {
    const auto found = std::ranges::find(evaluation.additions, sample, &AdditionLine::sample);
    if (found != evaluation.additions.end() && sample != evaluation.shownSample) {
        const AdditionLine line = *found;
        showSample(batch, line, evaluation);
    }
    return evaluation;
}

} // namespace nuvat
