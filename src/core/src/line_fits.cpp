#include "model_fits.h"

#include <cmath>

namespace nuvat {

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

long double weightedSse(const Fit& fit) {
    long double sse = 0;
    for (std::size_t i = 0; i < fit.y.size(); ++i) {
        const long double residual = static_cast<long double>(fit.y[i]) - fit.fitted[i];
        sse += fit.weights[i] * residual * residual;
    }
    return sse;
}

void fitLine(Fit& fit) {
    const LineSums sums = lineSums(fit.x, fit.y, fit.weights);
    const long double b = sums.xy / sums.xx;
    const long double a = sums.y - b * sums.x;
    fit.parameters = {static_cast<double>(a), static_cast<double>(b)};
    long double sse = 0;
    for (std::size_t i = 0; i < fit.n; ++i) {
        const long double residual = (fit.y[i] - sums.y) - b * (fit.x[i] - sums.x);
        sse += fit.weights[i] * residual * residual;
        fit.fitted.push_back(static_cast<double>(sums.y + b * (fit.x[i] - sums.x)));
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

namespace {

/// Slope of a line through (x0, y0), its variance, sum of squares and R2 about y0.
struct SlopeFit {
    double b = 0, variance = 0;
};

SlopeFit fitSlope(Fit& fit, double x0, double y0) {
    long double xx = 0;
    long double xy = 0;
    long double yy = 0;
    for (std::size_t i = 0; i < fit.n; ++i) {
        const long double w = fit.weights[i];
        const long double dx = static_cast<long double>(fit.x[i]) - x0;
        const long double dy = static_cast<long double>(fit.y[i]) - y0;
        xx += w * dx * dx;
        xy += w * dx * dy;
        yy += w * dy * dy;
    }
    const long double b = xy / xx;
    long double sse = 0;
    for (std::size_t i = 0; i < fit.n; ++i) {
        const long double rise = b * (static_cast<long double>(fit.x[i]) - x0);
        const long double residual = (static_cast<long double>(fit.y[i]) - y0) - rise;
        sse += fit.weights[i] * residual * residual;
        fit.fitted.push_back(static_cast<double>(y0 + rise));
    }
    fit.sse = static_cast<double>(sse);
    if (yy > 0) {
        fit.rSquared = static_cast<double>(1 - sse / yy);
    }
    return {static_cast<double>(b), static_cast<double>(sse / fit.df / xx)};
}

} // namespace

void fitLineThroughOrigin(Fit& fit) {
    const SlopeFit slope = fitSlope(fit, 0, 0);
    fit.parameters = {slope.b};
    fit.covariance = {slope.variance};
}

void fitLineFixedPoint(Fit& fit) {
    const double x0 = fit.options.fixedX;
    const SlopeFit slope = fitSlope(fit, x0, fit.options.fixedY);
    fit.parameters = {fit.options.fixedY - slope.b * x0, slope.b};
    fit.covariance = {x0 * x0 * slope.variance, -x0 * slope.variance, -x0 * slope.variance, slope.variance};
}

void fitLogLog(Fit& fit) {
    Fit line = fit;
    for (std::size_t i = 0; i < fit.n; ++i) {
        if (!(fit.x[i] > 0) || !(fit.y[i] > 0)) {
            fit.status = FitStatus::NotDetermined;
            fit.message = "The log-log line needs concentrations and responses above zero; leave the zero standard out "
                          "or choose another model.";
            return;
        }
        line.x[i] = std::log10(fit.x[i]);
        line.y[i] = std::log10(fit.y[i]);
    }
    fitLine(line);
    fit.parameters = line.parameters;
    fit.covariance = line.covariance;
    fit.sse = line.sse;
    fit.rSquared = line.rSquared;
    fit.r = line.r;
    for (const double v : line.fitted) {
        fit.fitted.push_back(std::pow(10, v));
    }
}

} // namespace nuvat
