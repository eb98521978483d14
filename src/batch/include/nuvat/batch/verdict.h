#pragma once

#include "nuvat/batch/evaluation.h"

namespace nuvat {

/// How many criteria of the whole batch stand where: all analytes' and the batch's own together.
struct CriteriaCounts {
    std::size_t met = 0;
    std::size_t review = 0;
    std::size_t failed = 0;
    std::size_t overridden = 0;
    std::size_t judged() const { return met + review + failed + overridden; } ///< without those that do not apply
};
CriteriaCounts countCriteria(const Evaluation& evaluation);

/// "Accepted", "Review before release", "Not accepted", "Nothing to check yet".
std::string verdictTitle(Outcome verdict);

/// Verdict on the whole batch as one sentence: what decides it, by name; overridden criteria are always counted. The
/// same words in the window, the report and on the command line.
std::string verdictSentence(const Batch& batch, const Evaluation& evaluation);

} // namespace nuvat
