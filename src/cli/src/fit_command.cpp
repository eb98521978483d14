#include "fit_command.h"

#include "calibration_input.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/fit/diagnostics.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace nuvat {

namespace {

constexpr double kAny = std::numeric_limits<double>::max();

/// Responses to read off; those of one sample belong together when an average is asked for.
struct Reads {
    std::vector<double> y;
    std::vector<std::string> sample; ///< same length
};

/// What was asked for.
struct Request {
    Options options;
    FitOptions fit;
    ReadOffOptions readOff;
    double factor = 1;           ///< dilution
    double factorRelativeSe = 0; ///< its relative uncertainty
};

Result<Request> parse(const std::vector<std::string>& arguments) {
    std::set<std::string> names{"--confidence",
                                "--interval",
                                "--read",
                                "--read-file",
                                "--read-sample",
                                "--m",
                                "--band",
                                "--blank-se",
                                "--seed",
                                "--simulations",
                                "--replicates-average",
                                "--factor",
                                "--factor-relative-se"};
    names.insert(inputOptions().begin(), inputOptions().end());
    names.insert(modelOptions().begin(), modelOptions().end());
    const auto options = Options::parse(arguments, names, {"--diagnostics", "--spline-log", "--no-standards"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    Request out{*options, {}, {}, 1, 0};
    const auto fit = readFitOptions(*options);
    const auto confidence = options->number("--confidence", 0.95, 0, 1, false);
    const auto m = options->number("--m", 1, 1, kAny, true);
    const auto blankSe = options->number("--blank-se", 0, 0, kAny, true);
    const auto seed = options->number("--seed", static_cast<double>(out.readOff.seed), 0, 9e15, true);
    const auto simulations = options->number("--simulations", out.readOff.simulations, 100, 1e6, true);
    const auto factor = options->number("--factor", 1, 0, kAny, false);
    const auto relativeSe = options->number("--factor-relative-se", 0, 0, kAny, true);
    const auto interval = choice(*options, "--interval", IntervalMethod::Propagation, &intervalMethodFromName,
                                 "propagation, log-propagation, fieller, inversion, profile, bootstrap");
    const auto average = choice(*options, "--replicates-average", AverageOf::Concentrations, &averageOfFromName,
                                "concentration, response");
    if (!fit) {
        return tl::unexpected(fit.error());
    }
    for (const auto* number : {&confidence, &m, &blankSe, &seed, &simulations, &factor, &relativeSe}) {
        if (!*number) {
            return tl::unexpected(number->error());
        }
    }
    if (!interval || !average) {
        return tl::unexpected(!interval ? interval.error() : average.error());
    }
    out.fit = *fit;
    out.readOff.confidence = *confidence;
    out.readOff.replicates = *m;
    out.readOff.blankSe = *blankSe;
    out.readOff.seed = static_cast<std::uint64_t>(*seed);
    out.readOff.simulations = static_cast<int>(*simulations);
    out.readOff.interval = *interval;
    out.readOff.average = *average;
    out.factor = *factor;
    out.factorRelativeSe = *relativeSe;
    for (const char* list : {"--read", "--band"}) {
        if (const auto numbers = options->numbers(list); !numbers) {
            return tl::unexpected(numbers.error());
        }
    }
    if (!isDefinedFor(*interval, out.fit.model)) {
        return wrongCall("--interval " + std::string(name(*interval)) + " is for the " +
                         (*interval == IntervalMethod::Fieller ? "straight lines." : "models 4pl and 5pl."));
    }
    return out;
}

void writeStandard(ElementWriter& out, const Fit& fit, const std::optional<double>& x, const std::optional<double>& y,
                   const std::optional<double>& weight, bool isUsed) {
    const auto fitted = x ? std::optional(response(fit, *x)) : std::nullopt;
    const auto back = y ? readOffPoint(fit, *y).x : std::nullopt;
    out.begin();
    out.number("x", x);
    out.number("y", y);
    out.number("weight", weight);
    out.flag("used", isUsed);
    out.number("fitted", fitted);
    out.number("residual", fitted && y ? std::optional(*y - *fitted) : std::nullopt);
    out.number("backCalculated", back);
    out.number("errorPercent", back && x && *x != 0 ? std::optional(100 * (*back - *x) / *x) : std::nullopt);
    out.end();
}

/// Every line of the file, one after the other: a million of them never stand in memory as JSON.
void writeStandards(ElementWriter& out, const Fit& fit, const CalibrationInput& input) {
    const auto weights = readingWeights(fit, input.usedX);
    std::size_t used = 0;
    if (input.used.empty()) {
        for (std::size_t i = 0; i < input.usedX.size(); ++i) {
            writeStandard(out, fit, input.usedX[i], input.usedY[i], weights[i], true);
        }
        return;
    }
    for (std::size_t i = 0; i < input.used.size(); ++i) {
        const auto weight = input.used[i] ? weights[used++] : std::nullopt;
        writeStandard(out, fit, input.allX[i], input.allY[i], weight, input.used[i]);
    }
}

/// Mean of the raw weights, the unit in which sse and s are: sse = weightUnit * sum of weight * residual^2.
double weightUnit(const Fit& fit) {
    long double sum = 0;
    for (const double w : fit.weights) {
        sum += w;
    }
    return static_cast<double>(sum / static_cast<long double>(fit.weights.size()));
}

/// The curve is not known beyond its standards.
bool isBeyondStandards(const Fit& fit, double x) {
    return x < fit.lowestX || x > fit.highestX;
}

/// Response, its SE and interval at concentrations that were asked for.
Json bandJson(const Fit& fit, const std::vector<double>& at, double confidence) {
    const double t = fit.df > 0 ? studentFactor(confidence, fit.df) : 0;
    Json out = Json::array();
    for (const double x : at) {
        const double y = response(fit, x);
        const bool isOutside = isBeyondStandards(fit, x);
        if ((isLogistic(fit.model) && x < 0) || (isInterpolation(fit.model) && isOutside) || !std::isfinite(y)) {
            out.push_back({{"x", x}, {"y", nullptr}, {"se", nullptr}, {"low", nullptr}, {"high", nullptr}});
            continue;
        }
        const auto se = fit.df > 0 ? std::optional(responseSe(fit, x)) : std::nullopt;
        out.push_back({{"x", x},
                       {"y", y},
                       {"se", optionalNumber(se)},
                       {"low", optionalNumber(se ? std::optional(y - t * *se) : std::nullopt)},
                       {"high", optionalNumber(se ? std::optional(y + t * *se) : std::nullopt)},
                       {"extrapolated", isOutside}});
    }
    return out;
}

void addEstimates(Json& out, const Fit& fit, double confidence) {
    const std::size_t size = fit.size();
    const bool hasSe = fit.se.size() == size && fit.df > 0;
    const double t = hasSe ? studentFactor(confidence, fit.df) : 0;
    Json interval = Json::object();
    for (std::size_t i = 0; hasSe && i < size; ++i) {
        interval[fit.parameterNames[i]] = {fit.parameters[i] - t * fit.se[i], fit.parameters[i] + t * fit.se[i]};
    }
    out["parameters"] = byParameter(fit, fit.parameters);
    out["se"] = hasSe ? byParameter(fit, fit.se) : Json::object();
    out["interval"] = interval;
    out["covariance"] = hasSe ? Json(matrixRows(fit.covariance)) : Json::array();
    Json held = Json::array();
    if (fit.options.heldA) {
        held.push_back("a");
    }
    if (fit.options.heldD) {
        held.push_back("d");
    }
    out["held"] = held;
}

bool isExtrapolated(const Fit& fit, const ReadOff& read) {
    return read.x && isBeyondStandards(fit, *read.x);
}

Json readOffJson(const Fit& fit, const ReadOff& read, double y, double m) {
    return {{"y", y},
            {"m", m},
            {"x", optionalNumber(read.x)},
            {"se", optionalNumber(read.se)},
            {"low", optionalNumber(read.low)},
            {"high", optionalNumber(read.high)},
            {"status", name(read.status)},
            {"extrapolated", isExtrapolated(fit, read)}};
}

/// Adds the result after dilution where a factor was given.
void addResult(Json& json, const ReadOff& read, const Request& request, double t) {
    if (!request.options.has("--factor") && !request.options.has("--factor-relative-se")) {
        return;
    }
    const ReadOff result = scaled(read, request.factor, request.factorRelativeSe, t);
    json["result"] = {{"factor", request.factor},
                      {"x", optionalNumber(result.x)},
                      {"se", optionalNumber(result.se)},
                      {"low", optionalNumber(result.low)},
                      {"high", optionalNumber(result.high)}};
}

void addReadOffs(Json& json, const Fit& fit, const Reads& reads, const Request& request,
                 std::vector<std::string>& warnings) {
    ReadOffOptions options = request.readOff;
    const double t = fit.df > 0 ? studentFactor(options.confidence, fit.df) : 0;
    options.factor = t;
    if (options.interval == IntervalMethod::Bootstrap && fit.df > 0 && !reads.y.empty()) {
        options.bootstrap = simulateCurves(fit, options);
    }
    Json list = Json::array();
    const std::vector<ReadOff> all = readOffs(fit, reads.y, options);
    for (std::size_t i = 0; i < reads.y.size(); ++i) {
        const ReadOff& read = all[i];
        Json one = readOffJson(fit, read, reads.y[i], options.replicates);
        if (!reads.sample[i].empty()) {
            one["sample"] = reads.sample[i];
        }
        addResult(one, read, request, t);
        list.push_back(std::move(one));
    }
    json["readOffs"] = list;
    const auto beyond = std::count_if(all.begin(), all.end(), [&](const ReadOff& r) { return isExtrapolated(fit, r); });
    if (beyond > 0) {
        warnings.push_back(std::to_string(beyond) + (beyond == 1 ? " read-off lies" : " read-offs lie") +
                           " beyond the standards; nothing is known of the curve there.");
    }
    if (!request.options.has("--replicates-average")) {
        return;
    }
    Json samples = Json::array();
    std::vector<std::string> names;
    for (const std::string& sample : reads.sample) {
        if (std::find(names.begin(), names.end(), sample) != names.end()) {
            continue;
        }
        names.push_back(sample);
        std::vector<double> replicates;
        for (std::size_t i = 0; i < reads.y.size(); ++i) {
            if (reads.sample[i] == sample) {
                replicates.push_back(reads.y[i]);
            }
        }
        double sum = 0;
        for (const double y : replicates) {
            sum += y;
        }
        const ReadOff read = readOffMean(fit, replicates, options);
        const auto count = static_cast<double>(replicates.size());
        Json one = readOffJson(fit, read, sum / count, count);
        one["sample"] = sample;
        one["average"] = name(options.average);
        addResult(one, read, request, t);
        samples.push_back(std::move(one));
    }
    json["samples"] = samples;
}

Result<Reads> responsesToRead(const Options& options) {
    Reads out;
    auto typed = options.numbers("--read");
    if (!typed) {
        return tl::unexpected(typed.error());
    }
    out.y = std::move(*typed);
    out.sample.assign(out.y.size(), "");
    if (!options.has("--read-file")) {
        return out;
    }
    const auto columns = readColumns(options.text("--read-file"), options.texts({{"--y", "y"}, {"--read-sample", ""}}));
    if (!columns) {
        return tl::unexpected(columns.error());
    }
    const auto y = columns->find(options.text("--y", "y"));
    const auto sample = options.has("--read-sample") ? columns->find(options.text("--read-sample"))
                                                     : Result<std::size_t>(std::size_t{0});
    if (!y || !sample) {
        return tl::unexpected(!y ? y.error() : sample.error());
    }
    for (std::size_t row = 0; row < columns->rowCount(); ++row) {
        const auto value = columns->number(row, *y);
        if (!value) {
            return tl::unexpected(value.error());
        }
        out.y.push_back(*value);
        out.sample.emplace_back(options.has("--read-sample") ? columns->cell(row, *sample) : std::string_view());
    }
    return out;
}

Json testJson(const FitTest& test) {
    Json out{{"statistic", test.statistic}};
    if (test.df1 > 0) {
        out["df1"] = test.df1;
    }
    if (test.df2 > 0) {
        out["df2"] = test.df2;
    }
    out["p"] = test.p;
    out["significant"] = test.isSignificant;
    out["sentence"] = test.sentence;
    return out;
}

void writePoints(ElementWriter& out, const Fit& fit, const Diagnostics& d) {
    for (std::size_t i = 0; i < d.points.size(); ++i) {
        out.begin();
        out.number("x", fit.x[i]);
        out.number("y", fit.y[i]);
        out.number("residual", d.points[i].residual);
        out.number("leverage", d.points[i].leverage);
        out.number("standardized", d.points[i].standardized);
        out.number("studentized", d.points[i].studentized);
        out.number("cook", d.points[i].cook);
        out.end();
    }
}

Json diagnosticsJson(const Diagnostics& d, bool hasPoints) {
    const auto orNull = [](const std::optional<FitTest>& test) { return test ? testJson(*test) : Json(nullptr); };
    Json lack = nullptr;
    if (d.lackOfFit) {
        lack = testJson(d.lackOfFit->test);
        lack["sumOfSquares"] = d.lackOfFit->sumOfSquares;
        lack["pureError"] = d.lackOfFit->pureError;
    }
    Json out{{"lackOfFit", lack},
             {"mandel", orNull(d.mandel)},
             {"equalVariances", orNull(d.equalVariances)},
             {"runs", orNull(d.runs)},
             {"press", optionalNumber(d.press)},
             {"durbinWatson", d.durbinWatson},
             {"relativeStandardErrorPercent", optionalNumber(d.relativeStandardErrorPercent)}};
    if (hasPoints) {
        out["points"] = streamedArray("points");
    }
    return out;
}

/// Whether one of the points can be so important that its leverage has to be looked at.
bool canHaveLeverage(const Fit& fit) {
    constexpr std::size_t kMostPoints = 1000;
    return fit.n <= kMostPoints && !isInterpolation(fit.model);
}

/// A point with a leverage above 0.9 fixes the curve nearly alone.
void warnOfLeverage(const Fit& fit, const Diagnostics& d, std::vector<std::string>& warnings) {
    constexpr double kHigh = 0.9;
    for (std::size_t i = 0; i < d.points.size(); ++i) {
        if (d.points[i].leverage > kHigh) {
            warnings.push_back("The standard at " + formatNumber(fit.x[i]) + " (response " + formatNumber(fit.y[i]) +
                               ") has a leverage of " + formatFigures(d.points[i].leverage, 2) +
                               ": it fixes the curve nearly alone.");
        }
    }
}

} // namespace

int fitCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    const auto request = parse(arguments);
    if (!request) {
        return refuse(out, err, request.error());
    }
    const auto input = readCalibration(request->options);
    if (!input) {
        return refuse(out, err, input.error());
    }
    const auto reads = responsesToRead(request->options);
    if (!reads) {
        return refuse(out, err, reads.error());
    }
    const Fit fit = fitCalibration(request->fit, input->data());
    Json json = fitHead(fit);
    if (fit.isUsable()) {
        addEstimates(json, fit, request->readOff.confidence);
    }
    json["n"] = fit.n;
    json["p"] = fit.p;
    std::vector<std::string> warnings = fit.warnings;
    StreamedArrays arrays;
    Diagnostics diagnostics;
    if (fit.isUsable()) {
        json["df"] = fit.df;
        json["sse"] = fit.sse;
        json["s"] = fit.s;
        json["r2"] = optionalNumber(fit.rSquared);
        json["r"] = optionalNumber(fit.r);
        json["aicc"] = optionalNumber(fit.aicc);
        json["weightUnit"] = weightUnit(fit);
        const bool hasStandards = !request->options.has("--no-standards");
        if (hasStandards) {
            json["standards"] = streamedArray("standards");
            arrays["standards"] = [&](ElementWriter& writer) { writeStandards(writer, fit, *input); };
        }
        addReadOffs(json, fit, *reads, *request, warnings);
        if (request->options.has("--band")) {
            json["band"] = bandJson(fit, *request->options.numbers("--band"), request->readOff.confidence);
        }
        const bool isDiagnosed = request->options.has("--diagnostics");
        if (isDiagnosed || canHaveLeverage(fit)) {
            diagnostics = diagnose(fit);
        }
        if (isDiagnosed) {
            json["diagnostics"] = diagnosticsJson(diagnostics, hasStandards);
            arrays["points"] = [&](ElementWriter& writer) { writePoints(writer, fit, diagnostics); };
        }
        if (canHaveLeverage(fit)) {
            warnOfLeverage(fit, diagnostics, warnings);
        }
        if (fit.zeroStandardWeighted) {
            warnings.emplace_back(
                "1/x is not defined for a zero standard: it got the weight of the lowest level above 0.");
        }
    }
    json["warnings"] = warnings;
    printJson(out, json, arrays);
    if (!fit.isUsable()) {
        err << "nuvat-cli: " << fit.message << "\n";
        return 1;
    }
    return 0;
}

} // namespace nuvat
