#include "calibration_input.h"

#include "nuvat/core/base/well.h"

#include <map>

namespace nuvat {

namespace {

bool isYes(std::string_view text) {
    const std::string_view word = trimmed(text);
    return word == "1" || word == "yes" || word == "true" || word == "TRUE";
}

} // namespace

const std::set<std::string>& inputOptions() {
    static const std::set<std::string> names{"--in", "--x", "--y", "--level", "--s", "--include"};
    return names;
}

const std::set<std::string>& modelOptions() {
    static const std::set<std::string> names{"--model", "--weight", "--weight-from", "--weight-floor",
                                             "--theta", "--fit-to", "--hold",        "--fixed"};
    return names;
}

Result<CalibrationInput> readCalibration(const Options& options) {
    if (!options.has("--in")) {
        return wrongCall(options.command() + " needs --in and a CSV file.");
    }
    const std::string path = options.text("--in");
    const auto columns =
        readColumns(path, options.texts({{"--x", "x"}, {"--y", "y"}, {"--level", ""}, {"--s", ""}, {"--include", ""}}));
    if (!columns) {
        return tl::unexpected(columns.error());
    }
    const auto index = [&](const std::string& option, const std::string& otherwise) -> Result<std::size_t> {
        return options.has(option) || !otherwise.empty() ? columns->find(options.text(option, otherwise))
                                                         : Result<std::size_t>(std::size_t{0});
    };
    const auto x = index("--x", "x");
    const auto y = index("--y", "y");
    const auto level = index("--level", "");
    const auto s = index("--s", "");
    const auto include = index("--include", "");
    for (const auto* column : {&x, &y, &level, &s, &include}) {
        if (!*column) {
            return tl::unexpected(column->error());
        }
    }
    CalibrationInput out;
    std::map<std::string, int, std::less<>> levels; // numbered in the order of the file
    const bool isPlain = !options.has("--include") && !options.has("--level") && !options.has("--s");
    if (isPlain) {
        auto xs = columns->column(*x);
        auto ys = columns->column(*y);
        if (!xs || !ys) {
            return tl::unexpected(!xs ? xs.error() : ys.error());
        }
        out.usedX = std::move(*xs);
        out.usedY = std::move(*ys);
        return out;
    }
    for (std::size_t row = 0; row < columns->rowCount(); ++row) {
        const auto xValue = columns->number(row, *x);
        const auto yValue = columns->number(row, *y);
        if (options.has("--include")) {
            const bool isUsed = isYes(columns->cell(row, *include));
            out.allX.push_back(xValue ? std::optional(*xValue) : std::nullopt);
            out.allY.push_back(yValue ? std::optional(*yValue) : std::nullopt);
            out.used.push_back(isUsed);
            if (!isUsed) {
                continue; // whatever its cells hold
            }
        }
        if (!xValue || !yValue) {
            return tl::unexpected(!xValue ? xValue.error() : yValue.error());
        }
        out.usedX.push_back(*xValue);
        out.usedY.push_back(*yValue);
        if (options.has("--level")) {
            const auto found = levels.emplace(columns->cell(row, *level), static_cast<int>(levels.size())).first;
            out.level.push_back(found->second);
        }
        if (options.has("--s")) {
            const auto value = columns->number(row, *s);
            if (!value || !(*value > 0)) {
                return value ? Result<CalibrationInput>(fail("fit.sd-not-positive",
                                                             path + ", line " + std::to_string(columns->line(row)) +
                                                                 ": a standard deviation has to be above 0.",
                                                             "Correct it, or leave --s out."))
                             : Result<CalibrationInput>(tl::unexpected(value.error()));
            }
            out.s.push_back(*value);
        }
    }
    return out;
}

Result<std::vector<double>> readColumn(const std::string& path, const std::string& column) {
    const auto columns =
        readColumns(path, column.empty() ? std::vector<std::string>{} : std::vector<std::string>{column});
    if (!columns) {
        return tl::unexpected(columns.error());
    }
    const auto index = column.empty() ? Result<std::size_t>(std::size_t{0}) : columns->find(column);
    if (!index) {
        return tl::unexpected(index.error());
    }
    return columns->column(*index);
}

Result<FitOptions> readFitOptions(const Options& options) {
    FitOptions out;
    const auto model = choice(options, "--model", Model::Line, &modelFromName, kModelNames);
    const auto weight = choice(options, "--weight", Weighting::None, &weightingFromName, kWeightNames);
    const auto from =
        choice(options, "--weight-from", WeightSource::Observed, &weightSourceFromName, "observed, level, fitted");
    const auto fitTo = choice(options, "--fit-to", FitTo::Replicates, &fitToFromName, "replicates, means");
    const auto held = options.named("--hold");
    const auto fixed = options.numbers("--fixed");
    const auto floor = options.number("--weight-floor", 0, 0, 1, true);
    const auto theta = options.number("--theta", 0, 0, 1.5000000001, true);
    if (!model || !weight || !from || !fitTo || !held || !fixed || !floor || !theta) {
        return tl::unexpected(!model    ? model.error()
                              : !weight ? weight.error()
                              : !from   ? from.error()
                              : !fitTo  ? fitTo.error()
                              : !held   ? held.error()
                              : !fixed  ? fixed.error()
                              : !floor  ? floor.error()
                                        : theta.error());
    }
    if (options.has("--weight-floor")) {
        out.weightFloor = *floor;
    }
    if (options.has("--theta")) {
        if (*weight != Weighting::Variance) {
            return wrongCall("--theta belongs to --weight variance.");
        }
        out.theta = *theta;
    }
    out.model = *model;
    out.weighting = *weight;
    out.weightFrom = *from;
    out.fitTo = *fitTo;
    for (const auto& [name, value] : *held) {
        if (!isLogistic(out.model) || (name != "a" && name != "d")) {
            return wrongCall("--hold takes a and d of the 4PL and 5PL, for example a=0.");
        }
        (name == "a" ? out.heldA : out.heldD) = value;
    }
    if (options.has("--fixed")) {
        if (out.model != Model::LineFixedPoint || fixed->size() != 2) {
            return wrongCall("--fixed takes the point of line-fixed as concentration,response, for example 0,0.05.");
        }
        out.fixedX = (*fixed)[0];
        out.fixedY = (*fixed)[1];
    }
    out.isSplineInLogX = options.has("--spline-log");
    return out;
}

Json fitHead(const Fit& fit) {
    Json out{{"model", name(fit.model)}, {"weight", name(fit.weighting)}};
    if (fit.weighting == Weighting::InverseY || fit.weighting == Weighting::InverseY2) {
        out["weightFrom"] = name(fit.options.weightFrom);
        out["weightFloor"] = fit.floorOfY;
    }
    if (fit.weighting == Weighting::Variance && fit.isUsable()) {
        out["varianceFunction"] = {{"k", fit.variance.k}, {"theta", fit.variance.theta}, {"floor", fit.variance.floor}};
    }
    out["fitTo"] = name(fit.options.fitTo);
    out["status"] = name(fit.status);
    out["message"] = fit.message;
    out["parameterOrder"] = fit.parameterNames;
    return out;
}

} // namespace nuvat
