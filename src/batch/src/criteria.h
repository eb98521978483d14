#pragma once

#include "nuvat/batch/evaluation.h"

namespace nuvat {

/// Marks levels as within their limits and finds the range. Needs levels and fit.
void judgeLevels(const Batch& batch, Evaluation& evaluation);
/// Applies the acceptance criteria. Needs all results. Sets needsReview of samples, criteria and verdict.
void applyCriteria(const Batch& batch, Evaluation& evaluation);

} // namespace nuvat
