#pragma once

#include "logistic.h"
#include "nuvat/core/fit/read_off.h"

#include <optional>

namespace nuvat {

/// The curve at a response that is read off, all as changes of the concentration.
struct PointOnCurve {
    double x = 0;
    double perSlope = 0;        ///< dx/dy
    double variance = 0;        ///< of x by the parameters
    ParameterVector gradient{}; ///< dx/dparameters, without sign
};
/// The curve where it has a response; nothing where it has not, and then `status` says on which side.
std::optional<PointOnCurve> pointAt(const Fit& fit, double y, ReadOffStatus& status);

/// How the kernel reads responses off a logistic curve.
LogisticReadPlan readPlan(const Fit& fit);
/// What is left to do for one reading of the kernel's. @return whether it lies on the curve
ReadOffStatus complete(const Fit& fit, LogisticReadings& read, std::size_t at);

} // namespace nuvat
