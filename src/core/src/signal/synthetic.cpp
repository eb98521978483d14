#include "nuvat/core/signal/synthetic.h"

#include <cmath>
#include <numbers>

namespace nuvat {

namespace {

double valueAt(const SyntheticPeak& peak, double x) {
    const double z = (x - peak.time) / peak.sigma;
    if (peak.tail <= 0) {
        return peak.height * std::exp(-z * z / 2);
    }
    const double ratio = peak.sigma / peak.tail;
    constexpr double kFarBefore = -30; // of sigma: nothing is left, and the factors would overflow
    if (z < kFarBefore) {
        return 0;
    }
    const double exponent = ratio * ratio / 2 - (x - peak.time) / peak.tail;
    return peak.height * ratio * std::sqrt(std::numbers::pi / 2) * std::exp(exponent) *
           std::erfc((ratio - z) / std::numbers::sqrt2);
}

std::uint64_t mixed(std::uint64_t value) {
    value += 0x9e3779b97f4a7c15;
    value = (value ^ (value >> 30)) * 0xbf58476d1ce4e5b9;
    value = (value ^ (value >> 27)) * 0x94d049bb133111eb;
    return value ^ (value >> 31);
}

/// In (0, 1].
double uniform(std::uint64_t bits) {
    constexpr double kUnit = 1.0 / 9007199254740992.0; // 2^-53
    return (static_cast<double>(bits >> 11) + 1) * kUnit;
}

} // namespace

double syntheticSignal(std::span<const SyntheticPeak> peaks, double x) {
    double sum = 0;
    for (const SyntheticPeak& peak : peaks) {
        sum += valueAt(peak, x);
    }
    return sum;
}

double normalNoise(std::uint64_t seed, std::uint64_t index) {
    const std::uint64_t base = mixed(seed) ^ mixed(index * 2 + 1);
    const double radius = std::sqrt(-2 * std::log(uniform(mixed(base))));
    return radius * std::cos(2 * std::numbers::pi * uniform(mixed(base + 1)));
}

} // namespace nuvat
