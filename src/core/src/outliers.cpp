#include "nuvat/core/stats/outliers.h"

#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <array>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <numbers>
#include <numeric>
#include <vector>

namespace nuvat {

double grubbsCritical(std::size_t n, double alpha, bool isTwoSided) {
    const auto count = static_cast<double>(n);
    const double share = alpha / (isTwoSided ? 2 * count : count);
    const double t = -studentQuantile(share, count - 2);
    return (count - 1) / std::sqrt(count) * std::sqrt(t * t / (count - 2 + t * t));
}

std::optional<Grubbs> grubbs(std::span<const double> values, double alpha) {
    const Description d = describe(values);
    if (values.size() < 3 || !(d.sd.value_or(0) > 0)) {
        return std::nullopt;
    }
    Grubbs out;
    for (std::size_t i = 0; i < values.size(); ++i) {
        const double g = std::abs(values[i] - *d.mean) / *d.sd;
        if (g > out.g) {
            out.g = g;
            out.suspect = i;
        }
    }
    const auto n = static_cast<double>(values.size());
    out.critical = grubbsCritical(values.size(), alpha, true);
    const double rest = (n - 1) * (n - 1) - n * out.g * out.g;
    if (rest > 0) {
        const double t = std::sqrt(n * (n - 2) * out.g * out.g / rest);
        out.pBound = std::min(1.0, 2 * n * studentUpperTail(t, n - 2));
    }
    out.isOutlier = out.g > out.critical;
    return out;
}

namespace {

/// Which order statistics a ratio is made of: (x(1+gap) - x(1))/(x(n-left) - x(1)).
struct Shape {
    std::size_t gap;
    std::size_t left;
};

Shape shapeOf(DixonRatio ratio) {
    switch (ratio) {
    case DixonRatio::R10:
        return {1, 0};
    case DixonRatio::R11:
        return {1, 1};
    case DixonRatio::R21:
        return {2, 1};
    case DixonRatio::R22:
        return {2, 2};
    }
    return {1, 0};
}

constexpr double kMostOfDixon = 100;

double density(double x) {
    return std::exp(-x * x / 2) * std::numbers::inv_sqrtpi / std::numbers::sqrt2;
}
/// P(a < X < b), without cancellation in the upper tail.
double between(double a, double b) {
    const double scale = 1 / std::numbers::sqrt2;
    return a > 0 ? (std::erfc(a * scale) - std::erfc(b * scale)) / 2
                 : (std::erfc(-b * scale) - std::erfc(-a * scale)) / 2;
}

} // namespace

std::string_view name(DixonRatio ratio) {
    constexpr std::array<std::string_view, 4> names{"r10", "r11", "r21", "r22"};
    return names[static_cast<std::size_t>(ratio)];
}

DixonRatio dixonRatioFor(std::size_t n) {
    return n <= 7 ? DixonRatio::R10 : n <= 10 ? DixonRatio::R11 : n <= 13 ? DixonRatio::R21 : DixonRatio::R22;
}

double dixonUpperTail(DixonRatio ratio, std::size_t n, double value) {
    const auto [gap, left] = shapeOf(ratio);
    const std::size_t inner = n - left - 2; // values between the two ends of the range
    // Given the ends u and v the inner values are independent and normal between them; the ratio exceeds `value` when
    // fewer than `gap` of them lie below u + value*(v - u). Integrated over u and ln(v - u) by the trapezoidal rule,
    // which converges exponentially for such integrands.
    constexpr double kStepU = 0.2;
    constexpr double kStepS = 0.1;
    constexpr double kMostU = 9;
    const double logCount = std::lgamma(static_cast<double>(n) + 1) - std::lgamma(static_cast<double>(inner) + 1) -
                            std::lgamma(static_cast<double>(left) + 1);
    double total = 0;
    for (double u = -kMostU; u <= kMostU; u += kStepU) {
        double sum = 0;
        for (double s = -14; s <= 3; s += kStepS) {
            const double width = std::exp(s);
            const double v = u + width;
            const double mass = between(u, v);
            if (!(mass > 0)) {
                continue;
            }
            const double below = std::min(1.0, between(u, u + value * width) / mass);
            double fewer = std::pow(1 - below, static_cast<double>(inner));
            if (gap == 2) {
                fewer += static_cast<double>(inner) * below * std::pow(1 - below, static_cast<double>(inner) - 1);
            }
            sum += density(v) * std::pow(mass, static_cast<double>(inner)) *
                   std::pow(between(v, 40), static_cast<double>(left)) * fewer * width;
        }
        total += sum * density(u);
    }
    return std::exp(logCount) * total * kStepU * kStepS;
}

double dixonCritical(DixonRatio ratio, std::size_t n, double alpha) {
    // A list of replicate groups of one size asks for the same value again and again.
    struct Last {
        DixonRatio ratio = DixonRatio::R10;
        std::size_t n = 0;
        double alpha = 0, critical = 0;
    };
    thread_local std::array<Last, 8> lasts{};
    thread_local std::size_t next = 0;
    for (const Last& last : lasts) {
        if (last.ratio == ratio && last.n == n && last.alpha == alpha) {
            return last.critical;
        }
    }
    const auto excess = [&](double value) { return dixonUpperTail(ratio, n, value) - alpha / 2; };
    std::uintmax_t rounds = 100;
    const auto [low, high] = boost::math::tools::toms748_solve(excess, 1e-9, 1 - 1e-9,
                                                               boost::math::tools::eps_tolerance<double>(34), rounds);
    lasts[next++ % lasts.size()] = {ratio, n, alpha, (low + high) / 2};
    return (low + high) / 2;
}

std::optional<Dixon> dixon(std::span<const double> values, double alpha) {
    const std::size_t n = values.size();
    if (n < 3 || static_cast<double>(n) > kMostOfDixon) {
        return std::nullopt;
    }
    std::vector<std::size_t> order(n);
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return values[a] < values[b]; });
    const auto at = [&](std::size_t k) { return values[order[k]]; };
    Dixon out;
    out.ratio = dixonRatioFor(n);
    const auto [gap, left] = shapeOf(out.ratio);
    const double mean = describe(values).mean.value_or(0);
    const bool isHigh = at(n - 1) - mean > mean - at(0);
    const double range = isHigh ? at(n - 1) - at(left) : at(n - 1 - left) - at(0);
    if (!(range > 0)) {
        return std::nullopt;
    }
    out.suspect = order[isHigh ? n - 1 : 0];
    out.value = (isHigh ? at(n - 1) - at(n - 1 - gap) : at(gap) - at(0)) / range;
    out.critical = dixonCritical(out.ratio, n, alpha);
    out.p = std::min(1.0, 2 * dixonUpperTail(out.ratio, n, std::clamp(out.value, 1e-9, 1 - 1e-9)));
    out.isOutlier = out.value > out.critical;
    return out;
}

} // namespace nuvat
