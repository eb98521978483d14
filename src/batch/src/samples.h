#pragma once

#include "evaluation_memory.h"
#include "scatter.h"

namespace nuvat {

/// All that readSample looks at. @param options that all samples of the analyte share
SampleInput sampleInput(const Batch& batch, const AnalyteEvaluation& evaluation, const GroupValue& group,
                        const ReadOffOptions& options, const BatchScatter& scatter);

/// Reads a sample off the curve: every replicate, their mean, where it lies, the result after dilution.
/// @param ofCurve options of the read-off that all samples share, with the simulated curves
SampleResult readSample(const Fit& fit, const SampleInput& input, const ReadOffOptions& ofCurve);

} // namespace nuvat
