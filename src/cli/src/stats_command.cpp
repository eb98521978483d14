#include "stats_command.h"

#include "columns.h"

#include "nuvat/core/base/well.h"
#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/groups.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

constexpr double kAlpha = 0.05; // of the outlier test

Json descriptionJson(const std::vector<double>& values) {
    const Description d = describe(values);
    Json out{{"n", d.n},
             {"mean", optionalNumber(d.mean)},
             {"sd", optionalNumber(d.sd)},
             {"cv", optionalNumber(d.cvPercent)}};
    out["sem"] = d.sd ? Json(*d.sd / std::sqrt(static_cast<double>(d.n))) : Json(nullptr);
    out["median"] = optionalNumber(median(values));
    if (const auto test = grubbs(values, kAlpha)) {
        out["grubbs"] = {{"suspect", values[test->suspect]}, {"g", test->g},
                         {"critical", test->critical},       {"alpha", kAlpha},
                         {"pBound", test->pBound},           {"outlier", test->isOutlier}};
    } else {
        out["grubbs"] = nullptr;
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

} // namespace

int statsCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    std::string in;
    std::string y = "y";
    std::string group;
    for (std::size_t i = 1; i < arguments.size(); i += 2) {
        std::string* target = arguments[i] == "--in"      ? &in
                              : arguments[i] == "--y"     ? &y
                              : arguments[i] == "--group" ? &group
                                                          : nullptr;
        if (target == nullptr || i + 1 == arguments.size()) {
            return explain(err, wrongCall("stats takes --in FILE, --y COLUMN and --group COLUMN.").value());
        }
        *target = arguments[i + 1];
    }
    if (in.empty()) {
        return explain(err, wrongCall("stats needs --in and a CSV file.").value());
    }
    const auto columns = readColumns(in);
    if (!columns) {
        return explain(err, columns.error());
    }
    const auto yColumn = columns->find(y);
    const auto groupColumn = group.empty() ? Result<std::size_t>(std::size_t{0}) : columns->find(group);
    if (!yColumn || !groupColumn) {
        return explain(err, !yColumn ? yColumn.error() : groupColumn.error());
    }
    std::vector<double> all;
    std::vector<std::string> names; // in the order of the file
    Groups groups;
    for (std::size_t i = 1; i < columns->table.rows.size(); ++i) {
        const DelimitedRow& row = columns->table.rows[i];
        const auto value = columns->number(row, *yColumn);
        if (!value) {
            return explain(err, value.error());
        }
        all.push_back(*value);
        if (group.empty()) {
            continue;
        }
        const std::string name =
            *groupColumn < row.cells.size() ? std::string(trimmed(row.cells[*groupColumn])) : std::string();
        const auto found = std::find(names.begin(), names.end(), name);
        const auto index = static_cast<std::size_t>(found - names.begin());
        if (found == names.end()) {
            names.push_back(name);
            groups.emplace_back();
        }
        groups[index].push_back(*value);
    }
    Json json = descriptionJson(all);
    if (!group.empty()) {
        Json list = Json::array();
        for (std::size_t i = 0; i < groups.size(); ++i) {
            Json one{{"group", names[i]}};
            one.update(descriptionJson(groups[i]));
            list.push_back(std::move(one));
        }
        json["groups"] = list;
        json["anova"] = anovaJson(groups);
        json["bartlett"] = varianceTestJson(bartlett(groups));
        json["levene"] = varianceTestJson(levene(groups, true));
    }
    out << json.dump(2, ' ', false, Json::error_handler_t::replace) << "\n";
    return all.empty() ? 1 : 0;
}

} // namespace nuvat
