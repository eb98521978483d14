#pragma once

#include "nuvat/core/fit/read_off.h"

namespace nuvat {

// Limits of a concentration read off a logistic, into out.low and out.high. @pre out.x and out.se are set
// @param y mean response read off; @param varianceOfY its variance from readings and blank [Y^2]

/// Likelihood limits; one that the data do not bound stays absent. @param t Student factor
void setProfileLimits(const Fit& fit, double y, double varianceOfY, double t, ReadOff& out);
/// Percentiles of simulated read-offs; a limit beyond the curve in the simulations stays absent, and both do when more
/// than one simulated curve in twenty is not determined: what is left would not be a sample of all. @param t as above
void setBootstrapLimits(const Fit& fit, double y, double varianceOfY, double t, const ReadOffOptions& options,
                        ReadOff& out);

} // namespace nuvat
