#pragma once

#include "nuvat/core/fit/calibration.h"

#include <array>
#include <boost/container/small_vector.hpp>
#include <limits>
#include <span>

namespace nuvat {

/// y = d + (a - d)/(1 + (x/c)^b)^g; the 4PL has g = 1.
struct LogisticParameters {
    double a = 0, b = 1, c = 1, d = 0, g = 1;
};

/// Which logistic is fitted: with or without g, with a or d held at a value.
struct LogisticForm {
    bool hasAsymmetry = false; ///< 5PL: g is fitted too
    std::optional<double> heldA;
    std::optional<double> heldD;
};

/// What solveLogistic found; parameters and inverseInformation count only when status is Ok.
struct LogisticOutcome {
    FitStatus status = FitStatus::NotConverged;
    std::string message;
    std::vector<std::string> warnings;
    LogisticParameters parameters;
    double levelSum = 0; ///< weighted sum of squares of the level means at the best shape, whatever the status
    /// (J'WJ)^-1 in the order a, b, c, d, g, row by row; rows and columns of what is held (and of g in a 4PL) are 0.
    std::array<double, kMostParameters * kMostParameters> inverseInformation{};
};

/// Global weighted least-squares fit; see fitCalibration for method and source.
/// @param x n concentrations >= 0; @param y n responses; @param w n weights > 0
LogisticOutcome solveLogistic(const LogisticForm& form, std::span<const double> x, std::span<const double> y,
                              std::span<const double> w);

double logisticResponse(const LogisticParameters& p, double x);
double logisticSlope(const LogisticParameters& p, double x);
/// Derivatives with respect to a, b, c, d, g.
ParameterVector logisticGradient(const LogisticParameters& p, double x);

inline constexpr double kSteepest = 60;    ///< a slope factor b beyond this is a step, which no levels resolve
inline constexpr double kSmallestB = 1e-3; ///< of B over half the range of ln x
inline constexpr double kMostLogG = 4;     ///< ln g beyond this cannot be told from infinity with real scatter
inline constexpr std::size_t kLanes = 4;   ///< doubles that are computed side by side

/// Inline storage for up to 32 levels; nothing is allocated in the usual case.
using LevelValues = boost::container::small_vector<double, 32>;

/// Standards with their replicates collapsed to weighted level means, which moves no minimum, and ln x on -1 to 1.
/// The arrays are padded with levels of weight 0 to whole lanes.
struct LogisticLevels {
    LevelValues t, y, w;       ///< by ascending concentration; t is 0 without meaning for the zero standard
    std::size_t zeroLevel = 0; ///< 1: the first level is at x = 0
    double sumW = 0;
    double meanY = 0;
    double middle = 0; ///< of ln x
    double half = 1;   ///< half the range of ln x

    LogisticLevels(std::span<const double> x, std::span<const double> y, std::span<const double> w);
    std::size_t size() const { return m_size; }
    bool isZero(std::size_t level) const { return level < zeroLevel; }
    double concentration(std::size_t level) const;
    double squares() const; ///< weighted, about the mean
    void updateMean();      ///< after a change of y or w
    /// One more level at the end. updateMean() is the caller's.
    void append(double atT, double response, double weight);

private:
    void pad(); ///< to whole lanes
    std::size_t m_size = 0;
};

/// Shape of the curve: alpha, B of u = alpha + B*t for the 4PL (2 numbers). For the 5PL (3): the place near the
/// steepest point where exp(u) = 1/(1 + g), ln k with B = k*(1 + 1/g), and ln g. Those two stay where they are when g
/// runs to zero (a power law) or beyond all bounds (a Gompertz curve), so the flat valleys of the 5PL are straight
/// along ln g.
template<std::size_t S> using LogisticShape = std::array<double, S>;

/// What u = B*(t - place) + offset of the 5PL takes from g, with its derivatives by ln g.
struct AsymmetryTerms {
    double g = 1, scale = 2;      ///< scale: 1 + 1/g
    double offset = 0;            ///< -ln(1 + g)
    double first = 0, second = 0; ///< of ln(1 + g): of -offset, and of ln scale but for its own -ln g
    AsymmetryTerms() = default;
    AsymmetryTerms(double asymmetry, double logOnePlusG);
    explicit AsymmetryTerms(double logG);
};

/// The weighted sum of squares of the level means at a shape, minimal over a and d, with exact derivatives.
template<std::size_t S> struct ReducedValue {
    double s = 0;
    double a = 0, d = 0;                         ///< the minimising a and d
    std::array<double, S> gradient{};            ///< by shape number
    std::array<double, S*(S + 1) / 2> hessian{}; ///< row by row of the upper triangle
    /// Its part without second derivatives, never indefinite: the one to trust far from a minimum.
    std::array<double, S*(S + 1) / 2> gaussNewton{};
    /// The centred basis H squared, H times its derivatives by the shape, and those alone: weighted sums.
    double basisSquares = 0;
    std::array<double, S> basisTimes{}, basisSlopes{};
    double steepness = 0;  ///< B
    bool isUsable = false; ///< false when the shape leaves nothing to fit (flat)
};
template<std::size_t S>
ReducedValue<S> reducedSum(const LogisticLevels& levels, const LogisticForm& form, const LogisticShape<S>& shape);

/// A refined shape.
template<std::size_t S> struct RefinedShape {
    LogisticShape<S> shape{};
    ReducedValue<S> value;
    bool converged = false;
    double promise = 0;     ///< relative fall of the sum of squares that the last step promised
    bool isFlat = false;    ///< ended while the sum of squares hardly fell any more: along a valley without an end
    bool isAtBound = false; ///< ln g ran to its end: no finite optimum on this side
};
struct RefineOptions {
    bool freezesG = false;    ///< keeps ln g where it is (5PL)
    double tolerance = 1e-13; ///< relative size of the last step
    int mostIterations = 200;
    const void* known = nullptr; ///< LogisticShape<S> of a minimum already found: near it the refinement stops early
    double toBeat = std::numeric_limits<double>::infinity(); ///< stops when the way down does not lead below it
    bool startsWithNewton = false;                           ///< for a start that is next to the minimum
    double enough = 0;                                       ///< stops as soon as the sum of squares is this small
};
/// Gauss-Newton steps with damping and geodesic acceleration from `shape`, Newton's near the minimum.
template<std::size_t S>
RefinedShape<S> refineShape(const LogisticLevels& levels, const LogisticForm& form, const LogisticShape<S>& shape,
                            const RefineOptions& options = {});
template<> ReducedValue<2> reducedSum(const LogisticLevels&, const LogisticForm&, const LogisticShape<2>&);
template<> ReducedValue<3> reducedSum(const LogisticLevels&, const LogisticForm&, const LogisticShape<3>&);
template<>
RefinedShape<2> refineShape(const LogisticLevels&, const LogisticForm&, const LogisticShape<2>&, const RefineOptions&);
template<>
RefinedShape<3> refineShape(const LogisticLevels&, const LogisticForm&, const LogisticShape<3>&, const RefineOptions&);

/// What reading responses off one logistic needs.
struct LogisticReadPlan {
    LogisticParameters parameters;
    bool hasAsymmetry = false;
    bool wantsGradient = true;
    std::array<double, 15> covariance{}; ///< of a, b, c, d, g: upper triangle row by row; 0 for a g that is not there
};
/// What comes of some responses, one beside the other; nothing is set before they are read. @pre of all but rest: 0 <
/// rest < 1
struct LogisticReadings {
    static constexpr std::size_t kMost = 32;
    using Values = std::array<double, kMost>;
    Values rest;                    ///< 0 at the response of zero, 1 at infinity
    Values x;                       ///< infinite when it does not fit a double
    Values perSlope;                ///< dx/dy
    Values variance;                ///< of x by the parameters
    std::array<Values, 5> gradient; ///< dx/dparameters, when the plan wants it
};

/// The same search compiled for different machines. Sums are in the same order, but with AVX2 a product and its sum are
/// rounded once instead of twice: results differ by about 1e-15 (docs/decisions/0009-fused-products.md). On one machine
/// they are the same bit for bit.
struct LogisticKernels {
    ReducedValue<2> (*reduced4)(const LogisticLevels&, const LogisticForm&, const LogisticShape<2>&);
    ReducedValue<3> (*reduced5)(const LogisticLevels&, const LogisticForm&, const LogisticShape<3>&);
    RefinedShape<2> (*refine4)(const LogisticLevels&, const LogisticForm&, const LogisticShape<2>&,
                               const RefineOptions&);
    RefinedShape<3> (*refine5)(const LogisticLevels&, const LogisticForm&, const LogisticShape<3>&,
                               const RefineOptions&);
    RefinedShape<2> (*search4)(const LogisticLevels&, const LogisticForm&);
    RefinedShape<3> (*search5)(const LogisticLevels&, const LogisticForm&);
    /// Reads n responses off. @pre n <= LogisticReadings::kMost
    void (*readOff)(const LogisticReadPlan&, const double* y, std::size_t n, LogisticReadings& out);
};
const LogisticKernels& kernels(); ///< those of this machine
const LogisticKernels& baselineKernels();
const LogisticKernels& avx2Kernels(); ///< the baseline again where the compiler cannot build for AVX2
bool hasAvx2();                       ///< whether this machine has it, and fused products with it

/// Parameters at a shape. @pre value.isUsable
template<std::size_t S> LogisticParameters parametersAt(const LogisticLevels& levels, const RefinedShape<S>& refined);
/// Shape of parameters.
template<std::size_t S> LogisticShape<S> shapeOf(const LogisticLevels& levels, const LogisticParameters& p);

} // namespace nuvat
