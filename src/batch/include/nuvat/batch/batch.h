#pragma once

#include "nuvat/batch/method.h"
#include "nuvat/batch/payload.h"
#include "nuvat/batch/role.h"
#include "nuvat/core/base/well.h"
#include "nuvat/core/signal/peaks.h"

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace nuvat {

/// How samples sit in a carrier.
enum class CarrierKind {
    Plate,   ///< in wells, by row and column
    RunList, ///< one after the other: cuvettes, vials, injections; rows are runs, and there is one column
};
std::string_view name(CarrierKind kind); ///< "plate", "run-list": stable, for files
std::optional<CarrierKind> carrierKindFromName(std::string_view text);

/// What samples sit in: a plate, or a list of runs in the order in which they are measured.
struct Carrier {
    CarrierKind kind = CarrierKind::Plate;
    std::string name; ///< empty: it goes by kind and number, see carrierName
    int rows = 8;
    int columns = 12; ///< 1 in a run list
    bool operator==(const Carrier&) const = default;
    std::size_t size() const { return static_cast<std::size_t>(rows) * static_cast<std::size_t>(columns); }
    bool holds(int row, int column) const { return row >= 0 && row < rows && column >= 0 && column < columns; }
};

/// Where a reading was taken: carrier, then row, then column, and ordered so. Not an aggregate: {row, column} keeps its
/// meaning, where an aggregate that begins with the carrier would take the row for it.
struct Place {
    int carrier = 1;
    int row = 0;
    int column = 0; ///< 0 in a run list
    constexpr Place() = default;
    constexpr Place(int ofRow, int ofColumn, int ofCarrier = 1) : carrier(ofCarrier), row(ofRow), column(ofColumn) {}
    auto operator<=>(const Place&) const = default;
};

/// Role of a place and its number within the role: standard 1 is level S1, unknown 7 is sample U07; blanks have number
/// 0. Replicates share all three.
struct Assignment {
    Role role = Role::Empty;
    int number = 0;
    /// Of an unknown: each dilution of the sample that was prepared by itself; of an addition: its step. Else 1.
    int preparation = 1;
    auto operator<=>(const Assignment&) const = default;
};

enum class RunState { Planned, Running, Done, Failed, SetAside };
std::string_view name(RunState state); ///< "planned", "running", "done", "failed", "set-aside": stable, for files
std::optional<RunState> runStateFromName(std::string_view text);

/// What is known of one run of a list besides its reading.
struct Run {
    std::string name; ///< what the list calls it; a sample that is painted there takes it for its name
    std::string vial;
    std::string file;
    std::optional<double> injectedMicrolitres;
    std::int64_t injectedMillis = 0; ///< since 1970-01-01 UTC; 0: not known
    RunState state = RunState::Done;
    /// Concentrations of internal standards, by analyte, where they are not the usual; > 0.
    std::map<int, double> added;
    bool operator==(const Run&) const = default;
};

/// What a reading is of: a carrier as a whole or one place on it, and under which name (wavelength, detector).
struct Slot {
    int carrier = 1;
    std::optional<Place> place; ///< absent: the whole carrier
    std::string channel;        ///< "450 nm"; empty when the file says nothing
    auto operator<=>(const Slot&) const = default;
};

/// What was taken in, once. Never changed after the import.
struct Reading {
    std::string source;             ///< file name or "pasted block"
    std::string checksum;           ///< of its bytes
    std::string understood;         ///< one line on shape, separator, encoding
    std::int64_t takenInMillis = 0; ///< since 1970-01-01 UTC
    Slot slot;
    Payload payload;
    bool operator==(const Reading&) const = default;
};

/// Standards of one nominal concentration.
struct Level {
    std::optional<double> concentration; ///< in the method's unit, >= 0
    /// It holds an end of the curve beyond the range: it takes part in the fit, no criterion judges it, and the range
    /// does not reach it. Source: ICH M10 (2022), section 4.2.4.2.
    bool isAnchor = false;
    bool operator==(const Level&) const = default;
};

/// A quality-control sample.
struct QcSample {
    std::string name;
    std::optional<double> nominal; ///< in the method's unit, > 0
    bool operator==(const QcSample&) const = default;
};

/// An unknown.
struct Sample {
    std::string name;
    double dilution = 1; ///< of its first preparation, > 0; the result is the read-off times this
    std::string note;
    std::optional<double> volume, mass; ///< > 0, for derived values of the analyst's own units
    std::optional<double> added;        ///< what its spike had added, as a concentration of the sample, > 0
    bool operator==(const Sample&) const = default;
};

/// What was prepared from a sample besides its first preparation.
struct Preparation {
    double dilution = 1; ///< > 0
    bool operator==(const Preparation&) const = default;
};

/// What an exclusion is about: a place, for one analyte or for all.
struct ExclusionKey {
    Place place;
    int analyte = 0; ///< 0: all
    ExclusionKey() = default;
    ExclusionKey(Place where, int ofAnalyte = 0) : place(where), analyte(ofAnalyte) {} // NOLINT: a place is one for all
    ExclusionKey(int row, int column, int carrier = 1) : place(row, column, carrier) {}
    auto operator<=>(const ExclusionKey&) const = default;
};

/// A place left out of the calculation by a person.
struct Exclusion {
    std::string reason;
    std::int64_t timeMillis = 0;
    bool operator==(const Exclusion&) const = default;
};

/// What a person drew on a trace, and why.
struct HandEdit {
    PeakEdit edit;
    std::string reason; ///< may be empty: what is drawn speaks for itself
    std::int64_t timeMillis = 0;
    bool operator==(const HandEdit&) const = default;
};
/// All that was drawn on one trace, in the order in which it is done.
struct HandEdits {
    std::vector<HandEdit> list;
    bool operator==(const HandEdits&) const = default;
};

/// Decision of a person that a criterion which was not met does not count.
struct Override {
    std::string reason;
    std::int64_t timeMillis = 0;
    /// CriterionResult::limitText when it was given; the override of a criterion that has changed since is looked at
    /// again. Empty in batches from before this was kept.
    std::string limitText;
    bool operator==(const Override&) const = default;
};

// Items that exist once for each analyte. Analyte 1 is meant where none is named.
struct LevelKey {
    int number = 0;
    int analyte = 1;
    LevelKey(int level = 0, int ofAnalyte = 1) : number(level), analyte(ofAnalyte) {}
    auto operator<=>(const LevelKey&) const = default;
};
struct QcKey {
    int number = 0;
    int analyte = 1;
    Role role = Role::Qc; ///< one that has a nominal
    QcKey(int qc = 0, int ofAnalyte = 1, Role ofRole = Role::Qc) : number(qc), analyte(ofAnalyte), role(ofRole) {}
    auto operator<=>(const QcKey&) const = default;
};
/// A further preparation of an unknown.
struct PreparationKey {
    int number = 0;
    int preparation = 2;
    auto operator<=>(const PreparationKey&) const = default;
};
struct OverrideKey {
    int analyte = 1;       ///< 0: of the batch
    std::string criterion; ///< CriterionResult::key
    auto operator<=>(const OverrideKey&) const = default;
};

/// What identifies the batch as a whole.
struct BatchInfo {
    std::string uid; ///< 16 hexadecimal digits, given at its making
    std::string title = "New batch";
    std::string laboratory;
    std::string channel; ///< the one that analytes without a rule of their own are read from
    std::string note;
    bool operator==(const BatchInfo&) const = default;
};

/// The document: readings, layout, the method in use, decisions. A value; evaluate() turns it into an
/// Evaluation.
struct Batch {
    BatchInfo info;
    Method method;
    std::map<int, Carrier> carriers = {{1, {}}}; ///< 1, 2, …; one or more
    std::map<Place, Run> runs;                   ///< of run lists; places without an entry are plain
    std::map<int, Shared<Reading>> readings;     ///< 1, 2, … in the order of import
    std::map<Slot, int> inUse;                   ///< which reading of a slot counts; a slot without one is not read
    std::map<Place, Assignment> places;          ///< places without an entry are empty
    std::map<LevelKey, Level> levels;            ///< by number of the standard and analyte
    std::map<QcKey, QcSample> qcs;               ///< also check standards; the name is that of analyte 1
    std::map<int, Sample> samples;               ///< by number of the unknown
    std::map<PreparationKey, Preparation> preparations; ///< from the second on
    std::map<ExclusionKey, Exclusion> exclusions;
    std::map<OverrideKey, Override> overrides;
    std::map<Slot, HandEdits> handEdits; ///< of traces; a trace without an entry is as the rules find it
    bool operator==(const Batch&) const = default;

    /// The reading of a carrier's channel that is in use, or nullptr.
    const Reading* reading(int carrier, const std::string& channel) const;
    /// The one of a slot.
    const Reading* reading(const Slot& slot) const;
    /// Whether traces are among what is read of a carrier; 0: of any.
    bool hasTraces(int carrier = 0) const;
    /// The channels that an analyte is read from: those of its rule, or the one in use.
    std::vector<std::string> channelsOf(int analyte) const;
    /// Those and the ones of its internal standard and its qualifiers.
    std::vector<std::string> channelsBehind(int analyte) const;
    /// The first reading that the analyte takes values from, or nullptr while there is none.
    const Reading* firstReading(int analyte) const;
    /// The same on one carrier.
    const Reading* firstReading(int analyte, int carrier) const;
    /// Channels of all readings in use, each once, in the order of import.
    std::vector<std::string> channels() const;
    std::optional<double> concentration(int level, int analyte = 1) const;
    std::optional<double> nominal(int qc, int analyte = 1) const { return nominal({Role::Qc, qc}, analyte); }
    /// Absent as well for a role that has none.
    std::optional<double> nominal(Assignment group, int analyte) const;
    /// What its result is multiplied by; 1 for what is no sample.
    double dilution(Assignment group) const;
    Assignment at(Place place) const;
    bool holds(Place place) const;
    /// Why a place is left out for an analyte: by itself, or because it is for all; nullptr: it is not.
    /// @param analyte 0: only what is left out for all
    const Exclusion* exclusion(Place place, int analyte = 0) const;
    bool isExcluded(Place place, int analyte = 0) const { return exclusion(place, analyte) != nullptr; }
};

/// Short name of a group: "S1", "Blank", the QC's name or "QC 1", "U07", its second dilution "U07.2", its spike "U07
/// sp".
std::string shortName(const Batch& batch, Assignment group);
/// Name a person gave, or else the short name.
std::string fullName(const Batch& batch, Assignment group);
/// Whether a level is marked as an anchor.
bool isAnchor(const Batch& batch, LevelKey level);
/// Whether something is laid out or excluded on a carrier.
bool isLaidOut(const Batch& batch, int carrier);
/// All places of all carriers, by carrier, row and column.
std::vector<Place> placesOf(const Batch& batch);
/// Name of a carrier: the one it was given, or "Plate 2", "Run list 1" by its number.
std::string carrierName(const std::map<int, Carrier>& carriers, int number);
/// "B7" on a plate, "run 12" in a run list; where there are several carriers the name of its own goes before it:
/// "Plate 2 · B7".
std::string placeName(const std::map<int, Carrier>& carriers, Place place);
std::string placeName(const Batch& batch, Place place);
/// The same for a narrow column: "B7", "run 12", and where there are several carriers "2 · B7" with the number alone.
std::string shortPlaceName(const Batch& batch, Place place);
/// The same to begin a sentence with: "Well B7", "Run 12", "Plate 2 · B7".
std::string placeTitle(const Batch& batch, Place place);
/// "A5, A6 and B1"; a carrier's name is said once for the places on it: "Plate 1 · A5 and A6, Plate 2 · B1".
/// @param most how many are named; of more, all but `most` - 1 are counted: "A1, A2 and 7 more"
std::string placeNames(const std::map<int, Carrier>& carriers, const std::vector<Place>& places,
                       std::size_t most = static_cast<std::size_t>(-1));
/// "8 wells", "1 run", "5 places" of both kinds.
std::string countOfPlaces(const Batch& batch, const std::vector<Place>& places);
/// The same as placeName without the carrier.
std::string placeNameWithin(const std::map<int, Carrier>& carriers, Place place);

} // namespace nuvat
