#pragma once

#include <array>
#include <cstddef>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace nuvat {

/// Calibration models, x concentration, y response.
enum class Model {
    Line,              ///< y = a + b*x
    LineThroughOrigin, ///< y = b*x
    Quadratic,         ///< y = b0 + b1*x + b2*x^2
    Cubic,             ///< y = b0 + b1*x + b2*x^2 + b3*x^3
    Logistic4,         ///< y = d + (a - d)/(1 + (x/c)^b), b > 0, c > 0: a at x = 0, d at infinity
};

/// Weights of the points in a fit. For 1/y and 1/y2 the y is |observed response| of the point, for 1/s2 the s is the SD
/// of the replicates at its concentration.
enum class Weighting { None, InverseX, InverseX2, InverseY, InverseY2, InverseS2 };

/// What came of a fit. Only Ok carries estimates.
enum class FitStatus {
    Ok,
    NotEnoughData, ///< fewer points than parameters + 1, or fewer different concentrations than parameters
    NotDetermined, ///< the data do not fix every parameter (rank-deficient, mid-point far outside, no finite optimum)
    NotConverged,  ///< the iteration ended without a minimum
};

std::string_view
name(Model model); ///< "line", "line0", "quadratic", "cubic", "4pl": stable, for files and the command line
std::string_view name(Weighting weighting); ///< "none", "1/x", "1/x2", "1/y", "1/y2", "1/s2"
std::string_view name(FitStatus status);    ///< "ok", "not-enough-data", "not-determined", "not-converged"
std::optional<Model> modelFromName(std::string_view text);
std::optional<Weighting> weightingFromName(std::string_view text);
std::size_t parameterCount(Model model);

/// At most this many parameters: gradients live in arrays of this size, without heap.
inline constexpr std::size_t kMostParameters = 5;
using ParameterVector = std::array<double, kMostParameters>;

/// Raw weights (not normalised) of calibration points.
/// @param x n concentrations >= 0; @param y n responses
/// 1/y, 1/y2: |y| has a floor of 1e-6*max|y|. 1/x, 1/x2: a zero standard gets the weight of the lowest level above 0.
/// 1/s2: a level with one replicate or with s = 0 gets the SD pooled over all levels.
/// @return n weights > 0; empty when they cannot be formed (1/x: no x above 0; 1/y: every y is 0; 1/s2: no scatter)
/// Source: usual weightings of chromatographic and ligand-binding practice (ICH M10, section on calibration curves).
std::vector<double> rawWeights(Weighting weighting, std::span<const double> x, std::span<const double> y);

/// Scatter of the replicates at one concentration.
struct LevelScatter {
    double meanY = 0; ///< mean response
    double s = 0;     ///< SD, pooled where the level has none of its own
};
/// Levels by ascending mean response; empty when no level has replicates that differ.
/// @param x n concentrations; @param y n responses
std::vector<LevelScatter> levelScatter(std::span<const double> x, std::span<const double> y);

/// A fitted calibration model with its uncertainty. Weights are relative: the residual SD `s` belongs to weight 1.
struct Fit {
    Model model = Model::Line;
    Weighting weighting = Weighting::None;
    FitStatus status = FitStatus::NotEnoughData;
    std::string message;               ///< why there are no estimates, as a sentence; empty when Ok
    std::vector<std::string> warnings; ///< sentences about a fit that is Ok but weak

    std::vector<std::string>
        parameterNames;             ///< line: a, b; line through origin: b; polynomials: b0, b1, …; 4PL: a, b, c, d
    std::vector<double> parameters; ///< empty unless Ok; a, d [Y], line b [Y/X], 4PL b [1], c [X], bk [Y/X^k]
    std::vector<double> se;         ///< standard errors, same order and units
    std::vector<double> covariance; ///< p*p, row by row, same order

    std::size_t n = 0;
    std::size_t p = 0;
    double df = 0;                  ///< n - p
    double sse = 0;                 ///< sum of w*(y - fitted)^2
    double s = 0;                   ///< sqrt(sse/df)
    std::optional<double> rSquared; ///< about the weighted mean; about zero for the line through the origin
    std::optional<double> r;        ///< correlation, straight line only
    /// Akaike's criterion with small-sample correction from the Gaussian likelihood, weights included, so that fits
    /// with different weights on the same points can be compared; absent when n <= p + 2 or the fit is exact.
    std::optional<double> aicc;
    std::vector<double> weights; ///< n raw weights
    std::vector<double> fitted;  ///< n fitted responses
    double lowestPositiveX = 0;  ///< lowest concentration above 0 among the points
    double largestAbsY = 0;      ///< largest |response| among the points
    double lowestX = 0;          ///< range of the concentrations that were fitted
    double highestX = 0;
    bool zeroStandardWeighted = false; ///< a zero standard got the weight of the lowest level (1/x, 1/x2)

    std::vector<LevelScatter> scatter; ///< under 1/s2, for the weight of a future reading

    /// The same fit in z = (x - centre)/scale, in which polynomials lose no digits however far the standards are from
    /// zero; response, slope and gradient work in it. Equal to parameters and covariance for the other models.
    double centre = 0;
    double scale = 1;
    std::vector<double> workParameters;
    std::vector<double> workCovariance;

    bool isUsable() const { return status == FitStatus::Ok; }
    /// Weights divided by their mean, as reported.
    std::vector<double> normalisedWeights() const;
};

/// Fits a calibration model by weighted least squares.
/// @param x n concentrations, unit [X], finite, >= 0 for the 4PL
/// @param y n responses, unit [Y], finite
/// @throws std::invalid_argument when the lengths differ or a value is not finite (mistake of the caller)
/// Outcome: Fit::status; estimates are absent unless Ok.
/// Assumes: errors independent, their variances proportional to 1/weight; concentrations without error.
/// Method:  lines by centred weighted sums, polynomials by Householder QR on centred and scaled x, both in extended
///          precision; 4PL by variable projection (a and d are linear once
///          b and c are given) over (alpha, B) of u = alpha + B*t, t = ln x scaled to [-1, 1], from the best of a grid
///          of starts, by Newton steps on the reduced sum of squares with Levenberg-Marquardt damping; b > 0 by
///          convention. Source: G. H. Golub, V. Pereyra, "The differentiation of pseudo-inverses and nonlinear least
///          squares problems whose variables separate", SIAM J. Numer. Anal. 10 (1973) 413-432.
///          Covariance s^2 (J'WJ)^-1 by QR of the scaled Jacobian.
/// Checked: tests/reference/ (NIST Norris, NoInt1; textbook lines; DNase immunoassay, 4PL, to 8 digits). Cost O(n).
Fit fitCalibration(Model model, Weighting weighting, std::span<const double> x, std::span<const double> y);

/// Fitted response at concentration x. @param x >= 0 for the 4PL @pre fit.isUsable()
double response(const Fit& fit, double x);
/// Slope dy/dx at x [Y/X]. @pre fit.isUsable()
double slope(const Fit& fit, double x);
/// Derivatives of the response with respect to workParameters, first p entries used. @pre fit.isUsable()
ParameterVector responseGradient(const Fit& fit, double x);
/// g' Cov g for a gradient with respect to workParameters, never below 0. @pre fit.isUsable()
double variance(const Fit& fit, const ParameterVector& gradient);
/// SE of the fitted response at x: sqrt(g' Cov g). @pre fit.isUsable()
double responseSe(const Fit& fit, double x);

} // namespace nuvat
