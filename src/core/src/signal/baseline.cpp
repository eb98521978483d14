#include "nuvat/core/signal/baseline.h"

#include "nuvat/core/fit/least_squares.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

/// Solves (W + lambda D'D) z = W y, D the second difference: symmetric, with two bands beside the diagonal.
void solveStiff(std::span<const double> w, double lambda, std::span<const double> y, std::vector<double>& z) {
    const std::size_t n = y.size();
    std::vector<double> d(n), e(n), f(n); // of L D L': diagonal, first and second band
    for (std::size_t i = 0; i < n; ++i) {
        const bool isEnd = i == 0 || i + 1 == n;
        const bool isNextToEnd = i == 1 || i + 2 == n;
        double diagonal = w[i] + lambda * (isEnd ? 1 : isNextToEnd ? 5 : 6);
        if (n == 3 && i == 1) {
            diagonal = w[i] + lambda * 4;
        }
        double first = i + 1 < n ? lambda * (i == 0 || i + 2 == n ? -2 : -4) : 0;
        const double second = i + 2 < n ? lambda : 0;
        if (i > 0) {
            diagonal -= d[i - 1] * e[i - 1] * e[i - 1];
            first -= d[i - 1] * e[i - 1] * f[i - 1];
        }
        if (i > 1) {
            diagonal -= d[i - 2] * f[i - 2] * f[i - 2];
        }
        d[i] = diagonal;
        e[i] = first / diagonal;
        f[i] = second / diagonal;
    }
    for (std::size_t i = 0; i < n; ++i) {
        z[i] = w[i] * y[i] - (i > 0 ? e[i - 1] * z[i - 1] : 0) - (i > 1 ? f[i - 2] * z[i - 2] : 0);
    }
    for (std::size_t i = n; i-- > 0;) {
        z[i] = z[i] / d[i] - (i + 1 < n ? e[i] * z[i + 1] : 0) - (i + 2 < n ? f[i] * z[i + 2] : 0);
    }
}

/// Indexes of the corners of the lower (upper) convex hull, ascending.
std::vector<std::size_t> hullOf(std::span<const double> x, std::span<const double> y, bool isNegative) {
    const double sign = isNegative ? -1 : 1;
    std::vector<std::size_t> hull;
    for (std::size_t i = 0; i < x.size(); ++i) {
        while (hull.size() > 1) {
            const std::size_t a = hull[hull.size() - 2];
            const std::size_t b = hull.back();
            if (sign * ((y[b] - y[a]) * (x[i] - x[a]) - (y[i] - y[a]) * (x[b] - x[a])) < 0) {
                break;
            }
            hull.pop_back();
        }
        hull.push_back(i);
    }
    return hull;
}

} // namespace

std::vector<double> asymmetricLeastSquares(std::span<const double> y, double lambda, double p) {
    if (y.size() < 3) {
        return {y.begin(), y.end()};
    }
    std::vector<double> w(y.size(), 1), z(y.size());
    constexpr int kTurns = 50;
    for (int turn = 0; turn < kTurns; ++turn) {
        solveStiff(w, lambda, y, z);
        bool hasChanged = false;
        for (std::size_t i = 0; i < y.size(); ++i) {
            const double weight = y[i] > z[i] ? p : 1 - p;
            hasChanged = hasChanged || weight != w[i];
            w[i] = weight;
        }
        if (!hasChanged) {
            break;
        }
    }
    return z;
}

Result<std::vector<double>> polynomialBaseline(std::span<const double> x, std::span<const double> y,
                                               std::span<const Stretch> stretches, int order) {
    const auto terms = static_cast<std::size_t>(order) + 1;
    const double centre = (x.front() + x.back()) / 2;
    const double scale = std::max((x.back() - x.front()) / 2, 1e-300);
    std::vector<std::vector<long double>> columns(terms);
    std::vector<long double> values;
    for (std::size_t i = 0; i < x.size(); ++i) {
        if (std::ranges::none_of(stretches, [&](const Stretch& stretch) { return stretch.contains(x[i]); })) {
            continue;
        }
        values.push_back(y[i]);
        long double power = 1;
        for (auto& column : columns) {
            column.push_back(power);
            power *= (static_cast<long double>(x[i]) - centre) / scale;
        }
    }
    const LeastSquaresFit fit = fitLinear(columns, values);
    if (!fit.isUsable()) {
        return fail("baseline.too-few-points",
                    "A polynomial of order " + std::to_string(order) + " needs more samples than the " +
                        std::to_string(values.size()) + " that it should go through.",
                    "Mark longer stretches, or choose a lower order.");
    }
    std::vector<double> out;
    for (const double at : x) {
        long double value = 0;
        for (std::size_t k = terms; k-- > 0;) {
            value = value * (static_cast<long double>(at) - centre) / scale + fit.parameters[k];
        }
        out.push_back(static_cast<double>(value));
    }
    return out;
}

std::vector<double> hullBaseline(std::span<const double> x, std::span<const double> y, bool isNegative) {
    const std::vector<std::size_t> hull = hullOf(x, y, isNegative);
    std::vector<double> out(y.begin(), y.end());
    for (std::size_t k = 0; k + 1 < hull.size(); ++k) {
        const BaseLine edge{x[hull[k]], y[hull[k]], x[hull[k + 1]], y[hull[k + 1]]};
        for (std::size_t i = hull[k] + 1; i < hull[k + 1]; ++i) {
            out[i] = edge.at(x[i]);
        }
    }
    return out;
}

std::optional<std::pair<std::size_t, std::size_t>> tangentPoints(std::span<const double> x, std::span<const double> y,
                                                                 std::size_t apex, bool isNegative) {
    const std::vector<std::size_t> hull = hullOf(x, y, isNegative);
    const auto above = std::ranges::lower_bound(hull, apex);
    if (above == hull.begin() || above == hull.end() || *above == apex) {
        return std::nullopt;
    }
    return std::pair(*(above - 1), *above);
}

} // namespace nuvat
