#pragma once

#include "nuvat/core/signal/trace.h"

#include <span>

namespace nuvat {

/// What scatters in a trace.
struct Noise {
    double sigma = 0;     ///< standard deviation [Y], > 0 unless the trace is constant
    double fine = 0;      ///< the same by fourth differences where they give less: a trace that bends has small ones
    double digitStep = 0; ///< the smallest difference that the digits of y show [Y]; 0 for a constant trace
    bool isFromCubics = false; ///< taken about local cubics, as differences do not tell (counts, correlated noise)
};

/// Standard deviation of the noise: 1.4826 median|second difference|/sqrt(6) over the whole trace. Where that is 0, or
/// the noise is correlated (lag-1 autocorrelation about local cubics above 0.3), the median of the SDs about cubics in
/// pieces of 64 samples (about lines, a ground that bends counts as noise: docs/decisions/0015). Never below one digit
/// step/sqrt(12).
/// @param y at equal or nearly equal steps; fewer than 5 give sigma 0
/// Source of the factor: P. J. Rousseeuw, C. Croux, J. Am. Stat. Assoc. 88 (1993) 1273-1283. Cost O(n).
Noise noiseOf(std::span<const double> y);

/// A stretch without peaks, as a blank gives it.
struct BlankStretch {
    std::size_t n = 0;
    double mean = 0;
    double peakToPeak = 0;           ///< largest less smallest [Y]
    double sd = 0;                   ///< about the mean
    double sdAboutLine = 0;          ///< about the fitted line, n-2
    double peakToPeakAboutLine = 0;  ///< of the residuals
    double intercept = 0, drift = 0; ///< of the line [Y], [Y/X]
};
/// @return noise.too-few-points with fewer than three samples in the stretch
Result<BlankStretch> blankStretch(std::span<const double> x, std::span<const double> y, Stretch stretch);

} // namespace nuvat
