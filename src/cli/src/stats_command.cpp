#include "stats_command.h"

#include "calibration_input.h"

#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/groups.h"
#include "nuvat/core/stats/outliers.h"

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
    const auto columns = readColumns(options.text("--in"));
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

} // namespace

int statsCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    const auto options = Options::parse(arguments, {"--in", "--y", "--group", "--alpha"});
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
    const auto data = readGroups(*options);
    if (!data) {
        return refuse(out, err, data.error());
    }
    Json json = descriptionJson(data->all, *alpha);
    if (options->has("--group")) {
        addGroups(json, *data, *alpha);
    }
    printJson(out, json);
    return 0;
}

} // namespace nuvat
