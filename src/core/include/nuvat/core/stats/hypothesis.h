#pragma once

#include <array>
#include <optional>
#include <span>

namespace nuvat {

/// A t test.
struct TTest {
    double difference = 0; ///< of the means, or of the mean from the reference
    double t = 0;
    double df = 0;
    double pTwoSided = 0;
};

/// Mean against a reference value. @return nothing for fewer than 2 values or an SD of 0
std::optional<TTest> tTestAgainst(std::span<const double> values, double reference);
/// Two independent groups of equal variance. @return nothing unless both have 2 values or more and there is scatter
std::optional<TTest> tTestPooled(std::span<const double> a, std::span<const double> b);
/// Two independent groups, variances not assumed equal; degrees of freedom not rounded.
/// Source: B. L. Welch, Biometrika 34 (1947) 28-35.
std::optional<TTest> tTestWelch(std::span<const double> a, std::span<const double> b);
/// Paired results a - b. @throws std::invalid_argument when lengths differ (mistake of the caller)
std::optional<TTest> tTestPaired(std::span<const double> a, std::span<const double> b);

/// Confidence interval of the mean. @return nothing for fewer than 2 values
std::optional<std::array<double, 2>> meanInterval(std::span<const double> values, double confidence);

/// Median absolute deviation from the median, scaled to the SD of a normal distribution. Nothing for no values.
std::optional<double> scaledMedianDeviation(std::span<const double> values);

/// Relative SD of reproducibility, in percent, that Horwitz' curve predicts for a mass fraction: 2^(1 - 0.5 log10 C).
/// @param massFraction 0 < C <= 1. Source: W. Horwitz, L. R. Kamps, K. W. Boyer, J. AOAC 63 (1980) 1344-1354.
double horwitzRsdPercent(double massFraction);

} // namespace nuvat
