#include "polynomial.h"

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

} // namespace nuvat
