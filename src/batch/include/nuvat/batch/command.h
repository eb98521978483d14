#pragma once

#include "nuvat/batch/batch.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/core/base/error.h"

#include <cstdint>
#include <string>
#include <variant>
#include <vector>

namespace nuvat {

/// One item of the batch before and after an edit; absent when the item did not exist.
template<class Key, class T> struct ItemChange {
    Key key{};
    std::optional<T> before;
    std::optional<T> after;
};
struct WholeBatch { // the key of items that exist once
    auto operator<=>(const WholeBatch&) const = default;
};
using InfoChange = ItemChange<WholeBatch, BatchInfo>;
using MethodChange = ItemChange<WholeBatch, Method>;
using ReadingChange = ItemChange<int, Reading>;
using PlaceChange = ItemChange<Place, Assignment>;
struct SampleKey {
    int number = 0;
};
struct CarrierKey {
    int number = 1;
};
using PreparationChange = ItemChange<PreparationKey, Preparation>;
using LevelChange = ItemChange<LevelKey, Level>;
using QcChange = ItemChange<QcKey, QcSample>;
using SampleChange = ItemChange<SampleKey, Sample>;
using ExclusionChange = ItemChange<ExclusionKey, Exclusion>;
using OverrideChange = ItemChange<OverrideKey, Override>;
/// Which reading of a slot counts.
struct InUse {
    int reading = 0; ///< key of Batch::readings
    bool operator==(const InUse&) const = default;
};
using CarrierChange = ItemChange<CarrierKey, Carrier>;
using RunChange = ItemChange<Place, Run>;
using InUseChange = ItemChange<Slot, InUse>;
using HandEditsChange = ItemChange<Slot, HandEdits>;
using Change = std::variant<InfoChange, MethodChange, ReadingChange, PlaceChange, LevelChange, QcChange, SampleChange,
                            ExclusionChange, OverrideChange, CarrierChange, RunChange, InUseChange, PreparationChange,
                            HandEditsChange>;

/// One edit as a person sees it: it is applied, undone and redone as a whole by swapping before and after.
struct Command {
    std::string label;           ///< "Weighting none → 1/y²", as shown in the history
    std::string reason;          ///< for exclusions; else empty
    std::int64_t timeMillis = 0; ///< when it was made; set by Document
    std::vector<Change> changes; ///< empty: nothing to do
};

/// What an edit is about, for lists of decisions.
enum class Subject {
    Edit,
    Exclusion, ///< a place is excluded or restored
    Override,  ///< a criterion is overridden, or that is withdrawn
};
std::string_view name(Subject subject); ///< "edit", "exclusion", "override": stable, for files
std::optional<Subject> subjectFromName(std::string_view text);
/// By the kinds of its changes, never by its words.
Subject subjectOf(const Command& command);

/// Puts every `after` (or, for an undo, every `before`) in place.
void applyChanges(Batch& batch, const Command& command, bool isUndo);

/// In which order places are counted.
enum class Direction {
    Across,
    Down,
    Blocks, ///< replicates stand in blocks as square as can be, blocks are counted down, then across
};

/// A series of levels in words that cannot be misread.
struct Series {
    double first = 0;      ///< concentration of S1, > 0
    bool isDivided = true; ///< each next level is the one before divided by `factor`, else multiplied
    double factor = 2;     ///< > 1
    int levels = 0;        ///< how many, 1 to 48
};
/// Concentrations of the series, S1 first. @return series.first, series.factor, series.levels on a value out of range
Result<std::vector<double>> seriesConcentrations(const Series& series);

// Each of the following looks at the batch and returns the command that does it, without doing it. A command without
// changes means that the batch already is as wanted. Those that take an analyte return method.no-analyte when the
// method has none of that number.

/// Gives the places a role; roles that are counted are counted up from one above the highest number in use every
/// `replicates` places, in `direction`; additions are all of the next sample, and their steps are counted. New unknowns
/// get dilution factor 1. Role::Empty clears; an exclusion stays with its place, since clearing a well withdraws no
/// decision.
/// @return layout.replicates when replicates < 1, layout.place when a place is not on the plate
Result<Command> assignRole(const Batch& batch, const std::vector<Place>& places, Role role, int replicates,
                           Direction direction);
/// The same for all places that are still empty ("fill the rest").
Result<Command> fillRest(const Batch& batch, Role role, int replicates, Direction direction);
/// Makes the places further dilutions of the unknowns in use: each `replicates` places are the next preparation of a
/// sample, beginning with the first that has fewest. Their dilution is that of the one before until it is set.
/// @return layout.replicates, layout.place, layout.no-sample while there are no unknowns
Result<Command> addPreparations(const Batch& batch, const std::vector<Place>& places, int replicates,
                                Direction direction);
/// A dilution as it is typed: a factor ("10", "× 10"), or parts of sample and of what it is diluted with ("1 + 9").
/// @return nothing for what is neither; "1:10" is refused, since it is read both ways
std::optional<double> parseDilution(const std::string& typed);
/// Sets the dilution factor of a preparation of a sample. @return layout.dilution, layout.no-sample
Result<Command> setDilution(const Batch& batch, Assignment group, double dilution);
/// Sets the concentrations of S1, S2, … from a series. Levels above its last one lose theirs, except a zero standard:
/// what an earlier, longer series left there belongs to no series any more.
Result<Command> setSeries(const Batch& batch, const Series& series, int analyte = 1);
/// Marks a level as an anchor, or as a level like others.
Result<Command> setAnchor(const Batch& batch, int number, bool isAnchor, int analyte = 1);
/// Keeps the mark of an anchor. @return layout.concentration when it is negative or not finite
Result<Command> setLevel(const Batch& batch, int number, std::optional<double> concentration, int analyte = 1);
/// Gives the levels in use from S`first` on the concentrations of a pasted column, one a line; an empty line takes the
/// concentration away. @return layout.levels-empty, layout.levels-too-many, layout.levels-number, layout.concentration
Result<Command> pasteLevels(const Batch& batch, int first, const std::string& text, int analyte = 1);
/// Whether the numbers of the standards in use are other than 1, 2, … n, as after clearing a level in between.
bool hasGapsInStandards(const Batch& batch);
/// Counts the standards in use from S1 up in their order; concentrations, of every analyte, go with them.
Result<Command> renumberStandards(const Batch& batch);
/// @return layout.concentration when the nominal is not above 0
/// @param role Qc or CheckStandard
Result<Command> setQc(const Batch& batch, int number, const QcSample& qc, int analyte = 1, Role role = Role::Qc);
/// @return layout.dilution when the dilution factor is not above 0
Result<Command> setSample(const Batch& batch, int number, const Sample& sample);
/// Names the unknowns from `first` on from a pasted column, one a line; a second column, when it is a number, is the
/// dilution factor. @return layout.names-empty, layout.names-too-many (more lines than unknowns)
Result<Command> pasteSampleNames(const Batch& batch, int first, const std::string& text);
/// Leaves places out of the calculation. @param analyte of which; 0: of all
/// @return exclusion.reason when the reason is empty, method.no-analyte
Result<Command> excludePlaces(const Batch& batch, const std::vector<Place>& places, const std::string& reason,
                              std::int64_t timeMillis, int analyte = 0);
/// Takes exclusions back: those for the analyte, or, with 0, all of the places. Of a place that is left out for all it
/// takes that back.
Result<Command> restorePlaces(const Batch& batch, const std::vector<Place>& places, int analyte = 0);
/// @param label what changed, for the history; an own sentence is made when it is empty
/// @return the errors of validate(method), or criterion.formula
Result<Command> setMethod(const Batch& batch, const Method& method, std::string label = {});
/// Takes an analyte out of the method with its levels, nominals and overrides; later ones move up. Names of QCs stay.
/// @return method.no-analyte, also for the last one
Result<Command> removeAnalyte(const Batch& batch, int analyte);
/// Lets a criterion that was not met stand, for a reason. @param analyte 0 for the criteria of the batch as a whole
/// @return override.reason when the reason is empty
Result<Command> overrideCriterion(const Batch& batch, int analyte, const CriterionResult& criterion,
                                  const std::string& reason, std::int64_t timeMillis);
Result<Command> withdrawOverride(const Batch& batch, int analyte, const CriterionResult& criterion);
/// Name, laboratory and note of the batch, as they stand in the report. @return batch.title when the name is empty
Result<Command> setDetails(const Batch& batch, const std::string& title, const std::string& laboratory,
                           const std::string& note);
Result<Command> setTitle(const Batch& batch, const std::string& title);
/// Takes a reading in, uses it in its slot and makes its channel the one in use; a carrier takes its size while nothing
/// is laid out there.
/// @return import.plate-size when the layout has another size, batch.carrier when its carrier is not in the batch
Result<Command> addReading(const Batch& batch, Reading reading);
/// Where readings that come together go.
struct ImportTarget {
    int carrier = 0; ///< 0: a new one, or the first of a batch in which nothing has been read or laid out
    CarrierKind kind = CarrierKind::Plate;
    std::vector<std::string> names; ///< of the runs of a list, one a row
    std::string unit{};             ///< of the values; goes behind "Response" where an analyte still has that name
};
/// Takes readings in, all onto one carrier, and uses each in its slot. The channel in use stays when it is among them,
/// else it is that of the first. @return the errors of addReading, batch.carriers when there are too many
Result<Command> importReadings(const Batch& batch, std::vector<Reading> readings, const ImportTarget& target);
/// One run as its file gave it: the traces of its channels.
struct ImportedRun {
    std::string source;   ///< file name
    std::string checksum; ///< of its bytes
    std::string name;     ///< of the sample; empty: the file's name
    std::string understood;
    std::vector<std::pair<std::string, Payload>> channels; ///< by name, each once
};
/// Takes runs in, one after the other, on a run list: the last of the batch, or a new one; a batch in which nothing has
/// been read or laid out becomes it. A batch that is not read from anything else is then read from its first channel.
/// @return batch.reading when there is nothing, batch.list-size
Result<Command> importRuns(const Batch& batch, const std::vector<ImportedRun>& runs, std::int64_t nowMillis);
/// How the traces of a channel are looked at. @return method.signal
Result<Command> setSignal(const Batch& batch, const std::string& channel, const SignalRule& rule);
/// Adds a decision drawn on traces. @param traces one, its replicates, or all; @return peaks.no-edit for an edit
/// without extent, batch.reading when a slot is not read
Result<Command> drawOn(const Batch& batch, const std::vector<Slot>& traces, const HandEdit& edit);
/// Makes an analyte of each peak of a trace that none is read from yet, with a window around it, on the terms of the
/// first analyte; the one that a new batch begins with is replaced, by a line weighted 1/x and the criteria of
/// chromatographic assays. @return peaks.no-edit when there is no such peak
Result<Command> takePeaks(const Batch& batch, const std::string& channel, const std::vector<Peak>& peaks);
/// Takes a decision back. @param index in the list of the slot
Result<Command> withdrawEdit(const Batch& batch, const Slot& slot, std::size_t index);
/// Names a run of a list; an unknown that sits there alone and has no name takes it. @return layout.place
Result<Command> nameRun(const Batch& batch, Place place, const std::string& name);
/// Types a value where no file gave one: into a reading that was typed, made with the first. Text that is no number
/// makes the place unusable, and an empty one takes the value away.
/// @return batch.typed when the channel was read from a file there, layout.place
Result<Command> typeValue(const Batch& batch, Place place, const std::string& channel, const std::string& typed,
                          std::int64_t timeMillis);
/// Gives a carrier a name; empty: it goes by its number. @return batch.carrier
Result<Command> renameCarrier(const Batch& batch, int carrier, const std::string& name);
/// Adds a plate of the size of the last one, to be laid out before it is read. @return batch.carriers
Result<Command> addCarrier(const Batch& batch, const Carrier& carrier);
/// Adds a list of so many runs, to be typed; in a batch in which nothing has been read or laid out its plate becomes
/// it.
/// @return batch.list-size, batch.carriers
Result<Command> addRunList(const Batch& batch, int runs);
/// Takes a carrier with its runs and readings out of the batch. @return batch.carrier for the last one, and while
/// something is laid out or excluded on it, since no decision goes silently
Result<Command> removeCarrier(const Batch& batch, int carrier);
/// A reading of another size takes the layout's size along when nothing is laid out yet.
/// @return batch.reading when there is none of that key, import.plate-size when the layout has another size
Result<Command> useReading(const Batch& batch, int key);

} // namespace nuvat
