#pragma once

#include <optional>
#include <vector>

namespace nuvat {

/// A plate with what rows and columns add to it taken out.
struct MedianPolish {
    int rounds = 0;
    double overall = 0;
    std::vector<double> rows, columns;            ///< effects
    std::vector<std::optional<double>> residuals; ///< rows*columns, row by row; absent for empty wells
    double scaledMad = 0;                         ///< 1.4826*median|residual - median residual|
    std::vector<std::optional<double>> scores;    ///< residual/scaledMad; absent where that is 0
};

/// When polishing ends.
struct PolishEnd {
    double change = 0.01; ///< of the sum of absolute residuals, as a share of itself
    int mostRounds = 10;
};

/// value = overall + row + column + residual by alternating medians, rows first.
/// @param values rows*columns, row by row; absent wells are left out of the medians
/// @throws std::invalid_argument when the size is not rows*columns (mistake of the caller)
/// Source: J. W. Tukey, Exploratory Data Analysis (1977), chapter 11; scores: B. Brideau et al., J. Biomol. Screen. 8
/// (2003) 634-647. Checked: tests/reference/planning_test.cpp.
MedianPolish medianPolish(const std::vector<std::optional<double>>& values, int rows, int columns, PolishEnd end = {});

} // namespace nuvat
