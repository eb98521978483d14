#pragma once

#include <cstddef>
#include <optional>
#include <span>

namespace nuvat {

/// Mean, SD and CV of replicates. What is not defined is absent, never 0 or NaN.
struct Description {
    std::size_t n = 0;
    std::optional<double> mean;      ///< absent when n = 0
    std::optional<double> sd;        ///< n - 1 in the denominator; absent when n < 2
    std::optional<double> cvPercent; ///< 100*SD/|mean|; absent when n < 2 or the mean is 0
    bool operator==(const Description&) const = default;
};

/// @param values n finite values, any unit
/// Method: corrected two-pass sums in extended precision. Source: T. F. Chan, G. H. Golub, R. J. LeVeque,
/// "Algorithms for computing the sample variance", The American Statistician 37 (1983) 242-247.
/// Checked: tests/reference/univariate_test.cpp (NIST StRD univariate sets).
Description describe(std::span<const double> values);

} // namespace nuvat
