#include "nuvat/core/stats/control_series.h"

#include "nuvat/core/stats/descriptive.h"

#include <algorithm>
#include <boost/math/quadrature/gauss.hpp>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace nuvat {

namespace {

/// Whether the last `count` of z up to `end` are all beyond `limit` on the side of `sign`.
bool areBeyond(std::span<const double> z, std::size_t end, std::size_t count, double limit, double sign) {
    if (end + 1 < count) {
        return false;
    }
    return std::all_of(z.begin() + static_cast<std::ptrdiff_t>(end + 1 - count),
                       z.begin() + static_cast<std::ptrdiff_t>(end + 1), [&](double v) { return sign * v > limit; });
}

bool completes(ControlRule rule, std::span<const double> z, std::size_t i) {
    const auto onOneSide = [&](std::size_t count, double limit) {
        return areBeyond(z, i, count, limit, 1) || areBeyond(z, i, count, limit, -1);
    };
    switch (rule) {
    case ControlRule::OneTwoS:
        return onOneSide(1, 2);
    case ControlRule::OneThreeS:
        return onOneSide(1, 3);
    case ControlRule::TwoTwoS:
        return onOneSide(2, 2);
    case ControlRule::RFourS:
        return i > 0 && ((z[i] > 2 && z[i - 1] < -2) || (z[i] < -2 && z[i - 1] > 2));
    case ControlRule::FourOneS:
        return onOneSide(4, 1);
    case ControlRule::TenX:
        return onOneSide(10, 0);
    }
    return false;
}

double normalBelow(double x) {
    return std::erfc(-x / std::numbers::sqrt2) / 2;
}

} // namespace

std::string_view name(ControlRule rule) {
    constexpr std::array<std::string_view, 6> names{"1_2s", "1_3s", "2_2s", "R_4s", "4_1s", "10_x"};
    return names[static_cast<std::size_t>(rule)];
}

std::vector<std::size_t> violations(ControlRule rule, std::span<const double> z) {
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < z.size(); ++i) {
        if (completes(rule, z, i)) {
            out.push_back(i);
        }
    }
    return out;
}

IndividualsLimits individualsLimits(std::span<const double> values) {
    if (values.size() < 2) {
        throw std::invalid_argument("individualsLimits: two values or more are needed");
    }
    IndividualsLimits out;
    std::vector<double> ranges;
    for (std::size_t i = 1; i < values.size(); ++i) {
        ranges.push_back(std::abs(values[i] - values[i - 1]));
    }
    constexpr double kD2OfTwo = 2 * std::numbers::inv_sqrtpi;
    out.mean = *describe(values).mean;
    out.meanMovingRange = *describe(ranges).mean;
    out.sigma = out.meanMovingRange / kD2OfTwo;
    out.low = out.mean - 3 * out.sigma;
    out.high = out.mean + 3 * out.sigma;
    return out;
}

std::vector<std::array<double, 2>> cumulativeSums(std::span<const double> z, double k) {
    std::vector<std::array<double, 2>> out;
    std::array<double, 2> sums{};
    for (const double v : z) {
        sums = {std::max(0.0, sums[0] + v - k), std::max(0.0, sums[1] - v - k)};
        out.push_back(sums);
    }
    return out;
}

std::vector<double> movingAverage(std::span<const double> z, double lambda) {
    std::vector<double> out;
    double average = 0;
    for (const double v : z) {
        average = lambda * v + (1 - lambda) * average;
        out.push_back(average);
    }
    return out;
}

ChartConstants chartConstants(std::size_t n) {
    if (n < 2) {
        throw std::invalid_argument("chartConstants: groups have two values or more");
    }
    const auto size = static_cast<double>(n);
    ChartConstants out;
    out.c4 = std::sqrt(2 / (size - 1)) * std::exp(std::lgamma(size / 2) - std::lgamma((size - 1) / 2));
    // Moments of the range: E W = ∫ 1 - (1 - P)^n - P^n dx and E W^2 = 2 ∫∫_{w>0} 1 - P(x + w)^n - (1 - P(x))^n +
    // (P(x + w) - P(x))^n; trapezoidal rule over x, which converges exponentially here, Gauss-Legendre over w.
    // Source: L. H. C. Tippett, Biometrika 17 (1925) 364-387.
    constexpr double kMost = 9;
    constexpr double kStep = 0.1;
    double second = 0;
    for (double x = -2 * kMost; x <= kMost; x += kStep) {
        const double aboveOfX = std::pow(normalBelow(-x), size);
        out.d2 += 1 - aboveOfX - std::pow(normalBelow(x), size);
        const auto atWidth = [&](double w) {
            return 1 - std::pow(normalBelow(x + w), size) - aboveOfX +
                   std::pow(normalBelow(x + w) - normalBelow(x), size);
        };
        for (double from = 0; from < 2 * kMost; from += 3) {
            second += boost::math::quadrature::gauss<double, 30>::integrate(atWidth, from, from + 3);
        }
    }
    out.d2 *= kStep;
    out.d3 = std::sqrt(2 * second * kStep - out.d2 * out.d2);
    out.a2 = 3 / (out.d2 * std::sqrt(size));
    out.a3 = 3 / (out.c4 * std::sqrt(size));
    const double spread = 3 / out.c4 * std::sqrt(1 - out.c4 * out.c4);
    out.b3 = std::max(0.0, 1 - spread);
    out.b4 = 1 + spread;
    out.lowerD3 = std::max(0.0, 1 - 3 * out.d3 / out.d2);
    out.upperD4 = 1 + 3 * out.d3 / out.d2;
    return out;
}

} // namespace nuvat
