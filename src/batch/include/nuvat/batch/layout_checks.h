#pragma once

#include "nuvat/batch/evaluation.h"

namespace nuvat {

/// What a layout has to hold before anything is read, and whether it does.
struct LayoutCheck {
    std::string title; ///< "Every level replicated"
    std::string found; ///< "2", "S7 once"
    Outcome outcome = Outcome::Pass;
    std::string advice; ///< what to do; empty where it passes
};

/// Checks of one analyte's layout in the order of the work: enough levels for the model and for the criteria, each
/// with a concentration and replicated, blanks where the method subtracts them, QCs at two levels, the unit, unknowns.
/// Those that do not apply (no standards where a kept curve is used) are left out. Nothing that was read is asked.
std::vector<LayoutCheck> layoutChecks(const Batch& batch, const PlaceIndex& index, int analyte);

} // namespace nuvat
