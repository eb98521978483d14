#include "nuvat/core/fit/diagnostics.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/stats/distributions.h"
#include "nuvat/core/stats/groups.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <numeric>

namespace nuvat {

namespace {

constexpr double kUsualAlpha = 0.05;
constexpr double kMandelAlpha = 0.01;
constexpr double kFullLeverage = 1 - 1e-12;

/// The response as the model fits it: log10 y for log-log.
double fittedScale(const Fit& fit, double y) {
    return fit.model == Model::LogLog ? std::log10(y) : y;
}

double leverageOf(const Fit& fit, std::size_t i) {
    if (isInterpolation(fit.model) || !(fit.s > 0)) {
        return 0;
    }
    double curve = responseVariance(fit, fit.x[i]);
    if (fit.model == Model::LogLog) {
        const double toLog = std::numbers::ln10 * fit.fitted[i];
        curve /= toLog * toLog;
    }
    return std::min(1.0, fit.weights[i] * curve / (fit.s * fit.s));
}

std::vector<PointDiagnostics> pointsOf(const Fit& fit) {
    std::vector<PointDiagnostics> out;
    out.reserve(fit.n);
    for (std::size_t i = 0; i < fit.n; ++i) {
        PointDiagnostics one;
        one.residual = fittedScale(fit, fit.y[i]) - fittedScale(fit, fit.fitted[i]);
        one.leverage = leverageOf(fit, i);
        const double rest = 1 - one.leverage;
        if (fit.s > 0 && one.leverage < kFullLeverage) {
            const double r = std::sqrt(fit.weights[i]) * one.residual / (fit.s * std::sqrt(rest));
            one.standardized = r;
            const double left = fit.df - r * r;
            if (fit.df > 1 && left > 0) {
                one.studentized = r * std::sqrt((fit.df - 1) / left);
            }
            if (fit.p > 0) {
                one.cook = r * r * one.leverage / rest / static_cast<double>(fit.p);
            }
        }
        out.push_back(one);
    }
    return out;
}

/// Points of one concentration.
std::map<double, std::vector<std::size_t>> levelsOf(const Fit& fit) {
    std::map<double, std::vector<std::size_t>> out;
    for (std::size_t i = 0; i < fit.n; ++i) {
        out[fit.x[i]].push_back(i);
    }
    return out;
}

std::string probability(double p) {
    return p < 0.001 ? "p below 0.001" : "p = " + formatFigures(p, 2);
}

std::optional<LackOfFit> lackOfFitOf(const Fit& fit) {
    const auto levels = levelsOf(fit);
    const auto k = static_cast<double>(levels.size());
    const auto p = static_cast<double>(fit.p);
    const auto n = static_cast<double>(fit.n);
    if (isInterpolation(fit.model) || !(k > p) || !(n > k)) {
        return std::nullopt;
    }
    long double pure = 0;
    for (const auto& [x, members] : levels) {
        long double weight = 0;
        long double sum = 0;
        for (const std::size_t i : members) {
            weight += fit.weights[i];
            sum += static_cast<long double>(fit.weights[i]) * fittedScale(fit, fit.y[i]);
        }
        for (const std::size_t i : members) {
            const long double off = fittedScale(fit, fit.y[i]) - sum / weight;
            pure += fit.weights[i] * off * off;
        }
    }
    if (!(pure > 0)) {
        return std::nullopt;
    }
    LackOfFit out;
    out.pureError = static_cast<double>(pure);
    out.sumOfSquares = std::max(0.0, static_cast<double>(fit.sse - pure));
    out.test.df1 = k - p;
    out.test.df2 = n - k;
    out.test.statistic = out.sumOfSquares / out.test.df1 / (out.pureError / out.test.df2);
    out.test.p = fUpperTail(out.test.statistic, out.test.df1, out.test.df2);
    out.test.isSignificant = out.test.p < kUsualAlpha;
    out.test.sentence = out.test.isSignificant
                            ? "The level means miss the curve by more than the scatter of the replicates explains (" +
                                  probability(out.test.p) +
                                  "): try a model with more bend, or look for a wrong standard."
                            : "The level means miss the curve by no more than the replicates scatter (" +
                                  probability(out.test.p) + "): the model has enough bend.";
    return out;
}

std::optional<FitTest> mandelOf(const Fit& fit) {
    if (fit.model != Model::Line || !(fit.s > 0)) {
        return std::nullopt;
    }
    std::vector<double> s; // hands the weights of the line on to the quadratic
    for (const double w : fit.weights) {
        s.push_back(1 / std::sqrt(w));
    }
    FitOptions options;
    options.model = Model::Quadratic;
    options.weighting = Weighting::InverseS2;
    const Fit quadratic = fitCalibration(options, {fit.x, fit.y, {}, s});
    if (!quadratic.isUsable() || !(quadratic.s > 0)) {
        return std::nullopt;
    }
    FitTest out;
    out.df1 = 1;
    out.df2 = quadratic.df;
    out.statistic = std::max(0.0, (fit.sse - quadratic.sse) / (quadratic.s * quadratic.s));
    out.p = fUpperTail(out.statistic, out.df1, out.df2);
    out.isSignificant = out.p < kMandelAlpha;
    out.sentence = out.isSignificant
                       ? "A quadratic describes the standards significantly better than the line (Mandel's test, " +
                             probability(out.p) + "): choose the quadratic, or a shorter range."
                       : "A quadratic is not significantly better than the line (Mandel's test, " + probability(out.p) +
                             "): the line is enough.";
    return out;
}

std::optional<FitTest> equalVariancesOf(const Fit& fit) {
    Groups groups;
    for (const auto& [x, members] : levelsOf(fit)) {
        std::vector<double> one;
        for (const std::size_t i : members) {
            one.push_back(fit.y[i]);
        }
        groups.push_back(std::move(one));
    }
    const auto bartletts = bartlett(groups);
    if (!bartletts) {
        return std::nullopt;
    }
    FitTest out;
    out.statistic = bartletts->statistic;
    out.df1 = static_cast<double>(groups.size()) - 1;
    out.p = bartletts->p;
    out.isSignificant = out.p < kUsualAlpha;
    const bool isWeighted = fit.weighting != Weighting::None;
    out.sentence = out.isSignificant
                       ? "The replicates scatter differently from level to level (Bartlett's test, " +
                             probability(out.p) +
                             "): " + (isWeighted ? "weighting is right." : "try a weighting, for example 1/y2.")
                       : "The replicates scatter alike at all levels (Bartlett's test, " + probability(out.p) +
                             "): " + (isWeighted ? "the fit would do without weighting." : "no weighting is needed.");
    return out;
}

std::optional<FitTest> runsOf(const Fit& fit) {
    std::vector<bool> signs;
    for (const auto& [x, members] : levelsOf(fit)) {
        long double sum = 0;
        for (const std::size_t i : members) {
            sum += fittedScale(fit, fit.y[i]) - fittedScale(fit, fit.fitted[i]);
        }
        if (sum != 0) {
            signs.push_back(sum > 0);
        }
    }
    const auto positive = static_cast<std::size_t>(std::count(signs.begin(), signs.end(), true));
    const std::size_t negative = signs.size() - positive;
    if (positive == 0 || negative == 0 || isInterpolation(fit.model) || !(fit.s > 0)) {
        return std::nullopt;
    }
    std::size_t runs = 1;
    for (std::size_t i = 1; i < signs.size(); ++i) {
        runs += signs[i] != signs[i - 1] ? 1u : 0u;
    }
    FitTest out;
    out.statistic = static_cast<double>(runs);
    out.p = runsProbability(runs, positive, negative);
    out.isSignificant = out.p < kUsualAlpha;
    out.sentence = out.isSignificant ? "Residuals of one sign follow each other along the curve (" +
                                           probability(out.p) + "): the curve bends differently from the standards."
                                     : "The signs of the residuals change as often as chance would have it (" +
                                           probability(out.p) + ").";
    return out;
}

double durbinWatsonOf(const Fit& fit, const std::vector<PointDiagnostics>& points) {
    std::vector<std::size_t> order(fit.n);
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return fit.x[a] < fit.x[b]; });
    double changes = 0;
    double squares = 0;
    double last = 0;
    for (std::size_t k = 0; k < order.size(); ++k) {
        const double e = std::sqrt(fit.weights[order[k]]) * points[order[k]].residual;
        squares += e * e;
        changes += k > 0 ? (e - last) * (e - last) : 0;
        last = e;
    }
    return squares > 0 ? changes / squares : 0;
}

std::optional<double> relativeStandardErrorOf(const Fit& fit) {
    double squares = 0;
    for (std::size_t i = 0; i < fit.n; ++i) {
        if (fit.x[i] == 0) {
            continue;
        }
        const ReadOff back = readOffPoint(fit, fit.y[i]);
        if (!back.x) {
            return std::nullopt;
        }
        const double error = (*back.x - fit.x[i]) / fit.x[i];
        squares += error * error;
    }
    return fit.df > 0 ? std::optional(100 * std::sqrt(squares / fit.df)) : std::nullopt;
}

} // namespace

double runsProbability(std::size_t runs, std::size_t positive, std::size_t negative) {
    const auto logChoose = [](std::size_t n, std::size_t k) {
        return std::lgamma(static_cast<double>(n) + 1) - std::lgamma(static_cast<double>(k) + 1) -
               std::lgamma(static_cast<double>(n - k) + 1);
    };
    // Ways to cut n signs of one kind into k runs.
    const auto cuts = [&](std::size_t n, std::size_t k) {
        return k == 0 || k > n ? 0.0 : std::exp(logChoose(n - 1, k - 1));
    };
    const double all = std::exp(logChoose(positive + negative, positive));
    double sum = 0;
    for (std::size_t r = 2; r <= runs; ++r) {
        const std::size_t half = r / 2;
        sum += r % 2 == 0
                   ? 2 * cuts(positive, half) * cuts(negative, half)
                   : cuts(positive, half + 1) * cuts(negative, half) + cuts(positive, half) * cuts(negative, half + 1);
    }
    return std::min(1.0, sum / all);
}

Diagnostics diagnose(const Fit& fit) {
    Diagnostics out;
    out.points = pointsOf(fit);
    const bool hasPress =
        fit.s > 0 && fit.p > 0 && !isInterpolation(fit.model) &&
        std::all_of(out.points.begin(), out.points.end(), [](const auto& one) { return one.leverage < kFullLeverage; });
    if (hasPress) {
        double press = 0;
        for (std::size_t i = 0; i < fit.n; ++i) {
            const double left = out.points[i].residual / (1 - out.points[i].leverage);
            press += fit.weights[i] * left * left;
        }
        out.press = press;
    }
    out.durbinWatson = durbinWatsonOf(fit, out.points);
    out.lackOfFit = lackOfFitOf(fit);
    out.mandel = mandelOf(fit);
    out.equalVariances = equalVariancesOf(fit);
    out.runs = runsOf(fit);
    out.relativeStandardErrorPercent = relativeStandardErrorOf(fit);
    return out;
}

} // namespace nuvat
