#pragma once

#include "nuvat/core/fit/read_off.h"

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace nuvat {

// Detection and quantitation limits, each by the method that names it. Slopes may fall: the sign of the slope is taken
// care of, limits are concentrations. The formulas of DIN 32645, ISO 11843-2, CLSI EP17 and 40 CFR 136 are written from
// memory of the standards. Checked: tests/reference/detection_test.cpp to 1e-9.
// All of them that need a line are for an unweighted Model::Line with scatter: linesNeeded says so otherwise.

/// Why the limits of an unweighted line cannot be formed from this fit, as a sentence; empty when they can.
std::string whyNoLineLimits(const Fit& fit);

/// Limits of DIN 32645 from the calibration line.
struct DinLimits {
    double tOneSided = 0, tTwoSided = 0;
    double detection = 0;     ///< x_NG = s_x0 t(n-2, alpha) sqrt(1/m + 1/n + xbar^2/Qx) [X]
    double capture = 0;       ///< detection + the same with beta [X]
    double determination = 0; ///< solves x = k s_x0 t(n-2, alpha two-sided) sqrt(1/m + 1/n + (x - xbar)^2/Qx) [X]
    double determinationFirstApproximation = 0; ///< with k x_NG under the root [X]
    double criticalResponse = 0;                ///< response at the detection limit [Y]
};
struct DinOptions {
    double alpha = 0.01; ///< error of the first kind
    double beta = 0.01;  ///< error of the second kind
    double m = 1;        ///< readings of a sample
    double k = 3;        ///< 1/k is the relative uncertainty at the determination limit
};
/// @pre whyNoLineLimits(fit) is empty. @return determination is absent (nullopt as a whole) when its equation has no
///      solution: the line is too uncertain for 1/k
std::optional<DinLimits> dinCalibrationLimits(const Fit& fit, const DinOptions& options);

/// Limits of DIN 32645 from blanks: x_NG = (s_blank/b) t(n_b - 1, alpha) sqrt(1/m + 1/n_b).
struct DinBlankLimits {
    double tOneSided = 0;
    double detection = 0, capture = 0; ///< [X]
    double criticalResponse = 0;       ///< [Y]
};
/// @pre a straight line. @return nothing for fewer than 2 blanks
std::optional<DinBlankLimits> dinBlankLimits(const Fit& fit, std::span<const double> blanks, const DinOptions& options);

/// ICH Q2: 3.3 sigma/slope and 10 sigma/slope. @pre slope not 0
struct IchLimits {
    double sigma = 0, detection = 0, quantitation = 0;
};
IchLimits ichLimits(double sigma, double slope);

/// Mean of the blanks plus k SD in the direction of the curve, through the curve.
struct BlankLimit {
    double response = 0;
    std::optional<double> x;        ///< read off the curve; absent beyond its end
    std::optional<double> kSdOverB; ///< k SD/slope, straight lines
};
/// @return nothing for fewer than 2 blanks
std::optional<BlankLimit> blankPlusSd(const Fit& fit, std::span<const double> blanks, double k);

/// Limit of blank and limit of detection of CLSI EP17, in responses and through the curve.
struct LimitOfBlank {
    double lob = 0, lod = 0;                   ///< mean + 1.645 SD of blanks; LoB + 1.645 SD of low samples [Y]
    double lobCorrected = 0, lodCorrected = 0; ///< with c_p = 1.645/(1 - 1/(4 df)) [Y]
    std::optional<double> xLob, xLod;          ///< of the corrected ones, read off [X]
};
/// @param low readings of low-level samples. @return nothing for fewer than 2 blanks or low readings
std::optional<LimitOfBlank> limitOfBlank(const Fit& fit, std::span<const double> blanks, std::span<const double> low);

/// Method detection limit: t(n - 1, 0.99 one-sided) times the SD of low-level replicates (40 CFR 136, appendix B).
struct MethodDetectionLimit {
    double t = 0;
    double response = 0;     ///< [Y]
    std::optional<double> x; ///< response/|slope|, straight lines [X]
};
std::optional<MethodDetectionLimit> methodDetectionLimit(const Fit& fit, std::span<const double> low);

/// Capability of detection of ISO 11843-2.
struct IsoLimits {
    double t = 0, delta = 0;
    double criticalResponse = 0;    ///< [Y]
    double criticalValue = 0;       ///< x_C = t (sigma/b) sqrt(1/K + 1/(IJ) + xbar^2/sxx) [X]
    double minimumDetectable = 0;   ///< x_D [X]
    double minimumDetectable2t = 0; ///< with 2 t in place of delta, the approximation [X]; constant SD only
};
/// Constant SD. @pre whyNoLineLimits(fit) is empty
IsoLimits isoLimits(const Fit& fit, double alpha, double beta, double readings);

/// SD that rises with x: sigma(x) = c + d x by three rounds of a weighted line through the SDs of the levels.
struct IsoRisingLimits {
    double c = 0, d = 0;
    double intercept = 0, slope = 0; ///< of the weighted line
    IsoLimits limits;
};
/// @param x, y n points. @return nothing unless every level has 2 readings or more that differ, there are 3 levels or
///        more, and sigma stays above 0
std::optional<IsoRisingLimits> isoRisingLimits(std::span<const double> x, std::span<const double> y, double alpha,
                                               double beta, double readings);

/// Concentrations at which the relative SE of a read-off crosses a limit: the range in which results are precise.
struct PrecisionRange {
    std::optional<double> lowest;  ///< [X]; absent when even the lowest standard is not precise enough … or none is
    std::optional<double> highest; ///< [X]
};
/// @param limitPercent of 100*SE/x, usual 20; @param options replicates and blank share of a reading
/// Searched between the lowest standard above 0 and the highest. The answer is the widest stretch without a gap that
/// holds the place of best precision. @pre fit.isUsable()
PrecisionRange rangeByPrecision(const Fit& fit, double limitPercent, const ReadOffOptions& options);

} // namespace nuvat
