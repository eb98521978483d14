#include "nuvat/batch/working.h"

#include "criteria.h"
#include "nuvat/batch/internal_standard.h"
#include "nuvat/batch/kinetics.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/distributions.h"
#include "working_results.h"
#include "working_traces.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

constexpr int kResponseFigures = 4;

std::string responseText(double value) {
    return formatFigures(value, kResponseFigures);
}

std::string placesText(const AnalyteEvaluation& evaluation, const std::vector<Place>& places) {
    return placeNames(evaluation.index->carriers(), places);
}

/// "well ", "wells ", or nothing where the names themselves say what kind of place they are.
std::string placeWord(const AnalyteEvaluation& evaluation, const std::vector<Place>& places) {
    const auto& carriers = evaluation.index->carriers();
    const bool areWells = carriers.size() == 1 && carriers.begin()->second.kind == CarrierKind::Plate;
    return !areWells ? "" : places.size() == 1 ? "well " : "wells ";
}

std::string stateText(const Batch& batch, int analyte, Place place, const Response& value) {
    switch (value.state) {
    case ResponseState::Excluded: {
        const Exclusion* found = batch.exclusion(place, analyte);
        return "excluded: " + (found == nullptr ? std::string() : found->reason);
    }
    case ResponseState::SetAside:
        return value.why.empty() ? "set aside" : value.why;
    case ResponseState::Unusable:
        return value.position || value.why == kFormulaWithoutNumber ? value.why : "unusable, no number";
    case ResponseState::NotRead:
        return "not read";
    case ResponseState::NotFound:
        return "not found";
    case ResponseState::Used:
    case ResponseState::Empty:
        break;
    }
    return {};
}

/// A reading as the file gave it, with all its digits, but with the decimal point that every other number here has; the
/// window puts its own sign in its place.
std::string rawText(const ReadingWell* well) {
    if (well == nullptr || well->text.empty()) {
        return "–";
    }
    std::string text = well->text;
    if (well->value && std::count(text.begin(), text.end(), ',') == 1 && text.find('.') == std::string::npos) {
        std::replace(text.begin(), text.end(), ',', '.');
        return parseNumber(text) == well->value ? text : well->text;
    }
    return text;
}

std::string rawAt(const Batch& batch, const std::string& channel, Place place) {
    const Reading* reading = batch.reading(place.carrier, channel);
    const auto grid = reading == nullptr ? nullptr : reading->payload.grid();
    return rawText(grid == nullptr ? nullptr : grid->at(place.row, place.column));
}

/// Of a response over time: how many reads there are, and what was taken from each place.
bool addKinetics(const Batch& batch, const AnalyteEvaluation& evaluation, const std::vector<Place>& places,
                 Working& working) {
    const auto* rule = std::get_if<KineticRule>(&analyteOf(batch, evaluation).source.rule);
    if (rule == nullptr) {
        return false;
    }
    const auto all = timedChannels(batch);
    if (const TimedChannel* timed = timedChannel(all, rule->channel)) {
        const auto inside = std::ranges::count_if(
            timed->reads, [&](const auto& read) { return read.first >= rule->from && read.first <= rule->to; });
        const bool isOfAll = rule->quantity == BandQuantity::Slope || rule->quantity == BandQuantity::Mean;
        const std::string times =
            formatNumber(timed->reads.front().first) + " to " + formatNumber(timed->reads.back().first) + " s";
        const std::string taken = isOfAll ? "; " + std::to_string(inside) + " are taken" : "";
        working.steps.push_back(
            {"Read over time", {std::to_string(timed->reads.size()) + " reads from " + times + taken}, false});
    }
    WorkingStep step{kineticWords(*rule) + (rule->quantity == BandQuantity::Slope ? ", per second" : ""), {}, false};
    for (const Place place : places) {
        const Response& value = evaluation.at(place);
        const bool isUnusable = value.state == ResponseState::Unusable && !value.why.empty();
        const std::string state = isUnusable ? value.why : stateText(batch, evaluation.analyte, place, value);
        step.lines.push_back(evaluation.index->name(place) + "  " +
                             (measuredOf(value) ? responseText(*measuredOf(value)) : "–") +
                             (state.empty() ? "" : ", " + state));
    }
    working.steps.push_back(step);
    return true;
}

void addRaw(const Batch& batch, const AnalyteEvaluation& evaluation, const std::vector<Place>& places,
            Working& working) {
    if (batch.firstReading(evaluation.analyte) == nullptr) {
        working.steps.push_back({"No reading yet", {"Import a reading under Data."}, false});
        return;
    }
    if (addTraceSteps(batch, evaluation, places, working)) {
        return;
    }
    if (addKinetics(batch, evaluation, places, working)) {
        return;
    }
    const auto channels = batch.channelsOf(evaluation.analyte);
    const std::string formula = valueFormula(analyteOf(batch, evaluation).source.rule);
    for (const std::string& channel : channels) {
        WorkingStep step;
        step.title = channel.empty() ? "Read" : "Read at " + channel;
        for (const Place place : places) {
            const std::string state =
                formula.empty() ? stateText(batch, evaluation.analyte, place, evaluation.at(place)) : std::string();
            step.lines.push_back(evaluation.index->name(place) + "  " + rawAt(batch, channel, place) +
                                 (state.empty() ? "" : ", " + state));
        }
        working.steps.push_back(step);
    }
    if (formula.empty()) {
        return;
    }
    WorkingStep step{formula, {}, false};
    for (const Place place : places) {
        const Response& value = evaluation.at(place);
        const std::string state = stateText(batch, evaluation.analyte, place, value);
        step.lines.push_back(evaluation.index->name(place) + "  " +
                             (measuredOf(value) ? responseText(*measuredOf(value)) : "–") +
                             (state.empty() ? "" : ", " + state));
    }
    working.steps.push_back(step);
}

/// The blank of each carrier that the places lie on.
void addBlank(const Batch& batch, const AnalyteEvaluation& evaluation, const std::vector<Place>& places,
              Working& working) {
    if (!batch.method.subtractsBlank) {
        working.steps.push_back({"Blank", {"not subtracted (method)"}, false});
        return;
    }
    for (const auto& [key, blank] : evaluation.blanks) {
        const BlankArea area = key;
        const auto isCorrectedByIt = [&](Place p) { return blankAreaOf(batch.method, evaluation, p) == area; };
        if (std::none_of(places.begin(), places.end(), isCorrectedByIt)) {
            continue;
        }
        std::vector<Place> used;
        for (const Place place : evaluation.index->members({Role::Blank, 0})) {
            const bool isIn = area.line < 0 ? place.carrier == area.carrier : isCorrectedByIt(place);
            if (isIn && evaluation.at(place).state == ResponseState::Used) {
                used.push_back(place);
            }
        }
        if (used.empty()) {
            working.steps.push_back({"Blank", {"none usable, nothing is subtracted"}, false});
            continue;
        }
        WorkingStep step{(used.size() == 1 ? "Blank, " : "Blank, mean of ") + placesText(evaluation, used),
                         {(blank.subtracted < 0 ? "+ " : "\u2212 ") + responseText(std::abs(blank.subtracted))},
                         false};
        if (blank.se) {
            step.lines.back() += " (SE " + formatFigures(*blank.se, 2) + ")";
        }
        working.steps.push_back(step);
    }
}

/// What the responses are in percent of.
void addPercent(const Batch& batch, const AnalyteEvaluation& evaluation, const std::vector<Place>& places,
                Working& working) {
    for (const auto& [carrier, base] : evaluation.percentBases) {
        const int number = carrier;
        if (std::any_of(places.begin(), places.end(), [number](Place p) { return p.carrier == number; })) {
            const bool isZero = analyteOf(batch, evaluation).percentOf == PercentOf::ZeroStandard;
            working.steps.push_back({isZero ? "In percent of the zero standard" : "In percent of the highest standard",
                                     {"× 100 ÷ " + responseText(base.base)},
                                     false});
        }
    }
}

void addResponse(const AnalyteEvaluation& evaluation, const GroupValue& group, Working& working) {
    WorkingStep step{"Response", {}, true};
    std::string line;
    for (const Place place : group.places) {
        const Response& value = evaluation.at(place);
        if (value.state == ResponseState::Used) {
            line += (line.empty() ? "" : " · ") + responseText(*value.value);
        }
    }
    if (line.empty()) {
        return;
    }
    step.lines.push_back(line);
    if (group.response.cvPercent) {
        step.lines.push_back("CV " + formatPercent(*group.response.cvPercent));
    }
    working.steps.push_back(step);
}

/// Whose scatter stands in the share of the readings.
std::string scatterText(const Batch& batch, const AnalyteEvaluation& evaluation) {
    switch (analyteOf(batch, evaluation).scatter) {
    case ScatterFrom::Batch:
        return "readings scatter as the batch's replicates and the curve do";
    case ScatterFrom::Curve:
        return "readings scatter as the curve's standards do";
    case ScatterFrom::Sample:
        return "readings scatter as the sample's own replicates do";
    }
    return {};
}

void addReadOff(const Batch& batch, const SampleResult& result, const AnalyteEvaluation& evaluation, Working& working) {
    if (addAdditionSteps(batch, result, evaluation, working)) {
        return;
    }
    WorkingStep each{modelTitle(analyteOf(batch, evaluation).fit.model) + " solved for concentration",
                     {inverseFormula(analyteOf(batch, evaluation).fit.model)},
                     false};
    working.steps.push_back(each);
    WorkingStep values{"Each replicate", {}, false};
    for (const ReplicateResult& replicate : result.replicates) {
        if (replicate.state != ResponseState::Used) {
            continue;
        }
        const ReadOff& read = replicate.readOff;
        values.lines.push_back(evaluation.index->name(replicate.place) + "  " +
                               (read.status == ReadOffStatus::Ok
                                    ? withUnit(concentrationText(read), analyteOf(batch, evaluation))
                                : read.status == ReadOffStatus::AboveCurve ? "above the curve"
                                : read.status == ReadOffStatus::BelowCurve ? "below the curve"
                                                                           : "not defined"));
    }
    working.steps.push_back(values);
    if (result.readOff.status != ReadOffStatus::Ok) {
        return;
    }
    const ReadOff& read = result.readOff;
    const bool averagesResponses =
        analyteOf(batch, evaluation).average == AverageOf::Responses && result.response.n > 1;
    WorkingStep mean{averagesResponses       ? "Mean response " + responseText(*result.response.mean) + ", read off"
                     : result.response.n > 1 ? "Mean of " + std::to_string(result.response.n)
                                             : "Read off",
                     {withUnit(concentrationText(read), analyteOf(batch, evaluation))},
                     true};
    if (result.concentration.cvPercent) {
        mean.lines.push_back("CV " + formatPercent(*result.concentration.cvPercent));
    }
    working.steps.push_back(mean);
    if (!read.se) {
        working.steps.push_back({"Standard error", {"not defined: there is no scatter to judge by"}, false});
        return;
    }
    working.steps.push_back(
        {"Standard error from",
         {"readings " + formatFigures(read.seResponse, 2) + " · curve " + formatFigures(read.seCurve, 2) +
              (read.seBlank > 0 ? " · blank " + formatFigures(read.seBlank, 2) : ""),
          "together " + formatFigures(*read.se, 2), scatterText(batch, evaluation)},
         false});
    const IntervalMethod method = readOffOptions(batch, evaluation).interval;
    std::string how = method == IntervalMethod::Propagation ? "" : ", " + intervalTitle(method);
    if (method == IntervalMethod::Propagation && read.high && *read.se > 0) {
        how = ", t = " + formatFigures((*read.high - *read.x) / *read.se, 4);
    }
    WorkingStep interval{formatNumber(100 * batch.method.confidence) + " % interval" + how, {}, true};
    interval.lines.push_back(
        read.low && read.high ? withUnit(intervalText(*read.x, *read.low, *read.high), analyteOf(batch, evaluation))
        : read.low ? "from " + withUnit(formatFigures(*read.low, 3), analyteOf(batch, evaluation)) + ", no upper limit"
        : read.high
            ? "up to " + withUnit(formatFigures(*read.high, 3), analyteOf(batch, evaluation)) + ", no lower limit"
            : "no finite limits");
    working.steps.push_back(interval);
}

void addResult(const Batch& batch, const SampleResult& result, const AnalyteEvaluation& evaluation, Working& working) {
    WorkingStep step{
        hasNominal(result.group.role) ? "Recovery" : "Dilution × " + formatNumber(result.dilution), {}, true};
    if (hasNominal(result.group.role)) {
        if (result.recoveryPercent) {
            step.lines = {formatPercent(*result.recoveryPercent) + " of " +
                          withUnit(formatFigures(*result.nominal, 3), analyteOf(batch, evaluation))};
            working.steps.push_back(step);
        }
        return;
    }
    if (result.dilution < 1) {
        step.title += " (pre-concentrated)";
    }
    const bool isGiven = result.result.has_value();
    step.lines.push_back(isGiven ? withUnit(resultText(result, evaluation.range), analyteOf(batch, evaluation))
                                 : resultText(result, evaluation.range));
    if (isGiven && result.low && result.high) {
        step.lines.push_back(intervalText(*result.result, *result.low, *result.high));
    }
    if (result.dilution != 1 && batch.method.dilutionRelativeSe > 0) {
        step.lines.push_back("with ±" + formatFigures(100 * batch.method.dilutionRelativeSe, 2) + " % of the dilution");
    }
    working.steps.push_back(step);
    if (result.status == ResultStatus::BelowRange || result.status == ResultStatus::AboveRange ||
        result.status == ResultStatus::Extrapolated) {
        working.steps.push_back(
            {"Range of the curve",
             {withUnit(formatFigures(*evaluation.range.lloq, 3) + " to " + formatFigures(*evaluation.range.uloq, 3),
                       analyteOf(batch, evaluation))},
             false});
    }
    if (!result.remark.empty()) {
        working.steps.push_back({"Remark", {result.remark}, false});
    }
}

void addStandard(const Batch& batch, const AnalyteEvaluation& evaluation, const GroupValue& group, Working& working) {
    const auto level = std::find_if(evaluation.levels.begin(), evaluation.levels.end(),
                                    [&](const LevelValue& l) { return l.number == group.group.number; });
    if (level == evaluation.levels.end()) {
        return;
    }
    working.steps.push_back(
        {"Nominal concentration",
         {level->x ? withUnit(formatFigures(*level->x, 4), analyteOf(batch, evaluation)) : "not set"},
         false});
    WorkingStep weight{
        "Weight in the fit (mean 1), " + weightingTitle(analyteOf(batch, evaluation).fit.weighting), {}, false};
    WorkingStep back{"Back-calculated", {}, false};
    for (const StandardValue& standard : evaluation.standards) {
        if (standard.level != level->number) {
            continue;
        }
        if (standard.normalisedWeight) {
            weight.lines.push_back(evaluation.index->name(standard.place) + "  " +
                                   formatFigures(*standard.normalisedWeight, 3));
        }
        std::string line = evaluation.index->name(standard.place) + "  ";
        line += standard.backCalculated
                    ? withUnit(formatFigures(*standard.backCalculated, 4), analyteOf(batch, evaluation))
                    : std::string("cannot be read off");
        if (standard.errorPercent) {
            line += ", " + std::string(*standard.errorPercent > 0 ? "+" : "") + formatPercent(*standard.errorPercent);
        }
        if (!standard.isUsed) {
            line += ", not in the fit";
        }
        back.lines.push_back(line);
    }
    if (!weight.lines.empty()) {
        if (evaluation.fit.zeroStandardWeighted && level->x == 0.0) {
            weight.lines.emplace_back("a zero standard gets the weight of the lowest level");
        }
        working.steps.push_back(weight);
    }
    if (evaluation.fit.isUsable()) {
        working.steps.push_back(back);
    }
    if (level->isAnchor) {
        working.steps.push_back({"Anchor", {"It takes part in the fit; no criterion judges it."}, false});
    } else if (level->errorPercent) {
        const std::string limit = level->limitPercent > 0 ? (level->isWithin ? ", within ±" : ", outside ±") +
                                                                formatNumber(level->limitPercent) + " %"
                                                          : std::string();
        working.steps.push_back(
            {"Level, mean of its replicates",
             {std::string(*level->errorPercent > 0 ? "+" : "") + formatPercent(*level->errorPercent) + limit},
             true});
    }
}

void addChecks(const AnalyteEvaluation& evaluation, const std::vector<Place>& places, Assignment group,
               Working& working) {
    for (const CriterionResult& criterion : evaluation.criteria) {
        const bool touches = std::any_of(criterion.places.begin(), criterion.places.end(), [&](Place p) {
            return std::find(places.begin(), places.end(), p) != places.end();
        });
        const bool isItsRecovery = hasNominal(group.role) && criterion.key == recoveryKey(group);
        if (touches || isItsRecovery) {
            working.checks.push_back({criterion.title, criterion.foundText, criterion.outcome});
        }
    }
    const SampleResult* result = evaluation.result(group);
    if (result != nullptr && isOfSample(group.role) && result->status != ResultStatus::NotDefined) {
        const bool inside = result->status == ResultStatus::Reported;
        working.checks.push_back({"Inside range", inside ? "yes" : "no", inside ? Outcome::Pass : Outcome::Review});
    }
}

} // namespace

Working workingOf(const Batch& batch, const AnalyteEvaluation& evaluation, Assignment group) {
    Working working;
    working.title = shortName(batch, group);
    const GroupValue* value = evaluation.group(group);
    if (value == nullptr) {
        return working;
    }
    const std::string full = fullName(batch, group);
    working.subtitle = (full == working.title ? "" : full + " · ") + placeWord(evaluation, value->places) +
                       placesText(evaluation, value->places);
    addRaw(batch, evaluation, value->places, working);
    addRelations(batch, evaluation, value->places, working);
    if (batch.firstReading(evaluation.analyte) == nullptr) {
        return working;
    }
    if (group.role == Role::Blank) {
        WorkingStep step{"Mean of the blanks", {}, true};
        if (value->response.mean && evaluation.blank.description.mean) {
            step.lines.push_back(responseText(*evaluation.blank.description.mean));
        }
        if (evaluation.blank.description.sd) {
            step.lines.push_back("SD " + formatFigures(*evaluation.blank.description.sd, 2));
        }
        working.steps.push_back(step);
        return working;
    }
    addBlank(batch, evaluation, value->places, working);
    addPercent(batch, evaluation, value->places, working);
    addResponse(evaluation, *value, working);
    if (group.role == Role::Standard) {
        addStandard(batch, evaluation, *value, working);
    } else if (!isReadOff(group.role)) {
        // Its response is all there is to say.
    } else if (const SampleResult* result = evaluation.result(group); result != nullptr && evaluation.fit.isUsable()) {
        addReadOff(batch, *result, evaluation, working);
        addResult(batch, *result, evaluation, working);
        addCombined(batch, evaluation, result->group, working);
        addResultSteps(batch, *result, evaluation, working);
    } else {
        working.steps.push_back({"No curve", {evaluation.fit.message}, false});
    }
    addChecks(evaluation, value->places, group, working);
    return working;
}

namespace {

/// Where the value of a channel stands in its file.
void addWhereItStands(const Batch& batch, const std::string& channel, Place place, std::vector<WorkingStep>& steps) {
    const Reading* reading = batch.reading(place.carrier, channel);
    const auto grid = reading == nullptr ? nullptr : reading->payload.grid();
    const ReadingWell* well = grid == nullptr ? nullptr : grid->at(place.row, place.column);
    if (well == nullptr) {
        return;
    }
    WorkingStep file{"Not in the file", {reading->source}, false};
    if (well->line > 0) {
        file.title =
            "In " + reading->source + ", line " + std::to_string(well->line) + ", cell " + std::to_string(well->column);
        file.lines = {well->text.empty() ? "empty" : "\"" + well->text + "\""};
    }
    steps.push_back(file);
}

} // namespace

Working workingOf(const Batch& batch, const AnalyteEvaluation& evaluation, Place place) {
    const Assignment group = batch.at(place);
    Working working = group.role == Role::Empty ? Working{} : workingOf(batch, evaluation, group);
    working.title = placeWord(evaluation, {place}) + evaluation.index->name(place);
    working.subtitle =
        group.role == Role::Empty
            ? "empty"
            : shortName(batch, group) +
                  (fullName(batch, group) == shortName(batch, group) ? "" : ", " + fullName(batch, group));
    std::vector<WorkingStep> files;
    const bool isOverTime = std::holds_alternative<KineticRule>(analyteOf(batch, evaluation).source.rule);
    for (const std::string& channel : isOverTime ? std::vector<std::string>() : batch.channelsOf(evaluation.analyte)) {
        addWhereItStands(batch, channel, place, files);
    }
    working.steps.insert(working.steps.begin(), files.begin(), files.end());
    addQualifierSteps(batch, evaluation, place, working);
    addPeakChecks(batch, evaluation, place, working);
    return working;
}

} // namespace nuvat
