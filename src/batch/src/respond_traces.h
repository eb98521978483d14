#pragma once

#include "stages.h"

namespace nuvat {

/// What peak and band rules give at each place. @return false for a rule of another kind: nothing is done
bool respondFromTraces(const Batch& batch, const Measured& measured, const ResponseRule& rule,
                       AnalyteEvaluation& evaluation);

/// A rule with the analyte that it is of, and where it looks in one run.
struct Finder {
    int analyte = 0;
    const PeakRule& rule;
    double shift = 1; ///< what the expected x is multiplied by
};
/// The peaks that are an analyte's: what it was given, else what its rule finds among those that are nobody else's.
/// One, the first of equally good ones, or for a group all.
std::vector<const Peak*> peaksFor(const Finder& finder, const MeasuredTrace& trace);

} // namespace nuvat
