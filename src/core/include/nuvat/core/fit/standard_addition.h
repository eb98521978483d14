#pragma once

#include "nuvat/core/base/error.h"

#include <optional>
#include <span>
#include <utility>

namespace nuvat {

/// What a sample holds, by standard addition: where the line through the responses meets response 0.
struct StandardAddition {
    std::size_t n = 0;
    double df = 0;       ///< n-2
    double a = 0, b = 0; ///< response = a + b*added
    double seA = 0, seB = 0;
    double covariance = 0;
    double s = 0; ///< residual standard deviation
    double rSquared = 0;
    double content = 0; ///< a/b, in the unit of what is added
    double se = 0;      ///< of the content
    double t = 0;       ///< two-sided Student factor
    std::pair<double, double> deltaLimits;
    std::optional<std::pair<double, double>> fiellerLimits; ///< absent where the slope does not differ from 0
};

/// @param added n concentrations or amounts added, of at least two sizes; @param response n values
/// @param confidence 0 to 1
/// @return addition.too-few-points with fewer than three, addition.same-x, addition.no-slope
/// @throws std::invalid_argument when lengths differ (mistake of the caller)
/// Source: E. C. Fieller, J. R. Stat. Soc. B 16 (1954) 175-185; the standard error by propagation: M. Ratzlaff, Anal.
/// Chem. 51 (1979) 232-235. Checked: tests/reference/standard_addition_test.cpp.
Result<StandardAddition> standardAddition(std::span<const double> added, std::span<const double> response,
                                          double confidence);

} // namespace nuvat
