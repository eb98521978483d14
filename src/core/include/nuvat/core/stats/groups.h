#pragma once

#include <cstddef>
#include <optional>
#include <span>
#include <vector>

namespace nuvat {

/// Values of one group each.
using Groups = std::vector<std::vector<double>>;

/// One-way analysis of variance, with the precision figures that follow from it.
struct OneWay {
    std::size_t groups = 0;
    std::size_t n = 0;
    double grandMean = 0;
    double betweenSs = 0, withinSs = 0;
    double betweenDf = 0, withinDf = 0;
    double f = 0;
    double p = 0;
    double repeatabilitySd = 0;         ///< sqrt(within mean square)
    double betweenVariance = 0;         ///< (between MS - within MS)/n0; may be below 0
    double intermediatePrecisionSd = 0; ///< sqrt(repeatability variance + between variance, not below 0)
};

/// @param groups k >= 2 groups, none empty, more values than groups
/// @return nothing when these do not hold, or when all values within the groups are equal
/// Method: deviations from group means in extended precision. Source: ISO 5725-2; n0 = (N - sum n_i^2/N)/(k - 1).
/// Checked: tests/reference/groups_test.cpp (NIST StRD analysis of variance).
std::optional<OneWay> oneWayAnova(const Groups& groups);

/// A test of equal variances: statistic and probability of one as large when they are equal.
struct VarianceTest {
    double statistic = 0;
    double p = 0;
};

/// Bartlett's test. @return nothing unless every group has 2 values or more and a variance above 0
/// Source: M. S. Bartlett, Proc. R. Soc. A 160 (1937) 268-282.
std::optional<VarianceTest> bartlett(const Groups& groups);
/// Levene's test about the group medians (Brown and Forsythe) or means. @return nothing when not defined
/// Source: M. B. Brown, A. B. Forsythe, J. Am. Stat. Assoc. 69 (1974) 364-367.
std::optional<VarianceTest> levene(const Groups& groups, bool aboutMedians);

/// Median; nothing for no values.
std::optional<double> median(std::span<const double> values);

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

} // namespace nuvat
