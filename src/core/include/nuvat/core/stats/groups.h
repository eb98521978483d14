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

/// Quantile of a share p of the values, linear between order statistics ((n - 1)*p + 1, the definition 7 of Hyndman and
/// Fan, The American Statistician 50 (1996) 361-365). @pre 0 <= p <= 1; nothing for no values
std::optional<double> quantile(std::span<const double> values, double p);
/// Median; nothing for no values.
std::optional<double> median(std::span<const double> values);

/// Cochran's test: whether the largest of k equal-sized groups' variances stands out.
struct Cochran {
    std::size_t suspect = 0; ///< index of the group with the largest variance
    double c = 0;            ///< largest variance over the sum of all
    double critical = 0;     ///< at alpha
    bool isOutlier = false;
};
/// @return nothing unless there are 2 groups or more, all of one size of 2 or more, with some scatter
/// Source: W. G. Cochran, Ann. Eugenics 11 (1941) 47-52; ISO 5725-2, 7.3.3; critical value 1/(1 + (k - 1)/F).
std::optional<Cochran> cochran(const Groups& groups, double alpha);
double cochranCritical(std::size_t groups, std::size_t size, double alpha);

/// Ratio of two variances, larger over smaller.
struct VarianceRatio {
    double f = 0;
    double df1 = 0, df2 = 0; ///< of the larger and of the smaller variance
    double pTwoSided = 0;
};
/// @return nothing unless both have 2 values or more and a variance above 0
std::optional<VarianceRatio> varianceRatio(std::span<const double> a, std::span<const double> b);
/// Largest over smallest variance of all groups (Hartley's statistic). @return nothing as varianceRatio
std::optional<double> largestVarianceRatio(const Groups& groups);
/// SD pooled over groups: sqrt(sum of squares within / sum of (n - 1)). @return nothing when no group has 2 values
std::optional<double> pooledSd(const Groups& groups);

} // namespace nuvat
