#include "fit_command.h"

#include "calibration_input.h"

#include "nuvat/core/base/well.h"
#include "nuvat/core/fit/diagnostics.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/stats/distributions.h"

#include <algorithm>
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
    std::set<std::string> names{
        "--confidence", "--interval", "--read",        "--read-file",          "--read-sample", "--m",
        "--blank-se",   "--seed",     "--simulations", "--replicates-average", "--factor",      "--factor-relative-se"};
    names.insert(inputOptions().begin(), inputOptions().end());
    names.insert(modelOptions().begin(), modelOptions().end());
    const auto options = Options::parse(arguments, names, {"--diagnostics", "--spline-log"});
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
    if (const auto read = options->numbers("--read"); !read) {
        return tl::unexpected(read.error());
    }
    if (!isDefinedFor(*interval, out.fit.model)) {
        return wrongCall("--interval " + std::string(name(*interval)) + " is for the " +
                         (*interval == IntervalMethod::Fieller ? "straight lines." : "models 4pl and 5pl."));
    }
    return out;
}

Json standardsJson(const Fit& fit, const CalibrationInput& input) {
    Json out = Json::array();
    const auto weights = weightsOfReadings(fit, input.usedX);
    std::size_t used = 0;
    for (std::size_t i = 0; i < input.x.size(); ++i) {
        const double fitted = response(fit, input.x[i]);
        const ReadOff back = readOffPoint(fit, input.y[i]);
        Json one{{"x", input.x[i]}, {"y", input.y[i]}};
        one["weight"] = input.used[i] ? optionalNumber(weights[used++]) : Json(nullptr);
        one["used"] = static_cast<bool>(input.used[i]);
        one["fitted"] = fitted;
        one["residual"] = input.y[i] - fitted;
        one["backCalculated"] = optionalNumber(back.x);
        one["errorPercent"] =
            back.x && input.x[i] != 0 ? Json(100 * (*back.x - input.x[i]) / input.x[i]) : Json(nullptr);
        out.push_back(std::move(one));
    }
    return out;
}

void addEstimates(Json& out, const Fit& fit, double confidence) {
    const std::size_t size = fit.size();
    const bool hasSe = fit.se.size() == size && fit.df > 0;
    const double t = hasSe ? studentFactor(confidence, fit.df) : 0;
    Json parameters = Json::object();
    Json se = Json::object();
    Json interval = Json::object();
    for (std::size_t i = 0; i < size; ++i) {
        const std::string& name = fit.parameterNames[i];
        parameters[name] = fit.parameters[i];
        if (!hasSe) {
            continue;
        }
        se[name] = fit.se[i];
        interval[name] = {fit.parameters[i] - t * fit.se[i], fit.parameters[i] + t * fit.se[i]};
    }
    out["parameters"] = parameters;
    out["se"] = se;
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

Json readOffJson(const ReadOff& read, double y, double m) {
    return {{"y", y},
            {"m", m},
            {"x", optionalNumber(read.x)},
            {"se", optionalNumber(read.se)},
            {"low", optionalNumber(read.low)},
            {"high", optionalNumber(read.high)},
            {"status", name(read.status)}};
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

void addReadOffs(Json& json, const Fit& fit, const Reads& reads, const Request& request) {
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
        Json one = readOffJson(read, reads.y[i], options.replicates);
        if (!reads.sample[i].empty()) {
            one["sample"] = reads.sample[i];
        }
        addResult(one, read, request, t);
        list.push_back(std::move(one));
    }
    json["readOffs"] = list;
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
        Json one = readOffJson(read, sum / count, count);
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
    const auto columns = readColumns(options.text("--read-file"));
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

Json diagnosticsJson(const Fit& fit) {
    const Diagnostics d = diagnose(fit);
    Json points = Json::array();
    for (std::size_t i = 0; i < d.points.size(); ++i) {
        points.push_back({{"x", fit.x[i]},
                          {"y", fit.y[i]},
                          {"residual", d.points[i].residual},
                          {"leverage", d.points[i].leverage},
                          {"standardized", optionalNumber(d.points[i].standardized)},
                          {"studentized", optionalNumber(d.points[i].studentized)},
                          {"cook", optionalNumber(d.points[i].cook)}});
    }
    const auto orNull = [](const std::optional<FitTest>& test) { return test ? testJson(*test) : Json(nullptr); };
    Json lack = nullptr;
    if (d.lackOfFit) {
        lack = testJson(d.lackOfFit->test);
        lack["sumOfSquares"] = d.lackOfFit->sumOfSquares;
        lack["pureError"] = d.lackOfFit->pureError;
    }
    return {{"lackOfFit", lack},
            {"mandel", orNull(d.mandel)},
            {"equalVariances", orNull(d.equalVariances)},
            {"runs", orNull(d.runs)},
            {"press", optionalNumber(d.press)},
            {"durbinWatson", d.durbinWatson},
            {"relativeStandardErrorPercent", optionalNumber(d.relativeStandardErrorPercent)},
            {"points", points}};
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
    if (fit.isUsable()) {
        json["df"] = fit.df;
        json["sse"] = fit.sse;
        json["s"] = fit.s;
        json["r2"] = optionalNumber(fit.rSquared);
        json["r"] = optionalNumber(fit.r);
        json["aicc"] = optionalNumber(fit.aicc);
        json["standards"] = standardsJson(fit, *input);
        addReadOffs(json, fit, *reads, *request);
        if (request->options.has("--diagnostics")) {
            json["diagnostics"] = diagnosticsJson(fit);
        }
        if (fit.zeroStandardWeighted) {
            warnings.emplace_back(
                "1/x is not defined for a zero standard: it got the weight of the lowest level above 0.");
        }
    }
    json["warnings"] = warnings;
    printJson(out, json);
    if (!fit.isUsable()) {
        err << "nuvat-cli: " << fit.message << "\n";
        return 1;
    }
    return 0;
}

} // namespace nuvat
