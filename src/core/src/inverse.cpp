// The concentration that has a response, by model, and how it follows response and parameters.
#include "inverse.h"

#include "model_fits.h"
#include "polynomial.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace nuvat {

LogisticReadPlan readPlan(const Fit& fit) {
    LogisticReadPlan plan;
    plan.hasAsymmetry = fit.model == Model::Logistic5;
    const auto& p = fit.parameters;
    plan.parameters = {p[0], p[1], p[2], p[3], plan.hasAsymmetry ? p[4] : 1};
    const std::size_t size = fit.size();
    std::size_t at = 0;
    for (std::size_t i = 0; i < kMostParameters; ++i) {
        for (std::size_t j = i; j < kMostParameters; ++j, ++at) {
            plan.covariance[at] =
                i < size && j < size && !fit.workCovariance.empty() ? fit.workCovariance[i * size + j] : 0;
        }
    }
    return plan;
}

/// What became of a response in the kernel; the end of the curve, which the kernel leaves out, is completed.
ReadOffStatus complete(const Fit& fit, LogisticReadings& read, std::size_t at) {
    const double rest = read.rest[at];
    if (rest > 0 && rest < 1) {
        read.variance[at] = std::max(read.variance[at], 0.0);
        return std::isfinite(read.x[at]) ? ReadOffStatus::Ok : ReadOffStatus::NotDefined;
    }
    if (rest == 0) { // the response of zero; the curve has a slope there only for b = 1
        const double slopeAtZero = slope(fit, 0);
        if (slopeAtZero == 0) {
            return ReadOffStatus::NotDefined;
        }
        const ParameterVector gradient{1 / slopeAtZero};
        read.x[at] = 0;
        read.perSlope[at] = gradient[0];
        read.variance[at] = variance(fit, gradient);
        for (std::size_t k = 0; k < gradient.size(); ++k) {
            read.gradient[k][at] = gradient[k];
        }
        return ReadOffStatus::Ok;
    }
    return !std::isfinite(rest) ? ReadOffStatus::NotDefined
           : rest < 0           ? ReadOffStatus::BelowCurve
                                : ReadOffStatus::AboveCurve;
}

namespace {

/// Where a straight line reaches y, about the mean of its points, so that nothing cancels far from zero.
double solveLine(const Fit& fit, double y) {
    const double z = fit.alpha[0] + (y - fit.workParameters[0]) / fit.workParameters[1];
    return fit.centre + fit.scale * z;
}

/// Concentration at response y; absent with the reason in `status`.
std::optional<double> invert(const Fit& fit, double y, ReadOffStatus& status) {
    const auto& p = fit.parameters;
    const auto beyond = [&](bool isHigh) {
        status = isHigh ? ReadOffStatus::AboveCurve : ReadOffStatus::BelowCurve;
        return std::optional<double>();
    };
    double x = 0;
    switch (fit.model) {
    case Model::Line:
        x = solveLine(fit, y);
        break;
    case Model::LineFixedPoint:
        x = fit.options.fixedX + (y - fit.options.fixedY) / p[1];
        break;
    case Model::LineThroughOrigin:
        x = y / p[0];
        break;
    case Model::Quadratic:
    case Model::Cubic: {
        const BranchRoot root = solveOnBranch(fit, y);
        if (root.isFlat) {
            return std::nullopt;
        }
        if (!root.x) {
            return beyond(root.isBeyondHigh);
        }
        x = *root.x;
        break;
    }
    case Model::LogLog:
        if (!(y > 0)) {
            return beyond(p[1] < 0);
        }
        x = std::pow(10, solveLine(fit, std::log10(y)));
        break;
    case Model::PointToPoint:
    case Model::Spline: {
        const auto roots = solveInterpolation(fit, y);
        if (roots.size() > 1) {
            return std::nullopt;
        }
        if (roots.empty() && fit.knots.back().y == fit.knots.front().y) {
            return std::nullopt; // neither end is the high one
        }
        if (roots.empty()) {
            const bool rises = fit.knots.back().y > fit.knots.front().y;
            return beyond(rises ? y > fit.knots.back().y : y < fit.knots.back().y);
        }
        x = roots.front();
        break;
    }
    case Model::Logistic4:
    case Model::Logistic5:
        return std::nullopt; // the kernel
    }
    if (!std::isfinite(x)) {
        return std::nullopt;
    }
    status = ReadOffStatus::Ok;
    return x;
}

} // namespace

std::optional<PointOnCurve> pointAt(const Fit& fit, double y, ReadOffStatus& status) {
    status = ReadOffStatus::NotDefined;
    if (!fit.isUsable() || !std::isfinite(y)) {
        return std::nullopt;
    }
    if (isLogistic(fit.model)) {
        LogisticReadings read;
        kernels().readOff(readPlan(fit), &y, 1, read);
        status = complete(fit, read, 0);
        if (status != ReadOffStatus::Ok) {
            return std::nullopt;
        }
        PointOnCurve point{read.x[0], read.perSlope[0], read.variance[0], {}};
        for (std::size_t k = 0; k < point.gradient.size(); ++k) {
            point.gradient[k] = read.gradient[k][0];
        }
        return point;
    }
    const auto x = invert(fit, y, status);
    if (!x) {
        return std::nullopt;
    }
    const double slopeAtX = slope(fit, *x);
    if (slopeAtX == 0) {
        status = ReadOffStatus::NotDefined;
        return std::nullopt;
    }
    PointOnCurve out{*x, 1 / slopeAtX, 0, responseGradient(fit, *x)};
    for (double& one : out.gradient) {
        one *= out.perSlope;
    }
    out.variance = isInterpolation(fit.model) ? responseVariance(fit, *x) * out.perSlope * out.perSlope
                                              : variance(fit, out.gradient);
    return out;
}

} // namespace nuvat
