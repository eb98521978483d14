#pragma once

#include "nuvat/batch/working.h"

namespace nuvat {

/// What is made of a result: recovery of a spike, derived values, the class among the decision limits, and what a kept
/// curve comes from.
void addResultSteps(const Batch& batch, const SampleResult& result, const AnalyteEvaluation& evaluation,
                    Working& working);

} // namespace nuvat
