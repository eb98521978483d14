#pragma once

#include "nuvat/batch/command.h"

#include <optional>
#include <span>
#include <string>
#include <utility>
#include <vector>

namespace nuvat {

/// What a table of analytes and runs shows.
enum class RunQuantity {
    Concentration, ///< read off the curve, before dilution
    Response,
    Time,  ///< of the apex
    Shift, ///< of the apex from where it is expected
    Height,
    Area,
    Width, ///< at half height
    Tailing,
    Resolution, ///< to the peak before
    SignalToNoise,
    Ratio,    ///< of the first qualifier, in percent
    Internal, ///< internal standard in percent of its median over standards and QCs
};
struct RunQuantityInfo {
    RunQuantity quantity;
    const char* name; ///< stable, for settings
    const char* title;
};
std::span<const RunQuantityInfo> runQuantities();

/// What a batch of runs holds for a person who reviews it: run by run and analyte by analyte what was found, and what
/// asks for a look.
class RunReview {
public:
    /// Looks at everything once. @param batch and @param evaluation have to outlive it
    RunReview(const Batch& batch, const Evaluation& evaluation);

    /// Places of run lists with a role, in the order in which they were measured.
    const std::vector<Place>& runs() const { return m_runs; }
    int analytes() const { return static_cast<int>(m_batch.method.analytes.size()); }
    std::optional<double> value(RunQuantity quantity, int analyte, Place place) const;
    /// Sentences that say why an analyte of a run asks for a look; none: it does not. Excluded ones never do.
    const std::vector<std::string>& reasons(int analyte, Place place) const;
    /// Whether a person accepted it with these reasons.
    bool isAccepted(int analyte, Place place) const;
    bool asksForLook(int analyte, Place place) const {
        return !reasons(analyte, place).empty() && !isAccepted(analyte, place);
    }
    std::size_t countToLookAt(int analyte) const;
    /// The next that asks for a look after an analyte of a run, run by run within each analyte and round; nothing where
    /// none does.
    std::optional<std::pair<int, Place>> next(int analyte, std::optional<Place> place) const;

private:
    const AnalyteEvaluation& of(int analyte, Place place) const { return m_evaluation.at(analyte, place); }
    std::vector<std::string> reasonsOf(int analyte, Place place) const;
    const Batch& m_batch;
    const Evaluation& m_evaluation;
    std::vector<Place> m_runs;
    std::map<std::pair<int, Place>, std::vector<std::string>> m_reasons; ///< only what has some
    std::vector<std::shared_ptr<const Trace>> m_blanks;                  ///< one an analyte, where it has a blank run
};

/// Why a run that was just measured does not give what the method asks of it: a standard, QC or check standard that
/// asks for a look, or a QC that is not found again. @return a sentence, empty where it holds
std::string runFailure(const Batch& batch, const Evaluation& evaluation, Place place);

/// Keeps that a person looked at an analyte of a run and lets it stand. It holds as long as the reasons stay the same.
/// @return override.reason when the reason is empty, review.nothing when nothing asks for a look there
Result<Command> acceptRun(const Batch& batch, const RunReview& review, int analyte, Place place,
                          const std::string& reason, std::int64_t timeMillis);
Result<Command> withdrawAcceptance(const Batch& batch, int analyte, Place place);

} // namespace nuvat
