#pragma once

#include "nuvat/core/base/error.h"

#include <cstddef>
#include <optional>
#include <span>
#include <utility>
#include <vector>

namespace nuvat {

/// A value with what is known of its uncertainty.
struct UncertainValue {
    double value = 0;
    double se = 0; ///< >= 0
    double df = 0; ///< of the SE; infinite where it is known
};

/// Where a value stands among ordered limits. Classes count from 0, that below the first limit.
struct Decision {
    std::size_t byValue = 0; ///< a value equal to a limit is below it
    std::pair<double, double> interval;
    std::size_t lowest = 0, highest = 0; ///< classes that the interval reaches into; the ends count
    bool isDecided() const { return lowest == highest; }
    /// One a limit: what a one-sided test at the same confidence shows, and the probability of being above.
    struct Guarded {
        bool isAbove = false, isBelow = false;
        double probabilityAbove = 0;
    };
    std::vector<Guarded> limits;
};

/// @param limits ascending; @param confidence of the two-sided interval and the one-sided tests, 0 to 1
/// Source: JCGM 106:2012 (guarded acceptance and rejection). Checked: tests/reference/planning_test.cpp.
Decision decide(const UncertainValue& value, std::span<const double> limits, double confidence);

/// A limit from samples that are known to be negative.
struct CutOff {
    std::size_t n = 0;
    double mean = 0, sd = 0, k = 0;
    double value = 0; ///< mean + k*sd
    double se = 0;    ///< sqrt(sd^2/n + k^2 sd^2/(2(n-1))), for normal values
};
/// @return decide.too-few-negatives with fewer than two
Result<CutOff> cutOff(std::span<const double> negatives, double k);

/// A value in units of a cut-off, and its class: 0 negative, 1 in the grey zone (ends included), 2 positive.
struct CutOffIndex {
    double index = 0;
    std::pair<double, double> interval; ///< 95 %, the cut-off taken as exact
    double se = 0;                      ///< with the uncertainty of the cut-off
    int byValue = 0;
    int lowest = 0, highest = 0; ///< classes that the interval reaches into
};
/// @param grey zone as indexes, 1 to 1 for none; @pre cutOff.value != 0
CutOffIndex cutOffIndex(const UncertainValue& value, const CutOff& cutOff, std::pair<double, double> grey);

/// A sample between blank and control.
struct PercentOfControl {
    double percent = 0; ///< 100*(sample - blank)/(control - blank)
    double se = 0;      ///< with the covariance through the common blank
    std::pair<double, double> deltaLimits;
    std::optional<std::pair<double, double>> fiellerLimits; ///< absent where control and blank do not differ
};
/// Groups whose scatter is pooled over all of them.
struct ControlledGroups {
    double pooledSd = 0; ///< where the scatter is in proportion to the mean or its root, in units of it
    double df = 0;
    std::vector<PercentOfControl> samples;
};
/// How the variance of a reading grows with its mean.
enum class VarianceGrowth {
    Constant,
    WithMean,       ///< as of counts
    WithMeanSquare, ///< the CV is constant
};
/// @param blank may be empty: nothing is subtracted
/// @param growth means below 1 % of the largest count as that much
/// @return control.too-few without a control or replicates, control.no-range where control and blank are equal
/// Source: E. C. Fieller, J. R. Stat. Soc. B 16 (1954) 175-185. Checked: tests/reference/planning_test.cpp.
Result<ControlledGroups> percentOfControl(std::span<const double> control, std::span<const double> blank,
                                          std::span<const std::vector<double>> samples, double confidence,
                                          VarianceGrowth growth = VarianceGrowth::Constant);

} // namespace nuvat
