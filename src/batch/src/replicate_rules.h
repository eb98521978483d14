#pragma once

#include "nuvat/batch/evaluation.h"

#include <span>

namespace nuvat {

/// Sets replicates aside as the method's rule says; those keep their responses and tell why. Blanks keep all theirs.
void applyReplicateRules(const Batch& batch, AnalyteEvaluation& evaluation);

/// Of all subsets of n among the values the one with the smallest SD; ties go to the earliest. Indexes, ascending.
/// @pre 2 <= n <= values.size()
std::vector<std::size_t> bestSubset(std::span<const double> values, std::size_t n);

} // namespace nuvat
