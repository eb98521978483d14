#pragma once

#include "nuvat/batch/command.h"

namespace nuvat {

/// What stands together on a run list and moves as one.
enum class RunBlockKind {
    Blank,
    Standards,
    Samples, ///< with the QCs among them, and the blanks between two samples
    Other,   ///< runs without a role
};
struct RunBlock {
    RunBlockKind kind = RunBlockKind::Other;
    int first = 0; ///< row
    int count = 0;
    bool operator==(const RunBlock&) const = default;
};
/// The blocks of a run list, in its order: every row is in one. None for a plate.
std::vector<RunBlock> blocksOf(const Batch& batch, int carrier);

/// Moves planned runs that follow each other to another place of their list. What lies between moves up or down.
/// @param before the row that they come to stand before, as rows are counted now; the number of rows: at the end
/// @return batch.carrier, layout.place for rows that are not there, runs.measured when one of the runs that would move
/// has been measured or is being measured, runs.there when nothing would change
Result<Command> moveRuns(const Batch& batch, int carrier, int first, int count, int before);
/// Takes planned runs off their list; what stands behind them moves up.
/// @return layout.place, runs.measured, runs.none
Result<Command> removeRuns(const Batch& batch, const std::vector<Place>& places);

/// Something that is looked at before a list is started.
struct ListCheck {
    std::string sentence;
    bool isGood = true;
    std::vector<Place> places; ///< which runs, where it is not good
};
/// Whether every vial is named, levels have a concentration and lie below the stock of the plan, a blank is measured
/// before the first standard and after the highest, and one name means one thing.
/// None where nothing is planned.
std::vector<ListCheck> listChecks(const Batch& batch, int carrier);
/// The sentences of those that are not good. None: the list can start.
std::vector<std::string> listProblems(const Batch& batch, int carrier);

/// Seconds from one injection to the next: the median of the runs that were measured, or the length of their traces.
/// Absent while none was measured.
std::optional<double> secondsByRun(const Batch& batch, int carrier);

} // namespace nuvat
