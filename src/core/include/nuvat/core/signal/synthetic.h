#pragma once

#include <cstdint>
#include <span>

namespace nuvat {

/// A peak of an invented trace: a Gaussian, folded with an exponential tail where it has one.
struct SyntheticPeak {
    double time = 0;
    double sigma = 1;  ///< > 0, in the unit of time
    double height = 0; ///< of the Gaussian before it is folded: the area is height*sigma*sqrt(2 pi)
    double tail = 0;   ///< time constant of the tail, >= 0
};
/// The sum of the peaks at x.
double syntheticSignal(std::span<const SyntheticPeak> peaks, double x);

/// The same normal deviate (mean 0, SD 1) for the same seed and index, on every machine.
/// Source: splitmix64 (Steele, Lea & Flood 2014, doi:10.1145/2660193.2660195) and the Box-Muller transform.
double normalNoise(std::uint64_t seed, std::uint64_t index);

} // namespace nuvat
