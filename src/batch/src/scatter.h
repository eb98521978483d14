#pragma once

#include "nuvat/batch/evaluation.h"

#include <set>

namespace nuvat {

/// Scatter of one reading as a batch's own replicates show it, together with the curve's.
class BatchScatter {
public:
    /// Pools the within-sample variances of QCs and unknowns. @pre groups and fit are set
    BatchScatter(const Batch& batch, const AnalyteEvaluation& evaluation);

    struct Variance {
        double value = 0; ///< [Y^2]; 0: nothing is known but the curve's
        double df = 0;
    };
    /// Variance of one reading of a sample at its mean response y, x the concentration read off. With
    /// ScatterFrom::Batch the pooled variance is shrunk with the curve's, (nu_b*s_b^2 + nu_c*s_c^2)/(nu_b + nu_c),
    /// unless the two differ (two-sided F, 20 %): then the samples scatter in a way of their own and theirs alone
    /// counts.
    Variance of(const GroupValue& group, double x, double y) const;

    /// One-sided F test of a sample's own variance against that of all the others and the curve.
    /// @return p, or nothing for a sample with fewer than two readings
    std::optional<double> test(const GroupValue& group, double x, double y) const;

private:
    void findSpread(std::span<const double> y, std::span<const double> df);
    /// Degrees of freedom of the variance at a response. The exponent of the variance function is known the worse the
    /// farther the response lies from those that it was found with: the relative variance of the estimate is
    /// 2/df (1 + z^2), z being the distance of its logarithm from their mean in SDs, as on a straight line.
    double degreesAt(double y, double df) const;
    double shape(double x, double y) const; ///< variance at y but for a factor
    const Fit& m_fit;
    ScatterFrom m_from;
    double m_offset = 0;
    std::optional<VarianceFunction> m_function; ///< of the replicates; absent: the curve's weights give the shape
    double m_squares = 0;                       ///< sum of df*s^2/shape
    double m_logMean = 0, m_logVariance = 0;    ///< of the responses that the function was found with
    double m_df = 0;
    std::set<Assignment> m_members; ///< whose variances are in the sum
};

/// p values adjusted for their number by Holm's method: the smallest times k, the next times k - 1, …, never falling.
/// Source: S. Holm, Scand. J. Stat. 6 (1979) 65-70.
std::vector<double> holm(const std::vector<double>& p);

/// Tests every sample's scatter against the batch's, all of them together. That an interval holds none of the
/// replicates it was made from is no test of its own: with duplicates it happens to 3 samples in 100 of an honest batch
/// (see docs/decisions/0011-scatter-of-unknowns.md).
void testScatter(AnalyteEvaluation& evaluation, const BatchScatter& scatter);

} // namespace nuvat
