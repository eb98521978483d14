#pragma once

#include "nuvat/core/base/error.h"

#include <array>
#include <optional>
#include <span>
#include <string>
#include <utility>
#include <vector>

namespace nuvat {

/// What the curves of both preparations have in common.
enum class PotencyModel {
    Line,      ///< y = a + b*ln(dose), slope b in common
    Logistic4, ///< y = d + (a - d)/(1 + (dose/c)^b), a, b and d in common
};

/// Readings of a reference and a test preparation. Spans must outlive the call.
struct PotencyData {
    std::span<const double> dose;     ///< n, >= 0; > 0 for lines
    std::span<const double> response; ///< n
    std::span<const char> isTest;     ///< n, 0 or 1
    std::span<const double> weights;  ///< n > 0; empty: all 1
};

/// How much of the reference has the effect of one of the test preparation.
struct Potency {
    std::size_t n = 0;
    double df = 0;
    std::vector<std::string> names;     ///< of the parameters: a, b, c (of the reference), d; or a, b
    std::vector<double> parameters, se; ///< of the common fit, without ln potency
    double potency = 0;                 ///< exp(lnPotency)
    double lnPotency = 0, lnSe = 0;
    std::pair<double, double> interval;               ///< exp(lnPotency -+ t*lnSe)
    std::optional<std::pair<double, double>> profile; ///< where SSE is SSE0*(1 + t^2/df); absent where it is open
    double sse = 0, s = 0;                            ///< weighted
    /// Parameters and weighted SSE of reference and test by themselves, in the order of `names`.
    struct Curve {
        std::vector<double> parameters;
        double sse = 0;
    };
    std::optional<std::array<Curve, 2>> separate; ///< absent where one of them is not determined
    // Common against separate curves; absent where separate is, or leaves no degrees of freedom.
    std::optional<double> f, p;
    double df1 = 0, df2 = 0;
};

/// Relative potency by curves that are moved along ln(dose).
/// @param confidence of the limits, 0 to 1
/// @return potency.too-few-points, potency.dose (a dose the model cannot hold), potency.not-determined with the reason
/// @throws std::invalid_argument when lengths differ (mistake of the caller)
/// Assumes: errors independent, variances proportional to 1/weight.
/// Source:  D. J. Finney, Statistical Method in Biological Assay (parallel lines; Fieller's limits, which for lines are
///          those of the profile); European Pharmacopoeia 5.3 (four-parameter curves). F of common against separate
///          curves: extra sum of squares.
/// Checked: tests/reference/potency_test.cpp.
Result<Potency> relativePotency(PotencyModel model, const PotencyData& data, double confidence);

} // namespace nuvat
