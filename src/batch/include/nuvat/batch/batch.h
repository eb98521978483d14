#pragma once

#include "nuvat/core/base/well.h"
#include "nuvat/core/fit/calibration.h"
#include "nuvat/core/fit/read_off.h"

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace nuvat {

/// What sits in a place.
enum class Role { Empty, Standard, Blank, Qc, Unknown };
std::string_view name(Role role); ///< "empty", "standard", "blank", "qc", "unknown": stable, for files
std::optional<Role> roleFromName(std::string_view text);

/// Where a reading was taken: a well of the plate. Ordered row by row.
using Place = WellPosition;

/// Role of a place and its number within the role: standard 1 is level S1, unknown 7 is sample U07. Blanks have number
/// 0.
struct Assignment {
    Role role = Role::Empty;
    int number = 0;
    auto operator<=>(const Assignment&) const = default;
};

/// One well of a reading, as the file gave it. Never changed after it was taken in.
struct ReadingWell {
    std::optional<double> value; ///< absent: not read, or `text` is no number
    std::string text;
    int line = 0;   ///< in the source, 1-based; 0 when the source has no cell for the well
    int column = 0; ///< cell in that line, 1-based
    bool operator==(const ReadingWell&) const = default;
};

/// What an instrument gave for one plate.
struct Reading {
    std::string source;             ///< file name or "pasted block"
    std::string checksum;           ///< of its bytes
    std::string understood;         ///< one line on shape, separator, encoding
    std::string readName;           ///< "450 nm", or empty
    std::int64_t takenInMillis = 0; ///< since 1970-01-01 UTC
    int rows = 0;
    int columns = 0;
    std::vector<ReadingWell> wells; ///< rows*columns, row by row
    bool operator==(const Reading&) const = default;
};

/// Standards of one nominal concentration.
struct Level {
    std::optional<double> concentration; ///< in the method's unit, >= 0
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
    double dilution = 1; ///< > 0; the result is the read-off times this
    std::string note;
    bool operator==(const Sample&) const = default;
};

/// A place left out of the calculation by a person.
struct Exclusion {
    std::string reason;
    std::int64_t timeMillis = 0;
    bool operator==(const Exclusion&) const = default;
};

/// Limits of the acceptance criteria; percentages.
struct CriteriaLimits {
    double backCalculated = 20;       ///< |error| of a level, at most
    double backCalculatedAtEnds = 25; ///< the same at the lowest and the highest level
    double levelsWithin = 75;         ///< share of levels that must be within, at least
    int levelsAtLeast = 6;            ///< number of levels that must be within, at least
    double standardCv = 20;           ///< CV of the replicates' response at a level, at most
    double unknownCv = 20;            ///< CV of the replicates' concentration of a sample, at most; asks for review
    double qcRecovery = 20;           ///< |recovery - 100| of a QC, at most
    double rSquared = 0.99;           ///< at least
    bool operator==(const CriteriaLimits&) const = default;
};

/// The recipe in use: a batch keeps its own copy.
struct Method {
    std::string title = "New method";
    int revision = 1;
    std::string analyte;
    std::string unit; ///< of concentration, for example "µg/L"
    std::string responseName = "Response";
    Model model = Model::Logistic4;
    Weighting weighting = Weighting::None;
    bool isConcentrationLogarithmic = true; ///< axis of the plot only
    bool subtractsBlank = true;
    bool blankEntersInterval = true;
    double confidence = 0.95;
    std::string criteriaName = "Ligand binding, ICH M10";
    CriteriaLimits limits;
    std::vector<std::string> reportBlocks; ///< names of the blocks that go into the report; empty means all
    bool operator==(const Method&) const = default;
};

/// What identifies the batch as a whole.
struct BatchInfo {
    std::string uid; ///< 16 hexadecimal digits, given at its making
    std::string title = "New batch";
    std::string laboratory;
    int readingInUse = 0; ///< key into Batch::readings; 0 for none
    int rows = 8;         ///< of the plate
    int columns = 12;
    std::string note;
    bool operator==(const BatchInfo&) const = default;
};

/// The document: readings, layout, the method in use, decisions. A value; evaluate() turns it into an Evaluation.
struct Batch {
    BatchInfo info;
    Method method;
    std::map<int, Reading> readings;    ///< 1, 2, … in the order of import
    std::map<Place, Assignment> places; ///< places without an entry are empty
    std::map<int, Level> levels;        ///< by number of the standard
    std::map<int, QcSample> qcs;        ///< by number of the QC
    std::map<int, Sample> samples;      ///< by number of the unknown
    std::map<Place, Exclusion> exclusions;
    bool operator==(const Batch&) const = default;

    const Reading* reading() const; ///< the one in use, or nullptr
    Assignment at(Place place) const;
    bool holds(Place place) const {
        return place.row >= 0 && place.row < info.rows && place.column >= 0 && place.column < info.columns;
    }
    /// Places of one replicate group, row by row.
    std::vector<Place> placesOf(Assignment group) const;
    /// Numbers in use of a role, ascending.
    std::vector<int> numbersOf(Role role) const;
};

/// Short name of a group: "S1", "Blank", the QC's name or "QC 1", "U07".
std::string shortName(const Batch& batch, Assignment group);
/// Name a person gave, or else the short name.
std::string fullName(const Batch& batch, Assignment group);
std::string wellName(Place place);

} // namespace nuvat
