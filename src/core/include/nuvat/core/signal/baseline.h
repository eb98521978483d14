#pragma once

#include "nuvat/core/signal/trace.h"

#include <optional>
#include <span>
#include <vector>

namespace nuvat {

/// Two points of a straight line, the first with the smaller x.
struct BaseLine {
    double x0 = 0, y0 = 0, x1 = 0, y1 = 0;
    double at(double x) const { return x == x1 ? y1 : y0 + (y1 - y0) * ((x - x0) / (x1 - x0)); }
    bool operator==(const BaseLine&) const = default;
};

/// Asymmetric least squares: the smooth curve z that minimises sum w (y-z)^2 + lambda sum (second difference of z)^2,
/// with w = p above the curve and 1-p below it, until the weights stay.
/// @param lambda > 0 stiffness; @param p 0 to 1, small for a curve that runs below peaks
/// @return n values at the samples; y itself with fewer than 3
/// Source: P. H. C. Eilers, H. F. M. Boelens, Baseline correction with asymmetric least squares smoothing, Leiden
/// University (2005). Method: banded Cholesky, at most 50 turns. Cost O(n) a turn.
std::vector<double> asymmetricLeastSquares(std::span<const double> y, double lambda, double p);

/// A polynomial fitted to the samples of some stretches, at all samples.
/// @param order 1 to 5; @return baseline.too-few-points when the stretches hold fewer than order + 2 samples
Result<std::vector<double>> polynomialBaseline(std::span<const double> x, std::span<const double> y,
                                               std::span<const Stretch> stretches, int order);

/// The lower convex hull of samples (the upper one for negative peaks), at the samples: no curve bent one way lies
/// closer to them from below.
std::vector<double> hullBaseline(std::span<const double> x, std::span<const double> y, bool isNegative);

/// The edge of the lower convex hull of samples that spans a peak: the straight line that touches the samples on both
/// sides of it and has none below it (none above it for a negative peak, by the upper hull).
/// @param apex index of the sample that it must span; @return indexes of the two samples it touches, first < apex <
/// second, or nothing where the apex is itself a corner of the hull
std::optional<std::pair<std::size_t, std::size_t>> tangentPoints(std::span<const double> x, std::span<const double> y,
                                                                 std::size_t apex, bool isNegative);

} // namespace nuvat
