#include "peaks_command.h"

#include "columns.h"
#include "trace_input.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/units.h"
#include "nuvat/core/signal/peaks.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace nuvat {

namespace {

constexpr double kAny = std::numeric_limits<double>::max();

/// What is asked besides the rules.
struct Request {
    Options options;
    PeakRules rules;
    std::optional<double> scanRate; ///< [V/s]
    std::optional<Stretch> noise, noiseBaseline;
    bool isNoiseFromLine = false; ///< H above the line through the stretch for the noise, h about it
};

Result<HeightLimit> readHeight(const Options& options, const std::string& option) {
    std::string text = options.text(option, "8s");
    HeightLimit out;
    out.isInNoise = !text.empty() && text.back() == 's';
    if (out.isInNoise) {
        text.pop_back();
    }
    const auto value = parseNumber(text);
    if (!value || !(*value > 0)) {
        return wrongCall(option + " takes a height above 0, or a multiple of the noise such as 8s.");
    }
    out.value = *value;
    return out;
}

Result<std::vector<Stretch>> readStretches(const Options& options, const std::string& option) {
    std::vector<Stretch> out;
    for (const std::string& text : options.all(option)) {
        const auto stretch = readStretch(option, text);
        if (!stretch) {
            return tl::unexpected(stretch.error());
        }
        out.push_back({stretch->first, stretch->second});
    }
    return out;
}

tl::unexpected<Error> wrongBaseline(const std::string& text) {
    return wrongCall("--baseline does not know \"" + text +
                     "\"; there are straight, valleys, horizontal, tangent, none, polynomial:ORDER, als:LAMBDA,P and "
                     "level:A:B.");
}

/// "kind", "polynomial:3", "als:1e6,0.01", "level:9:10".
Result<BaselineRule> readBaseline(const Options& options) {
    const std::string text = options.text("--baseline", "straight");
    const std::size_t colon = std::min(text.find(':'), text.size());
    const auto kind = baselineFromName(text.substr(0, colon));
    const std::string rest = colon < text.size() ? text.substr(colon + 1) : std::string();
    BaselineRule out;
    if (!kind) {
        return wrongBaseline(text);
    }
    out.kind = *kind;
    if (*kind == BaselineKind::Polynomial) {
        const auto order = parseNumber(rest.empty() ? "3" : rest);
        if (!order || *order < 1 || *order > 5 || *order != std::floor(*order)) {
            return wrongCall("--baseline polynomial takes an order from 1 to 5.");
        }
        out.order = static_cast<int>(*order);
        const auto through = readStretches(options, "--through");
        if (!through) {
            return tl::unexpected(through.error());
        }
        out.through = *through;
    } else if (*kind == BaselineKind::AsymmetricLeastSquares && !rest.empty()) {
        const std::size_t comma = std::min(rest.find(','), rest.size());
        const auto lambda = parseNumber(rest.substr(0, comma));
        const auto p = comma < rest.size() ? parseNumber(rest.substr(comma + 1)) : std::optional(out.asymmetry);
        if (!lambda || !p || !(*lambda > 0) || !(*p > 0) || !(*p < 1)) {
            return wrongCall("--baseline als takes a stiffness above 0 and an asymmetry between 0 and 1.");
        }
        out.lambda = *lambda;
        out.asymmetry = *p;
    } else if (*kind == BaselineKind::Level) {
        const auto stretch = readStretch("--baseline level", rest);
        if (!stretch) {
            return tl::unexpected(stretch.error());
        }
        out.through = {{stretch->first, stretch->second}};
    } else if (!rest.empty() && *kind != BaselineKind::AsymmetricLeastSquares) {
        return wrongBaseline(text);
    }
    return out;
}

Result<std::optional<Smoothing>> readSmoothing(const Options& options) {
    if (!options.has("--smooth") || options.text("--smooth") == "off") {
        return std::optional<Smoothing>();
    }
    const auto numbers = options.numbers("--smooth");
    if (!numbers) {
        return tl::unexpected(numbers.error());
    }
    const double window = numbers->empty() ? 0 : numbers->front();
    const double order = numbers->size() > 1 ? (*numbers)[1] : 2;
    if (numbers->size() > 2 || window != std::floor(window) || order != std::floor(order) || window < 5 ||
        window > 999 || static_cast<int>(window) % 2 == 0 || order < 2 || order > 4) {
        return wrongCall("--smooth takes an odd window from 5 to 999 and an order from 2 to 4, for example 9,2.");
    }
    return std::optional(Smoothing{static_cast<int>(window), static_cast<int>(order)});
}

Result<std::optional<BaseLine>> readLine(const Options& options) {
    if (!options.has("--line")) {
        return std::optional<BaseLine>();
    }
    const auto numbers = options.numbers("--line");
    if (!numbers) {
        return tl::unexpected(numbers.error());
    }
    if (numbers->size() != 4) {
        return wrongCall("--line takes x0,y0,x1,y1.");
    }
    return std::optional(BaseLine{(*numbers)[0], (*numbers)[1], (*numbers)[2], (*numbers)[3]});
}

template<class T> bool set(T& target, const Result<T>& value, std::optional<Error>& error) {
    if (value) {
        target = *value;
    } else if (!error) {
        error = value.error();
    }
    return value.has_value();
}

Result<std::optional<double>> optionalOption(const Options& options, const std::string& option) {
    if (!options.has(option)) {
        return std::optional<double>();
    }
    const auto value = options.number(option, 0, 0, kAny, false);
    return value ? Result<std::optional<double>>(*value) : tl::unexpected(value.error());
}

Result<std::optional<Stretch>> optionalStretch(const Options& options, const std::string& option) {
    if (!options.has(option)) {
        return std::optional<Stretch>();
    }
    const auto stretch = readStretch(option, options.text(option));
    return stretch ? Result<std::optional<Stretch>>(Stretch{stretch->first, stretch->second})
                   : tl::unexpected(stretch.error());
}

Result<Request> parse(const std::vector<std::string>& arguments) {
    std::set<std::string> names{"--smooth", "--least-height",   "--least-width", "--least-area", "--least-valley",
                                "--ignore", "--baseline",       "--through",     "--skim",       "--skim-ratio",
                                "--peak",   "--line",           "--dead-time",   "--scan-rate",  "--blank",
                                "--noise",  "--noise-baseline", "--sweep"};
    names.insert(traceOptions().begin(), traceOptions().end());
    const auto options =
        Options::parse(arguments, names, {"--negative", "--shoulders", "--cathodic-positive", "--area-smoothed"}, 0,
                       {"--ignore", "--peak", "--through"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    Request out{*options, {}, {}, {}, {}, false};
    std::optional<Error> error;
    set(out.rules.smoothing, readSmoothing(*options), error);
    set(out.rules.leastHeight, readHeight(*options, "--least-height"), error);
    set(out.rules.leastValley, readHeight(*options, "--least-valley"), error);
    set(out.rules.leastWidth, options->number("--least-width", 0, 0, kAny, true), error);
    set(out.rules.leastArea, options->number("--least-area", 0, 0, kAny, true), error);
    set(out.rules.ignored, readStretches(*options, "--ignore"), error);
    set(out.rules.given, readStretches(*options, "--peak"), error);
    set(out.rules.baseline, readBaseline(*options), error);
    set(out.rules.line, readLine(*options), error);
    set(out.rules.skimRatio, options->number("--skim-ratio", 10, 0, kAny, true), error);
    set(out.rules.skim,
        choice(*options, "--skim", SkimKind::None, &skimFromName, "none, tangent, double-tangent, exponential"), error);
    set(out.rules.deadTime, optionalOption(*options, "--dead-time"), error);
    set(out.scanRate, optionalOption(*options, "--scan-rate"), error);
    set(out.noise, optionalStretch(*options, "--noise"), error);
    if (options->text("--noise-baseline") == "line") {
        out.isNoiseFromLine = true;
    } else {
        set(out.noiseBaseline, optionalStretch(*options, "--noise-baseline"), error);
    }
    if (error) {
        return tl::unexpected(*error);
    }
    out.rules.isNegative = options->has("--negative");
    out.rules.hasShoulders = options->has("--shoulders");
    out.rules.isAreaSmoothed = options->has("--area-smoothed");
    return out;
}

/// The sweep that is asked for, x rising.
Result<Sweep> sweepOf(const Request& request, const TraceInput& trace, std::vector<std::string>& warnings) {
    std::vector<Sweep> sweeps = cutSweeps(trace.x, trace.y);
    constexpr std::size_t kMost = 1000;
    if (sweeps.empty() || sweeps.size() > kMost) {
        return fail("trace.not-rising",
                    sweeps.empty()
                        ? "The trace has fewer than two samples."
                        : "The x of the trace turns " + std::to_string(sweeps.size()) + " times: it is no curve.",
                    "Check which column is x.");
    }
    const auto number = request.options.number("--sweep", 1, 1, static_cast<double>(sweeps.size()) + 1, true);
    if (!number) {
        return tl::unexpected(number.error());
    }
    const auto which = static_cast<std::size_t>(*number);
    if (sweeps.size() > 1) {
        warnings.push_back("The trace has " + std::to_string(sweeps.size()) + " sweeps; this is " +
                           sweepName(which, sweeps[which - 1].isRising) + ".");
    }
    Sweep out = std::move(sweeps[which - 1]);
    if (request.options.has("--cathodic-positive")) {
        for (double& y : out.y) {
            y = -y;
        }
    }
    return out;
}

/// What an area is as a charge in C; nothing where units or the scan rate do not give one.
std::optional<double> chargeFactor(const TraceInput& trace, std::optional<double> scanRate) {
    const auto current = converted(1, unitSymbol(trace.yAxis.unit), "A");
    const auto time = converted(1, unitSymbol(trace.xAxis.unit), "s");
    if (current && time) {
        return *current * *time;
    }
    const auto potential = converted(1, unitSymbol(trace.xAxis.unit), "V");
    return current && potential && scanRate ? std::optional(*current * *potential / *scanRate) : std::nullopt;
}

/// Where signal-to-noise is taken.
struct NoiseSource {
    TraceInput blank;
    bool isOwn = true;
};

Result<NoiseSource> noiseSource(const Request& request) {
    if (!request.options.has("--blank")) {
        return NoiseSource{};
    }
    const std::string text = request.options.text("--blank");
    const std::size_t colon = text.rfind(':');
    const bool hasColumn = colon != std::string::npos;
    auto blank = readTraceOf(text.substr(0, colon), request.options.text("--x"),
                             hasColumn ? text.substr(colon + 1) : request.options.text("--y"));
    if (!blank) {
        return tl::unexpected(blank.error());
    }
    return NoiseSource{std::move(*blank), false};
}

/// 2H/h of one peak. @return nothing where nothing says where the noise is
Result<std::optional<double>> signalToNoise(const Request& request, const Sweep& sweep, const NoiseSource& source,
                                            const Peak& peak) {
    if (source.isOwn && !request.noise) {
        return std::optional<double>();
    }
    Stretch stretch = request.noise.value_or(Stretch{});
    if (!request.noise) { // 20 half widths about the peak
        if (!peak.width50) {
            return std::optional<double>();
        }
        stretch = {peak.apex - 10 * *peak.width50, peak.apex + 10 * *peak.width50};
    }
    const auto blank =
        source.isOwn ? blankStretch(sweep.x, sweep.y, stretch) : blankStretch(source.blank.x, source.blank.y, stretch);
    if (!blank) {
        return tl::unexpected(blank.error());
    }
    const double sign = peak.isNegative ? -1 : 1;
    double highest = -kAny;
    double above = -kAny; // above the fitted line
    for (std::size_t i = 0; i < sweep.x.size(); ++i) {
        if (sweep.x[i] >= peak.start && sweep.x[i] <= peak.end) {
            highest = std::max(highest, sign * sweep.y[i]);
            above = std::max(above, sign * (sweep.y[i] - (blank->intercept + blank->drift * sweep.x[i])));
        }
    }
    double height = peak.height, noise = blank->peakToPeak;
    if (request.isNoiseFromLine) {
        height = above;
        noise = blank->peakToPeakAboutLine;
    } else if (request.noiseBaseline) {
        const auto level = blankStretch(sweep.x, sweep.y, *request.noiseBaseline);
        if (!level) {
            return tl::unexpected(level.error());
        }
        height = highest - sign * level->mean;
    }
    return noise > 0 ? std::optional(2 * height / noise) : std::nullopt;
}

std::string remarkText(PeakRemark remark) {
    switch (remark) {
    case PeakRemark::CutByEnd:
        return "cut by the end of the trace";
    case PeakRemark::Saturated:
        return "saturated: its top is flat";
    case PeakRemark::TouchesIgnored:
        return "touches a stretch that is ignored";
    case PeakRemark::NoApex:
        return "has no apex between its start and its end";
    }
    return {};
}

Json peakJson(const Peak& peak, std::optional<double> chargeFactor, const std::optional<double>& signalToNoise) {
    const auto charge = [&](double area) { return chargeFactor ? Json(area * *chargeFactor) : Json(nullptr); };
    Json remarks = Json::array();
    for (const PeakRemark remark : peak.remarks) {
        remarks.push_back(remarkText(remark));
    }
    constexpr std::array kSplits{"none", "drop", "skim"};
    return {{"apex", peak.apex},
            {"apexY", peak.apexY},
            {"height", peak.height},
            {"negative", peak.isNegative},
            {"area", peak.area},
            {"areaAbove", peak.areaAbove},
            {"areaBelow", peak.areaBelow},
            {"crossings", peak.crossings},
            {"charge", charge(peak.area)},
            {"chargeAbsolute", charge(peak.areaAbove - peak.areaBelow)},
            {"apexSignal", peak.apexSignal},
            {"apexSignalY", peak.apexSignalY},
            {"xSample", peak.xSample},
            {"heightSample", peak.heightSample},
            {"start", peak.start},
            {"end", peak.end},
            {"startY", peak.startY},
            {"endY", peak.endY},
            {"split", kSplits.at(static_cast<std::size_t>(peak.split))},
            {"width5", optionalNumber(peak.width5)},
            {"width10", optionalNumber(peak.width10)},
            {"width50", optionalNumber(peak.width50)},
            {"left5", optionalNumber(peak.left5)},
            {"right5", optionalNumber(peak.right5)},
            {"left10", optionalNumber(peak.left10)},
            {"right10", optionalNumber(peak.right10)},
            {"left50", optionalNumber(peak.left50)},
            {"right50", optionalNumber(peak.right50)},
            {"widthBase", optionalNumber(peak.widthBase)},
            {"asymmetry10", optionalNumber(peak.asymmetry10)},
            {"tailing5", optionalNumber(peak.tailing5)},
            {"platesHalf", optionalNumber(peak.platesHalf)},
            {"platesBase", optionalNumber(peak.platesBase)},
            {"resolutionHalf", optionalNumber(peak.resolutionHalf)},
            {"resolutionBase", optionalNumber(peak.resolutionBase)},
            {"retentionFactor", optionalNumber(peak.retentionFactor)},
            {"signalToNoise", optionalNumber(signalToNoise)},
            {"areaPercent", optionalNumber(peak.areaPercent)},
            {"heightPercent", optionalNumber(peak.heightPercent)},
            {"peakToValley", optionalNumber(peak.peakToValley)},
            {"remarks", std::move(remarks)}};
}

/// The noise of the trace, and of the stretch that is named.
Result<Json> noiseJson(const Request& request, const Sweep& sweep, const NoiseSource& source, const Noise& noise) {
    Json out{{"sigma", noise.sigma}, {"peakToPeak", nullptr}};
    if (!request.noise) {
        return out;
    }
    const auto blank = source.isOwn ? blankStretch(sweep.x, sweep.y, *request.noise)
                                    : blankStretch(source.blank.x, source.blank.y, *request.noise);
    if (!blank) {
        return tl::unexpected(blank.error());
    }
    out["peakToPeak"] = blank->peakToPeak;
    out["n"] = blank->n;
    out["mean"] = blank->mean;
    out["sd"] = blank->sd;
    out["peakToPeakAboutLine"] = blank->peakToPeakAboutLine;
    out["sdAboutLine"] = blank->sdAboutLine;
    out["drift"] = blank->drift;
    return out;
}

Result<Json> answer(const Request& request, const TraceInput& trace) {
    std::vector<std::string> warnings;
    const auto sweep = sweepOf(request, trace, warnings);
    if (!sweep) {
        return tl::unexpected(sweep.error());
    }
    const auto features = measurePeaks(sweep->x, sweep->y, request.rules);
    if (!features) {
        return tl::unexpected(features.error());
    }
    const auto source = noiseSource(request);
    if (!source) {
        return tl::unexpected(source.error());
    }
    const auto noise = noiseJson(request, *sweep, *source, features->noise);
    if (!noise) {
        return tl::unexpected(noise.error());
    }
    const auto factor = chargeFactor(trace, request.scanRate);
    Json peaks = Json::array();
    for (const Peak& peak : features->peaks) {
        const auto ratio = signalToNoise(request, *sweep, *source, peak);
        if (!ratio) {
            return tl::unexpected(ratio.error());
        }
        peaks.push_back(peakJson(peak, factor, *ratio));
    }
    warnings.insert(warnings.end(), features->warnings.begin(), features->warnings.end());
    return Json{{"channel", trace.channel},
                {"x", {{"name", trace.xAxis.name}, {"unit", trace.xAxis.unit}}},
                {"y", {{"name", trace.yAxis.name}, {"unit", trace.yAxis.unit}}},
                {"points", sweep->x.size()},
                {"noise", *noise},
                {"peaks", std::move(peaks)},
                {"warnings", warnings}};
}

} // namespace

int peaksCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    const auto request = parse(arguments);
    if (!request) {
        return refuse(out, err, request.error());
    }
    const auto trace = readTrace(request->options);
    if (!trace) {
        return refuse(out, err, trace.error());
    }
    const auto json = answer(*request, *trace);
    if (!json) {
        return refuse(out, err, json.error());
    }
    printJson(out, *json);
    return 0;
}

} // namespace nuvat
