#include "polynomial.h"

#include "model_fits.h"
#include "nuvat/core/fit/polynomial_fit.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace nuvat {

namespace {

constexpr double kInfinity = std::numeric_limits<double>::infinity();

/// Turning points in z, ascending: roots of the derivative of p0 + p1*z + p2*z^2 + p3*z^3.
std::vector<double> turningPoints(std::span<const double> powers) {
    const double c = powers[1];
    const double b = 2 * powers[2];
    const double a = powers.size() > 3 ? 3 * powers[3] : 0;
    if (a == 0) {
        return b == 0 ? std::vector<double>{} : std::vector<double>{-c / b};
    }
    const double discriminant = b * b - 4 * a * c;
    if (!(discriminant > 0)) {
        return {};
    }
    // Without cancellation: the larger root first, the other from their product.
    const double q = -0.5 * (b + std::copysign(std::sqrt(discriminant), b));
    std::vector<double> roots{q / a};
    if (q != 0) {
        roots.push_back(c / q);
    }
    std::sort(roots.begin(), roots.end());
    return roots;
}

/// The stretch between turning points that holds most of the standards; all there is when there are none.
void setBranch(Fit& fit, std::span<const double> powers) {
    std::vector<double> edges{-kInfinity};
    for (const double z : turningPoints(powers)) {
        edges.push_back(fit.centre + fit.scale * z);
    }
    edges.push_back(kInfinity);
    double most = -kInfinity;
    for (std::size_t i = 0; i + 1 < edges.size(); ++i) {
        const double overlap = std::min(edges[i + 1], fit.highestX) - std::max(edges[i], fit.lowestX);
        if (overlap > most) {
            most = overlap;
            fit.branchLow = edges[i];
            fit.branchHigh = edges[i + 1];
        }
    }
    if (std::all_of(powers.begin() + 1, powers.end(), [](double p) { return p == 0; })) {
        fit.branchHigh = fit.branchLow;
    }
}

} // namespace

OnPolynomial evaluatePolynomial(const Fit& fit, double t) {
    const double z = (t - fit.centre) / fit.scale;
    OnPolynomial out;
    double q = 1;
    double slope = 0;
    double before = 0;
    double slopeBefore = 0;
    for (std::size_t k = 0; k < fit.workParameters.size(); ++k) {
        out.basis[k] = q;
        out.value += fit.workParameters[k] * q;
        out.slope += fit.workParameters[k] * slope;
        const double next = (z - fit.alpha[k]) * q - fit.beta[k] * before;
        const double nextSlope = q + (z - fit.alpha[k]) * slope - fit.beta[k] * slopeBefore;
        before = q;
        slopeBefore = slope;
        q = next;
        slope = nextSlope;
    }
    out.slope /= fit.scale;
    return out;
}

BranchRoot solveOnBranch(const Fit& fit, double y) {
    if (!(fit.branchLow < fit.branchHigh)) {
        return {std::nullopt, false, true};
    }
    const auto at = [&](double x) { return evaluatePolynomial(fit, x); };
    double low = std::isinf(fit.branchLow) ? fit.lowestX : fit.branchLow;
    double high = std::isinf(fit.branchHigh) ? fit.highestX : fit.branchHigh;
    const double sign = at(high).value > at(low).value ? 1 : -1;
    const auto value = [&](double x) { return sign * (at(x).value - y); };
    // An open end is followed outwards until it passes y; a polynomial that is not flat does.
    constexpr double kFarthest = 1e9; // half ranges
    for (double step = fit.scale; std::isinf(fit.branchLow) && value(low) > 0 && step < kFarthest * fit.scale;
         step *= 2) {
        low -= step;
    }
    for (double step = fit.scale; std::isinf(fit.branchHigh) && value(high) < 0 && step < kFarthest * fit.scale;
         step *= 2) {
        high += step;
    }
    if (value(low) > 0) {
        return {std::nullopt, false, false};
    }
    if (value(high) < 0) {
        return {std::nullopt, true, false};
    }
    // Bisection on a logarithmic scale where both ends are above zero: the root may lie decades below the range.
    const auto middle = [](double a, double b) {
        return a > 0 && b > 16 * a ? std::sqrt(a) * std::sqrt(b) : a + (b - a) / 2;
    };
    double x = middle(low, high);
    for (int i = 0; i < 400 && low < high; ++i) {
        const OnPolynomial here = at(x);
        const double v = sign * (here.value - y);
        if (v == 0) {
            break;
        }
        (v < 0 ? low : high) = x;
        double next = x - v / (sign * here.slope);
        if (!(next > low && next < high)) {
            next = middle(low, high);
        }
        if (next == x || next == low || next == high || std::abs(next - x) < 1e-16 * std::abs(x)) {
            break;
        }
        x = next;
    }
    return {x, false, false};
}

namespace {

/// The weights when they differ; no weights are the faster way to fit with equal ones.
std::span<const double> differing(const Fit& fit) {
    return fit.weighting == Weighting::None ? std::span<const double>() : std::span<const double>(fit.weights);
}

template<std::size_t P> PolynomialFit<P> fitPowers(Fit& fit, std::span<const double> x, std::span<const double> y) {
    const PolynomialFit<P> result = fitPolynomial<P>(x, y, differing(fit));
    if (!result.isDetermined) {
        fit.status = FitStatus::NotDetermined;
        fit.message = "The concentrations lie too close together to fit this curve through them.";
        return result;
    }
    fit.parameters.assign(result.parameters.begin(), result.parameters.end());
    fit.covariance.assign(result.covariance.begin(), result.covariance.end());
    fit.se.assign(result.se.begin(), result.se.end());
    fit.centre = result.centre;
    fit.scale = result.scale;
    std::copy(result.alpha.begin(), result.alpha.end(), fit.alpha.begin());
    std::copy(result.beta.begin(), result.beta.end(), fit.beta.begin());
    fit.workParameters.assign(result.basisParameters.begin(), result.basisParameters.end());
    fit.workCovariance.assign(P * P, 0);
    for (std::size_t k = 0; k < P; ++k) {
        fit.workCovariance[k * P + k] = result.basisVariance[k];
    }
    fit.sse = result.sse;
    if (result.squares > 0) {
        fit.rSquared = 1 - result.sse / result.squares;
    }
    for (const double v : x) {
        fit.fitted.push_back(evaluatePolynomial(fit, v).value);
    }
    return result;
}

/// A quadratic or a cubic; also says when it turns inside the standards.
template<std::size_t P> void fitCurved(Fit& fit) {
    const PolynomialFit<P> result = fitPowers<P>(fit, fit.x, fit.y);
    if (!result.isDetermined) {
        return;
    }
    setBranch(fit, result.workParameters);
    if (fit.branchLow > fit.lowestX || fit.branchHigh < fit.highestX) {
        fit.warnings.emplace_back(
            "The curve turns inside the range of the standards; only the branch that holds most of "
            "them is read off.");
    }
}

} // namespace

void fitLine(Fit& fit, std::span<const double> x, std::span<const double> y) {
    const PolynomialFit<2> result = fitPowers<2>(fit, x, y);
    if (result.squares > 0) {
        fit.r = result.r;
    }
}

void fitPolynomial(Fit& fit) {
    return fit.p == 3 ? fitCurved<3>(fit) : fitCurved<4>(fit);
}

} // namespace nuvat
