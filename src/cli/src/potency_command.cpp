#include "potency_command.h"

#include "calibration_input.h"
#include "nuvat/core/fit/potency.h"

#include <algorithm>

namespace nuvat {

namespace {

/// The readings of two preparations, and their weights.
struct Preparations {
    std::vector<double> dose, response, weights;
    std::vector<char> isTest;
    std::string test; ///< name of the test preparation
    PotencyData data() const { return {dose, response, isTest, weights}; }
};

Result<Preparations> readPreparations(const Options& options) {
    const auto table = readColumns(options.text("--in"));
    if (!table) {
        return tl::unexpected(table.error());
    }
    const auto group = table->find(options.text("--group", "group"));
    auto dose = columnOf(*table, options.text("--x", "x"));
    auto response = columnOf(*table, options.text("--y", "y"));
    if (!group || !dose || !response) {
        return tl::unexpected(!group ? group.error() : !dose ? dose.error() : response.error());
    }
    const std::string reference = options.text("--reference");
    Preparations out;
    out.test = options.text("--test");
    std::vector<std::string> names;
    for (std::size_t i = 0; i < dose->size(); ++i) {
        names.emplace_back(table->cell(i, *group));
    }
    if (std::ranges::find(names, reference) == names.end()) {
        return fail("potency.no-reference", "No line belongs to the reference \"" + reference + "\".",
                    "--reference takes a name that stands in the column of the groups.");
    }
    for (std::size_t i = 0; i < names.size(); ++i) {
        const bool isReference = names[i] == reference;
        if (!isReference && out.test.empty()) {
            out.test = names[i];
        }
        if (!isReference && names[i] != out.test) {
            if (options.has("--test")) {
                continue;
            }
            return fail("potency.several",
                        "There are further preparations beside " + reference + ": " + out.test + " and " + names[i] +
                            ".",
                        "Say which one with --test.");
        }
        out.dose.push_back((*dose)[i]);
        out.response.push_back((*response)[i]);
        out.isTest.push_back(isReference ? 0 : 1);
    }
    return out;
}

/// Weights by dose or observed response of all readings together, so that both preparations are weighed alike; a level
/// is a dose of one preparation.
Result<void> weigh(const Options& options, Preparations& out) {
    const auto weight = choice(options, "--weight", Weighting::None, &weightingFromName, kWeightNames);
    const auto floor = options.number("--weight-floor", 0, 0, 1, true);
    if (!weight || !floor) {
        return tl::unexpected(!weight ? weight.error() : floor.error());
    }
    if (*weight == Weighting::Variance) {
        return wrongCall("potency knows the weights none, 1/x, 1/x2, 1/y, 1/y2 and 1/s2.");
    }
    if (*weight == Weighting::None) {
        return {};
    }
    std::vector<std::pair<char, double>> levels;
    for (std::size_t i = 0; i < out.dose.size(); ++i) {
        levels.emplace_back(out.isTest[i], out.dose[i]);
    }
    std::vector<std::pair<char, double>> known = levels;
    std::ranges::sort(known);
    known.erase(std::ranges::unique(known).begin(), known.end());
    std::vector<int> keys;
    for (const auto& level : levels) {
        keys.push_back(static_cast<int>(std::ranges::lower_bound(known, level) - known.begin()));
    }
    FitOptions line;
    line.weighting = *weight;
    if (options.has("--weight-floor")) {
        line.weightFloor = *floor;
    }
    const Fit fit = fitCalibration(line, {out.dose, out.response, keys, {}});
    if (fit.weights.size() != out.dose.size()) {
        return fail("fit.no-weights", fit.message, "Choose another weighting.");
    }
    out.weights = fit.weights;
    return {};
}

Json potencyJson(const Potency& found, const std::string& test, double alpha) {
    Json parameters = Json::object(), se = Json::object(), separate = nullptr;
    const auto named = [&](const std::vector<double>& values) {
        Json out = Json::object();
        for (std::size_t i = 0; i < values.size(); ++i) {
            out[found.names[i]] = values[i];
        }
        return out;
    };
    if (found.separate) {
        const auto curve = [&](const Potency::Curve& one) {
            return Json{{"parameters", named(one.parameters)}, {"sse", one.sse}};
        };
        separate = {{"reference", curve((*found.separate)[0])}, {"test", curve((*found.separate)[1])}};
    }
    parameters = named(found.parameters);
    parameters["lnPotency"] = found.lnPotency;
    se = named(found.se);
    se["lnPotency"] = found.lnSe;
    return {{"status", found.p && *found.p < alpha ? "not-parallel" : "ok"},
            {"test", test},
            {"potency", found.potency},
            {"lnPotency", found.lnPotency},
            {"se", found.lnSe},
            {"interval", optionalPair(found.interval)},
            {"profile", optionalPair(found.profile)},
            {"parallelism",
             {{"F", optionalNumber(found.f)}, {"df1", found.df1}, {"df2", found.df2}, {"p", optionalNumber(found.p)}}},
            {"parameters", std::move(parameters)},
            {"parameterSe", std::move(se)},
            {"separate", std::move(separate)},
            {"sse", found.sse},
            {"s", found.s},
            {"df", found.df},
            {"n", found.n}};
}

std::optional<PotencyModel> potencyModelFromName(std::string_view text) {
    return text == "4pl"    ? std::optional(PotencyModel::Logistic4)
           : text == "line" ? std::optional(PotencyModel::Line)
                            : std::nullopt;
}

Result<Json> answer(const std::vector<std::string>& arguments) {
    const auto options = Options::parse(arguments, {"--in", "--group", "--reference", "--test", "--x", "--y", "--model",
                                                    "--weight", "--weight-floor", "--confidence", "--alpha"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    if (!options->has("--in") || !options->has("--reference")) {
        return wrongCall("potency needs --in with a file and --reference with the name of a preparation.");
    }
    const auto model = choice(*options, "--model", PotencyModel::Logistic4, &potencyModelFromName, "4pl and line");
    const auto confidence = options->number("--confidence", 0.95, 0, 1, false);
    const auto alpha = options->number("--alpha", 0.05, 0, 1, false);
    if (!model || !confidence || !alpha) {
        return tl::unexpected(!model ? model.error() : !confidence ? confidence.error() : alpha.error());
    }
    auto preparations = readPreparations(*options);
    if (!preparations) {
        return tl::unexpected(preparations.error());
    }
    if (auto weighed = weigh(*options, *preparations); !weighed) {
        return tl::unexpected(weighed.error());
    }
    const auto found = relativePotency(*model, preparations->data(), *confidence);
    return found ? Result<Json>(potencyJson(*found, preparations->test, *alpha)) : tl::unexpected(found.error());
}

} // namespace

int potencyCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    return printAnswer(out, err, answer(arguments));
}

} // namespace nuvat
