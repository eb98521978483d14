#include "polynomial.h"

#include "model_fits.h"

#include <algorithm>
#include <cmath>
#include <Eigen/Dense>
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

/// Polynomial of degree p - 1 in z = (x - centre)/scale; also says when it turns inside the standards.
void fitPolynomial(Fit& fit) {
    const auto& x = fit.x;
    const auto& y = fit.y;
    constexpr int kMost = 4; // coefficients of a cubic: everything but the points stays off the heap
    using Matrix = Eigen::Matrix<long double, Eigen::Dynamic, Eigen::Dynamic, Eigen::ColMajor, Eigen::Dynamic, kMost>;
    using Small = Eigen::Matrix<long double, Eigen::Dynamic, Eigen::Dynamic, Eigen::ColMajor, kMost, kMost>;
    using Vector = Eigen::Matrix<long double, Eigen::Dynamic, 1>;
    using SmallVector = Eigen::Matrix<long double, Eigen::Dynamic, 1, Eigen::ColMajor, kMost, 1>;
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
    SmallVector beta = qr.solve(right);
    const Vector residual = right - design * beta;
    const long double sse = residual.squaredNorm();
    beta(0) += sums.y;
    fit.sse = static_cast<double>(sse);
    const Small r = qr.matrixQR().topRows(p).triangularView<Eigen::Upper>();
    const Small inverse = r.triangularView<Eigen::Upper>().solve(Small::Identity(p, p));
    const Small covariance = inverse * inverse.transpose() * (sse / static_cast<long double>(fit.df));
    // (x - m)^k/h^k by the binomial theorem: column k of `toPlain` holds its coefficients of 1, x, x^2, …
    Small toPlain = Small::Zero(p, p);
    for (Eigen::Index k = 0; k < p; ++k) {
        long double binomial = 1;
        for (Eigen::Index j = k; j >= 0; --j) { // coefficient of x^j: C(k, j)*(-m)^(k - j)/h^k
            toPlain(j, k) = binomial * std::pow(-static_cast<long double>(fit.centre), static_cast<int>(k - j)) /
                            std::pow(static_cast<long double>(fit.scale), static_cast<int>(k));
            binomial = binomial * static_cast<long double>(j) / static_cast<long double>(k - j + 1);
        }
    }
    const SmallVector plain = toPlain * beta;
    const Small plainCovariance = toPlain * covariance * toPlain.transpose();
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

} // namespace nuvat
