#pragma once

#include "nuvat/batch/evaluation.h"

namespace nuvat {

/// Sets replicates aside as the method's rule says; those keep their responses and tell why. Blanks keep all theirs.
void applyReplicateRules(const ReplicateRule& rule, AnalyteEvaluation& evaluation);

} // namespace nuvat
