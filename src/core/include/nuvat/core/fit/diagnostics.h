#pragma once

#include "nuvat/core/fit/calibration.h"

#include <optional>
#include <string>
#include <vector>

namespace nuvat {

/// What one point says about a fit. Absent where the fit is exact or the point fixes the curve alone.
struct PointDiagnostics {
    double residual = 0;                ///< y - fitted [Y]; of log10 y for log-log
    double leverage = 0;                ///< diagonal of the hat matrix, of the tangent plane for a logistic
    std::optional<double> standardized; ///< sqrt(w)*residual/(s*sqrt(1 - leverage))
    std::optional<double> studentized;  ///< the same with s from the fit without the point
    std::optional<double> cook;         ///< how far the fitted responses move without the point, Cook's distance
};

/// A test with its statistic, degrees of freedom and probability, and what it says, as a sentence.
struct FitTest {
    double statistic = 0;
    double df1 = 0, df2 = 0; ///< of F; 0 for a test that is not an F test
    double p = 0;
    bool isSignificant = false; ///< p < 0.05 (Mandel: 0.01, as DIN 38402-51 has it)
    std::string sentence;       ///< what it says and what to do
};

struct LackOfFit {
    FitTest test;
    double sumOfSquares = 0, pureError = 0;
};

/// How well a fit describes its points.
struct Diagnostics {
    std::vector<PointDiagnostics> points;  ///< n, in the order of Fit::x
    std::optional<double> press;           ///< sum of w*(residual/(1 - leverage))^2
    double durbinWatson = 0;               ///< of the weighted residuals in the order of x; 0 without scatter
    std::optional<LackOfFit> lackOfFit;    ///< needs replicates and more levels than parameters
    std::optional<FitTest> mandel;         ///< line or line through the origin: line against quadratic, same weights
    std::optional<FitTest> equalVariances; ///< Bartlett over the levels; needs replicates with scatter at every level
    std::optional<FitTest> runs;           ///< runs of signs of the level's mean residuals
    /// 100*sqrt(sum of squared relative errors of the back-calculated standards/(n - p)); points at x = 0 left out.
    std::optional<double> relativeStandardErrorPercent;
};

/// Diagnostics of a usable fit; a fit without parameters (point to point, spline) has tests of its points only.
/// @pre fit.isUsable()
/// Sources: N. R. Draper, H. Smith, Applied Regression Analysis (1998), chapters 2 and 8 (lack of fit, leverage,
///          residuals, Cook's distance, PRESS); DIN 38402-51 and ISO 8466-1 (Mandel's test); A. Wald, J. Wolfowitz,
///          Ann. Math. Stat. 11 (1940) 147-162 (runs).
/// Checked: tests/reference/diagnostics_test.cpp.
Diagnostics diagnose(const Fit& fit);

/// Exact probability of at most `runs` runs among `positive` and `negative` signs. @pre both above 0
double runsProbability(std::size_t runs, std::size_t positive, std::size_t negative);

} // namespace nuvat
