#pragma once

#include "nuvat/core/fit/calibration.h"

namespace nuvat {

// Each fits Fit::x, y with Fit::weights and sets status, message, parameters, covariance, sse, fitted and rSquared.
// @pre enough points and levels, n, p and df set.
void fitLine(Fit& fit, std::span<const double> x, std::span<const double> y); ///< of these points instead
void fitLineThroughOrigin(Fit& fit);
void fitLineFixedPoint(Fit& fit);
void fitLogLog(Fit& fit);
void fitPolynomial(Fit& fit);
void fitLogistic(Fit& fit);
/// Also needs Fit::knots; sets their tangents and variances.
void fitInterpolation(Fit& fit);

long double weightedSse(const Fit& fit);

double interpolatedResponse(const Fit& fit, double x);
double interpolatedSlope(const Fit& fit, double x);
/// Variance of the curve at x divided by s^2.
double interpolatedVariance(const Fit& fit, double x);
/// Concentrations inside the knots at response y; more than one when point to point is not monotone.
std::vector<double> solveInterpolation(const Fit& fit, double y);

/// Points that belong together.
struct LevelGroup {
    std::vector<std::size_t> points;
    double x = 0;     ///< of its points, their mean when a given level key joins different ones
    double meanY = 0; ///< mean response
};
/// By ascending x.
std::vector<LevelGroup> groupLevels(const CalibrationData& data);
/// SD of each group (given, own, or pooled where it has none); empty when no group has replicates that differ.
std::vector<double> groupScatter(const CalibrationData& data, const std::vector<LevelGroup>& groups);
/// Raw weights from the sizes that 1/y and 1/y2 use. @return empty when they cannot be formed
std::vector<double> computeWeights(Weighting weighting, std::span<const double> x, std::span<const double> sizeOfY,
                                   double floor);
/// Least |y| of 1/y and 1/y2, see CalibrationData::blankSd.
double floorOfY(const FitOptions& options, const CalibrationData& data);
/// The variance function of the groups' scatter, with their fitted responses (or means) in place of y.
std::optional<VarianceFunction> varianceOfGroups(const FitOptions& options, const CalibrationData& data,
                                                 const std::vector<LevelGroup>& groups,
                                                 std::span<const double> responses);
/// Sentences about a fit that is Ok but weak. @param data what was fitted
void addWarnings(Fit& fit, const CalibrationData& data, const std::vector<LevelGroup>& groups);

/// Of a fit, in the order of Fit::parameters; none for an interpolation.
std::vector<std::string> namesOfParameters(Model model);

} // namespace nuvat
