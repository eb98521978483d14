#include "nuvat/core/fit/calibration.h"

#include "logistic4.h"
#include "nuvat/core/stats/descriptive.h"
#include "polynomial.h"

#include <algorithm>
#include <cmath>
#include <Eigen/Dense>
#include <map>
#include <numbers>
#include <set>
#include <stdexcept>
#include <utility>

namespace nuvat {

namespace {

constexpr std::array<std::pair<Model, std::string_view>, 5> kModelNames{{{Model::Line, "line"},
                                                                         {Model::LineThroughOrigin, "line0"},
                                                                         {Model::Quadratic, "quadratic"},
                                                                         {Model::Cubic, "cubic"},
                                                                         {Model::Logistic4, "4pl"}}};
constexpr std::array<std::pair<Weighting, std::string_view>, 6> kWeightingNames{{{Weighting::None, "none"},
                                                                                 {Weighting::InverseX, "1/x"},
                                                                                 {Weighting::InverseX2, "1/x2"},
                                                                                 {Weighting::InverseY, "1/y"},
                                                                                 {Weighting::InverseY2, "1/y2"},
                                                                                 {Weighting::InverseS2, "1/s2"}}};
constexpr double kFloorOfAbsY = 1e-6; // of the largest |y|, so that a response near zero cannot take over the fit

template<class Table, class Key> std::string_view nameIn(const Table& table, Key key) {
    for (const auto& [value, text] : table) {
        if (value == key) {
            return text;
        }
    }
    throw std::invalid_argument("name: not one of the enumerators");
}

template<class Table> auto valueIn(const Table& table, std::string_view text) {
    using Value = decltype(table.front().first);
    for (const auto& [value, itsName] : table) {
        if (itsName == text) {
            return std::optional<std::remove_cvref_t<Value>>(value);
        }
    }
    return std::optional<std::remove_cvref_t<Value>>();
}

double lowestPositive(std::span<const double> x) {
    double lowest = 0;
    for (const double v : x) {
        if (v > 0 && (lowest == 0 || v < lowest)) {
            lowest = v;
        }
    }
    return lowest;
}

double largestAbs(std::span<const double> y) {
    double largest = 0;
    for (const double v : y) {
        largest = std::max(largest, std::abs(v));
    }
    return largest;
}

/// Weighted sums of a straight line, centred, in extended precision.
struct LineSums {
    long double w = 0, x = 0, y = 0, xx = 0, xy = 0, yy = 0; // x, y: weighted means; xx, xy, yy: centred sums
};

LineSums lineSums(std::span<const double> x, std::span<const double> y, std::span<const double> w) {
    LineSums sums;
    for (std::size_t i = 0; i < x.size(); ++i) {
        sums.w += w[i];
        sums.x += static_cast<long double>(w[i]) * x[i];
        sums.y += static_cast<long double>(w[i]) * y[i];
    }
    sums.x /= sums.w;
    sums.y /= sums.w;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const long double dx = x[i] - sums.x;
        const long double dy = y[i] - sums.y;
        sums.xx += w[i] * dx * dx;
        sums.xy += w[i] * dx * dy;
        sums.yy += w[i] * dy * dy;
    }
    return sums;
}

long double weightedSse(const Fit& fit, std::span<const double> y) {
    long double sse = 0;
    for (std::size_t i = 0; i < y.size(); ++i) {
        const long double residual = static_cast<long double>(y[i]) - fit.fitted[i];
        sse += fit.weights[i] * residual * residual;
    }
    return sse;
}

void fitLine(Fit& fit, std::span<const double> x, std::span<const double> y) {
    const LineSums sums = lineSums(x, y, fit.weights);
    const long double b = sums.xy / sums.xx;
    const long double a = sums.y - b * sums.x;
    fit.parameters = {static_cast<double>(a), static_cast<double>(b)};
    long double sse = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const long double residual = (y[i] - sums.y) - b * (x[i] - sums.x);
        sse += fit.weights[i] * residual * residual;
        fit.fitted.push_back(static_cast<double>(sums.y + b * (x[i] - sums.x)));
    }
    fit.sse = static_cast<double>(sse);
    const long double s2 = sse / fit.df;
    const long double varB = s2 / sums.xx;
    const long double varA = s2 / sums.w + varB * sums.x * sums.x;
    const long double cov = -varB * sums.x;
    fit.covariance = {static_cast<double>(varA), static_cast<double>(cov), static_cast<double>(cov),
                      static_cast<double>(varB)};
    if (sums.yy > 0) {
        fit.rSquared = static_cast<double>(1 - sse / sums.yy);
        fit.r = static_cast<double>(sums.xy / std::sqrt(sums.xx * sums.yy));
    }
}

void fitLineThroughOrigin(Fit& fit, std::span<const double> x, std::span<const double> y) {
    long double xx = 0;
    long double xy = 0;
    long double yy = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const long double w = fit.weights[i];
        xx += w * x[i] * x[i];
        xy += w * x[i] * y[i];
        yy += w * y[i] * y[i];
    }
    const long double b = xy / xx;
    fit.parameters = {static_cast<double>(b)};
    long double sse = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const long double residual = y[i] - b * x[i];
        sse += fit.weights[i] * residual * residual;
        fit.fitted.push_back(static_cast<double>(b * x[i]));
    }
    fit.sse = static_cast<double>(sse);
    fit.covariance = {static_cast<double>(sse / fit.df / xx)};
    if (yy > 0) {
        fit.rSquared = static_cast<double>(1 - sse / yy);
    }
}

void fitLogistic4(Fit& fit, std::span<const double> x, std::span<const double> y) {
    const Logistic4Outcome outcome = solveLogistic4(x, y, fit.weights);
    fit.status = outcome.status;
    fit.message = outcome.message;
    fit.warnings = outcome.warnings;
    if (outcome.status != FitStatus::Ok) {
        return;
    }
    fit.parameters.assign(outcome.parameters.begin(), outcome.parameters.end());
    for (const double v : x) {
        fit.fitted.push_back(response(fit, v));
    }
    fit.sse = static_cast<double>(weightedSse(fit, y));
    const double s2 = fit.sse / fit.df;
    for (const double v : outcome.inverseInformation) {
        fit.covariance.push_back(s2 * v);
    }
    const LineSums sums = lineSums(x, y, fit.weights);
    if (sums.yy > 0) {
        fit.rSquared = static_cast<double>(1 - fit.sse / sums.yy);
    }
}

/// Polynomial of degree p - 1 in z = (x - centre)/scale; also says when it turns inside the standards.
void fitPolynomial(Fit& fit, std::span<const double> x, std::span<const double> y) {
    using Matrix = Eigen::Matrix<long double, Eigen::Dynamic, Eigen::Dynamic>;
    using Vector = Eigen::Matrix<long double, Eigen::Dynamic, 1>;
    const auto n = static_cast<Eigen::Index>(fit.n);
    const auto p = static_cast<Eigen::Index>(fit.p);
    fit.centre = (fit.lowestX + fit.highestX) / 2;
    fit.scale = (fit.highestX - fit.lowestX) / 2;
    // The mean is taken off first: y far from zero then costs no digits of the residuals.
    const LineSums sums = lineSums(x, y, fit.weights);
    Matrix design(n, p);
    Vector right(n);
    for (Eigen::Index i = 0; i < n; ++i) {
        const auto at = static_cast<std::size_t>(i);
        const long double root = std::sqrt(static_cast<long double>(fit.weights[at]));
        const long double z = (static_cast<long double>(x[at]) - fit.centre) / fit.scale;
        long double power = root;
        for (Eigen::Index k = 0; k < p; ++k) {
            design(i, k) = power;
            power *= z;
        }
        right(i) = root * (y[at] - sums.y);
    }
    const Eigen::HouseholderQR<Matrix> qr(design);
    Vector beta = qr.solve(right);
    const Vector residual = right - design * beta;
    const long double sse = residual.squaredNorm();
    beta(0) += sums.y;
    fit.sse = static_cast<double>(sse);
    const Matrix r = qr.matrixQR().topRows(p).triangularView<Eigen::Upper>();
    const Matrix inverse = r.triangularView<Eigen::Upper>().solve(Matrix::Identity(p, p));
    const Matrix covariance = inverse * inverse.transpose() * (sse / static_cast<long double>(fit.df));
    // (x - m)^k/h^k by the binomial theorem: column k of `toPlain` holds its coefficients of 1, x, x^2, …
    Matrix toPlain = Matrix::Zero(p, p);
    for (Eigen::Index k = 0; k < p; ++k) {
        long double binomial = 1;
        for (Eigen::Index j = k; j >= 0; --j) { // coefficient of x^j: C(k, j)*(-m)^(k - j)/h^k
            toPlain(j, k) = binomial * std::pow(-static_cast<long double>(fit.centre), static_cast<int>(k - j)) /
                            std::pow(static_cast<long double>(fit.scale), static_cast<int>(k));
            binomial = binomial * static_cast<long double>(j) / static_cast<long double>(k - j + 1);
        }
    }
    const Vector plain = toPlain * beta;
    const Matrix plainCovariance = toPlain * covariance * toPlain.transpose();
    for (Eigen::Index k = 0; k < p; ++k) {
        fit.parameters.push_back(static_cast<double>(plain(k)));
        fit.workParameters.push_back(static_cast<double>(beta(k)));
        for (Eigen::Index j = 0; j < p; ++j) {
            fit.covariance.push_back(static_cast<double>(plainCovariance(k, j)));
            fit.workCovariance.push_back(static_cast<double>(covariance(k, j)));
        }
    }
    for (const double v : x) {
        fit.fitted.push_back(response(fit, v));
    }
    if (sums.yy > 0) {
        fit.rSquared = static_cast<double>(1 - sse / sums.yy);
    }
    const Branch branch = monotoneBranch(fit);
    if (branch.low > fit.lowestX || branch.high < fit.highestX) {
        fit.warnings.emplace_back(
            "The curve turns inside the range of the standards; only the branch that holds most of "
            "them is read off.");
    }
}

std::string needsText(const Fit& fit, std::size_t levels) {
    const std::string model = fit.model == Model::Logistic4   ? "The 4PL"
                              : fit.model == Model::Quadratic ? "The quadratic"
                              : fit.model == Model::Cubic     ? "The cubic"
                                                              : "The line";
    if (levels < std::max<std::size_t>(fit.p, 1)) {
        return model + " needs standards at " + std::to_string(fit.p) +
               " different concentrations or more; there are " + std::to_string(levels) + ".";
    }
    return model + " needs " + std::to_string(fit.p + 1) + " points or more to give an uncertainty; there are " +
           std::to_string(fit.n) + ".";
}

std::vector<std::string> namesOfParameters(Model model) {
    switch (model) {
    case Model::Line:
        return {"a", "b"};
    case Model::LineThroughOrigin:
        return {"b"};
    case Model::Quadratic:
        return {"b0", "b1", "b2"};
    case Model::Cubic:
        return {"b0", "b1", "b2", "b3"};
    case Model::Logistic4:
        return {"a", "b", "c", "d"};
    }
    throw std::invalid_argument("namesOfParameters: not a model");
}

/// Source: C. M. Hurvich, C.-L. Tsai, "Regression and time series model selection in small samples", Biometrika 76
/// (1989) 297-307, with the weights' part of the likelihood and k = p + 1 (the scale is a parameter too).
std::optional<double> akaike(const Fit& fit) {
    const auto n = static_cast<double>(fit.n);
    const auto k = static_cast<double>(fit.p + 1);
    if (n <= k + 1 || !(fit.sse > 0)) {
        return std::nullopt;
    }
    double logWeights = 0;
    for (const double w : fit.weights) {
        logWeights += std::log(w);
    }
    const double minusTwiceLogLikelihood = n * (std::log(2 * std::numbers::pi * fit.sse / n) + 1) - logWeights;
    return minusTwiceLogLikelihood + 2 * k + 2 * k * (k + 1) / (n - k - 1);
}

void checkInput(Model model, std::span<const double> x, std::span<const double> y) {
    if (x.size() != y.size()) {
        throw std::invalid_argument("fitCalibration: x and y differ in length");
    }
    const auto finite = [](double v) { return std::isfinite(v); };
    if (!std::all_of(x.begin(), x.end(), finite) || !std::all_of(y.begin(), y.end(), finite)) {
        throw std::invalid_argument("fitCalibration: every x and y must be finite");
    }
    if (model == Model::Logistic4 && std::any_of(x.begin(), x.end(), [](double v) { return v < 0; })) {
        throw std::invalid_argument("fitCalibration: the 4PL needs concentrations of 0 or more");
    }
}

} // namespace

std::string_view name(Model model) {
    return nameIn(kModelNames, model);
}
std::string_view name(Weighting weighting) {
    return nameIn(kWeightingNames, weighting);
}

std::string_view name(FitStatus status) {
    switch (status) {
    case FitStatus::Ok:
        return "ok";
    case FitStatus::NotEnoughData:
        return "not-enough-data";
    case FitStatus::NotDetermined:
        return "not-determined";
    case FitStatus::NotConverged:
        return "not-converged";
    }
    throw std::invalid_argument("name: not a fit status");
}

std::optional<Model> modelFromName(std::string_view text) {
    return valueIn(kModelNames, text);
}
std::optional<Weighting> weightingFromName(std::string_view text) {
    return valueIn(kWeightingNames, text);
}
std::size_t parameterCount(Model model) {
    return namesOfParameters(model).size();
}

std::vector<LevelScatter> levelScatter(std::span<const double> x, std::span<const double> y) {
    std::map<double, std::vector<double>> levels;
    for (std::size_t i = 0; i < x.size(); ++i) {
        levels[x[i]].push_back(y[i]);
    }
    double squares = 0;
    double freedom = 0;
    for (const auto& [level, values] : levels) {
        const double sd = describe(values).sd.value_or(0);
        squares += sd * sd * static_cast<double>(values.size() - 1);
        freedom += static_cast<double>(values.size() - 1);
    }
    if (!(squares > 0)) {
        return {};
    }
    const double pooled = std::sqrt(squares / freedom);
    std::vector<LevelScatter> out;
    for (const auto& [level, values] : levels) {
        const Description d = describe(values);
        out.push_back({*d.mean, d.sd.value_or(0) > 0 ? *d.sd : pooled});
    }
    std::stable_sort(out.begin(), out.end(), [](const auto& l, const auto& r) { return l.meanY < r.meanY; });
    return out;
}

namespace {

/// 1/s2 of every point: levelScatter keeps levels by mean response, so each level is found by its own mean.
std::vector<double> weightsFromScatter(std::span<const double> x, std::span<const double> y) {
    const auto scatter = levelScatter(x, y);
    if (scatter.empty()) {
        return {};
    }
    std::map<double, std::vector<double>> levels;
    for (std::size_t i = 0; i < x.size(); ++i) {
        levels[x[i]].push_back(y[i]);
    }
    std::map<double, double> weightOf;
    for (const auto& [level, values] : levels) {
        const double mean = *describe(values).mean;
        const auto found =
            std::find_if(scatter.begin(), scatter.end(), [mean](const auto& l) { return l.meanY == mean; });
        weightOf[level] = 1 / (found->s * found->s);
    }
    std::vector<double> weights;
    for (const double level : x) {
        weights.push_back(weightOf[level]);
    }
    return weights;
}

} // namespace

std::vector<double> rawWeights(Weighting weighting, std::span<const double> x, std::span<const double> y) {
    if (weighting == Weighting::InverseS2) {
        return weightsFromScatter(x, y);
    }
    std::vector<double> weights(x.size(), 1.0);
    const double lowest = lowestPositive(x);
    const double floor = kFloorOfAbsY * largestAbs(y);
    for (std::size_t i = 0; i < x.size(); ++i) {
        const double level = x[i] > 0 ? x[i] : lowest;
        const double size = std::max(std::abs(y[i]), floor);
        switch (weighting) {
        case Weighting::None:
        case Weighting::InverseS2:
            break;
        case Weighting::InverseX:
            weights[i] = 1 / level;
            break;
        case Weighting::InverseX2:
            weights[i] = 1 / (level * level);
            break;
        case Weighting::InverseY:
            weights[i] = 1 / size;
            break;
        case Weighting::InverseY2:
            weights[i] = 1 / (size * size);
            break;
        }
    }
    const bool finite = std::all_of(weights.begin(), weights.end(), [](double w) { return std::isfinite(w); });
    return finite ? weights : std::vector<double>{};
}

std::vector<double> Fit::normalisedWeights() const {
    long double sum = 0;
    for (const double w : weights) {
        sum += w;
    }
    std::vector<double> out;
    for (const double w : weights) {
        out.push_back(static_cast<double>(w * static_cast<long double>(weights.size()) / sum));
    }
    return out;
}

Fit fitCalibration(Model model, Weighting weighting, std::span<const double> x, std::span<const double> y) {
    checkInput(model, x, y);
    Fit fit;
    fit.model = model;
    fit.weighting = weighting;
    fit.parameterNames = namesOfParameters(model);
    fit.n = x.size();
    fit.p = fit.parameterNames.size();
    fit.lowestPositiveX = lowestPositive(x);
    fit.largestAbsY = largestAbs(y);
    if (!x.empty()) {
        const auto [low, high] = std::minmax_element(x.begin(), x.end());
        fit.lowestX = *low;
        fit.highestX = *high;
    }

    const std::set<double> levels(x.begin(), x.end());
    const std::size_t useful = model == Model::LineThroughOrigin ? levels.size() - levels.count(0.0) : levels.size();
    if (useful < fit.p || fit.n < fit.p + 1) {
        fit.status = FitStatus::NotEnoughData;
        fit.message = needsText(fit, useful);
        return fit;
    }
    fit.df = static_cast<double>(fit.n - fit.p);
    fit.weights = rawWeights(weighting, x, y);
    if (fit.weights.empty()) {
        fit.status = FitStatus::NotDetermined;
        fit.message = weighting == Weighting::InverseS2
                          ? "No level has replicates that differ, so weights from their scatter cannot be formed."
                      : weighting == Weighting::InverseY || weighting == Weighting::InverseY2
                          ? "Every response is zero, so weights from the response cannot be formed."
                          : "No standard is above zero, so weights from the concentration cannot be formed.";
        return fit;
    }
    if (weighting == Weighting::InverseS2) {
        fit.scatter = levelScatter(x, y);
    }
    const bool weightedByX = weighting == Weighting::InverseX || weighting == Weighting::InverseX2;
    fit.zeroStandardWeighted = weightedByX && levels.contains(0.0);

    fit.status = FitStatus::Ok;
    switch (model) {
    case Model::Line:
        fitLine(fit, x, y);
        break;
    case Model::LineThroughOrigin:
        fitLineThroughOrigin(fit, x, y);
        break;
    case Model::Quadratic:
    case Model::Cubic:
        fitPolynomial(fit, x, y);
        break;
    case Model::Logistic4:
        fitLogistic4(fit, x, y);
        break;
    }
    if (fit.status != FitStatus::Ok) {
        return fit;
    }
    fit.s = std::sqrt(fit.sse / fit.df);
    fit.aicc = akaike(fit);
    if (fit.workParameters.empty()) {
        fit.workParameters = fit.parameters;
        fit.workCovariance = fit.covariance;
    }
    for (std::size_t k = 0; k < fit.p; ++k) {
        fit.se.push_back(std::sqrt(fit.covariance[k * fit.p + k]));
    }
    return fit;
}

double response(const Fit& fit, double x) {
    const auto& p = fit.model == Model::Line || fit.model == Model::LineThroughOrigin || fit.model == Model::Logistic4
                        ? fit.parameters
                        : fit.workParameters;
    switch (fit.model) {
    case Model::Line:
        return p[0] + p[1] * x;
    case Model::LineThroughOrigin:
        return p[0] * x;
    case Model::Quadratic:
    case Model::Cubic:
        return polynomial(p, (x - fit.centre) / fit.scale);
    case Model::Logistic4:
        return logistic4Response({p[0], p[1], p[2], p[3]}, x);
    }
    throw std::invalid_argument("response: not a model");
}

double slope(const Fit& fit, double x) {
    const auto& p = fit.parameters;
    switch (fit.model) {
    case Model::Line:
        return p[1];
    case Model::LineThroughOrigin:
        return p[0];
    case Model::Quadratic:
    case Model::Cubic: {
        const double z = (x - fit.centre) / fit.scale;
        double derivative = 0;
        for (std::size_t k = fit.p - 1; k >= 1; --k) {
            derivative = derivative * z + static_cast<double>(k) * fit.workParameters[k];
        }
        return derivative / fit.scale;
    }
    case Model::Logistic4:
        return logistic4Slope({p[0], p[1], p[2], p[3]}, x);
    }
    throw std::invalid_argument("slope: not a model");
}

ParameterVector responseGradient(const Fit& fit, double x) {
    switch (fit.model) {
    case Model::Line:
        return {1, x};
    case Model::LineThroughOrigin:
        return {x};
    case Model::Quadratic:
    case Model::Cubic: {
        ParameterVector gradient{};
        double power = 1;
        for (std::size_t k = 0; k < fit.p; ++k) {
            gradient[k] = power;
            power *= (x - fit.centre) / fit.scale;
        }
        return gradient;
    }
    case Model::Logistic4: {
        const auto g =
            logistic4Gradient({fit.parameters[0], fit.parameters[1], fit.parameters[2], fit.parameters[3]}, x);
        return {g[0], g[1], g[2], g[3]};
    }
    }
    throw std::invalid_argument("responseGradient: not a model");
}

double variance(const Fit& fit, const ParameterVector& gradient) {
    double sum = 0;
    for (std::size_t i = 0; i < fit.p; ++i) {
        for (std::size_t j = 0; j < fit.p; ++j) {
            sum += gradient[i] * fit.workCovariance[i * fit.p + j] * gradient[j];
        }
    }
    return std::max(sum, 0.0);
}

double responseSe(const Fit& fit, double x) {
    return std::sqrt(variance(fit, responseGradient(fit, x)));
}

} // namespace nuvat
