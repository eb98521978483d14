#include "nuvat/core/fit/calibration.h"

#include "logistic.h"
#include "model_fits.h"
#include "polynomial.h"
#include "weighted_squares.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>
#include <utility>

namespace nuvat {

namespace {

constexpr double kMostWeightChange = 1e-10;
constexpr int kMostWeightRounds = 50;

double lowestPositive(std::span<const double> x) {
    double lowest = 0;
    for (const double v : x) {
        if (v > 0 && (lowest == 0 || v < lowest)) {
            lowest = v;
        }
    }
    return lowest;
}

std::string subject(Model model) {
    switch (model) {
    case Model::Line:
    case Model::LineThroughOrigin:
        return "The line";
    case Model::LineFixedPoint:
        return "The line through a fixed point";
    case Model::Quadratic:
        return "The quadratic";
    case Model::Cubic:
        return "The cubic";
    case Model::LogLog:
        return "The log-log line";
    case Model::PointToPoint:
        return "Point to point";
    case Model::Spline:
        return "The spline";
    case Model::Logistic4:
        return "The 4PL";
    case Model::Logistic5:
        return "The 5PL";
    }
    throw std::invalid_argument("subject: not a model");
}

std::string needsText(const Fit& fit, std::size_t levels, std::size_t needed) {
    if (levels < needed) {
        return subject(fit.model) + " needs standards at " + std::to_string(needed) +
               " different concentrations or more; there are " + std::to_string(levels) + ".";
    }
    return subject(fit.model) + " needs " + std::to_string(fit.p + 1) +
           " points or more to give an uncertainty; there are " + std::to_string(fit.n) + ".";
}

/// Source: C. M. Hurvich, C.-L. Tsai, "Regression and time series model selection in small samples", Biometrika 76
/// (1989) 297-307, with the weights' part of the likelihood and k = p + 1 (the scale is a parameter too).
std::optional<double> akaike(const Fit& fit) {
    const auto n = static_cast<double>(fit.n);
    const bool hasTheta = fit.weighting == Weighting::Variance && !fit.options.theta;
    const auto k = static_cast<double>(fit.p + 1 + (hasTheta ? 1 : 0));
    if (n <= k + 1 || !(fit.sse > 0) || isInterpolation(fit.model)) {
        return std::nullopt;
    }
    double logWeights = 0;
    for (const double w : fit.weights) {
        logWeights += w == 1 ? 0 : std::log(w);
    }
    double minusTwiceLogLikelihood = n * (std::log(2 * std::numbers::pi * fit.sse / n) + 1) - logWeights;
    if (fit.model == Model::LogLog) { // density of y from that of log10 y
        for (const double y : fit.y) {
            minusTwiceLogLikelihood += 2 * std::log(y * std::numbers::ln10);
        }
    }
    return minusTwiceLogLikelihood + 2 * k + 2 * k * (k + 1) / (n - k - 1);
}

/// Squares and products of the data have to be numbers. @return a sentence, or empty
std::string whyOutOfScale(const CalibrationData& data) {
    constexpr double kLargest = 1e75; // its fourth power is a double
    const auto reaches = [](std::span<const double> values) {
        double largest = 0;
        for (const double v : values) {
            largest = std::max(largest, std::abs(v));
        }
        return largest > kLargest || (largest > 0 && largest < 1 / kLargest);
    };
    const char* const what = reaches(data.x) ? "concentrations" : reaches(data.y) ? "responses" : nullptr;
    return what == nullptr ? ""
                           : std::string("The ") + what +
                                 " are too large or too small to be squared; choose a unit in which they lie "
                                 "between 1e-75 and 1e+75.";
}

void checkInput(const CalibrationData& data) {
    const auto isEmptyOr = [&](std::size_t size) { return size == 0 || size == data.x.size(); };
    if (data.x.size() != data.y.size() || !isEmptyOr(data.level.size()) || !isEmptyOr(data.s.size())) {
        throw std::invalid_argument("fitCalibration: the columns differ in length");
    }
    const auto finite = [](double v) { return std::isfinite(v); };
    if (!std::all_of(data.x.begin(), data.x.end(), finite) || !std::all_of(data.y.begin(), data.y.end(), finite)) {
        throw std::invalid_argument("fitCalibration: every x and y must be finite");
    }
    if (!std::all_of(data.s.begin(), data.s.end(), [](double v) { return std::isfinite(v) && v > 0; })) {
        throw std::invalid_argument("fitCalibration: every s must be above 0");
    }
}

/// Weights of a variance function of the levels' responses; sets Fit::variance. Empty when it cannot be fitted.
std::vector<double> weightsByVariance(Fit& fit, const CalibrationData& data, const std::vector<LevelGroup>& groups,
                                      std::span<const double> responses) {
    const auto variance = varianceOfGroups(fit.options, data, groups, responses);
    if (!variance) {
        return {};
    }
    fit.variance = *variance;
    std::vector<double> weights(fit.n);
    for (std::size_t k = 0; k < groups.size(); ++k) {
        const double sigma = variance->at(responses[k] + data.offset);
        const auto m = static_cast<double>(groups[k].points.size());
        if (fit.options.fitTo == FitTo::Means) {
            weights[k] = m / (sigma * sigma);
            continue;
        }
        for (const std::size_t i : groups[k].points) {
            weights[i] = 1 / (sigma * sigma);
        }
    }
    const bool isUsable =
        std::all_of(weights.begin(), weights.end(), [](double w) { return w > 0 && std::isfinite(w); });
    return isUsable ? weights : std::vector<double>{};
}

/// Raw weights of the points of the fit, before any iteration; empty with the reason in fit.message.
std::vector<double> initialWeights(Fit& fit, const CalibrationData& data, const std::vector<LevelGroup>& groups,
                                   const std::vector<double>& levelMeans) {
    std::vector<double> weights;
    if (fit.weighting == Weighting::InverseS2) {
        const auto scatter = groupScatter(data, groups);
        weights.resize(scatter.empty() ? 0 : fit.n);
        for (std::size_t k = 0; k < scatter.size(); ++k) {
            fit.scatter.push_back({groups[k].meanY, scatter[k]});
            if (fit.options.fitTo == FitTo::Means) {
                weights[k] = 1 / (scatter[k] * scatter[k]);
                continue;
            }
            for (const std::size_t i : groups[k].points) {
                const double s = data.s.empty() ? scatter[k] : data.s[i];
                weights[i] = 1 / (s * s);
            }
        }
        std::stable_sort(fit.scatter.begin(), fit.scatter.end(),
                         [](const auto& l, const auto& r) { return l.meanY < r.meanY; });
    } else if (fit.weighting == Weighting::Variance) {
        std::vector<double> means;
        for (const LevelGroup& group : groups) {
            means.push_back(group.meanY);
        }
        weights = weightsByVariance(fit, data, groups, means);
    } else {
        weights = computeWeights(fit.weighting, fit.x,
                                 fit.options.weightFrom == WeightSource::LevelMean ? levelMeans : fit.y, fit.floorOfY);
    }
    if (weights.empty()) {
        fit.message = fit.weighting == Weighting::InverseS2
                          ? "No level has replicates that differ, so weights from their scatter cannot be formed."
                      : fit.weighting == Weighting::Variance
                          ? "A variance function needs 8 degrees of freedom or more from replicates that differ; take "
                            "more replicates, or give theta by hand (1 for a constant CV)."
                      : fit.weighting == Weighting::InverseY || fit.weighting == Weighting::InverseY2
                          ? "Every response is zero, so weights from the response cannot be formed."
                          : "No standard is above zero, so weights from the concentration cannot be formed.";
    }
    return weights;
}

/// Fits with the weights that are in place.
void fitWithWeights(Fit& fit) {
    fit.status = FitStatus::Ok;
    fit.message.clear();
    fit.warnings.clear();
    fit.parameters.clear();
    fit.covariance.clear();
    fit.workParameters.clear();
    fit.workCovariance.clear();
    fit.fitted.clear();
    fit.fitted.reserve(fit.n);
    fit.se.clear();
    fit.rSquared.reset();
    switch (fit.model) {
    case Model::Line:
        return fitLine(fit, fit.x, fit.y);
    case Model::LineThroughOrigin:
        return fitLineThroughOrigin(fit);
    case Model::LineFixedPoint:
        return fitLineFixedPoint(fit);
    case Model::Quadratic:
    case Model::Cubic:
        return fitPolynomial(fit);
    case Model::LogLog:
        return fitLogLog(fit);
    case Model::PointToPoint:
    case Model::Spline:
        return fitInterpolation(fit);
    case Model::Logistic4:
    case Model::Logistic5:
        return fitLogistic(fit);
    }
}

/// Weights from the fitted responses, until they settle.
void iterateWeights(Fit& fit, const CalibrationData& data, const std::vector<LevelGroup>& groups) {
    const bool isVariance = fit.weighting == Weighting::Variance;
    constexpr double kMostChangeOfVariance = 1e-7; // theta is known to about 1e-8
    for (int round = 0; round < kMostWeightRounds; ++round) {
        const std::vector<double> before = fit.normalisedWeights();
        if (isVariance) {
            std::vector<double> responses;
            for (const LevelGroup& group : groups) {
                responses.push_back(response(fit, group.x));
            }
            fit.weights = weightsByVariance(fit, data, groups, responses);
        } else {
            fit.weights = computeWeights(fit.weighting, fit.x, fit.fitted, fit.floorOfY);
        }
        if (fit.weights.empty()) {
            fit.status = FitStatus::NotDetermined;
            fit.message = "Every fitted response is zero, so weights from them cannot be formed.";
            return;
        }
        const std::vector<double> after = fit.normalisedWeights();
        double change = 0;
        for (std::size_t i = 0; i < before.size(); ++i) {
            change = std::max(change, std::abs(after[i] / before[i] - 1));
        }
        fitWithWeights(fit);
        if (fit.status != FitStatus::Ok || change < (isVariance ? kMostChangeOfVariance : kMostWeightChange)) {
            return;
        }
    }
    fit.status = FitStatus::NotConverged;
    fit.message = "The weights from the fitted responses did not settle in " + std::to_string(kMostWeightRounds) +
                  " rounds; take them from the level means instead.";
}

/// Level means as knots; the scatter within the levels is all the scatter there is.
void setKnots(Fit& fit, const std::vector<LevelGroup>& groups) {
    if (fit.options.fitTo == FitTo::Means) {
        for (std::size_t k = 0; k < groups.size(); ++k) {
            fit.knots.push_back({fit.x[k], fit.y[k], 0, 1 / fit.weights[k]});
        }
        return;
    }
    for (const LevelGroup& group : groups) {
        // The plain mean, whatever the weights; they only say how well it is known.
        const auto count = static_cast<double>(group.points.size());
        double variance = 0;
        for (const std::size_t i : group.points) {
            variance += 1 / fit.weights[i] / (count * count);
        }
        fit.knots.push_back({group.x, group.meanY, 0, variance});
    }
}

void clearEstimates(Fit& fit) {
    fit.parameters.clear();
    fit.covariance.clear();
    fit.workParameters.clear();
    fit.workCovariance.clear();
    fit.fitted.clear();
    fit.se.clear();
    fit.rSquared.reset();
    fit.r.reset();
    fit.sse = 0;
}

} // namespace

void fitLogistic(Fit& fit) {
    const LogisticForm form{fit.model == Model::Logistic5, fit.options.heldA, fit.options.heldD};
    if (std::any_of(fit.x.begin(), fit.x.end(), [](double v) { return v < 0; })) {
        fit.status = FitStatus::NotDetermined;
        fit.message = subject(fit.model) + " needs concentrations of 0 or more.";
        return;
    }
    LogisticOutcome outcome = solveLogistic(form, fit.x, fit.y, fit.weights);
    fit.status = outcome.status;
    fit.message = std::move(outcome.message);
    fit.warnings = std::move(outcome.warnings);
    if (outcome.status != FitStatus::Ok) {
        return;
    }
    const LogisticParameters& p = outcome.parameters;
    fit.parameters = {p.a, p.b, p.c, p.d};
    if (form.hasAsymmetry) {
        fit.parameters.push_back(p.g);
    }
    for (std::size_t i = 0; i < fit.n; ++i) {
        fit.fitted.push_back(i > 0 && fit.x[i] == fit.x[i - 1] ? fit.fitted.back() : logisticResponse(p, fit.x[i]));
    }
    fit.sse = static_cast<double>(weightedSse(fit));
    const double s2 = fit.sse / fit.df;
    const std::size_t size = fit.parameters.size();
    for (std::size_t i = 0; i < size; ++i) {
        for (std::size_t k = 0; k < size; ++k) {
            fit.covariance.push_back(s2 * outcome.inverseInformation[i * kMostParameters + k]);
        }
    }
    const auto squares = static_cast<double>(weightedSquares<double>(fit.y, fit.weights));
    if (squares > 0) {
        fit.rSquared = 1 - fit.sse / squares;
    }
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

std::vector<std::optional<double>> readingWeights(const Fit& fit, std::span<const double> x) {
    const std::vector<double> weights = fit.normalisedWeights();
    std::vector<std::optional<double>> out;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const std::size_t at =
            fit.options.fitTo == FitTo::Means
                ? static_cast<std::size_t>(std::find(fit.x.begin(), fit.x.end(), x[i]) - fit.x.begin())
                : i;
        out.push_back(at < weights.size() ? std::optional(weights[at]) : std::nullopt);
    }
    return out;
}

std::vector<std::vector<double>> matrixRows(std::span<const double> square) {
    const auto size = static_cast<std::size_t>(std::lround(std::sqrt(static_cast<double>(square.size()))));
    std::vector<std::vector<double>> rows;
    for (std::size_t k = 0; k < size; ++k) {
        const auto row = square.subspan(k * size, size);
        rows.emplace_back(row.begin(), row.end());
    }
    return rows;
}

double Fit::parameter(std::string_view wanted) const {
    for (std::size_t k = 0; k < parameters.size(); ++k) {
        if (parameterNames[k] == wanted) {
            return parameters[k];
        }
    }
    throw std::out_of_range("Fit::parameter: there is no " + std::string(wanted));
}

Fit fitCalibration(Model model, Weighting weighting, std::span<const double> x, std::span<const double> y) {
    FitOptions options;
    options.model = model;
    options.weighting = weighting;
    return fitCalibration(options, {x, y, {}, {}});
}

Fit fitCalibration(const FitOptions& options, const CalibrationData& data) {
    checkInput(data);
    Fit fit;
    fit.options = options;
    fit.model = options.model;
    fit.weighting = options.weighting;
    fit.parameterNames = namesOfParameters(options.model);

    const bool fitsMeans = options.fitTo == FitTo::Means;
    const bool needsGroups = fitsMeans || options.weightFrom == WeightSource::LevelMean || !data.level.empty() ||
                             options.weighting == Weighting::InverseS2 || options.weighting == Weighting::Variance ||
                             isInterpolation(options.model);
    const auto groups = needsGroups ? groupLevels(data) : std::vector<LevelGroup>{};
    std::vector<double> levelMeans;
    if (fitsMeans) {
        for (const LevelGroup& group : groups) {
            fit.x.push_back(group.x);
            fit.y.push_back(group.meanY);
        }
        levelMeans = fit.y;
    } else {
        fit.x.assign(data.x.begin(), data.x.end());
        fit.y.assign(data.y.begin(), data.y.end());
        levelMeans.resize(needsGroups ? fit.y.size() : 0);
        for (const LevelGroup& group : groups) {
            for (const std::size_t i : group.points) {
                levelMeans[i] = group.meanY;
            }
        }
    }
    fit.n = fit.x.size();
    fit.lowestPositiveX = lowestPositive(fit.x);
    fit.offset = data.offset;
    const bool weightedByY = options.weighting == Weighting::InverseY || options.weighting == Weighting::InverseY2;
    if (weightedByY) {
        fit.floorOfY = floorOfY(options, data);
    }
    if (fit.n > 0) {
        const auto [low, high] = std::minmax_element(fit.x.begin(), fit.x.end());
        fit.lowestX = *low;
        fit.highestX = *high;
    }

    std::vector<double> levels = fit.x;
    std::sort(levels.begin(), levels.end());
    levels.erase(std::unique(levels.begin(), levels.end()), levels.end());
    const bool hasZero = std::binary_search(levels.begin(), levels.end(), 0.0);
    std::size_t useful = levels.size();
    if (options.model == Model::LineThroughOrigin) {
        useful -= hasZero ? 1 : 0;
    } else if (options.model == Model::LineFixedPoint) {
        useful -= std::binary_search(levels.begin(), levels.end(), options.fixedX) ? 1u : 0u;
    }
    std::size_t needed = 2;
    if (isInterpolation(options.model)) {
        fit.p = useful;
        fit.df = static_cast<double>(fit.n - fit.p);
    } else {
        fit.p = options.model == Model::LineFixedPoint ? 1 : fit.parameterNames.size();
        if (isLogistic(options.model)) {
            fit.p -= (options.heldA ? 1u : 0u) + (options.heldD ? 1u : 0u);
        }
        needed = std::max<std::size_t>(fit.p, 1);
        fit.df = static_cast<double>(fit.n) - static_cast<double>(fit.p);
    }
    if (useful < needed || (!isInterpolation(options.model) && fit.n < fit.p + 1)) {
        fit.status = FitStatus::NotEnoughData;
        fit.message = needsText(fit, useful, needed);
        fit.df = 0;
        return fit;
    }
    if (const std::string why = whyOutOfScale(data); !why.empty()) {
        fit.status = FitStatus::NotDetermined;
        fit.message = why;
        fit.df = 0;
        return fit;
    }
    fit.weights = initialWeights(fit, data, groups, levelMeans);
    if (fit.weights.empty()) {
        fit.status = FitStatus::NotDetermined;
        return fit;
    }
    const bool weightedByX = options.weighting == Weighting::InverseX || options.weighting == Weighting::InverseX2;
    fit.zeroStandardWeighted = weightedByX && hasZero;
    if (isInterpolation(options.model)) {
        setKnots(fit, groups);
    }
    fitWithWeights(fit);
    const bool iterates = (weightedByY && options.weightFrom == WeightSource::Fitted) ||
                          (options.weighting == Weighting::Variance && !isInterpolation(options.model));
    if (fit.status == FitStatus::Ok && iterates) {
        iterateWeights(fit, data, groups);
    }
    if (fit.status != FitStatus::Ok) {
        clearEstimates(fit);
        return fit;
    }
    fit.s = fit.df > 0 ? std::sqrt(fit.sse / fit.df) : 0;
    fit.aicc = akaike(fit);
    if (fit.workParameters.empty()) {
        fit.workParameters = fit.parameters;
        fit.workCovariance = fit.covariance;
    }
    if (fit.se.empty()) {
        for (std::size_t k = 0; k < fit.size(); ++k) {
            fit.se.push_back(std::sqrt(fit.covariance[k * fit.size() + k]));
        }
    }
    addWarnings(fit, data, groups);
    return fit;
}

} // namespace nuvat
