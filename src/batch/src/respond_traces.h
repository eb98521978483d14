#pragma once

#include "stages.h"

namespace nuvat {

/// What peak and band rules give at each place. @return false for a rule of another kind: nothing is done
bool respondFromTraces(const Batch& batch, const Measured& measured, AnalyteEvaluation& evaluation);

/// The peak of a trace that a rule means. @param shift what the expected x is multiplied by; @return nullptr when none
/// lies in the window, ends included: of several the one that the rule picks, of equally near ones the first; of a
/// group its largest
const Peak* peakFor(const PeakRule& rule, const TraceFeatures& features, double shift = 1);

} // namespace nuvat
