#pragma once

#include "nuvat/core/fit/calibration.h"

namespace nuvat {

/// A fitted polynomial at one place.
struct OnPolynomial {
    double value = 0;
    double slope = 0;
    ParameterVector basis{}; ///< q_k: derivatives of the value with respect to Fit::workParameters
};
/// @param t concentration, or its log10 for log-log @pre fit is a line, quadratic, cubic or log-log
OnPolynomial evaluatePolynomial(const Fit& fit, double t);

/// Concentration at response y on the monotone branch; nothing when the branch does not reach it (`isBeyondHigh`: past
/// its end at high concentrations) or when the curve is flat. By bisection and Newton steps to the last digits of x.
struct BranchRoot {
    std::optional<double> x;
    bool isBeyondHigh = false;
    bool isFlat = false;
};
BranchRoot solveOnBranch(const Fit& fit, double y);

} // namespace nuvat
