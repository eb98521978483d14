#include "nuvat/workflow/export.h"

#include "nuvat/batch/result_table.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/replacement_file.h"
#include "nuvat/formats/delimited_table.h"

#include <nlohmann/json.hpp>

namespace nuvat {

namespace {

using Json = nlohmann::ordered_json;

std::string cell(const std::optional<double>& value) {
    return value ? formatNumber(*value) : std::string();
}

std::string wellsText(const Batch& batch, const SampleResult& result) {
    const std::string separator = batch.carriers.size() > 1 ? "; " : " ";
    std::string text;
    for (const ReplicateResult& replicate : result.replicates) {
        text += (text.empty() ? "" : separator) + placeName(batch, replicate.place);
    }
    return text;
}

/// "well", and where there are several carriers "carrier" with its number.
Json placeJson(const Batch& batch, Place place) {
    Json out{{"well", placeNameWithin(batch.carriers, place)}};
    if (batch.carriers.size() > 1) {
        out["carrier"] = place.carrier;
    }
    return out;
}

Json number(const std::optional<double>& value) {
    return value ? Json(*value) : Json(nullptr);
}

std::string stateName(ResponseState state) {
    switch (state) {
    case ResponseState::Used:
        return "used";
    case ResponseState::Excluded:
        return "excluded";
    case ResponseState::SetAside:
        return "set-aside";
    case ResponseState::Unusable:
        return "unusable";
    case ResponseState::NotRead:
        return "not-read";
    case ResponseState::NotFound:
        return "not-found";
    case ResponseState::Empty:
        return "empty";
    }
    return {};
}

Json fitJson(const Fit& fit) {
    Json out;
    out["model"] = name(fit.model);
    out["weight"] = name(fit.weighting);
    out["weightFrom"] = name(fit.options.weightFrom);
    out["fitTo"] = name(fit.options.fitTo);
    out["status"] = name(fit.status);
    out["message"] = fit.message;
    out["parameterOrder"] = fit.parameterNames;
    Json parameters = Json::object();
    Json se = Json::object();
    for (std::size_t i = 0; i < fit.parameters.size(); ++i) {
        parameters[fit.parameterNames[i]] = fit.parameters[i];
        if (i < fit.se.size()) {
            se[fit.parameterNames[i]] = fit.se[i];
        }
    }
    out["parameters"] = parameters;
    out["se"] = se;
    out["covariance"] = matrixRows(fit.covariance);
    out["n"] = fit.n;
    out["p"] = fit.p;
    if (fit.isUsable()) {
        out["df"] = fit.df;
        out["sse"] = fit.sse;
        out["s"] = fit.s;
        out["r2"] = number(fit.rSquared);
        out["r"] = number(fit.r);
        out["aicc"] = number(fit.aicc);
    }
    out["warnings"] = fit.warnings;
    return out;
}

Json readOffJson(const ReadOff& read) {
    return {{"status", name(read.status)},
            {"x", number(read.x)},
            {"se", number(read.se)},
            {"low", number(read.low)},
            {"high", number(read.high)}};
}

/// Where the peak of a place was looked for and found, and what was measured of it; nothing where the response is of no
/// peak.
void addPeak(const AnalyteEvaluation& evaluation, Place place, Json& out) {
    if (const Response& response = evaluation.at(place); response.window) {
        out["window"] = {response.window->from, response.window->to};
        out["isNearEdge"] = response.isNearEdge;
    }
    if (const auto found = evaluation.peaks.find(place); found != evaluation.peaks.end()) {
        const Peak& peak = found->second;
        out["peak"] = {{"apex", peak.apex},
                       {"start", peak.start},
                       {"end", peak.end},
                       {"height", peak.height},
                       {"area", peak.area},
                       {"tailing5", number(peak.tailing5)},
                       {"platesHalf", number(peak.platesHalf)},
                       {"resolutionHalf", number(peak.resolutionHalf)}};
    }
}

Json ofControlJson(const PercentOfControl& found) {
    const auto limits = found.fiellerLimits;
    return {{"percent", found.percent},
            {"inhibition", 100 - found.percent},
            {"se", found.se},
            {"low", number(limits ? std::optional(limits->first) : std::nullopt)},
            {"high", number(limits ? std::optional(limits->second) : std::nullopt)}};
}

Json derivedJson(const Analyte& analyte, const SampleResult& r) {
    Json out = Json::array();
    for (std::size_t i = 0; i < r.derived.size(); ++i) {
        out.push_back({{"name", analyte.derived[i].name},
                       {"unit", analyte.derived[i].unit},
                       {"value", number(r.derived[i].value)},
                       {"low", number(r.derived[i].low)},
                       {"high", number(r.derived[i].high)}});
    }
    return out;
}

/// Internal standard and qualifiers of one run, where the analyte has any.
void addConfirmation(const Batch& batch, const AnalyteEvaluation& evaluation, Place place, Json& out) {
    if (internalOf(batch.method, evaluation.analyte) != 0) {
        const Response& response = evaluation.at(place);
        out["own"] = number(response.own);
        out["internalStandard"] = number(response.internal);
        out["internalStandardPercent"] = number(internalPercent(evaluation, place));
    }
    for (const QualifierValue& qualifier : evaluation.qualifiers) {
        const auto found = qualifier.ratios.find(place);
        out["qualifiers"].push_back(found == qualifier.ratios.end()
                                        ? Json(nullptr)
                                        : Json{{"ratioPercent", found->second.percent},
                                               {"within", qualifier.window ? Json(found->second.isWithin) : Json()}});
    }
}

Json resultJson(const Batch& batch, const AnalyteEvaluation& evaluation, const SampleResult& r) {
    Json replicates = Json::array();
    for (const ReplicateResult& replicate : r.replicates) {
        Json one = placeJson(batch, replicate.place);
        one["state"] = stateName(replicate.state);
        one["response"] = number(replicate.response);
        one["readOff"] = readOffJson(replicate.readOff);
        addPeak(evaluation, replicate.place, one);
        addConfirmation(batch, evaluation, replicate.place, one);
        replicates.push_back(std::move(one));
    }
    Json out{{"place", shortName(batch, r.group)},
             {"sample", fullName(batch, r.group)},
             {"role", name(r.group.role)},
             {"response", number(r.response.mean)},
             {"readOff", readOffJson(r.readOff)},
             {"sd", number(r.concentration.sd)},
             {"cv", number(r.concentration.cvPercent)},
             {"dilution", r.dilution},
             {"status", name(r.status)},
             {"result", number(r.result)},
             {"low", number(r.low)},
             {"high", number(r.high)},
             {"nominal", number(r.nominal)},
             {"recovery", number(r.recoveryPercent)},
             {"scatter", r.scatter ? Json{{"p", r.scatter->p},
                                          {"status", r.scatter->needsReview ? "review" : "ok"},
                                          {"low", number(r.scatter->low)},
                                          {"high", number(r.scatter->high)}}
                                   : Json(nullptr)},
             {"needsReview", r.needsReview},
             {"remark", r.remark},
             {"derived", derivedJson(analyteOf(batch, evaluation), r)},
             {"replicates", replicates}};
    if (r.ofControl) {
        out["ofControl"] = ofControlJson(*r.ofControl);
    }
    return out;
}

} // namespace

std::string resultsCsv(const Batch& batch, const Evaluation& evaluation) {
    std::string out;
    const bool hasSeveral = evaluation.analytes.size() > 1;
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        if (analyte.isOnlyInternal) {
            continue;
        }
        if (hasSeveral) { // each analyte has its own unit, so each has its own table
            out += (out.empty() ? "" : "\n") + csvCell(curveName(batch, analyte)) + "\n";
        }
        out += resultsCsv(batch, analyte);
    }
    return out;
}

namespace {

std::string csvOf(const std::vector<ResultColumn>& columns, const SampleResult* result) {
    std::string out;
    for (const ResultColumn& column : columns) {
        out += ",";
        if (result == nullptr) {
            out += csvCell(column.title);
        } else {
            const ResultCell made = column.cell(*result);
            out += column.isNumber ? cell(made.number) : csvCell(made.text);
        }
    }
    return out;
}

/// The columns that the method chooses, each number in full.
std::string chosenCsv(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const auto columns = resultColumns(batch, evaluation);
    std::string out = csvOf(columns, nullptr).substr(1) + "\n";
    for (const SampleResult& r : evaluation.results) {
        out += csvOf(columns, &r).substr(1) + "\n";
    }
    return out;
}

} // namespace

std::string resultsCsv(const Batch& batch, const AnalyteEvaluation& evaluation) {
    if (!batch.method.resultColumns.empty() && !resultColumns(batch, evaluation).empty()) {
        return chosenCsv(batch, evaluation);
    }
    const auto added = addedResultColumns(batch, evaluation);
    const Analyte& analyte = analyteOf(batch, evaluation);
    const std::string unit = analyte.unit.empty() ? "" : " (" + analyte.unit + ")";
    const std::string percent = formatNumber(100 * batch.method.confidence) + " %";
    std::string out = "place,sample,role,wells,used replicates,response," + csvCell("read-off" + unit) + "," +
                      csvCell("read-off SD" + unit) + ",CV (%),dilution factor," + csvCell("result" + unit) + "," +
                      csvCell(percent + " low" + unit) + "," + csvCell(percent + " high" + unit) +
                      ",recovery (%),status,review,remark" + csvOf(added, nullptr) + "\n";
    for (const SampleResult& r : evaluation.results) {
        out += csvCell(shortName(batch, r.group)) + "," + csvCell(fullName(batch, r.group)) + "," +
               std::string(name(r.group.role)) + "," + wellsText(batch, r) + "," + std::to_string(r.response.n) + "," +
               cell(r.response.mean) + "," + cell(r.readOff.x) + "," + cell(r.concentration.sd) + "," +
               cell(r.concentration.cvPercent) + "," + formatNumber(r.dilution) + "," + cell(r.result) + "," +
               cell(r.low) + "," + cell(r.high) + "," + cell(r.recoveryPercent) + "," + std::string(name(r.status)) +
               "," + (r.needsReview ? "yes" : "no") + "," + csvCell(r.remark) + csvOf(added, &r) + "\n";
    }
    return out;
}

namespace {

/// Unknowns of several dilutions taken together.
Json combinedJson(const Batch& batch, const AnalyteEvaluation& evaluation) {
    Json out = Json::array();
    for (const CombinedSample& sample : evaluation.combined) {
        Json dilutions = Json::array();
        for (std::size_t i = 0; i < sample.dilutions.size(); ++i) {
            dilutions.push_back(
                {{"place", shortName(batch, sample.dilutions[i])},
                 {"dilution", batch.dilution(sample.dilutions[i])},
                 {"result", sample.found.timesFactor[i]},
                 {"reported", std::ranges::find(sample.found.reported, i) != sample.found.reported.end()}});
        }
        out.push_back({{"sample", fullName(batch, {Role::Unknown, sample.sample})},
                       {"place", shortName(batch, {Role::Unknown, sample.sample})},
                       {"dilutions", std::move(dilutions)},
                       {"agree", sample.found.agree},
                       {"value", number(sample.value)},
                       {"se", number(sample.se)},
                       {"low", number(sample.low)},
                       {"high", number(sample.high)},
                       {"slope", number(sample.found.slope)},
                       {"chiSquared", number(sample.found.chiSquared)},
                       {"p", number(sample.found.p)},
                       {"warnings", sample.found.warnings}});
    }
    return out;
}

/// Decision limits with the classes, how many samples are in each, and each sample's.
Json decisionsJson(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const DecisionRule& rule = analyteOf(batch, evaluation).decisions;
    if (rule.limits.empty()) {
        return nullptr;
    }
    const auto counts = countClasses(rule, evaluation.decisions);
    Json classes = Json::array();
    for (std::size_t i = 0; i <= rule.limits.size(); ++i) {
        classes.push_back({{"name", className(rule, i)}, {"count", counts[i]}});
    }
    Json samples = Json::array();
    for (const SampleDecision& one : evaluation.decisions) {
        samples.push_back({{"place", shortName(batch, {Role::Unknown, one.sample})},
                           {"value", number(one.value)},
                           {"decided", one.isDecided()},
                           {"lowest", className(rule, one.lowest)},
                           {"highest", className(rule, one.highest)},
                           {"probabilityAbove", one.probabilityAbove}});
    }
    return {{"by", name(rule.by)},
            {"limits", rule.limits},
            {"classes", std::move(classes)},
            {"notDecided", counts.back()},
            {"samples", std::move(samples)}};
}

Json criteriaJson(const Batch& batch, const std::vector<CriterionResult>& list) {
    Json out = Json::array();
    for (const CriterionResult& c : list) {
        Json wells = Json::array();
        for (const Place place : c.places) {
            wells.push_back(placeName(batch, place));
        }
        out.push_back({{"key", c.key},
                       {"title", c.title},
                       {"limit", c.limitText},
                       {"found", c.foundText},
                       {"outcome", name(c.outcome)},
                       {"overridden", c.isOverridden() ? Json(c.overrideReason) : Json(nullptr)},
                       {"where", c.where},
                       {"wells", wells}});
    }
    return out;
}

Json analyteJson(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const Analyte& analyte = analyteOf(batch, evaluation);
    Json out;
    out["analyte"] = analyte.name;
    if (evaluation.carrier != 0) {
        out["carrier"] = evaluation.carrier;
    }
    if (evaluation.bracket != 0) {
        out["bracket"] = evaluation.bracket;
    }
    out["unit"] = analyte.unit;
    out["blank"] = {{"n", evaluation.blank.description.n},
                    {"mean", number(evaluation.blank.description.mean)},
                    {"sd", number(evaluation.blank.description.sd)},
                    {"subtracted", evaluation.blank.subtracted},
                    {"se", number(evaluation.blank.se)}};
    out["pooledCv"] = number(evaluation.pooledCvPercent);
    out["fit"] = fitJson(evaluation.fit);
    Json standards = Json::array();
    for (const StandardValue& s : evaluation.standards) {
        Json one{{"level", "S" + std::to_string(s.level)}};
        one.update(placeJson(batch, s.place));
        one["x"] = s.x;
        one["y"] = s.y;
        one["used"] = s.isUsed;
        one["weight"] = number(s.normalisedWeight);
        one["fitted"] = number(s.fitted);
        one["residual"] = number(s.fitted ? std::optional(s.y - *s.fitted) : std::nullopt);
        one["backCalculated"] = number(s.backCalculated);
        one["errorPercent"] = number(s.errorPercent);
        addPeak(evaluation, s.place, one);
        standards.push_back(std::move(one));
    }
    out["standards"] = standards;
    out["range"] = {{"by", name(analyte.range.by)},
                    {"lloq", number(evaluation.range.lloq)},
                    {"uloq", number(evaluation.range.uloq)}};
    Json results = Json::array();
    for (const SampleResult& r : evaluation.results) {
        results.push_back(resultJson(batch, evaluation, r));
    }
    out["results"] = results;
    out["combined"] = combinedJson(batch, evaluation);
    out["decisions"] = decisionsJson(batch, evaluation);
    out["criteria"] = criteriaJson(batch, evaluation.criteria);
    out["verdict"] = name(evaluation.verdict);
    Json problems = Json::array();
    for (const Problem& problem : evaluation.problems) {
        problems.push_back(problem.message);
    }
    out["problems"] = problems;
    return out;
}

} // namespace

std::string evaluationJson(const Batch& batch, const Evaluation& evaluation) {
    Json out;
    out["batch"] = {{"uid", batch.info.uid}, {"title", batch.info.title}, {"laboratory", batch.info.laboratory}};
    out["method"] = {{"title", batch.method.title},
                     {"revision", batch.method.revision},
                     {"confidence", batch.method.confidence},
                     {"subtractsBlank", batch.method.subtractsBlank},
                     {"criteria", batch.method.criteriaName}};
    Json analytes = Json::array();
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        analytes.push_back(analyteJson(batch, analyte));
    }
    if (analytes.size() ==
        1) { // a batch of one analyte has its keys at the top as well, as it had from the first version
        out["method"]["analyte"] = analytes[0]["analyte"];
        out["method"]["unit"] = analytes[0]["unit"];
        for (const char* key :
             {"blank", "fit", "standards", "range", "results", "combined", "decisions", "criteria", "problems"}) {
            out[key] = analytes[0][key];
        }
    }
    out["analytes"] = analytes;
    out["batchCriteria"] = criteriaJson(batch, evaluation.criteria);
    out["verdict"] = name(evaluation.verdict);
    return out.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<void> writeText(const std::filesystem::path& path, const std::string& text) {
    if (auto written = replaceFile(path, text); !written) {
        return fail("export.cannot-write", written.error().message, written.error().advice);
    }
    return {};
}

} // namespace nuvat
