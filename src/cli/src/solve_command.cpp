#include "solve_command.h"

#include "calibration_input.h"

#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "nuvat/core/fit/least_squares.h"
#include "nuvat/core/formula/precise_formula.h"
#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <type_traits>

namespace nuvat {

namespace {

using Real = long double;

/// Columns that formulas may use, in the digits of their text.
template<class T> struct Variables {
    std::vector<std::string> names;
    std::vector<std::vector<T>> columns; ///< same order
};

/// @param text one that is a number
template<class T> T exactNumber(std::string_view text, NumberFormat format) {
    std::string plain(trimmed(text));
    std::replace(plain.begin(), plain.end(), format.decimal, '.');
    plain.erase(0, plain.starts_with('+') ? 1 : 0);
    if constexpr (std::is_same_v<T, Quad>) {
        return Quad(plain);
    } else {
        T value = 0;
        std::from_chars(plain.data(), plain.data() + plain.size(), value);
        return value;
    }
}

/// The columns that any of the texts mentions: others may hold words.
template<class T>
Result<Variables<T>> readVariables(const ColumnTable& columns, const std::vector<std::string>& texts) {
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
    Variables<T> out;
    for (std::size_t k = 0; k < columns.headings().size(); ++k) {
        const std::string& name = columns.headings()[k];
        if (name.empty() || !isMentioned(name)) {
            continue;
        }
        std::vector<T> values;
        for (std::size_t row = 0; row < columns.rowCount(); ++row) {
            const auto number = columns.number(row, k); // for its sentence
            if (!number) {
                return tl::unexpected(number.error());
            }
            values.push_back(exactNumber<T>(columns.cell(row, k), columns.numbers()));
        }
        out.names.push_back(name);
        out.columns.push_back(std::move(values));
    }
    return out;
}

Real valueOf(const Formula& formula, const std::vector<Real>& values) {
    return formula.value(std::span<const Real>(values));
}
Quad valueOf(const Formula& formula, const std::vector<Quad>& values) {
    return PreciseFormula::value(formula, values);
}

/// A formula of the columns alone, line by line.
template<class T>
Result<std::vector<T>> evaluateColumns(const std::string& text, const Variables<T>& variables, std::size_t n,
                                       const std::string& what) {
    const auto formula = Formula::parse(text, variables.names, what);
    if (!formula) {
        return tl::unexpected(formula.error());
    }
    std::vector<T> out;
    std::vector<T> row(variables.names.size());
    for (std::size_t i = 0; i < n; ++i) {
        for (std::size_t k = 0; k < row.size(); ++k) {
            row[k] = variables.columns[k][i];
        }
        out.push_back(valueOf(*formula, row));
        using std::isfinite;
        if (!isfinite(out.back())) {
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
    }
    return json;
}

struct Problem {
    Formula formula;
    ColumnTable table;
    std::string response;
    std::vector<std::string> texts; ///< of all formulas
    Variables<Real> variables;
    std::vector<std::string> names;
    std::vector<double> start;
    std::vector<Real> y, w;
    double confidence = 0.95;
    bool hasFitted = true;
};

std::string namesText(const std::vector<std::string>& parameters, const std::vector<std::string>& headings) {
    std::string out;
    for (const auto* list : {&parameters, &headings}) {
        for (const std::string& name : *list) {
            out += (out.empty() ? "" : ", ") + excerpt(name);
        }
    }
    return out;
}

Result<Problem> pose(const std::vector<std::string>& arguments) {
    const auto options = Options::parse(
        arguments, {"--formula", "--response", "--start", "--in", "--weight", "--confidence"}, {"--no-fitted"});
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
    out.hasFitted = !options->has("--no-fitted");
    for (const auto& [name, value] : *start) {
        if (std::find(out.names.begin(), out.names.end(), name) != out.names.end()) {
            return wrongCall("--start names " + name + " twice.");
        }
        out.names.push_back(name);
        out.start.push_back(value);
    }
    const auto [left, right] = splitAtEquals(options->text("--formula"));
    const auto withoutBlanks = [](std::string text) {
        std::erase(text, ' ');
        return text;
    };
    if (!left.empty() && options->has("--response") &&
        withoutBlanks(left) != withoutBlanks(options->text("--response"))) {
        return wrongCall("the formula names the response \"" + left + "\" and --response names \"" +
                         options->text("--response") + "\"; give one of them.");
    }
    const std::string response = options->text("--response", left.empty() ? "y" : left);
    const std::string weight = options->text("--weight", "none");
    auto columns = readColumns(options->text("--in"));
    if (!columns) {
        return tl::unexpected(columns.error());
    }
    out.response = response;
    out.texts = {right, response, weight};
    auto variables = readVariables<Real>(*columns, out.texts);
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
        Error error = formula.error();
        if (error.code == "formula.unknown-name") { // also the columns that no formula mentions
            error.advice = "Known are the parameters and columns " + namesText(out.names, columns->headings()) + ".";
        }
        return tl::unexpected(std::move(error));
    }
    for (std::size_t k = 0; k < out.names.size(); ++k) {
        if (!formula->uses(k)) {
            return wrongCall("the formula does not use the parameter " + out.names[k] + " of --start.");
        }
    }
    out.table = std::move(*columns);
    out.formula = std::move(*formula);
    out.variables = std::move(*variables);
    out.y = std::move(*y);
    out.w = std::move(*w);
    return out;
}

/// y - f in 34 digits, from the text of the file on.
bool residualsInQuad(const Problem& problem, std::span<const Real> parameters, std::span<Real> residuals) {
    const auto variables = readVariables<Quad>(problem.table, problem.texts);
    if (!variables) {
        return false;
    }
    const auto y = evaluateColumns<Quad>(problem.response, *variables, residuals.size(), "The response");
    if (!y) {
        return false;
    }
    std::vector<Quad> values(parameters.begin(), parameters.end());
    values.resize(parameters.size() + variables->columns.size());
    for (std::size_t i = 0; i < residuals.size(); ++i) {
        for (std::size_t k = 0; k < variables->columns.size(); ++k) {
            values[parameters.size() + k] = variables->columns[k][i];
        }
        residuals[i] = static_cast<Real>((*y)[i] - valueOf(problem.formula, values));
    }
    return std::all_of(residuals.begin(), residuals.end(), [](Real r) { return std::isfinite(r); });
}

} // namespace

int solveCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    const auto problem = pose(arguments);
    if (!problem) {
        return refuse(out, err, problem.error());
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
    const PreciseResiduals precise = [&](std::span<const Real> b, std::span<Real> residuals) {
        return residualsInQuad(*problem, b, residuals);
    };
    const LeastSquaresFit fit = fitNonlinear(curve, problem->start, problem->y, problem->w, precise);
    Json json = resultJson(fit, problem->names, problem->confidence);
    json["response"] = problem->response;
    if (fit.isUsable() && problem->hasFitted) {
        json["fitted"] = fit.fitted;
    }
    printJson(out, json);
    if (!fit.isUsable()) {
        err << "nuvat-cli: " << json["message"].get<std::string>() << "\n";
        return 1;
    }
    return 0;
}

} // namespace nuvat
