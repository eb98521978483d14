#pragma once

#include "nuvat/core/fit/calibration.h"

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
};

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
};

/// What goes into a read-off besides the curve.
struct ReadOffOptions {
    double confidence = 0.95; ///< 0 < confidence < 1
    double replicates = 1;    ///< m >= 1: the response is the mean of m readings
    double blankSe = 0;       ///< SE of the subtracted blank [Y], >= 0; 0 leaves it out
    IntervalMethod interval = IntervalMethod::Propagation;
    /// studentFactor(confidence, fit.df) when the caller has it already (many read-offs of one curve); 0: computed
    /// here.
    double factor = 0;
};

/// Reads the response y off the curve.
/// var(x) = [ s^2/(m*w0) + g' Cov g + blankSe^2 ] / (dy/dx)^2, g = df/dparameters at x, w0 the weight of one reading
/// with that response (1/x: from the concentration read off, at or below zero from the lowest standard; 1/y: 1/|y|;
/// 1/s2: s linear in y between the levels). For a straight line without weights this is the usual formula of inverse
/// regression. Source: ISO 11095; DIN 38402-51. Checked: tests/reference/ (DNase read-offs; textbook lines).
ReadOff readOff(const Fit& fit, double y, const ReadOffOptions& options = {});

/// Reads every replicate of one sample off the curve and averages the concentrations. The scatter of the readings
/// shrinks with their number, the share of the curve and of the blank does not:
/// var(mean) = sum(s^2/w0_j / f'_j^2)/m^2 + G' Cov G + blankSe^2*(mean of 1/f'_j)^2, G = mean of g_j/f'_j.
/// @param y m responses; options.replicates is not used
/// @throws std::invalid_argument when Fieller's limits are asked of a curve (mistake of the caller)
/// @return AboveCurve or BelowCurve when any replicate is beyond the curve
ReadOff readOffMean(const Fit& fit, std::span<const double> y, const ReadOffOptions& options = {});

} // namespace nuvat
