#pragma once

#include "nuvat/core/base/error.h"

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace nuvat {

/// A peak among others whose total is 100 %.
struct NormalisedPeak {
    std::optional<double> areaPercent; ///< 100 A / sum of A; absent for an ignored peak
    std::optional<double> percent;     ///< 100 A f / sum of A f
};

/// Area normalisation: every component is in the chromatogram, and responds alike but for its factor.
/// @param area n areas; @param factor n correction factors (1/relative response) that multiply the areas, empty: all 1
/// @param ignored indexes of peaks that are left out of the sum
/// @return normalise.no-area when the areas that count do not sum to more than 0
/// @throws std::invalid_argument when lengths differ (mistake of the caller)
/// Source: European Pharmacopoeia 2.2.46 (from memory). Checked: tests/reference/standard_addition_test.cpp.
Result<std::vector<NormalisedPeak>> normalise(std::span<const double> area, std::span<const double> factor,
                                              std::span<const std::size_t> ignored);

} // namespace nuvat
