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
    LineFixedPoint,    ///< y = y0 + b*(x - x0): a line through a given point
    Quadratic,         ///< y = b0 + b1*x + b2*x^2
    Cubic,             ///< y = b0 + b1*x + b2*x^2 + b3*x^3
    LogLog,            ///< log10 y = a + b*log10 x, x > 0 and y > 0
    PointToPoint,      ///< linear between the level means; no parameters
    Spline,            ///< monotone cubic through the level means (Fritsch-Carlson); no parameters
    Logistic4,         ///< y = d + (a - d)/(1 + (x/c)^b), b > 0, c > 0: a at x = 0, d at infinity
    Logistic5,         ///< y = d + (a - d)/(1 + (x/c)^b)^g, g > 0
};

/// Weights of the points in a fit. For 1/y and 1/y2 the y is the one WeightSource names, for 1/s2 the s is the SD of
/// the replicates at its concentration, for Variance it is a function of the response that is fitted to those SDs.
enum class Weighting { None, InverseX, InverseX2, InverseY, InverseY2, InverseS2, Variance };

/// Where the y of the weights 1/y and 1/y2 comes from.
enum class WeightSource {
    Observed,  ///< |response| of the point itself
    LevelMean, ///< |mean response| of its level: less noise in the weights
    Fitted,    ///< |fitted response|, iterated until the weights move by less than 1e-10, at most 50 rounds
};

/// What the curve is fitted to.
enum class FitTo {
    Replicates, ///< every reading is a point
    Means,      ///< the mean of a level is one point; s then belongs to such a mean
};

/// What came of a fit. Only Ok carries estimates.
enum class FitStatus {
    Ok,
    NotEnoughData, ///< fewer points than parameters + 1, or fewer different concentrations than parameters
    NotDetermined, ///< the data do not fix every parameter (rank-deficient, mid-point far outside, no finite optimum)
    NotConverged,  ///< the iteration ended without a minimum
};

std::string_view name(Model model); ///< "line", "line0", "line-fixed", "quadratic", "cubic", "loglog", "points",
                                    ///< "spline", "4pl", "5pl": stable, for files and the command line
std::string_view name(Weighting weighting); ///< "none", "1/x", "1/x2", "1/y", "1/y2", "1/s2", "variance"
std::string_view name(WeightSource from);   ///< "observed", "level", "fitted"
std::string_view name(FitTo fitTo);         ///< "replicates", "means"
std::string_view name(FitStatus status);    ///< "ok", "not-enough-data", "not-determined", "not-converged"
std::optional<Model> modelFromName(std::string_view text);
std::optional<Weighting> weightingFromName(std::string_view text);
std::optional<WeightSource> weightSourceFromName(std::string_view text);
std::optional<FitTo> fitToFromName(std::string_view text);
std::size_t parameterCount(Model model); ///< names in Fit::parameterNames: 0 for point to point and spline
bool isLogistic(Model model);
bool isStraightLine(Model model);  ///< line, line through the origin, line through a fixed point
bool isInterpolation(Model model); ///< point to point, spline

/// At most this many parameters: gradients live in arrays of this size, without heap.
inline constexpr std::size_t kMostParameters = 5;
using ParameterVector = std::array<double, kMostParameters>;

/// How a calibration is fitted.
struct FitOptions {
    Model model = Model::Line;
    Weighting weighting = Weighting::None;
    WeightSource weightFrom = WeightSource::Observed;
    FitTo fitTo = FitTo::Replicates;
    std::optional<double> heldA; ///< logistics: a held at this response instead of fitted
    std::optional<double> heldD; ///< logistics: d held
    double fixedX = 0;           ///< line through a fixed point: x0 [X]
    double fixedY = 0;           ///< y0 [Y]
    bool isSplineInLogX = false; ///< spline in log x, as suits a logarithmic axis; every x > 0
    /// 1/y, 1/y2: |y| is taken as at least this share of the largest |y|; absent: the scatter decides, see
    /// CalibrationData::floorOfY.
    std::optional<double> weightFloor;
    std::optional<double> theta; ///< variance function: exponent by hand, 0 to 1.5; absent: estimated
    bool operator==(const FitOptions&) const = default;
};

/// Points of a calibration; spans must outlive the call.
struct CalibrationData {
    std::span<const double> x;  ///< n concentrations [X]
    std::span<const double> y;  ///< n responses [Y]
    std::span<const int> level; ///< n keys of the levels; empty: points of equal x are one level
    std::span<const double> s;  ///< n standard deviations of y for 1/s2, > 0; empty: from the replicates
    /// SD of blanks [Y] and its degrees of freedom; 0 when there are none. Pooled with the scatter of the level whose
    /// response is nearest to zero it is the least |y| that 1/y and 1/y2 take: a response that is not known to be
    /// different from zero must not decide the fit by its weight. Where neither is known: 1 % of the largest |y|.
    double blankSd = 0;
    double blankDf = 0;
    double offset = 0; ///< what was subtracted from every y as a blank [Y]; a variance function is one of y + offset
};

/// Raw weights (not normalised) of calibration points.
/// @param x n concentrations >= 0; @param y n responses
/// 1/y, 1/y2: |y| is at least `floor`. 1/x, 1/x2: a zero standard gets the weight of the lowest level above 0.
/// 1/s2: a level with one replicate or with s = 0 gets the SD pooled over all levels.
/// @return n weights > 0; empty when they cannot be formed (1/x: no x above 0; 1/y: every y is 0; 1/s2: no scatter)
/// Source: usual weightings of chromatographic and ligand-binding practice (ICH M10, section on calibration curves).
/// @throws std::invalid_argument for Variance, which takes a fit
std::vector<double> unscaledWeights(Weighting weighting, std::span<const double> x, std::span<const double> y,
                                    double floor);

/// SD as a function of the response: max(floor, k*|y|^theta). theta 0 is constant scatter, 1 a constant CV.
struct VarianceFunction {
    double k = 0;
    double theta = 0;
    double floor = 0; ///< [Y]
    double at(double y) const;
};
/// Fits one to the scatter of levels by the likelihood of their variances: minimises
/// sum (n_i - 1)*[ln sigma_i^2 + s_i^2/sigma_i^2] with 0 <= theta <= 1.5.
/// @param y k responses of the levels, before any blank is subtracted; @param s k SDs; @param df k degrees of freedom
/// @param theta by hand; @return nothing with fewer than 8 degrees of freedom in all (1 with theta by hand), or without
///        scatter. Source: M. Davidian, R. J. Carroll, "Variance function estimation", J. Am. Stat. Assoc. 82 (1987)
///        1079-1091 (pseudo-likelihood).
std::optional<VarianceFunction> fitVarianceFunction(std::span<const double> y, std::span<const double> s,
                                                    std::span<const double> df, double floor,
                                                    std::optional<double> theta);

/// Scatter of the replicates at one concentration.
struct LevelScatter {
    double meanY = 0; ///< mean response
    double s = 0;     ///< SD, pooled where the level has none of its own
};

/// A fitted calibration model with its uncertainty. Weights are relative: the residual SD `s` belongs to weight 1.
struct Fit {
    Model model = Model::Line;
    Weighting weighting = Weighting::None;
    FitOptions options;
    FitStatus status = FitStatus::NotEnoughData;
    std::string message;               ///< why there are no estimates, as a sentence; empty when Ok
    std::vector<std::string> warnings; ///< sentences about a fit that is Ok but weak

    /// line: a, b (also through a fixed point); line through origin: b; polynomials: b0, b1, …; log-log: a, b; 4PL: a,
    /// b, c, d; 5PL: a, b, c, d, g; interpolations: none. A held a or d stays in the list with an SE of 0.
    std::vector<std::string> parameterNames;
    std::vector<double> parameters; ///< empty unless Ok; a, d [Y], line b [Y/X], 4PL b [1], c [X], bk [Y/X^k]
    std::vector<double> se;         ///< standard errors, same order and units
    std::vector<double> covariance; ///< size()*size(), row by row, same order

    std::size_t n = 0; ///< points fitted: readings, or level means
    std::size_t p = 0; ///< parameters fitted (held ones do not count); levels for interpolations
    double df = 0;     ///< n - p
    double sse = 0;    ///< sum of w*(y - fitted)^2; of log10 y for log-log
    double s = 0;      ///< sqrt(sse/df); 0 when df is 0
    /// About the weighted mean; about zero for the line through the origin, about y0 for the line through a fixed
    /// point; of log10 y for log-log; absent for interpolations.
    std::optional<double> rSquared;
    std::optional<double> r; ///< correlation, straight line only
    /// Akaike's criterion with small-sample correction from the Gaussian likelihood, weights included, so that fits
    /// with different weights on the same points can be compared; log-log is put on the same footing by the Jacobian of
    /// the logarithm. Absent when n <= p + 2, when the fit is exact, and for interpolations.
    std::optional<double> aicc;
    std::vector<double> x, y;    ///< n points as fitted (level means under FitTo::Means)
    std::vector<double> weights; ///< n raw weights
    std::vector<double> fitted;  ///< n fitted responses
    double lowestPositiveX = 0;  ///< lowest concentration above 0 among the points
    double floorOfY = 0;         ///< least |y| that 1/y and 1/y2 take [Y]
    double lowestX = 0;          ///< range of the concentrations that were fitted
    double highestX = 0;
    bool zeroStandardWeighted = false; ///< a zero standard got the weight of the lowest level (1/x, 1/x2)

    /// Level means that an interpolation runs through.
    struct Knot {
        double x = 0, y = 0;
        double tangent = 0;  ///< spline: dy/dx, in log x when options.isSplineInLogX
        double variance = 0; ///< of y divided by s^2
    };
    std::vector<Knot> knots;

    std::vector<LevelScatter> scatter; ///< under 1/s2, for the weight of a future reading
    VarianceFunction variance;         ///< under Weighting::Variance, of y + offset
    double offset = 0;                 ///< CalibrationData::offset

    /// The same fit in coordinates in which response, slope and variance lose no digits. For line, quadratic, cubic and
    /// log-log: coefficients of polynomials q_k that are orthogonal over the points, in z = (x - centre)/scale (of
    /// log10 x for log-log); see PolynomialFit. Lines through a point: the slope alone. Equal to parameters and
    /// covariance for the logistics.
    double centre = 0;
    double scale = 1;
    ParameterVector alpha{}, beta{}; ///< of the recurrence of q_k
    std::vector<double> workParameters;
    std::vector<double> workCovariance; ///< size of workParameters squared, row by row
    double branchLow = 0;  ///< quadratic, cubic: ends of the monotone stretch that is read off; may be infinite
    double branchHigh = 0; ///< equal to branchLow when the curve is flat

    bool isUsable() const { return status == FitStatus::Ok; }
    std::size_t size() const { return parameters.size(); }
    double parameter(std::string_view name) const; ///< @throws std::out_of_range when there is none of that name
    /// Weights divided by their mean, as reported.
    std::vector<double> normalisedWeights() const;
};

/// Normalised weights of the readings that went into a fit, each its own or, under FitTo::Means, that of its level's
/// mean. @param x of the readings, in the order in which they were fitted; @return absent where x is no level
std::vector<std::optional<double>> readingWeights(const Fit& fit, std::span<const double> x);
/// Copies a square matrix that is stored row by row into a vector of rows.
std::vector<std::vector<double>> matrixRows(std::span<const double> square);

/// Fits a calibration model by weighted least squares.
/// @param data x finite, >= 0 for the logistics, > 0 for log-log and a spline in log x; y finite, > 0 for log-log
/// @throws std::invalid_argument when lengths differ, a value is not finite or a given s is not above 0 (mistake of
///         the caller)
/// Outcome: Fit::status; estimates are absent unless Ok. A concentration or response that the model cannot hold (log of
///          zero) is NotDetermined with the reason.
/// Assumes: errors independent, their variances proportional to 1/weight; concentrations without error.
/// Method:  line, quadratic and cubic by fitPolynomial. Logistics by variable projection: a and d are linear once b, c
///          (and g) are given, so the search is over two (three) shape numbers of the curve in t = ln x scaled to
///          [-1, 1], from the best few of a grid of starts, by Gauss-Newton steps with Levenberg-Marquardt damping and
///          geodesic acceleration, near a minimum by Newton's with the exact Hessian of the reduced sum of squares;
///          b > 0 by convention (for the 5PL b < 0 would be another curve). Source: G. H. Golub, V. Pereyra,
///          "The differentiation of pseudo-inverses and nonlinear least squares problems whose variables separate",
///          SIAM J. Numer. Anal. 10 (1973) 413-432. Covariance s^2 (J'WJ)^-1 by QR of the scaled Jacobian.
///          Spline: F. N. Fritsch, R. E. Carlson, "Monotone piecewise cubic interpolation", SIAM J. Numer. Anal. 17
///          (1980) 238-246. The scatter of interpolations is that of the replicates within their levels.
///          A 5PL whose sum of squares keeps falling as g runs beyond e^4 or e^-4 is NotDetermined; one whose 95 %
///          profile interval of g is open carries a warning.
/// Checked: tests/reference/ (NIST Norris, NoInt1; textbook lines; DNase immunoassay, 4PL and 5PL, to 8 digits).
/// Cost O(n).
Fit fitCalibration(const FitOptions& options, const CalibrationData& data);
Fit fitCalibration(Model model, Weighting weighting, std::span<const double> x, std::span<const double> y);

/// Fitted response at concentration x. @param x >= 0 for the 4PL @pre fit.isUsable()
double response(const Fit& fit, double x);
/// Slope dy/dx at x [Y/X]. @pre fit.isUsable()
double slope(const Fit& fit, double x);
/// Derivatives of the response with respect to workParameters, in its order; all 0 for interpolations.
/// @pre fit.isUsable()
ParameterVector responseGradient(const Fit& fit, double x);
/// g' Cov g for a gradient with respect to workParameters, never below 0. @pre fit.isUsable()
double variance(const Fit& fit, const ParameterVector& gradient);
/// Variance of the fitted response at x [Y^2], for every model. @pre fit.isUsable()
double responseVariance(const Fit& fit, double x);
/// SE of the fitted response at x: sqrt(g' Cov g). @pre fit.isUsable()
double responseSe(const Fit& fit, double x);

} // namespace nuvat
