#pragma once

#include "criteria.h"

namespace nuvat {

// Parts of the built-in criteria, which builtInCriteria puts together.

/// Percent of a limit: whole numbers stay whole.
std::string limitPercent(double value);
/// The mean of the blanks against the response at LLOQ, and read off.
CriterionResult blankOfLloq(const Batch& batch, const AnalyteEvaluation& evaluation);
CriterionResult blankBelowLloq(const Batch& batch, const AnalyteEvaluation& evaluation);
/// Of one QC or check standard.
CriterionResult qcRecovery(const Batch& batch, const AnalyteEvaluation& evaluation, const SampleResult& qc);
/// Two thirds of all QC replicates and half at each level, each within the limit of recovery.
CriterionResult qcWithin(const Batch& batch, const AnalyteEvaluation& evaluation);
/// Samples whose interval holds a decision limit are looked at.
CriterionResult clearOfLimits(const Batch& batch, AnalyteEvaluation& evaluation);
/// The internal standard of each run against the median. @pre the method has both limits
CriterionResult internalRecovery(const Batch& batch, AnalyteEvaluation& evaluation);
/// Ratios of one of the analyte's qualifiers.
CriterionResult qualifierRatio(const Batch& batch, AnalyteEvaluation& evaluation, std::size_t index);
/// Limits of the separation that the method sets for the analyte; medians and means of runs in use. A limit whose
/// figure is not defined in any run is not applicable.
/// Source of the figures: European Pharmacopoeia 2.2.46; carry-over: ICH M10 (2022), section 3.2.6.
std::vector<CriterionResult> suitability(const Batch& batch, const AnalyteEvaluation& evaluation);
/// Age of a kept curve against its validity, and that a QC checks it. @pre one is in use
CriterionResult keptCurveHolds(const Batch& batch, const AnalyteEvaluation& evaluation);

} // namespace nuvat
