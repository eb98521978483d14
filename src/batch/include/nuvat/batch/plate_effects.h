#pragma once

#include "nuvat/batch/evaluation.h"
#include "nuvat/core/stats/position_effects.h"

namespace nuvat {

/// The responses of the unknowns on a plate, those in use, by sample; without further dilutions.
/// @return none for a carrier that is no plate
std::vector<PlacedValue> unknownsOn(const Batch& batch, const AnalyteEvaluation& evaluation, int carrier);

/// What was found, in one sentence: "Column 12 reads 8.3 % below the rest of the plate (p = 0.006).", "No row, column
/// or edge effect (p = 0.41)."
std::string sentence(const PositionEffects& effects);
/// The largest of each kind: "row F +1.4 %, column 3 −0.9 %, edge +0.20 %".
std::string largestEffects(const PositionEffects& effects);

} // namespace nuvat
