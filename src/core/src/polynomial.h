#pragma once

#include "nuvat/core/fit/calibration.h"

#include <span>

namespace nuvat {

/// b0 + b1*z + b2*z^2 + … by Horner's rule.
double polynomial(std::span<const double> coefficients, double z);

/// Where a fitted polynomial rises or falls throughout; ends may be infinite.
struct Branch {
    double low = 0;
    double high = 0;
};

/// The monotone branch that holds most of the standards' range. @pre a quadratic or cubic with workParameters
Branch monotoneBranch(const Fit& fit);

/// Concentration at response y on that branch; nothing when the branch does not reach it (`isBeyondHigh`: past its end
/// at high concentrations). By bisection and Newton steps to the last digits.
struct BranchRoot {
    std::optional<double> x;
    bool isBeyondHigh = false;
};
BranchRoot solveOnBranch(const Fit& fit, double y);

} // namespace nuvat
