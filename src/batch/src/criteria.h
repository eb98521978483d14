#pragma once

#include "nuvat/batch/evaluation.h"
#include "nuvat/core/formula/formula.h"

namespace nuvat {

/// Marks levels as within their limits and finds the range. Needs levels and fit.
void judgeLevelsAndFindRange(const Batch& batch, AnalyteEvaluation& evaluation);
/// Applies the acceptance criteria of one analyte. Needs all results. Sets needsReview of samples, criteria, verdict.
void applyCriteria(const Batch& batch, AnalyteEvaluation& evaluation);
/// Applies the criteria of the batch as a whole. Needs all analytes.
void applyBatchCriteria(const Batch& batch, Evaluation& evaluation);

/// The criteria of one analyte whose limits the method sets. Marks samples that need a review.
std::vector<CriterionResult> builtInCriteria(const Batch& batch, AnalyteEvaluation& evaluation);
/// Custom criteria with the scopes analyte, level, sample and QC, as found for one analyte.
std::vector<CriterionResult> ownCriteria(const Batch& batch, AnalyteEvaluation& evaluation);
/// Those with the scope batch.
std::vector<CriterionResult> ownBatchCriteria(const Batch& batch, const Evaluation& evaluation);

/// The quantity of a custom criterion, over the variables of its scope. @return the errors of Formula::parse
Result<Formula> quantityOf(const Criterion& criterion);
/// Levels that count in the criteria: those with a concentration above zero and a usable replicate.
bool isJudged(const LevelValue& level);

/// Key of the criterion on the recovery of a QC or a check standard: "qc-3".
std::string recoveryKey(Assignment group);
/// "S1, S2, S3 and 4 more".
std::string joined(const std::vector<std::string>& parts);
void addPlaces(const AnalyteEvaluation& evaluation, Assignment group, std::vector<Place>& places);

} // namespace nuvat
