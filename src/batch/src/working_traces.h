#pragma once

#include "nuvat/batch/working.h"

namespace nuvat {

/// How responses of traces were taken: where each peak was found, and what was measured of it. @return false for an
/// analyte that is not read from traces: nothing is added
bool addTraceSteps(const Batch& batch, const AnalyteEvaluation& evaluation, const std::vector<Place>& places,
                   Working& working);
/// What the qualifiers of a run say, each by its own curve.
void addQualifierSteps(const Batch& batch, const AnalyteEvaluation& evaluation, Place place, Working& working);
/// Checks on the peak of one run, those that its analyte is asked for: its time, qualifiers, internal standard, shape
/// and signal to noise. Nothing where there is no peak.
void addPeakChecks(const Batch& batch, const AnalyteEvaluation& evaluation, Place place, Working& working);
/// By standard addition: the sample's own line, and where it meets response 0. @return false without one
bool addAdditionSteps(const Batch& batch, const SampleResult& result, const AnalyteEvaluation& evaluation,
                      Working& working);

} // namespace nuvat
