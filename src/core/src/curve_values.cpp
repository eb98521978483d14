// A fitted curve at a concentration: response, slope, gradient, variance.
#include "logistic.h"
#include "model_fits.h"
#include "nuvat/core/fit/calibration.h"
#include "polynomial.h"

#include <cmath>
#include <numbers>
#include <stdexcept>

namespace nuvat {

namespace {

LogisticParameters logisticOf(const Fit& fit) {
    const auto& p = fit.parameters;
    return {p[0], p[1], p[2], p[3], fit.model == Model::Logistic5 ? p[4] : 1};
}

} // namespace

double response(const Fit& fit, double x) {
    switch (fit.model) {
    case Model::Line:
    case Model::Quadratic:
    case Model::Cubic:
        return evaluatePolynomial(fit, x).value;
    case Model::LineFixedPoint:
        return fit.options.fixedY + fit.workParameters[0] * (x - fit.options.fixedX);
    case Model::LineThroughOrigin:
        return fit.workParameters[0] * x;
    case Model::LogLog:
        return x > 0 ? std::pow(10, evaluatePolynomial(fit, std::log10(x)).value) : 0;
    case Model::PointToPoint:
    case Model::Spline:
        return interpolatedResponse(fit, x);
    case Model::Logistic4:
    case Model::Logistic5:
        return logisticResponse(logisticOf(fit), x);
    }
    throw std::invalid_argument("response: not a model");
}

double slope(const Fit& fit, double x) {
    switch (fit.model) {
    case Model::Line:
        return fit.parameters[1];
    case Model::LineFixedPoint:
    case Model::LineThroughOrigin:
        return fit.workParameters[0];
    case Model::Quadratic:
    case Model::Cubic:
        return evaluatePolynomial(fit, x).slope;
    case Model::LogLog:
        return x > 0 ? response(fit, x) * fit.parameters[1] / x : 0;
    case Model::PointToPoint:
    case Model::Spline:
        return interpolatedSlope(fit, x);
    case Model::Logistic4:
    case Model::Logistic5:
        return logisticSlope(logisticOf(fit), x);
    }
    throw std::invalid_argument("slope: not a model");
}

ParameterVector responseGradient(const Fit& fit, double x) {
    switch (fit.model) {
    case Model::Line:
    case Model::Quadratic:
    case Model::Cubic:
        return evaluatePolynomial(fit, x).basis;
    case Model::LineFixedPoint:
        return {x - fit.options.fixedX};
    case Model::LineThroughOrigin:
        return {x};
    case Model::LogLog: {
        if (!(x > 0)) {
            return {};
        }
        const OnPolynomial here = evaluatePolynomial(fit, std::log10(x));
        const double y = std::pow(10, here.value) * std::numbers::ln10;
        return {y * here.basis[0], y * here.basis[1]};
    }
    case Model::PointToPoint:
    case Model::Spline:
        return {};
    case Model::Logistic4:
    case Model::Logistic5:
        return logisticGradient(logisticOf(fit), x);
    }
    throw std::invalid_argument("responseGradient: not a model");
}

double variance(const Fit& fit, const ParameterVector& gradient) {
    double sum = 0;
    const std::size_t size = fit.workParameters.size();
    const double* row = fit.workCovariance.data();
    for (std::size_t i = 0; i < size; ++i, row += size) {
        double others = 0; // the covariance is symmetric
        for (std::size_t j = i + 1; j < size; ++j) {
            others += row[j] * gradient[j];
        }
        sum += gradient[i] * (row[i] * gradient[i] + 2 * others);
    }
    return std::max(sum, 0.0);
}

double responseVariance(const Fit& fit, double x) {
    if (isInterpolation(fit.model)) {
        return fit.s * fit.s * interpolatedVariance(fit, x);
    }
    return variance(fit, responseGradient(fit, x));
}

double responseSe(const Fit& fit, double x) {
    return std::sqrt(responseVariance(fit, x));
}

} // namespace nuvat
