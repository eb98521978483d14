#include "detect_command.h"

#include "calibration_input.h"

#include "nuvat/core/fit/detection.h"
#include "nuvat/core/stats/descriptive.h"

#include <limits>

namespace nuvat {

namespace {

/// What the methods are given.
struct Material {
    Fit fit;  ///< the curve asked for
    Fit line; ///< unweighted straight line through the same standards
    CalibrationInput input;
    std::vector<double> blanks, low;
    DinOptions din;
    double isoAlpha = 0.05, isoBeta = 0.05;
    double precision = 20;
};

/// One entry: a method with its title, and either its numbers or why there are none.
Json entry(const char* method, const char* title) {
    return {{"method", method}, {"title", title}, {"status", "ok"}};
}

Json impossible(const char* method, const char* title, const std::string& why) {
    Json out = entry(method, title);
    out["status"] = "not-defined";
    out["message"] = why;
    return out;
}

constexpr const char* kNeedsBlanks = "Two blanks or more are needed: give --blanks, or standards at concentration 0.";
constexpr const char* kNeedsLow = "Two readings or more of a low-level sample are needed: give --low.";

Json dinCalibration(const Material& m) {
    constexpr const char* kMethod = "din-32645-calibration";
    constexpr const char* kTitle = "DIN 32645, from the calibration line";
    if (const std::string why = whyNoLineLimits(m.line); !why.empty()) {
        return impossible(kMethod, kTitle, why);
    }
    const auto got = dinCalibrationLimits(m.line, m.din);
    if (!got) {
        return impossible(kMethod, kTitle,
                          "The line is too uncertain for a determination limit of this relative uncertainty.");
    }
    Json out = entry(kMethod, kTitle);
    out.update({{"alpha", m.din.alpha},
                {"beta", m.din.beta},
                {"m", m.din.m},
                {"k", m.din.k},
                {"lod", got->detection},
                {"capture", got->capture},
                {"loq", got->determination},
                {"loqFirstApproximation", got->determinationFirstApproximation},
                {"criticalResponse", got->criticalResponse}});
    return out;
}

Json dinBlank(const Material& m) {
    constexpr const char* kMethod = "din-32645-blank";
    constexpr const char* kTitle = "DIN 32645, from blanks";
    if (m.blanks.size() < 2) {
        return impossible(kMethod, kTitle, kNeedsBlanks);
    }
    if (!m.line.isUsable()) {
        return impossible(kMethod, kTitle, m.line.message);
    }
    const auto got = dinBlankLimits(m.line, m.blanks, m.din);
    Json out = entry(kMethod, kTitle);
    out.update({{"alpha", m.din.alpha},
                {"beta", m.din.beta},
                {"m", m.din.m},
                {"lod", got->detection},
                {"capture", got->capture},
                {"criticalResponse", got->criticalResponse}});
    return out;
}

Json ich(const char* method, const char* title, double sigma, const Fit& line) {
    const IchLimits got = ichLimits(sigma, line.parameter("b"));
    Json out = entry(method, title);
    out.update({{"sigma", got.sigma}, {"lod", got.detection}, {"loq", got.quantitation}});
    return out;
}

void addIch(Json& list, const Material& m) {
    constexpr const char* kResidual = "ICH Q2, 3.3 and 10 times the residual SD over the slope";
    constexpr const char* kIntercept = "ICH Q2, 3.3 and 10 times the SE of the intercept over the slope";
    constexpr const char* kBlank = "ICH Q2, 3.3 and 10 times the SD of the blanks over the slope";
    const std::string why = whyNoLineLimits(m.line);
    list.push_back(why.empty() ? ich("ich-residual-sd", kResidual, m.line.s, m.line)
                               : impossible("ich-residual-sd", kResidual, why));
    list.push_back(why.empty() ? ich("ich-intercept-se", kIntercept, m.line.se[0], m.line)
                               : impossible("ich-intercept-se", kIntercept, why));
    const auto sd = describe(m.blanks).sd;
    list.push_back(!sd                  ? impossible("ich-blank-sd", kBlank, kNeedsBlanks)
                   : !m.line.isUsable() ? impossible("ich-blank-sd", kBlank, m.line.message)
                                        : ich("ich-blank-sd", kBlank, *sd, m.line));
}

Json blankMean(const Material& m) {
    constexpr const char* kMethod = "blank-mean";
    constexpr const char* kTitle = "Mean of the blanks plus 3 and 10 SD, through the curve";
    if (m.blanks.size() < 2) {
        return impossible(kMethod, kTitle, kNeedsBlanks);
    }
    const auto three = blankPlusSd(m.fit, m.blanks, 3);
    const auto ten = blankPlusSd(m.fit, m.blanks, 10);
    Json out = entry(kMethod, kTitle);
    out.update({{"lod", optionalNumber(three->x)},
                {"loq", optionalNumber(ten->x)},
                {"lodResponse", three->response},
                {"loqResponse", ten->response}});
    if (three->kSdOverB) {
        out["lodSdOverSlope"] = *three->kSdOverB;
        out["loqSdOverSlope"] = *ten->kSdOverB;
    }
    return out;
}

Json ep17(const Material& m) {
    constexpr const char* kMethod = "ep17";
    constexpr const char* kTitle = "Limit of blank and of detection, CLSI EP17";
    if (m.blanks.size() < 2) {
        return impossible(kMethod, kTitle, kNeedsBlanks);
    }
    if (m.low.size() < 2) {
        return impossible(kMethod, kTitle, kNeedsLow);
    }
    const auto got = limitOfBlank(m.fit, m.blanks, m.low);
    Json out = entry(kMethod, kTitle);
    out.update({{"lob", optionalNumber(got->xLob)},
                {"lod", optionalNumber(got->xLod)},
                {"lobResponse", got->lobCorrected},
                {"lodResponse", got->lodCorrected},
                {"lobResponseUncorrected", got->lob},
                {"lodResponseUncorrected", got->lod}});
    return out;
}

Json mdl(const Material& m) {
    constexpr const char* kMethod = "mdl";
    constexpr const char* kTitle = "Method detection limit, 99 %, from low-level samples";
    if (m.low.size() < 2) {
        return impossible(kMethod, kTitle, kNeedsLow);
    }
    const auto got = methodDetectionLimit(m.line, m.low);
    Json out = entry(kMethod, kTitle);
    out.update({{"lod", optionalNumber(got->x)}, {"t", got->t}, {"lodResponse", got->response}});
    return out;
}

Json isoJson(Json out, const IsoLimits& got, const Material& m) {
    out.update({{"alpha", m.isoAlpha},
                {"beta", m.isoBeta},
                {"readings", m.din.m},
                {"criticalValue", got.criticalValue},
                {"lod", got.minimumDetectable},
                {"criticalResponse", got.criticalResponse},
                {"t", got.t},
                {"delta", got.delta}});
    return out;
}

Json isoConstant(const Material& m) {
    constexpr const char* kMethod = "iso-11843-2";
    constexpr const char* kTitle = "Minimum detectable value, ISO 11843-2, constant SD";
    if (const std::string why = whyNoLineLimits(m.line); !why.empty()) {
        return impossible(kMethod, kTitle, why);
    }
    return isoJson(entry(kMethod, kTitle), isoLimits(m.line, m.isoAlpha, m.isoBeta, m.din.m), m);
}

Json isoRising(const Material& m) {
    constexpr const char* kMethod = "iso-11843-2-rising";
    constexpr const char* kTitle = "Minimum detectable value, ISO 11843-2, SD rising with concentration";
    const auto got = isoRisingLimits(m.input.usedX, m.input.usedY, m.isoAlpha, m.isoBeta, m.din.m);
    if (!got) {
        return impossible(
            kMethod, kTitle,
            "Three levels or more with replicates that scatter are needed, and an SD that rises from above 0.");
    }
    Json out = isoJson(entry(kMethod, kTitle), got->limits, m);
    out["sigmaAtZero"] = got->c;
    out["sigmaSlope"] = got->d;
    if (!(got->d > 0)) {
        out["status"] = "not-applicable";
        out["message"] =
            "The SD falls with the concentration, while the standard's model is one that rises; the numbers "
            "are for comparison only.";
    }
    return out;
}

Json byPrecision(const Material& m) {
    constexpr const char* kMethod = "precision";
    constexpr const char* kTitle = "Range in which the relative SE of a read-off stays within a limit";
    ReadOffOptions options;
    options.replicates = m.din.m;
    const PrecisionRange range = rangeByPrecision(m.fit, m.precision, options);
    if (!range.lowest) {
        return impossible(kMethod, kTitle, "No concentration between the standards is read off that precisely.");
    }
    Json out = entry(kMethod, kTitle);
    out.update({{"limitPercent", m.precision}, {"lloq", *range.lowest}, {"uloq", *range.highest}});
    return out;
}

/// Numbers of a file given by an option, or none.
Result<std::vector<double>> optionalColumn(const Options& options, const std::string& file, const std::string& column) {
    return options.has(file) ? readColumn(options.text(file), options.text(column))
                             : Result<std::vector<double>>(std::vector<double>{});
}

Result<Material> gather(const Options& options) {
    Material out;
    constexpr double kAny = std::numeric_limits<double>::max();
    const auto fitOptions = readFitOptions(options);
    constexpr double kLeastProbability = 1e-12; // quantiles beyond are no numbers any more
    const auto alpha = options.number("--alpha", 0.05, kLeastProbability, 0.5, true);
    const auto beta =
        options.number("--beta", options.has("--alpha") && alpha ? *alpha : 0.05, kLeastProbability, 0.5, true);
    const auto m = options.number("--m", 1, 1, kAny, true);
    const auto k = options.number("--k", 3, 0, kAny, false);
    const auto precision = options.number("--precision", 20, 0, kAny, false);
    if (!fitOptions) {
        return tl::unexpected(fitOptions.error());
    }
    for (const auto* number : {&alpha, &beta, &m, &k, &precision}) {
        if (!*number) {
            return tl::unexpected(number->error());
        }
    }
    auto input = readCalibration(options);
    auto blanks = optionalColumn(options, "--blanks", "--blank-column");
    auto low = optionalColumn(options, "--low", "--low-column");
    if (!input || !blanks || !low) {
        return tl::unexpected(!input ? input.error() : !blanks ? blanks.error() : low.error());
    }
    // DIN 32645 asks for 1 % where nothing else is said, ISO 11843 for 5 %; beta is alpha unless both are given.
    constexpr double kDinAlpha = 0.01;
    const bool isAsked = options.has("--alpha") || options.has("--beta");
    out.din = {options.has("--alpha") ? *alpha : kDinAlpha, isAsked ? *beta : kDinAlpha, *m, *k};
    out.isoAlpha = *alpha;
    out.isoBeta = *beta;
    out.precision = *precision;
    out.blanks = std::move(*blanks);
    out.low = std::move(*low);
    for (std::size_t i = 0; i < input->usedX.size() && !options.has("--blanks"); ++i) {
        if (input->usedX[i] == 0) {
            out.blanks.push_back(input->usedY[i]);
        }
    }
    out.input = std::move(*input);
    out.fit = fitCalibration(*fitOptions, out.input.data());
    out.line = fitCalibration(Model::Line, Weighting::None, out.input.usedX, out.input.usedY);
    return out;
}

} // namespace

int detectCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    std::set<std::string> names = inputOptions();
    names.insert(modelOptions().begin(), modelOptions().end());
    names.insert(
        {"--blanks", "--blank-column", "--low", "--low-column", "--alpha", "--beta", "--m", "--k", "--precision"});
    const auto options = Options::parse(arguments, names, {"--spline-log"});
    if (!options) {
        return refuse(out, err, options.error());
    }
    const auto material = gather(*options);
    if (!material) {
        return refuse(out, err, material.error());
    }
    Json json = fitHead(material->fit);
    if (!material->fit.isUsable()) {
        printJson(out, json);
        err << "nuvat-cli: " << material->fit.message << "\n";
        return 1;
    }
    Json limits = Json::array();
    limits.push_back(dinCalibration(*material));
    limits.push_back(dinBlank(*material));
    addIch(limits, *material);
    limits.push_back(blankMean(*material));
    limits.push_back(ep17(*material));
    limits.push_back(mdl(*material));
    limits.push_back(isoConstant(*material));
    limits.push_back(isoRising(*material));
    limits.push_back(byPrecision(*material));
    json["blanks"] = material->blanks.size();
    json["limits"] = limits;
    printJson(out, json);
    return 0;
}

} // namespace nuvat
