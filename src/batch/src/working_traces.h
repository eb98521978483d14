#pragma once

#include "nuvat/batch/working.h"

namespace nuvat {

/// How responses of traces were taken: where each peak was found, and what was measured of it. @return false for an
/// analyte that is not read from traces: nothing is added
bool addTraceSteps(const Batch& batch, const AnalyteEvaluation& evaluation, const std::vector<Place>& places,
                   Working& working);
/// By standard addition: the sample's own line, and where it meets response 0. @return false without one
bool addAdditionSteps(const Batch& batch, const SampleResult& result, const AnalyteEvaluation& evaluation,
                      Working& working);

} // namespace nuvat
