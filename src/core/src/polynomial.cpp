#include "polynomial.h"

#include "model_fits.h"
#include "nuvat/core/fit/polynomial_fit.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace nuvat {

namespace {

constexpr double kInfinity = std::numeric_limits<double>::infinity();

/// Turning points in z, ascending: roots of the derivative b1 + 2*b2*z + 3*b3*z^2.
std::vector<double> turningPoints(const Fit& fit) {
    const double c = fit.workParameters[1];
    const double b = 2 * fit.workParameters[2];
    const double a = fit.p > 3 ? 3 * fit.workParameters[3] : 0;
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

} // namespace

double polynomial(std::span<const double> coefficients, double z) {
    double sum = 0;
    for (std::size_t k = coefficients.size(); k-- > 0;) {
        sum = sum * z + coefficients[k];
    }
    return sum;
}

Branch monotoneBranch(const Fit& fit) {
    std::vector<double> edges{-kInfinity};
    for (const double z : turningPoints(fit)) {
        edges.push_back(z);
    }
    edges.push_back(kInfinity);
    double most = -1;
    Branch best;
    for (std::size_t i = 0; i + 1 < edges.size(); ++i) { // the standards span z = -1 to 1
        const double overlap = std::min(edges[i + 1], 1.0) - std::max(edges[i], -1.0);
        if (overlap > most) {
            most = overlap;
            best = {fit.centre + fit.scale * edges[i], fit.centre + fit.scale * edges[i + 1]};
        }
    }
    return best;
}

BranchRoot solveOnBranch(const Fit& fit, double y) {
    const Branch branch = monotoneBranch(fit);
    const auto z = [&](double x) { return (x - fit.centre) / fit.scale; };
    const bool rises =
        slope(fit, std::clamp(fit.centre, branch.low, branch.high)) != 0
            ? slope(fit, std::clamp(fit.centre, branch.low, branch.high)) > 0
            : response(fit, std::min(branch.high, fit.highestX)) > response(fit, std::max(branch.low, fit.lowestX));
    const auto value = [&](double at) { return (rises ? 1 : -1) * (polynomial(fit.workParameters, at) - y); };
    double low = std::isinf(branch.low) ? -1 : z(branch.low);
    double high = std::isinf(branch.high) ? 1 : z(branch.high);
    // An open end is followed outwards until it passes y; a polynomial that is not flat does.
    for (double step = 1; std::isinf(branch.low) && value(low) > 0 && step < 1e9; step *= 2) {
        low -= step;
    }
    for (double step = 1; std::isinf(branch.high) && value(high) < 0 && step < 1e9; step *= 2) {
        high += step;
    }
    if (value(low) > 0) {
        return {std::nullopt, false};
    }
    if (value(high) < 0) {
        return {std::nullopt, true};
    }
    double at = 0.5 * (low + high);
    for (int i = 0; i < 200 && high - low > 0; ++i) {
        const double v = value(at);
        (v < 0 ? low : high) = at;
        const double derivative = (rises ? 1 : -1) * slope(fit, fit.centre + fit.scale * at) * fit.scale;
        double next = at - v / derivative;
        if (!(next > low && next < high)) {
            next = 0.5 * (low + high);
        }
        if (next == at || std::abs(next - at) < 1e-16 * (1 + std::abs(at))) {
            break;
        }
        at = next;
    }
    return {fit.centre + fit.scale * at, false};
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
    fit.sse = result.sse;
    if (result.squares > 0) {
        fit.rSquared = 1 - result.sse / result.squares;
    }
    for (const double v : x) {
        fit.fitted.push_back(polynomial(result.workParameters, (v - result.centre) / result.scale));
    }
    return result;
}

/// A quadratic or a cubic; also says when it turns inside the standards.
template<std::size_t P> void fitCurved(Fit& fit) {
    const PolynomialFit<P> result = fitPowers<P>(fit, fit.x, fit.y);
    if (!result.isDetermined) {
        return;
    }
    fit.centre = result.centre;
    fit.scale = result.scale;
    fit.workParameters.assign(result.workParameters.begin(), result.workParameters.end());
    fit.workCovariance.assign(result.workCovariance.begin(), result.workCovariance.end());
    const Branch branch = monotoneBranch(fit);
    if (branch.low > fit.lowestX || branch.high < fit.highestX) {
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
