#pragma once

#include "nuvat/batch/evaluation.h"
#include "nuvat/core/base/progress.h"
#include "nuvat/core/fit/comparison.h"

namespace nuvat {

/// What another fit would make of one QC or unknown.
struct ResultChange {
    Assignment group;
    std::optional<double> inUse;         ///< result of the fit in use; absent where it reports none
    std::optional<double> other;         ///< result of the other fit
    std::optional<double> changePercent; ///< of the result in use; present where both report
};

/// A criterion whose outcome another fit would change.
struct CriterionChange {
    std::string title;
    std::string foundInUse;
    std::string found;
    Outcome inUse = Outcome::NotApplicable;
    Outcome other = Outcome::NotApplicable;
};

/// One model and weighting for the standards of an analyte, with what it would change.
struct ComparedFit {
    FitOptions options; ///< those of the method, with the model and the weighting changed
    Candidate candidate;
    bool isInUse = false;
    std::vector<ResultChange> changes; ///< QCs first, then unknowns, each by number; empty when the fit is not usable
    /// Whether each level that is judged would be within its limit, the highest concentration first.
    std::vector<bool> levelsWithin;
    std::vector<CriterionChange> criteria;
    std::size_t lost = 0;   ///< samples that are reported now and would not be
    std::size_t gained = 0; ///< the other way round

    /// The largest change among the samples that both report; nullptr when there is none.
    const ResultChange* largest() const;
};

/// Fits the usual models and weightings to the standards in use of an analyte, ranks them as compareModels() does, and
/// reads every sample off each of them. Everything else of the method stays as it is.
/// @param evaluation evaluate(batch).analyte(analyte)
/// @return best first, then those that are not ranked; empty without standards, or when cancelled
std::vector<ComparedFit> compareFits(const Batch& batch, const AnalyteEvaluation& evaluation, Progress& progress);

} // namespace nuvat
