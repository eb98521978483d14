#include "model_fits.h"

#include <cmath>

namespace nuvat {

long double weightedSse(const Fit& fit) {
    long double sse = 0;
    for (std::size_t i = 0; i < fit.y.size(); ++i) {
        const long double residual = static_cast<long double>(fit.y[i]) - fit.fitted[i];
        sse += fit.weights[i] * residual * residual;
    }
    return sse;
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
    fit.workParameters = fit.parameters;
    fit.workCovariance = fit.covariance;
}

void fitLineFixedPoint(Fit& fit) {
    const double x0 = fit.options.fixedX;
    const SlopeFit slope = fitSlope(fit, x0, fit.options.fixedY);
    fit.parameters = {fit.options.fixedY - slope.b * x0, slope.b};
    fit.covariance = {x0 * x0 * slope.variance, -x0 * slope.variance, -x0 * slope.variance, slope.variance};
    fit.workParameters = {slope.b};
    fit.workCovariance = {slope.variance};
}

void fitLogLog(Fit& fit) {
    std::vector<double> x;
    std::vector<double> y;
    for (std::size_t i = 0; i < fit.n; ++i) {
        if (!(fit.x[i] > 0) || !(fit.y[i] > 0)) {
            fit.status = FitStatus::NotDetermined;
            fit.message = "The log-log line needs concentrations and responses above zero; leave the zero standard out "
                          "or choose another model.";
            return;
        }
        x.push_back(std::log10(fit.x[i]));
        y.push_back(std::log10(fit.y[i]));
    }
    fitLine(fit, x, y);
    for (double& fitted : fit.fitted) {
        fitted = std::pow(10, fitted);
    }
}

} // namespace nuvat
