#pragma once

#include "nuvat/core/base/error.h"

#include <optional>
#include <span>
#include <string>
#include <utility>
#include <vector>

namespace nuvat {

/// One measured dilution of a sample.
struct Dilution {
    double factor = 1;   ///< > 0; 4 for 1 + 3
    double measured = 0; ///< concentration in what was measured
    double se = 0;       ///< of it, > 0
};

/// Several dilutions of one sample taken together. Indexes are those of the dilutions as they were given.
struct CombinedDilutions {
    std::vector<double> timesFactor; ///< measured*factor, of all
    std::vector<std::size_t> used;   ///< inside the working range, in the order of their factors
    // Over the used ones; absent where there are none, or too few for a scatter.
    std::optional<double> weightedMean, seInternal, seExternal, simpleMean, chiSquared, p;
    std::optional<double> slope; ///< of ln measured against ln factor; -1 where a sample dilutes in proportion
    std::optional<std::pair<double, double>> slopeInterval; ///< 95 %
    bool hasHook = false;                                   ///< a rise with dilution was warned of
    bool agree = false;                                     ///< all used ones do
    /// Those whose combination is the result: the lowest consecutive dilutions that agree; empty where there are none.
    std::vector<std::size_t> reported;
    std::optional<double> value, se; ///< of the reported ones: weighted mean and the larger of internal and external SE
    std::vector<std::string> warnings;
};

/// Combines dilutions by inverse variances. Dilutions agree when none differs from their weighted mean by more than
/// 20 % and chi-squared has p > 0.01. A rise of measured*factor with dilution, from one used dilution to the next, by
/// more than 20 % and 2 SE (more where there are more than two dilutions) warns of a hook or matrix effect.
/// @param range lowest and highest concentration that may be read; ends included
/// @return dilutions.none without dilutions, dilutions.factor, dilutions.se for one that is not above 0
/// Source: weighted mean, Birge ratio: R. T. Birge, Phys. Rev. 40 (1932) 207-227. Rule: decision 0018, with its
/// simulation. Checked: tests/reference/dilutions_test.cpp.
Result<CombinedDilutions> combineDilutions(std::span<const Dilution> dilutions, std::pair<double, double> range);

} // namespace nuvat
