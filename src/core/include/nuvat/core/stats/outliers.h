#pragma once

#include <cstddef>
#include <optional>
#include <span>
#include <string_view>

namespace nuvat {

/// Grubbs' test for one outlier.
struct Grubbs {
    std::size_t suspect = 0; ///< index of the value farthest from the mean
    double g = 0;            ///< |value - mean|/SD
    double critical = 0;     ///< at alpha, two-sided
    double pBound = 0;       ///< two-sided, Bonferroni bound
    bool isOutlier = false;
};
/// @param alpha significance, 0 < alpha < 1, two-sided
/// @return nothing for fewer than 3 values or an SD of 0
/// Source: F. E. Grubbs, Technometrics 11 (1969) 1-21; critical value from Student t with n - 2.
std::optional<Grubbs> grubbs(std::span<const double> values, double alpha);
/// Critical value of Grubbs' test. @pre n >= 3
double grubbsCritical(std::size_t n, double alpha, bool isTwoSided);

/// Dixon's ratios: a gap at the suspect end over a range that leaves values of either end out.
enum class DixonRatio { R10, R11, R21, R22 };
std::string_view name(DixonRatio ratio); ///< "r10", "r11", "r21", "r22"
/// The usual ratio for n values: r10 up to 7, r11 up to 10, r21 up to 13, r22 from 14.
DixonRatio dixonRatioFor(std::size_t n);

/// Dixon's test for one outlier.
struct Dixon {
    std::size_t suspect = 0; ///< index of the value at the end that is farther from the mean
    DixonRatio ratio = DixonRatio::R10;
    double value = 0;
    double critical = 0; ///< at alpha, two-sided
    double p = 0;        ///< two-sided
    bool isOutlier = false;
};
/// @param alpha significance, 0 < alpha < 1, two-sided
/// @return nothing for fewer than 3 or more than 100 values, or values without a range
/// Source: W. J. Dixon, Ann. Math. Stat. 22 (1951) 68-78; choice of ratio and two-sided use as D. B. Rorabacher, Anal.
///         Chem. 63 (1991) 139-146. Probabilities from the joint density of the two order statistics of the range.
/// Checked: tests/reference/outliers_test.cpp (computed critical values to 1e-7).
std::optional<Dixon> dixon(std::span<const double> values, double alpha);
/// P(ratio > value) at one given end for n values of a normal distribution. @pre the ratio is defined for n
double dixonUpperTail(DixonRatio ratio, std::size_t n, double value);
/// Critical value at a two-sided alpha. @pre the ratio is defined for n
double dixonCritical(DixonRatio ratio, std::size_t n, double alpha);

} // namespace nuvat
