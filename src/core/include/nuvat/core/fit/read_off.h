#pragma once

#include "nuvat/core/fit/calibration.h"

#include <cstdint>
#include <memory>

namespace nuvat {

/// Whether a response could be read off.
enum class ReadOffStatus {
    Ok,
    AboveCurve, ///< beyond the end of the curve on the side of high concentrations; there is no number
    BelowCurve, ///< beyond the end of the curve on the side of low concentrations; there is no number
    NotDefined, ///< no usable curve, or a curve without slope
};

std::string_view name(ReadOffStatus status); ///< "ok", "above-curve", "below-curve", "not-defined": stable, for files

/// How the limits of the interval are made.
enum class IntervalMethod {
    Propagation,    ///< x -+ t*SE
    LogPropagation, ///< exp(ln x -+ t*SE/x): never below zero; needs x > 0
    /// Straight lines only: all x for which the response is not significantly off the line. Not symmetric; there are no
    /// finite limits when the slope is not significantly different from zero (t^2*SE_b^2 >= b^2).
    /// Source: E. C. Fieller, J. R. Stat. Soc. B 16 (1954) 175-185.
    Fieller,
    /// The same idea for every curve: the nearest x on each side where (y - f)^2 = t^2*(variance of reading and curve).
    /// Equal to Fieller's for a straight line. A limit that the curve does not reach is absent.
    Inversion,
    /// Logistics only: all x for which refitting the curve together with the reading raises the weighted sum of squares
    /// by no more than t^2*s^2. Follows the bend of the curve where propagation cannot.
    /// Source: D. M. Bates, D. G. Watts, Nonlinear Regression Analysis and Its Applications (1988), section 6.1.
    Profile,
    /// Logistics only: percentiles of read-offs from curves refitted to simulated standards, with simulated readings;
    /// the residual SD of each simulation is drawn too. Seeded, so the same batch gives the same digits.
    /// Source: B. Efron, R. J. Tibshirani, An Introduction to the Bootstrap (1993), chapter 6 (parametric bootstrap).
    Bootstrap,
};
/// "propagation", "log-propagation", "fieller", "inversion", "profile", "bootstrap": stable, for files
std::string_view name(IntervalMethod method);
std::optional<IntervalMethod> intervalMethodFromName(std::string_view text);
/// Whether the method is defined for the model.
bool isDefinedFor(IntervalMethod method, Model model);

/// How several readings of one sample become one concentration.
enum class AverageOf {
    Concentrations, ///< each is read off, the concentrations are averaged
    Responses,      ///< the responses are averaged, their mean is read off once
};
std::string_view name(AverageOf average); ///< "concentration", "response"
std::optional<AverageOf> averageOfFromName(std::string_view text);

/// A concentration read off a curve, with its uncertainty. Numbers are absent unless status is Ok.
struct ReadOff {
    ReadOffStatus status = ReadOffStatus::NotDefined;
    std::optional<double> x;    ///< concentration [X]
    std::optional<double> se;   ///< standard error [X]
    std::optional<double> low;  ///< lower limit of the interval [X]
    std::optional<double> high; ///< upper limit of the interval [X]
    double seResponse = 0;      ///< share of the reading's own scatter [X]
    double seCurve = 0;         ///< share of the fitted parameters [X]
    double seBlank = 0;         ///< share of the blank [X]
    double df = 0;              ///< degrees of freedom of the SE; 0 where there is none
};

struct BootstrapCurves;

/// The curve as it would be with another blank: refitted to responses that are all higher, and all lower, by `step`.
struct SharedBlank {
    Fit up, down;
    double step = 0; ///< [Y]
    /// Share of a shift of the blank that stays in the response at x once the curve has followed: 0 where a free end of
    /// the curve follows it completely.
    double share(double x) const;
};
/// Whether a blank common to standards and samples cancels: the curve has a free intercept or free asymptotes.
bool cancelsBlank(const FitOptions& options);
/// Refits the curve for a blank shared by standards and samples. @param step [Y], above 0, of the size of its SE
/// @return nothing where it cancels or where the shifted curves cannot be fitted
std::shared_ptr<const SharedBlank> shareBlank(const Fit& fit, const CalibrationData& data, double step);

/// What goes into a read-off besides the curve.
struct ReadOffOptions {
    double confidence = 0.95; ///< 0 < confidence < 1
    double replicates = 1;    ///< m >= 1: the response is the mean of m readings
    double blankSe = 0;       ///< SE of the subtracted blank [Y], >= 0; 0 leaves it out
    double blankDf = 0;       ///< its degrees of freedom; 0: those of the curve
    /// How the curve follows a blank that it shares with the samples; absent: only the samples were corrected by it.
    std::shared_ptr<const SharedBlank> sharedBlank;
    /// Variance of one reading at the response that is read off [Y^2]; 0: the curve's, s^2/w0.
    double scatterVariance = 0;
    double scatterDf = 0;      ///< its degrees of freedom; 0: those of the curve
    double varianceFactor = 1; ///< of the mean of the readings, where they were chosen (see bestSubsetVariance)
    IntervalMethod interval = IntervalMethod::Propagation;
    AverageOf average = AverageOf::Concentrations;
    /// studentFactor(confidence, fit.df) when the caller has it already (many read-offs of one curve); 0: computed
    /// here.
    double factor = 0;
    std::uint64_t seed = 20260101; ///< of the bootstrap
    int simulations = 2000;        ///< of the bootstrap
    std::shared_ptr<const BootstrapCurves>
        bootstrap; ///< simulateCurves(fit, …), to share one simulation between read-offs; null: each simulates its own
};

/// Curves refitted to simulated standards, for the bootstrap.
struct BootstrapCurves {
    std::vector<ParameterVector> parameters; ///< a, b, c, d, g
    std::vector<double> s;                   ///< residual SD drawn for each
    std::size_t failed = 0;                  ///< simulated standards that determine no curve
};
/// Simulates the standards of a fitted logistic from its curve, s and weights and refits each from the curve.
/// @throws std::invalid_argument for another model. Deterministic for a seed.
std::shared_ptr<const BootstrapCurves> simulateCurves(const Fit& fit, const ReadOffOptions& options);

/// Reads the response y off the curve.
/// var(x) = [ s^2/(m*w0) + g' Cov g + (share*blankSe)^2 ] / (dy/dx)^2, g = df/dparameters at x, w0 the weight of one
/// reading with that response (1/x: from the concentration read off, at or below zero from the lowest standard; 1/y:
/// 1/|y|; 1/s2: s linear in y between the levels; log-log: s is that of log10 y). For a straight line without weights
/// this is the usual formula of inverse regression. Source: ISO 11095; DIN 38402-51. Where the parts have degrees of
/// freedom of their own, those of their sum are Welch and Satterthwaite's: nu = var^2/(sum of var_i^2/nu_i). Source: F.
/// E. Satterthwaite, Biometrics Bulletin 2 (1946) 110-114. Interpolations without replicates have no scatter: x is
/// given, se and limits are absent. Checked: tests/reference/ (DNase read-offs; textbook lines).
/// @throws std::invalid_argument when the interval method is not defined for the model (mistake of the caller)
ReadOff readOff(const Fit& fit, double y, const ReadOffOptions& options = {});

/// The concentration with its SE but without limits, for callers that need no more: nothing is looked up for them.
ReadOff readOffPoint(const Fit& fit, double y);

/// Many responses, each as readOff gives it, to the same digits; faster for logistics.
std::vector<ReadOff> readOffs(const Fit& fit, std::span<const double> y, const ReadOffOptions& options = {});

/// Reads several replicates of one sample off the curve and averages as options.average says. The scatter of the
/// readings shrinks with their number, the share of the curve and of the blank does not:
/// var(mean) = sum(s^2/w0_j / f'_j^2)/m^2 + G' Cov G + blankSe^2*(mean of 1/f'_j)^2, G = mean of g_j/f'_j.
/// Limits by inversion, profile or bootstrap are those of the mean response, widened to hold the mean of the
/// concentrations.
/// @param y m responses; options.replicates is not used when m > 1
/// @return AboveCurve or BelowCurve when any replicate is beyond the curve
ReadOff readOffMean(const Fit& fit, std::span<const double> y, const ReadOffOptions& options = {});

/// The read-off times a factor (dilution, unit) that has a relative uncertainty of its own.
/// se^2 = (factor*se)^2 + (factor*x*relativeSe)^2, each limit likewise with t times the second share.
/// @param t Student factor of the limits; not used when relativeSe is 0
/// Source: JCGM 100:2008 (GUM), 5.1.2, for a product.
ReadOff scaled(const ReadOff& readOff, double factor, double relativeSe, double t);

/// Variance of one future reading of response y at concentration x [Y^2]: s^2/w0. @pre fit.isUsable()
double readingVariance(const Fit& fit, double x, double y);

} // namespace nuvat
