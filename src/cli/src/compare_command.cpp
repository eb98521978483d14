#include "compare_command.h"

#include "calibration_input.h"

#include "nuvat/core/fit/comparison.h"

#include <algorithm>
#include <limits>

namespace nuvat {

namespace {

/// The candidates that --model and --weight name, or the usual ones.
Result<std::vector<FitOptions>> candidatesOf(const Options& options, const CalibrationData& data) {
    std::vector<FitOptions> out;
    const std::vector<std::string> models = options.words("--model");
    const std::vector<std::string> weights = options.words("--weight");
    for (const std::string& model : models) {
        if (!modelFromName(model)) {
            return wrongCall("--model does not know \"" + model + "\"; there are " + kModelNames + ".");
        }
    }
    for (const std::string& weight : weights) {
        if (!weightingFromName(weight)) {
            return wrongCall("--weight does not know \"" + weight + "\"; there are " + kWeightNames + ".");
        }
    }
    const auto isAsked = [](const std::vector<std::string>& asked, std::string_view one) {
        return asked.empty() || std::find(asked.begin(), asked.end(), one) != asked.end();
    };
    for (const FitOptions& one : usualCandidates(data)) {
        if (isAsked(models, name(one.model)) && isAsked(weights, name(one.weighting))) {
            out.push_back(one);
        }
    }
    return out;
}

Json candidateJson(const Candidate& one) {
    Json out{{"rank", one.rank > 0 ? Json(one.rank) : Json(nullptr)},
             {"model", name(one.fit.model)},
             {"weight", name(one.fit.weighting)},
             {"status", name(one.fit.status)},
             {"levels", one.levels},
             {"levelsWithin", one.levelsWithin},
             {"worstErrorPercent", optionalNumber(one.worstErrorPercent)},
             {"worstX", one.rank > 0 ? Json(one.worstX) : Json(nullptr)}};
    out["leftOutErrorPercent"] = optionalNumber(one.leftOutErrorPercent);
    out["parameters"] = one.fit.p;
    out["aicc"] = optionalNumber(one.fit.aicc);
    out["r2"] = optionalNumber(one.fit.isUsable() ? one.fit.rSquared : std::nullopt);
    out["sentence"] = one.sentence;
    return out;
}

} // namespace

int compareCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    std::set<std::string> names = inputOptions();
    names.insert({"--model", "--weight", "--limit", "--limit-lowest"});
    const auto options = Options::parse(arguments, names);
    if (!options) {
        return refuse(out, err, options.error());
    }
    constexpr double kAny = std::numeric_limits<double>::max();
    ComparisonOptions limits;
    const auto limit = options->number("--limit", limits.limitPercent, 0, kAny, false);
    const auto lowest = options->number("--limit-lowest", limits.limitPercentLowest, 0, kAny, false);
    if (!limit || !lowest) {
        return refuse(out, err, !limit ? limit.error() : lowest.error());
    }
    limits = {*limit, *lowest};
    const auto input = readCalibration(*options);
    if (!input) {
        return refuse(out, err, input.error());
    }
    const auto candidates = candidatesOf(*options, input->data());
    if (!candidates) {
        return refuse(out, err, candidates.error());
    }
    const auto ranked = compareModels(*candidates, input->data(), limits);
    Json list = Json::array();
    for (const Candidate& one : ranked) {
        list.push_back(candidateJson(one));
    }
    const bool hasBest = !ranked.empty() && ranked.front().rank == 1;
    printJson(out, {{"limitPercent", limits.limitPercent},
                    {"limitPercentLowest", limits.limitPercentLowest},
                    {"best", hasBest ? Json{{"model", name(ranked.front().fit.model)},
                                            {"weight", name(ranked.front().fit.weighting)}}
                                     : Json(nullptr)},
                    {"ranking", list}});
    if (!hasBest) {
        err << "nuvat-cli: none of the models can be fitted to these standards.\n";
        return 1;
    }
    return 0;
}

} // namespace nuvat
