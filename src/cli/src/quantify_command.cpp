#include "quantify_command.h"

#include "calibration_input.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/batch/internal_standard.h"
#include "nuvat/core/stats/reference_window.h"
#include "nuvat/workflow/peak_table.h"
#include "peak_rows.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace nuvat {

namespace {

constexpr double kAny = std::numeric_limits<double>::max();

/// All that was asked for.
struct Request {
    PeakTableRules rules;
    std::optional<double> timeBand, relativeTimeBand; ///< percent
    double carryOver = 20;                            ///< percent of the mean of the lowest level
    std::map<std::string, double> expected;           ///< times, by analyte
};

Result<Request> requestOf(const Options& options) {
    Request out;
    const auto fit = readFitOptions(options);
    if (!fit) {
        return tl::unexpected(fit.error());
    }
    out.rules.fit = *fit;
    const std::string response = options.text("--response", "ratio");
    if (response != "ratio" && response != "ratio-by-concentration" && response != "area") {
        return wrongCall("--response takes ratio, ratio-by-concentration or area, not \"" + response + "\".");
    }
    out.rules.response = response == "ratio"  ? PeakResponse::Ratio
                         : response == "area" ? PeakResponse::Area
                                              : PeakResponse::RatioByConcentration;
    if (options.has("--ratio-relative") && options.has("--ratio-absolute")) {
        return wrongCall("Either --ratio-relative or --ratio-absolute.");
    }
    const bool isAbsolute = options.has("--ratio-absolute");
    out.rules.qualifier.toleranceOf = isAbsolute ? ToleranceOf::Absolute : ToleranceOf::Relative;
    const auto tolerance = options.number(isAbsolute ? "--ratio-absolute" : "--ratio-relative", 30, 0, kAny, true);
    const auto band = options.number("--time-band", 0, 0, kAny, true);
    const auto relative = options.number("--relative-time-band", 0, 0, kAny, true);
    const auto carryOver = options.number("--carry-over", out.carryOver, 0, kAny, false);
    const auto expected = options.named("--expected");
    for (const auto* number : {&tolerance, &band, &relative, &carryOver}) {
        if (!*number) {
            return tl::unexpected(number->error());
        }
    }
    if (!expected) {
        return tl::unexpected(expected.error());
    }
    out.rules.qualifier.tolerance = *tolerance;
    out.timeBand = options.has("--time-band") ? std::optional(*band) : std::nullopt;
    out.relativeTimeBand = options.has("--relative-time-band") ? std::optional(*relative) : std::nullopt;
    out.carryOver = *carryOver;
    out.expected.insert(expected->begin(), expected->end());
    return out;
}

Json describeJson(const Description& values) {
    return {{"n", values.n},
            {"mean", optionalNumber(values.mean)},
            {"sd", optionalNumber(values.sd)},
            {"rsdPercent", optionalNumber(values.cvPercent)}};
}

Json windowJson(const std::optional<ReferenceWindow>& window) {
    return window ? Json{{"reference", window->reference}, {"low", window->low}, {"high", window->high}} : Json();
}

Json verdictJson(const std::optional<ReferenceWindow>& window, const std::optional<double>& value) {
    return window && value ? Json(window->holds(*value) ? "pass" : "fail") : Json();
}

/// What is said of one analyte of the table.
class AnalyteReport {
public:
    AnalyteReport(const std::vector<PeakRow>& rows, const PeakTableBatch& made, const Request& request,
                  const AnalyteEvaluation& evaluation)
        : m_rows(rows), m_made(made), m_request(request), m_evaluation(evaluation) {
        for (std::size_t i = 0; i < rows.size(); ++i) {
            if (made.rows[i].analyte == evaluation.analyte) {
                m_own.push_back(i);
            }
        }
        m_timeWindow = timeWindow();
        m_relativeWindow = relativeTimeWindow();
    }
    bool isEmpty() const { return m_own.empty(); }

    Json json() const {
        const QualifierValue* qualifier = m_evaluation.qualifiers.empty() ? nullptr : &m_evaluation.qualifiers.front();
        const int internal = internalOf(m_made.batch.method, m_evaluation.analyte);
        return {{"analyte", analyteOf(m_made.batch, m_evaluation).name},
                {"internalStandard", internal == 0 ? Json() : Json(m_made.batch.method.analyte(internal).name)},
                {"fit", fitJson()},
                {"levels", levelsJson()},
                {"ionRatio", qualifier ? Json{{"window", windowJson(qualifier->window)},
                                              {"ofStandards", describeJson(qualifier->ofStandards)}}
                                       : Json()},
                {"timeWindow", windowJson(m_timeWindow)},
                {"relativeTimeWindow", windowJson(m_relativeWindow)},
                {"internalMedian", optionalNumber(m_evaluation.internalMedian)},
                {"results", resultsJson()},
                {"samples", samplesJson()},
                {"carryOver", carryOverJson()}};
    }

private:
    const PeakRow& row(std::size_t index) const { return m_rows[m_own[index]]; }
    Place place(std::size_t index) const { return m_made.rows[m_own[index]].place; }

    std::optional<ReferenceWindow> timeWindow() const {
        const std::string& name = analyteOf(m_made.batch, m_evaluation).name;
        const auto typed = m_request.expected.find(name);
        const auto expected = typed != m_request.expected.end() ? std::optional(typed->second)
                                                                : ofStandards([](const PeakRow& r) { return r.time; });
        return expected && m_request.timeBand
                   ? std::optional(windowAround(*expected, *m_request.timeBand, ToleranceOf::Relative))
                   : std::nullopt;
    }
    std::optional<ReferenceWindow> relativeTimeWindow() const {
        const auto reference = ofStandards(relativeTime);
        return reference && m_request.relativeTimeBand
                   ? std::optional(windowAround(*reference, *m_request.relativeTimeBand, ToleranceOf::Relative))
                   : std::nullopt;
    }
    static std::optional<double> relativeTime(const PeakRow& r) {
        return r.time && r.internalTime && *r.internalTime != 0 ? std::optional(*r.time / *r.internalTime)
                                                                : std::nullopt;
    }
    template<class Of> std::optional<double> ofStandards(Of of) const {
        std::vector<double> values;
        for (const std::size_t index : m_own) {
            const auto value = of(m_rows[index]);
            if (m_rows[index].role == Role::Standard && value) {
                values.push_back(*value);
            }
        }
        return describe(values).mean;
    }

    Json fitJson() const {
        const Fit& fit = m_evaluation.fit;
        Json out = fitHead(fit);
        if (!fit.isUsable()) {
            return out;
        }
        out["parameters"] = byParameter(fit, fit.parameters);
        out["se"] = fit.df > 0 ? byParameter(fit, fit.se) : Json::object();
        out["covariance"] = fit.df > 0 ? Json(matrixRows(fit.covariance)) : Json::array();
        out["n"] = fit.n;
        out["df"] = fit.df;
        out["s"] = fit.s;
        out["r2"] = optionalNumber(fit.rSquared);
        return out;
    }

    /// Of the used standards of a level.
    template<class Of> Description ofLevel(int number, Of of) const {
        std::vector<double> values;
        for (const StandardValue& standard : m_evaluation.standards) {
            const std::optional<double> value =
                standard.level == number && standard.isUsed ? of(standard) : std::nullopt;
            if (value) {
                values.push_back(*value);
            }
        }
        return describe(values);
    }

    /// What was measured of a standard, before it was divided by the internal standard.
    auto areaOf() const {
        return [this](const StandardValue& s) { return measuredOf(m_evaluation.at(s.place)); };
    }

    Json levelsJson() const {
        Json out = Json::array();
        for (const LevelValue& level : m_evaluation.levels) {
            const auto factor = [](const StandardValue& s) {
                return s.x != 0 ? std::optional(s.y / s.x) : std::nullopt;
            };
            const auto back = [](const StandardValue& s) {
                return s.backCalculated && s.x != 0 ? std::optional(100 * *s.backCalculated / s.x) : std::nullopt;
            };
            out.push_back({{"level", level.number},
                           {"nominal", optionalNumber(level.x)},
                           {"area", describeJson(ofLevel(level.number, areaOf()))},
                           {"response", describeJson(level.response)},
                           {"responseFactor", optionalNumber(ofLevel(level.number, factor).mean)},
                           {"backCalculatedPercent", optionalNumber(ofLevel(level.number, back).mean)}});
        }
        return out;
    }

    /// What is read off in one run, as it is before and after dilution.
    std::optional<double> readAt(Place at, bool isDiluted) const {
        for (const SampleResult& result : m_evaluation.results) {
            for (const ReplicateResult& replicate : result.replicates) {
                if (replicate.place == at && replicate.readOff.x) {
                    return *replicate.readOff.x * (isDiluted ? result.factor() : result.internalShare);
                }
            }
        }
        const auto& value = m_evaluation.at(at).value;
        const auto x = value && m_evaluation.fit.isUsable() ? readOffPoint(m_evaluation.fit, *value).x : std::nullopt;
        return x ? std::optional(*x * internalShare(m_made.batch, m_evaluation.analyte, at)) : std::nullopt;
    }
    std::string remarkOf(const PeakRow& one, Place at, const Json& relative) const {
        if (!one.area) {
            return "not detected";
        }
        if (m_evaluation.at(at).state != ResponseState::Used) {
            return m_evaluation.at(at).why;
        }
        std::vector<double> levels;
        for (const LevelValue& level : m_evaluation.levels) {
            if (level.x) {
                levels.push_back(*level.x);
            }
        }
        const auto read = readAt(at, false);
        std::string out;
        const auto add = [&](const std::string& what) { out += (out.empty() ? "" : "; ") + what; };
        if (read && !levels.empty() && one.role != Role::Standard) {
            const auto [low, high] = std::ranges::minmax_element(levels);
            *read<*low ? add("below") : *read>* high ? add("above") : void();
        }
        if (relative == "fail") {
            add("relative retention fails");
        }
        return out;
    }

    Json resultsJson() const {
        Json out = Json::array();
        for (std::size_t i = 0; i < m_own.size(); ++i) {
            const PeakRow& one = row(i);
            const Place at = place(i);
            const Response& response = m_evaluation.at(at);
            const auto read = readAt(at, false);
            const auto ratio = ratioAt(at);
            const auto relative = relativeTime(one);
            const Json ratioVerdict =
                m_evaluation.qualifiers.empty() ? Json() : verdictJson(m_evaluation.qualifiers.front().window, ratio);
            const Json timeVerdict = verdictJson(m_timeWindow, one.time);
            const Json relativeVerdict = verdictJson(m_relativeWindow, relative);
            const bool hasNominalHere = one.nominal && *one.nominal != 0;
            out.push_back(
                {{"injection", one.injection},
                 {"name", one.name},
                 {"role", name(one.role)},
                 {"response", optionalNumber(response.raw)},
                 {"readOff", optionalNumber(read)},
                 {"concentration", optionalNumber(readAt(at, true))},
                 {"accuracyPercent",
                  optionalNumber(read && hasNominalHere ? std::optional(100 * *read / *one.nominal) : std::nullopt)},
                 {"internalStandardPercent", optionalNumber(internalPercent(m_evaluation, at))},
                 {"ionRatioPercent", optionalNumber(ratio)},
                 {"ionRatio", ratioVerdict},
                 {"timeDeviationPercent",
                  optionalNumber(m_timeWindow && one.time ? std::optional(100 * (*one.time - m_timeWindow->reference) /
                                                                          m_timeWindow->reference)
                                                          : std::nullopt)},
                 {"time", timeVerdict},
                 {"relativeTime", optionalNumber(relative)},
                 {"relativeTimeVerdict", relativeVerdict},
                 {"remark", remarkOf(one, at, relativeVerdict)}});
        }
        return out;
    }

    std::optional<double> ratioAt(Place at) const {
        if (m_evaluation.qualifiers.empty()) {
            return std::nullopt;
        }
        const auto& ratios = m_evaluation.qualifiers.front().ratios;
        const auto found = ratios.find(at);
        return found == ratios.end() ? std::nullopt : std::optional(found->second.percent);
    }

    Json samplesJson() const {
        Json out = Json::array();
        for (const SampleResult& result : m_evaluation.results) {
            std::vector<double> values;
            for (const ReplicateResult& replicate : result.replicates) {
                if (replicate.readOff.x && replicate.state == ResponseState::Used) {
                    values.push_back(*replicate.readOff.x * result.factor());
                }
            }
            Json one = describeJson(describe(values));
            one["name"] = fullName(m_made.batch, result.group);
            one["role"] = name(result.group.role);
            one["status"] = name(result.status);
            out.push_back(std::move(one));
        }
        return out;
    }

    /// The first blank after a standard of the highest level, against that standard and the mean of the lowest level.
    Json carryOverJson() const {
        const LevelValue *lowest = nullptr, *highest = nullptr;
        for (const LevelValue& level : m_evaluation.levels) {
            lowest = level.x && *level.x > 0 && (!lowest || *level.x < *lowest->x) ? &level : lowest;
            highest = level.x && (!highest || *level.x > *highest->x) ? &level : highest;
        }
        std::vector<std::size_t> order = m_own;
        std::ranges::stable_sort(order, {}, [&](std::size_t index) { return m_made.rows[index].place; });
        for (std::size_t i = 1; lowest && i < order.size(); ++i) {
            const PeakRow &before = m_rows[order[i - 1]], &blank = m_rows[order[i]];
            const Assignment group = m_made.batch.at(m_made.rows[order[i - 1]].place);
            if (blank.role != Role::Blank || group != Assignment{Role::Standard, highest->number} || !before.area) {
                continue;
            }
            const auto mean = ofLevel(lowest->number, areaOf()).mean;
            const double area = blank.area.value_or(0);
            const auto share = mean && *mean != 0 ? std::optional(100 * area / *mean) : std::nullopt;
            return {{"blank", blank.name},
                    {"area", optionalNumber(blank.area)},
                    {"percentOfHighest", 100 * area / *before.area},
                    {"percentOfLowest", optionalNumber(share)},
                    {"verdict", share ? Json(*share <= m_request.carryOver ? "pass" : "fail") : Json()}};
        }
        return nullptr;
    }

    const std::vector<PeakRow>& m_rows;
    const PeakTableBatch& m_made;
    const Request& m_request;
    const AnalyteEvaluation& m_evaluation;
    std::vector<std::size_t> m_own; ///< rows of the analyte
    std::optional<ReferenceWindow> m_timeWindow, m_relativeWindow;
};

Result<Json> quantify(const std::vector<std::string>& arguments) {
    std::set<std::string> names{"--in",        "--response",           "--ratio-relative", "--ratio-absolute",
                                "--time-band", "--relative-time-band", "--carry-over",     "--expected"};
    names.insert(modelOptions().begin(), modelOptions().end());
    for (const auto& [option, usual] : peakColumnOptions()) {
        names.insert(option);
    }
    const auto options = Options::parse(arguments, names, {"--spline-log"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    if (!options->has("--in")) {
        return wrongCall("quantify needs --in and a file.");
    }
    const auto request = requestOf(*options);
    if (!request) {
        return tl::unexpected(request.error());
    }
    const auto rows = readPeakRows(*options);
    if (!rows) {
        return tl::unexpected(rows.error());
    }
    const auto made = batchOfPeaks(*rows, request->rules);
    if (!made) {
        return tl::unexpected(made.error());
    }
    const Evaluation evaluation = evaluate(made->batch);
    Json list = Json::array();
    for (const AnalyteEvaluation& one : evaluation.analytes) {
        if (const AnalyteReport report(*rows, *made, *request, one); !report.isEmpty()) {
            list.push_back(report.json());
        }
    }
    return Json{{"analytes", std::move(list)}};
}

} // namespace

int quantifyCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    return printAnswer(out, err, quantify(arguments));
}

} // namespace nuvat
