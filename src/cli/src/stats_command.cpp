#include "stats_command.h"

#include "calibration_input.h"

#include "nuvat/core/base/text.h"
#include "nuvat/core/stats/control_series.h"
#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/distributions.h"
#include "nuvat/core/stats/groups.h"
#include "nuvat/core/stats/hypothesis.h"
#include "nuvat/core/stats/outliers.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace nuvat {

namespace {

Json descriptionJson(const std::vector<double>& values, double alpha) {
    const Description d = describe(values);
    Json out{{"n", d.n},
             {"mean", optionalNumber(d.mean)},
             {"sd", optionalNumber(d.sd)},
             {"cv", optionalNumber(d.cvPercent)}};
    out["sem"] = d.sd ? Json(*d.sd / std::sqrt(static_cast<double>(d.n))) : Json(nullptr);
    out["median"] = optionalNumber(median(values));
    out["grubbs"] = nullptr;
    if (const auto test = grubbs(values, alpha)) {
        out["grubbs"] = Json{{"suspect", values[test->suspect]}, {"g", test->g},
                             {"critical", test->critical},       {"alpha", alpha},
                             {"pBound", test->pBound},           {"outlier", test->isOutlier}};
    }
    out["dixon"] = nullptr;
    if (const auto test = dixon(values, alpha)) {
        out["dixon"] = Json{{"suspect", values[test->suspect]},
                            {"ratio", name(test->ratio)},
                            {"value", test->value},
                            {"critical", test->critical},
                            {"alpha", alpha},
                            {"p", test->p},
                            {"outlier", test->isOutlier}};
    }
    return out;
}

Json varianceTestJson(const std::optional<VarianceTest>& test) {
    return test ? Json{{"statistic", test->statistic}, {"p", test->p}} : Json(nullptr);
}

Json anovaJson(const Groups& groups) {
    const auto anova = oneWayAnova(groups);
    if (!anova) {
        return nullptr;
    }
    return {{"betweenSs", anova->betweenSs},
            {"withinSs", anova->withinSs},
            {"betweenDf", anova->betweenDf},
            {"withinDf", anova->withinDf},
            {"f", anova->f},
            {"p", anova->p},
            {"repeatabilitySd", anova->repeatabilitySd},
            {"betweenVariance", anova->betweenVariance},
            {"intermediatePrecisionSd", anova->intermediatePrecisionSd}};
}

/// The column and its groups, in the order of the file.
struct Grouped {
    std::vector<double> all;
    std::vector<std::string> names;
    Groups groups;
};

Result<Grouped> readGroups(const Options& options) {
    const auto columns = readColumns(options.text("--in"), options.texts({{"--y", "y"}, {"--group", ""}}));
    if (!columns) {
        return tl::unexpected(columns.error());
    }
    const auto y = columns->find(options.text("--y", "y"));
    const auto group =
        options.has("--group") ? columns->find(options.text("--group")) : Result<std::size_t>(std::size_t{0});
    if (!y || !group) {
        return tl::unexpected(!y ? y.error() : group.error());
    }
    auto values = columns->column(*y);
    if (!values) {
        return tl::unexpected(values.error());
    }
    if (values->empty()) {
        return fail("stats.no-values", options.text("--in") + " has no line of numbers below its headings.",
                    "Choose a file that holds values.");
    }
    Grouped out;
    out.all = std::move(*values);
    std::map<std::string_view, std::size_t> places; // cells live as long as the table
    for (std::size_t row = 0; options.has("--group") && row < columns->rowCount(); ++row) {
        const auto [found, isNew] = places.emplace(columns->cell(row, *group), places.size());
        if (isNew) {
            out.names.emplace_back(found->first);
            out.groups.emplace_back();
        }
        out.groups[found->second].push_back(out.all[row]);
    }
    return out;
}

void addGroups(Json& json, const Grouped& data, double alpha) {
    Json list = Json::array();
    for (std::size_t i = 0; i < data.groups.size(); ++i) {
        Json one{{"group", data.names[i]}};
        one.update(descriptionJson(data.groups[i], alpha));
        list.push_back(std::move(one));
    }
    json["groups"] = list;
    json["pooledSd"] = optionalNumber(pooledSd(data.groups));
    json["anova"] = anovaJson(data.groups);
    json["bartlett"] = varianceTestJson(bartlett(data.groups));
    json["levene"] = varianceTestJson(levene(data.groups, true));
    json["cochran"] = nullptr;
    if (const auto test = cochran(data.groups, alpha)) {
        json["cochran"] = Json{{"suspect", data.names[test->suspect]},
                               {"c", test->c},
                               {"critical", test->critical},
                               {"alpha", alpha},
                               {"outlier", test->isOutlier}};
    }
}

Json intervalJson(const std::optional<std::array<double, 2>>& interval) {
    return interval ? Json{(*interval)[0], (*interval)[1]} : Json(nullptr);
}

Json tTestJson(const std::optional<TTest>& test, double confidence) {
    if (!test) {
        return nullptr;
    }
    const double half = test->t != 0 ? std::abs(test->difference / test->t) * studentFactor(confidence, test->df) : 0;
    return {{"difference", test->difference},
            {"low", test->difference - half},
            {"high", test->difference + half},
            {"t", test->t},
            {"df", test->df},
            {"p", test->pTwoSided}};
}

/// Two groups against each other.
Result<Json> comparisonJson(const Options& options, const Grouped& data, double confidence) {
    const std::vector<std::string> asked = options.words("--compare");
    if (asked.size() != 2 || !options.has("--group")) {
        return wrongCall("--compare takes two groups of --group, separated by a comma.");
    }
    std::array<const std::vector<double>*, 2> groups{};
    for (std::size_t i = 0; i < 2; ++i) {
        const auto found = std::find(data.names.begin(), data.names.end(), asked[i]);
        if (found == data.names.end()) {
            return fail("stats.no-group", "There is no group \"" + excerpt(asked[i]) + "\" in the column of --group.",
                        "Name two groups as they stand in the file.");
        }
        groups[i] = &data.groups[static_cast<std::size_t>(found - data.names.begin())];
    }
    const auto ratio = varianceRatio(*groups[0], *groups[1]);
    return Json{{"groups", asked},
                {"pooled", tTestJson(tTestPooled(*groups[0], *groups[1]), confidence)},
                {"welch", tTestJson(tTestWelch(*groups[0], *groups[1]), confidence)},
                {"f", ratio ? Json{{"f", ratio->f}, {"df1", ratio->df1}, {"df2", ratio->df2}, {"p", ratio->pTwoSided}}
                            : Json(nullptr)}};
}

/// The column as a control series: rules, moving range, EWMA and CUSUM of the standardised values.
Result<Json> controlJson(const Options& options, const std::vector<double>& values) {
    const auto from = options.number("--limits-from", static_cast<double>(values.size()), 2, 1e9, true);
    if (!from) {
        return tl::unexpected(from.error());
    }
    const auto count = std::min(static_cast<std::size_t>(*from), values.size());
    const Description base = describe(std::span(values).first(count));
    if (!base.sd || !(*base.sd > 0)) {
        return fail("stats.no-scatter", "The values that the limits are made from do not scatter.",
                    "Take more of them with --limits-from.");
    }
    std::vector<double> z;
    for (const double value : values) {
        z.push_back((value - *base.mean) / *base.sd);
    }
    Json rules = Json::object();
    for (const ControlRule rule : {ControlRule::OneTwoS, ControlRule::OneThreeS, ControlRule::TwoTwoS,
                                   ControlRule::RFourS, ControlRule::FourOneS, ControlRule::TenX}) {
        Json runs = Json::array();
        for (const std::size_t i : violations(rule, z)) {
            runs.push_back(i + 1);
        }
        rules[std::string(name(rule))] = runs;
    }
    constexpr double kLambda = 0.2; // usual
    constexpr double kEwmaLimit = 2.7;
    constexpr double kAllowance = 0.5;
    constexpr double kDecision = 5;
    const double wide = kEwmaLimit * std::sqrt(kLambda / (2 - kLambda));
    Json ewma = Json::array();
    Json ewmaOut = Json::array();
    const auto average = movingAverage(z, kLambda);
    for (std::size_t i = 0; i < average.size(); ++i) {
        ewma.push_back(average[i]);
        if (std::abs(average[i]) > wide) {
            ewmaOut.push_back(i + 1);
        }
    }
    Json cusum = Json::array();
    Json cusumOut = Json::array();
    const auto sums = cumulativeSums(z, kAllowance);
    for (std::size_t i = 0; i < sums.size(); ++i) {
        cusum.push_back({sums[i][0], sums[i][1]});
        if (std::max(std::abs(sums[i][0]), std::abs(sums[i][1])) > kDecision) {
            cusumOut.push_back(i + 1);
        }
    }
    const IndividualsLimits limits = individualsLimits(std::span(values).first(count));
    return Json{{"limitsFrom", count},
                {"mean", *base.mean},
                {"sd", *base.sd},
                {"rules", rules},
                {"ewma", {{"lambda", kLambda}, {"limit", wide}, {"values", ewma}, {"beyond", ewmaOut}}},
                {"cusum", {{"k", kAllowance}, {"h", kDecision}, {"values", cusum}, {"beyond", cusumOut}}},
                {"individuals",
                 {{"meanMovingRange", limits.meanMovingRange},
                  {"sigma", limits.sigma},
                  {"low", limits.low},
                  {"high", limits.high}}}};
}

/// Adds what is asked for beyond the description.
Result<void> addAsked(Json& json, const Options& options, const Grouped& data, double confidence) {
    json["interval"] = intervalJson(meanInterval(data.all, confidence));
    json["scaledMad"] = optionalNumber(scaledMedianDeviation(data.all));
    if (options.has("--quantiles")) {
        const auto shares = options.numbers("--quantiles");
        if (!shares || std::any_of(shares->begin(), shares->end(), [](double p) { return !(p >= 0 && p <= 1); })) {
            return wrongCall("--quantiles takes shares between 0 and 1, separated by commas.");
        }
        Json list = Json::array();
        for (const double share : *shares) {
            list.push_back({{"p", share}, {"value", optionalNumber(quantile(data.all, share))}});
        }
        json["quantiles"] = list;
    }
    if (options.has("--compare")) {
        auto compared = comparisonJson(options, data, confidence);
        if (!compared) {
            return tl::unexpected(compared.error());
        }
        json["comparison"] = std::move(*compared);
    }
    if (options.has("--control")) {
        auto control = controlJson(options, data.all);
        if (!control) {
            return tl::unexpected(control.error());
        }
        json["control"] = std::move(*control);
    }
    return {};
}

} // namespace

int statsCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    const auto options = Options::parse(
        arguments, {"--in", "--y", "--group", "--alpha", "--confidence", "--compare", "--quantiles", "--limits-from"},
        {"--control"});
    if (!options) {
        return refuse(out, err, options.error());
    }
    if (!options->has("--in")) {
        return refuse(out, err, wrongCall("stats needs --in and a CSV file.").value());
    }
    const auto alpha = options->number("--alpha", 0.05, 1e-12, 1, true);
    if (!alpha) {
        return refuse(out, err, alpha.error());
    }
    const auto confidence = options->number("--confidence", 0.95, 0, 1, false);
    if (!confidence) {
        return refuse(out, err, confidence.error());
    }
    const auto data = readGroups(*options);
    if (!data) {
        return refuse(out, err, data.error());
    }
    Json json = descriptionJson(data->all, *alpha);
    if (options->has("--group")) {
        addGroups(json, *data, *alpha);
    }
    if (const auto added = addAsked(json, *options, *data, *confidence); !added) {
        return refuse(out, err, added.error());
    }
    printJson(out, json);
    return 0;
}

} // namespace nuvat
