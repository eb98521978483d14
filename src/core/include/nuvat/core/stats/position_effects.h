#pragma once

#include "nuvat/core/base/progress.h"

#include <optional>
#include <span>
#include <vector>

namespace nuvat {

/// A value on a plate. Values of a group are replicates: they are moved together when places are exchanged.
struct PlacedValue {
    int row = 0, column = 0; ///< from 0
    double value = 0;
    int group = 0;
    bool operator==(const PlacedValue&) const = default;
};

/// One kind of effect.
struct PositionEffect {
    std::optional<std::size_t> index; ///< of the row or column it is largest in; none for the edge
    double percent = 0;               ///< of the overall level, with its sign
    double p = 1;                     ///< of one as large where samples stand in no order
};

/// What rows, columns and the edge of a plate add to the values on it.
struct PositionEffects {
    std::vector<std::optional<double>> rows, columns; ///< percent of the overall level; absent where nothing stands
    PositionEffect row, column;                       ///< the largest
    std::optional<PositionEffect> edge;               ///< absent where no value, or every one, stands on the edge
    double p = 1;                                     ///< the least of the three, times three (Bonferroni)
    bool isFound() const { return p < 0.05; }
};

/// Effects by median polish (of the edge: median of the outer wells against that of the inner), each tested by
/// exchanging the places of groups of one size at random. A row's effect counts by its size times the root of how many
/// values stand in it.
/// @param values finite; @param rows, columns of the plate; @param progress is asked whether to go on
/// @return nothing when cancelled, with fewer than 8 groups, or without 3 rows and 3 columns that hold two values each,
/// or with an
///         overall level of 0
/// Assumes: samples stand in no order of their content, else that order is found.
/// Source: medianPolish; exchanging: R. A. Fisher, The Design of Experiments (1935), section 21. False alarms and
/// power: tests/core/position_effects_test.cpp. Deterministic: the exchanges are always the same.
std::optional<PositionEffects> positionEffects(std::span<const PlacedValue> values, int rows, int columns,
                                               Progress& progress);

} // namespace nuvat
