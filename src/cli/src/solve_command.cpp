#include "solve_command.h"

#include "calibration_input.h"

#include "nuvat/core/base/well.h"
#include "nuvat/core/fit/least_squares.h"
#include "nuvat/core/formula/formula.h"
#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace nuvat {

namespace {

using Real = long double;

/// A column that formulas may use, in the digits of its text.
struct Variables {
    std::vector<std::string> names;
    std::vector<std::vector<Real>> columns; ///< same order
};

std::optional<Real> exactNumber(std::string_view text, NumberFormat format) {
    if (!parseNumber(text, format)) {
        return std::nullopt;
    }
    std::string plain(trimmed(text));
    std::replace(plain.begin(), plain.end(), format.decimal, '.');
    Real value = 0;
    const char* from = plain.data() + (plain.starts_with('+') ? 1 : 0);
    const auto result = std::from_chars(from, plain.data() + plain.size(), value);
    return result.ec == std::errc() ? std::optional(value) : std::nullopt;
}

/// The columns that any of the texts mentions: others may hold words.
Result<Variables> readVariables(const ColumnTable& columns, const std::vector<std::string>& texts) {
    const auto isMentioned = [&](const std::string& name) {
        const auto isNamePart = [](char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_'; };
        return std::any_of(texts.begin(), texts.end(), [&](const std::string& text) {
            for (std::size_t at = text.find(name); at != std::string::npos; at = text.find(name, at + 1)) {
                const bool isWhole = (at == 0 || !isNamePart(text[at - 1])) &&
                                     (at + name.size() == text.size() || !isNamePart(text[at + name.size()]));
                if (isWhole) {
                    return true;
                }
            }
            return false;
        });
    };
    Variables out;
    for (std::size_t k = 0; k < columns.headings().size(); ++k) {
        const std::string& name = columns.headings()[k];
        if (name.empty() || !isMentioned(name)) {
            continue;
        }
        std::vector<Real> values;
        for (std::size_t row = 0; row < columns.rowCount(); ++row) {
            const auto number = columns.number(row, k); // for its sentence
            if (!number) {
                return tl::unexpected(number.error());
            }
            values.push_back(exactNumber(columns.cell(row, k), columns.numbers()).value_or(*number));
        }
        out.names.push_back(name);
        out.columns.push_back(std::move(values));
    }
    return out;
}

/// A formula of the columns alone, line by line.
Result<std::vector<Real>> evaluateColumns(const std::string& text, const Variables& variables, std::size_t n,
                                          const std::string& what) {
    const auto formula = Formula::parse(text, variables.names, what);
    if (!formula) {
        return tl::unexpected(formula.error());
    }
    std::vector<Real> out;
    std::vector<Real> row(variables.names.size());
    for (std::size_t i = 0; i < n; ++i) {
        for (std::size_t k = 0; k < row.size(); ++k) {
            row[k] = variables.columns[k][i];
        }
        out.push_back(formula->value(row));
        if (!std::isfinite(out.back())) {
            return fail("solve.not-finite",
                        what + " has no finite value for line " + std::to_string(i + 2) + " of the file.",
                        "Correct the line or the formula.");
        }
    }
    return out;
}

/// "y = a*x" names its response itself.
std::pair<std::string, std::string> splitAtEquals(const std::string& text) {
    for (std::size_t i = 0; i < text.size(); ++i) {
        const bool isPart =
            (i > 0 && (text[i - 1] == '<' || text[i - 1] == '>' || text[i - 1] == '!' || text[i - 1] == '=')) ||
            (i + 1 < text.size() && text[i + 1] == '=');
        if (text[i] == '=' && !isPart) {
            return {text.substr(0, i), text.substr(i + 1)};
        }
    }
    return {"", text};
}

Json resultJson(const LeastSquaresFit& fit, const std::vector<std::string>& names, double confidence) {
    std::string message = fit.message;
    if (fit.status == FitStatus::NotDetermined) {
        message = "The data do not fix " + names[fit.weakest] + ": it can be traded against the other parameters.";
    }
    Json json{{"status", name(fit.status)}, {"message", message}, {"parameterOrder", names}};
    Json parameters = Json::object();
    Json se = Json::object();
    Json interval = Json::object();
    for (std::size_t k = 0; k < fit.parameters.size(); ++k) {
        const double t = studentFactor(confidence, fit.df);
        parameters[names[k]] = fit.parameters[k];
        se[names[k]] = fit.se[k];
        interval[names[k]] = {fit.parameters[k] - t * fit.se[k], fit.parameters[k] + t * fit.se[k]};
    }
    if (fit.isUsable()) {
        json["parameters"] = parameters;
        json["se"] = se;
        json["interval"] = interval;
        json["covariance"] = matrixRows(fit.covariance);
    }
    json["n"] = fit.n;
    json["p"] = fit.p;
    if (fit.isUsable()) {
        json["df"] = fit.df;
        json["sse"] = fit.sse;
        json["s"] = fit.s;
        json["r2"] = fit.rSquared;
        json["iterations"] = fit.iterations;
        json["fitted"] = fit.fitted;
    }
    return json;
}

/// Everything the solver needs.
struct Problem {
    Formula formula;
    Variables variables;
    std::vector<std::string> names;
    std::vector<double> start;
    std::vector<Real> y, w;
    double confidence = 0.95;
};

Result<Problem> pose(const std::vector<std::string>& arguments) {
    const auto options =
        Options::parse(arguments, {"--formula", "--response", "--start", "--in", "--weight", "--confidence"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    if (!options->has("--formula") || !options->has("--start") || !options->has("--in")) {
        return wrongCall("solve needs --formula, --start and --in.");
    }
    const auto start = options->named("--start");
    const auto confidence = options->number("--confidence", 0.95, 0, 1, false);
    if (!start || !confidence) {
        return tl::unexpected(!start ? start.error() : confidence.error());
    }
    Problem out;
    out.confidence = *confidence;
    for (const auto& [name, value] : *start) {
        if (std::find(out.names.begin(), out.names.end(), name) != out.names.end()) {
            return wrongCall("--start names " + name + " twice.");
        }
        out.names.push_back(name);
        out.start.push_back(value);
    }
    const auto [left, right] = splitAtEquals(options->text("--formula"));
    const std::string response = options->text("--response", left.empty() ? "y" : left);
    const std::string weight = options->text("--weight", "none");
    const auto columns = readColumns(options->text("--in"));
    if (!columns) {
        return tl::unexpected(columns.error());
    }
    auto variables = readVariables(*columns, {right, response, weight});
    if (!variables) {
        return tl::unexpected(variables.error());
    }
    const std::size_t n = columns->rowCount();
    auto y = evaluateColumns(response, *variables, n, "The response");
    auto w = weight == "none" ? Result<std::vector<Real>>(std::vector<Real>{})
                              : evaluateColumns(weight, *variables, n, "The weight");
    if (!y || !w) {
        return tl::unexpected(!y ? y.error() : w.error());
    }
    if (std::any_of(w->begin(), w->end(), [](Real v) { return !(v > 0); })) {
        return fail("solve.weight-not-positive", "The weight is not above 0 for every line of the file.",
                    "Correct the lines or the formula.");
    }
    std::vector<std::string> all = out.names; // parameters first, then columns
    for (const std::string& name : variables->names) {
        if (std::find(out.names.begin(), out.names.end(), name) != out.names.end()) {
            return wrongCall("\"" + name + "\" is both a column of the file and a parameter of --start.");
        }
        all.push_back(name);
    }
    auto formula = Formula::parse(right, all, "The formula");
    if (!formula) {
        return tl::unexpected(formula.error());
    }
    for (std::size_t k = 0; k < out.names.size(); ++k) {
        if (!formula->uses(k)) {
            return wrongCall("the formula does not use the parameter " + out.names[k] + " of --start.");
        }
    }
    out.formula = std::move(*formula);
    out.variables = std::move(*variables);
    out.y = std::move(*y);
    out.w = std::move(*w);
    return out;
}

} // namespace

int solveCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    const auto problem = pose(arguments);
    if (!problem) {
        return explain(err, problem.error());
    }
    const std::size_t p = problem->names.size();
    const std::size_t columns = problem->variables.columns.size();
    std::vector<Real> values(p + columns);
    std::vector<Real> gradient(p + columns);
    const CurveFunction curve = [&](std::span<const Real> b, std::span<Real> fitted, std::span<Real> jacobian) {
        std::copy(b.begin(), b.end(), values.begin());
        for (std::size_t i = 0; i < fitted.size(); ++i) {
            for (std::size_t k = 0; k < columns; ++k) {
                values[p + k] = problem->variables.columns[k][i];
            }
            fitted[i] = problem->formula.valueAndGradient(values, gradient);
            if (!std::isfinite(fitted[i])) {
                return false;
            }
            std::copy_n(gradient.begin(), p, jacobian.begin() + static_cast<std::ptrdiff_t>(i * p));
        }
        return true;
    };
    const LeastSquaresFit fit = fitNonlinear(curve, problem->start, problem->y, problem->w);
    const Json json = resultJson(fit, problem->names, problem->confidence);
    printJson(out, json);
    if (!fit.isUsable()) {
        err << "nuvat-cli: " << json["message"].get<std::string>() << "\n";
        return 1;
    }
    return 0;
}

} // namespace nuvat
