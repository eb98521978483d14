#pragma once

#include "nuvat/batch/command.h"

namespace nuvat {

/// A run that is to be measured. Runs of one role and name are injections of the same: replicates.
struct PlannedRun {
    std::string name;
    std::string vial;
    Role role = Role::Unknown;
    std::optional<double> level; ///< of a standard or QC: its concentration for the first analyte
    double dilution = 1;         ///< of a sample, > 0
    std::optional<double> microlitres;
    bool operator==(const PlannedRun&) const = default;
};

/// Puts runs at the end of the last run list, or on a new one; in a batch in which nothing has been read or laid out it
/// becomes that list. Standards of a level that is there get its number, QCs and samples that of their name.
/// @return runs.none when there are none, runs.name for one without a name, layout.dilution, batch.list-size,
/// batch.carriers
Result<Command> planRuns(const Batch& batch, const std::vector<PlannedRun>& runs);

/// A run list made of blocks, in the order in which they are measured.
struct ListBlocks {
    bool blankFirst = true;        ///< a blank before the first standard
    bool blankAfterHighest = true; ///< and one after the last, for carry-over
    int standardInjections = 1;    ///< of every level of the first analyte, rising
    int qcEvery = 10;              ///< all QCs of the method after so many samples, and at the end; 0: none
    std::vector<PlannedRun> samples;
    int sampleInjections = 1;
    bool rinseBetween = false; ///< a blank after every sample
    int firstVial = 1;         ///< vials are counted up; a blank and a level keep theirs
    std::string blankName = "Blank";
};
/// The rows of the blocks. Standards and QCs are those of the batch's levels and QCs that have a concentration.
std::vector<PlannedRun> runsOfBlocks(const Batch& batch, const ListBlocks& blocks);

/// The first run of a list that is planned, or that was running when the program ended.
std::optional<Place> nextPlanned(const Batch& batch, int carrier);

/// Says how a run stands. @return layout.place
Result<Command> setRunState(const Batch& batch, Place place, RunState state);

/// Keeps what an instrument gave for a run of a list: a trace for each channel, used in its slot. Traces that it had
/// before stay in the batch and are no longer in use.
/// @param state Done, or Failed for one that was cut
/// @return layout.place, batch.reading without a trace
Result<Command> recordRun(const Batch& batch, Place place, const ImportedRun& run, RunState state,
                          std::int64_t injectedMillis, std::int64_t nowMillis);

/// Puts the same run once more right after one of a list, planned: runs behind it move down. What is repeated is set
/// aside and excluded with a reason, so that it counts no more.
/// @return layout.place, exclusion.reason, batch.list-size
Result<Command> repeatRun(const Batch& batch, Place place, const std::string& reason, std::int64_t timeMillis);

/// Puts samples above ULOQ on the list once more, at its end, diluted so that they come to the middle of the range:
/// each a further preparation of its sample. Samples that have one already, or whose read-off is not known, are left
/// alone.
/// @return runs.none when there is none
Result<Command> planDilutedAgain(const Batch& batch, const Evaluation& evaluation, int analyte);

} // namespace nuvat
