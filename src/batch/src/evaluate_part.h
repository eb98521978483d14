#pragma once

#include "evaluation_memory.h"
#include "stages.h"

namespace nuvat {

/// What has a curve of its own: an analyte, on one carrier or (0) on all of them, in one bracket or (0) in all.
struct EvaluationPart {
    int analyte = 1;
    int carrier = 0;
    int bracket = 0;
    auto operator<=>(const EvaluationPart&) const = default;
};

/// All stages after the first for one part. @param index of the places whose groups belong to it
AnalyteEvaluation evaluateWith(const Batch& batch, const Measured& measured, EvaluationPart part,
                               std::shared_ptr<const PlaceIndex> index, AnalyteMemory& memory);

} // namespace nuvat
