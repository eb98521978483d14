#pragma once

#include "nuvat/batch/response_rule.h"
#include "nuvat/batch/role.h"
#include "nuvat/core/base/well.h"
#include "nuvat/core/fit/calibration.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/planning/dilution_plan.h"
#include "nuvat/core/signal/peaks.h"
#include "nuvat/core/stats/reference_window.h"

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace nuvat {

/// Limits of the built-in acceptance criteria; percentages. A criterion without a limit is not used.
struct CriteriaLimits {
    std::optional<double> backCalculated = 20; ///< |error| of a level, at most
    double backCalculatedAtLowest = 25;        ///< the same at the lowest level
    double backCalculatedAtHighest = 25;       ///< the same at the highest level
    double levelsWithin = 75;                  ///< share of all standards that must be within, at least
    double standardsAtLevel = 50;              ///< share of a level's standards for the level to count as within
    int levelsAtLeast = 6;                     ///< number of levels that must be within, at least
    std::optional<double> standardCv = 20;     ///< CV of the replicates' response at a level, at most
    std::optional<double> unknownCv = 20; ///< CV of the replicates' concentration of a sample, at most; asks for review
    std::optional<double> qcRecovery = 20; ///< |recovery - 100| of a QC, at most
    std::optional<double> rSquared = 0.99; ///< at least
    std::optional<double> r;               ///< |correlation| of a straight line, at least
    /// Share of all QC replicates within qcRecovery, at least; then a QC's mean outside asks for review only.
    std::optional<double> qcWithin = 200.0 / 3;
    double qcWithinAtLevel = 50; ///< the same at each level of QCs
    /// Internal standard of a run in percent of the median over standards and QCs, from low to high; asks for review.
    std::optional<double> internalLow = 50, internalHigh = 150;
    bool isBlankBelowLloq = false; ///< the blanks' mean reads below LLOQ
    /// Mean of the blanks over the response at zero, in percent of what the response at LLOQ lies over it, at most.
    std::optional<double> blankOfLloq;
    bool operator==(const CriteriaLimits&) const = default;
};

/// A shipped set of limits.
struct CriteriaSet {
    std::string name; ///< "Ligand binding, ICH M10"
    CriteriaLimits limits;
};
/// Chromatographic, ICH M10; ligand binding, ICH M10; line, common practice.
/// Source: ICH M10 (2022), sections 3.2.5.2, 3.3.2, 4.2.4.2 and 4.3.2; the last set is common practice.
const std::vector<CriteriaSet>& shippedCriteria();

/// What a custom criterion is about: its formula is evaluated once for each.
enum class CriterionScope { Batch, Analyte, Level, Sample, Qc, Peak };
std::string_view name(CriterionScope scope); ///< "batch", "analyte", "level", "sample", "qc", "peak": stable, for files
std::optional<CriterionScope> criterionScopeFromName(std::string_view text);

enum class Comparison { AtMost, AtLeast };
std::string_view name(Comparison comparison); ///< "at-most", "at-least"
std::optional<Comparison> comparisonFromName(std::string_view text);

/// A custom criterion.
struct Criterion {
    std::string title;
    CriterionScope scope = CriterionScope::Analyte;
    std::string quantity; ///< formula over the names of criterionVariables(scope), for example "abs(error)"
    Comparison comparison = Comparison::AtMost;
    double limit = 0;
    bool asksForReview = false; ///< else it fails the batch
    bool operator==(const Criterion&) const = default;
};

/// Replicates of a group that the method sets aside by itself.
enum class OutlierTest { None, Grubbs, Dixon };
std::string_view name(OutlierTest test); ///< "none", "grubbs", "dixon"
std::optional<OutlierTest> outlierTestFromName(std::string_view text);

struct ReplicateRule {
    int keepBest = 0; ///< of m replicates those n with the smallest SD; 0: all
    OutlierTest outlierTest = OutlierTest::None;
    double alpha = 0.05; ///< of the outlier test, two-sided
    bool operator==(const ReplicateRule&) const = default;
};

/// Where the range of a curve comes from.
enum class RangeBy { Criteria, Precision, Hand, Levels };
std::string_view name(RangeBy by); ///< "criteria", "precision", "hand", "levels"
std::optional<RangeBy> rangeByFromName(std::string_view text);

struct RangeRule {
    RangeBy by = RangeBy::Criteria;
    double precisionPercent = 20; ///< by precision: relative SE of a read-off, at most
    std::optional<double> lloq;   ///< by hand
    std::optional<double> uloq;
    double extrapolation = 1; ///< k >= 1: results down to LLOQ/k and up to k*ULOQ are given and marked; 1: none
    bool operator==(const RangeRule&) const = default;
};

/// Which scatter stands in the interval of an unknown.
enum class ScatterFrom {
    Batch,  ///< that of the batch's own replicates at its response, shrunk with the curve's
    Curve,  ///< the residual scatter of the curve
    Sample, ///< that of the sample's own replicates
};
std::string_view name(ScatterFrom from); ///< "batch", "curve", "sample"
std::optional<ScatterFrom> scatterFromFromName(std::string_view text);

/// When a result counts as being on one side of a decision limit.
enum class DecisionBy {
    Interval,   ///< when its interval holds no limit; else it is not decided
    Value,      ///< by its value alone
    ShownAbove, ///< above only when a one-sided test shows it (guarded rejection)
    ShownBelow, ///< below only when a one-sided test shows it (guarded acceptance)
};
std::string_view name(DecisionBy by); ///< "interval", "value", "shown-above", "shown-below": stable, for files
std::optional<DecisionBy> decisionByFromName(std::string_view text);

/// Ordered limits that part results into classes with names of the analyst's own.
struct DecisionRule {
    DecisionBy by = DecisionBy::Interval;
    std::vector<double> limits;       ///< ascending, in the analyte's unit; none: nothing is decided
    std::vector<std::string> classes; ///< from the lowest, one more than limits; none without limits
    bool operator==(const DecisionRule&) const = default;
};

/// What follows from a result by a formula: content per gram, total in a tank.
struct DerivedValue {
    std::string name;
    std::string unit;
    std::string formula; ///< over result, dilution, volume and mass of the sample
    bool operator==(const DerivedValue&) const = default;
};

/// A curve that was kept under a name, with all it was fitted to: the same fit gives the same digits again.
struct KeptCurve {
    std::string name;
    std::string batch;  ///< title of the one it comes from
    std::string method; ///< and of its method
    int revision = 1;
    std::string unit;
    std::int64_t keptMillis = 0; ///< since 1970-01-01 UTC
    std::optional<double> validDays;
    FitOptions fit;
    std::vector<double> x, y;
    std::vector<int> level;
    double blankSd = 0, blankDf = 0, offset = 0; ///< of its blank; what was subtracted
    std::optional<double> lloq, uloq;
    bool operator==(const KeptCurve&) const = default;
};

/// What responses are in percent of, after the blank.
enum class PercentOf {
    Nothing,
    ZeroStandard, ///< mean of the standards at concentration 0
    Highest,      ///< mean of the level with the highest mean
};
std::string_view name(PercentOf of); ///< "nothing", "zero-standard", "highest": stable, for files
std::optional<PercentOf> percentOfFromName(std::string_view text);

/// Which blanks a response is corrected by.
enum class BlankBy {
    Carrier, ///< all of its plate or list
    Row,     ///< those in its row
    Column,  ///< those in its column
};
std::string_view name(BlankBy by); ///< "carrier", "row", "column": stable, for files
std::optional<BlankBy> blankByFromName(std::string_view text);

/// Which standards make a curve.
enum class CurveOf {
    Batch,   ///< all of the batch make one
    Carrier, ///< those of each plate or list make one for it
    Sample,  ///< standard addition: a sample and its additions make a line of their own
    None,    ///< there is none: the response is the result, as in area normalisation
    Kept,    ///< those of an earlier batch: Analyte::kept
    Bracket, ///< those run before and after each stretch of samples make one for it, see bracketsOf
};
std::string_view name(CurveOf curve); ///< "batch", "carrier", "sample", "none", "kept", "bracket": stable, for files
std::optional<CurveOf> curveOfFromName(std::string_view text);

/// Where the responses of an analyte come from, and with them its curve.
struct AnalyteSource {
    ResponseRule rule;
    CurveOf curve = CurveOf::Batch;
    /// Standard addition: the concentration of the solution that is added, where the sample's volume grows by it. An
    /// addition that brings x per volume of sample then dilutes by 1 + x/this. Absent: the volumes are equal.
    std::optional<double> additionStandard;
    bool operator==(const AnalyteSource&) const = default;
};

/// What an analyte's response is divided by, run by run.
struct InternalStandard {
    int analyte = 0; ///< the one that was added to every run in a known amount; 0: none
    /// It was added before samples were diluted: the ratio carries the dilution already.
    bool isBeforeDilution = false;
    bool operator==(const InternalStandard&) const = default;
};

/// Another channel of an analyte, whose response goes with that of the quantifier in one ratio wherever the peak is the
/// analyte's.
struct Qualifier {
    std::string channel;
    std::optional<double> expected;  ///< where its peak is; absent: where that of the quantifier is
    std::optional<double> reference; ///< ratio in percent; absent: the mean of the standards in use
    double tolerance = 30;           ///< >= 0. Source of the default: common practice
    ToleranceOf toleranceOf = ToleranceOf::Relative;
    bool operator==(const Qualifier&) const = default;
};

/// What the separation of an analyte has to be like; a limit that is absent is not used.
struct SuitabilityLimits {
    std::optional<double> tailing;       ///< at 5 % of the height, median over standards and QCs, at most
    std::optional<double> plates;        ///< by the width at half height, the same median, at least
    std::optional<double> resolution;    ///< to the peak before, the same median, at least
    std::optional<double> signalToNoise; ///< mean at the lowest level, at least
    std::optional<double> timeRsd;       ///< [%] of the times of all runs in which the peak is, at most
    std::optional<double> carryOver;     ///< [%] of the mean response at the lowest level, at most
    bool operator==(const SuitabilityLimits&) const = default;
};

/// How the figure of the curve is drawn, in the window and in the report.
struct FigureSettings {
    std::string xTitle;                             ///< empty: the analyte and its unit
    std::string yTitle;                             ///< empty: the response
    std::optional<double> xLow, xHigh, yLow, yHigh; ///< ends of the axes; absent: as the data ask for
    double markerSize = 1;                          ///< times the usual size
    bool hasBand = true;
    bool operator==(const FigureSettings&) const = default;
};

/// What is quantified, and how its curve is made.
struct Analyte {
    std::string name;
    std::string unit; ///< of concentration, for example "µg/L"
    std::string responseName = "Response";
    AnalyteSource source;
    FitOptions fit{.model = Model::Logistic4, .weighting = Weighting::InverseY2, .weightFrom = WeightSource::Fitted};
    IntervalMethod interval = IntervalMethod::Propagation;
    AverageOf average = AverageOf::Responses;
    ScatterFrom scatter = ScatterFrom::Batch;
    RangeRule range;
    bool isConcentrationLogarithmic = true; ///< axis of the plot only
    PercentOf percentOf = PercentOf::Nothing;
    DecisionRule decisions;
    std::vector<DerivedValue> derived;
    std::optional<KeptCurve> kept; ///< may stay when another curve is in use
    FigureSettings figure;
    InternalStandard internal;
    /// Where it is an internal standard: its concentration in every run that says no other, in its own unit.
    std::optional<double> addedConcentration;
    std::vector<Qualifier> qualifiers;
    SuitabilityLimits suitability;
    bool operator==(const Analyte&) const = default;
};

/// What several y columns of one file are.
enum class ColumnsAre {
    Guessed,  ///< runs where there are more than four of one unit, else channels
    Channels, ///< what several detectors gave at one time
    Runs,     ///< the same signal, run after run
};
std::string_view name(ColumnsAre columns); ///< "guessed", "channels", "runs": stable, for files
std::optional<ColumnsAre> columnsAreFromName(std::string_view text);

/// What a column of a file is called here, and in what it is.
struct ColumnRecipe {
    std::string column; ///< its name in the file
    std::string name;   ///< here; empty: it is left out
    std::string unit;
    bool operator==(const ColumnRecipe&) const = default;
};

/// What was corrected of files of traces when they were taken in, for the next of the kind.
struct TraceRecipe {
    std::string x; ///< name of the column that is x; empty: the one that the file's own order gives
    ColumnsAre columns = ColumnsAre::Guessed;
    std::vector<ColumnRecipe> corrected; ///< those that are taken otherwise than the file has them
    std::string nameKey; ///< what the file says of itself under this key names its run; empty: as the reader does
    const ColumnRecipe* find(const std::string& column) const; ///< nullptr: as the file has it
    bool operator==(const TraceRecipe&) const = default;
};

/// What a read of a plate file or list is called here.
struct ReadRecipe {
    std::string read; ///< as the file has it
    std::string name; ///< here
    bool isTaken = true;
    bool operator==(const ReadRecipe&) const = default;
};

/// What was corrected of files of plates and lists when they were taken in, for the next of the kind.
struct PlateRecipe {
    std::string separator; ///< empty: found; else one character
    std::string decimal;
    std::vector<ReadRecipe> reads; ///< those that are taken otherwise than the file has them
    std::vector<CellBlock> blocks; ///< cells that were marked as plates; none: they are found
    bool operator==(const PlateRecipe&) const = default;
    const ReadRecipe* find(const std::string& read) const; ///< nullptr: as the file has it
};

/// How the traces of a channel are looked at.
struct SignalRule {
    PeakRules peaks;
    std::optional<double> scanRate;  ///< [V/s], for charges of voltammograms
    bool isCathodicPositive = false; ///< the file counts cathodic current as positive: it is turned around
    bool operator==(const SignalRule&) const = default;
};

/// Runs whose names fit a pattern have a role. In a pattern "*" stands for any text and "#" for a number, which is that
/// of the level, the QC or the sample; capitals do not count.
struct NameRule {
    std::string pattern;
    Role role = Role::Unknown;
    bool operator==(const NameRule&) const = default;
};

/// What follows when a run of a list that is being measured does not give what the method asks for.
enum class AfterFailure {
    GoOn,           ///< the next run
    RepeatThenStop, ///< the same once again, then the list stops
    Stop,
};
std::string_view name(AfterFailure what); ///< "go-on", "repeat-then-stop", "stop": stable, for files
std::optional<AfterFailure> afterFailureFromName(std::string_view text);

/// How a list of runs is measured.
struct RunRule {
    AfterFailure afterFailure = AfterFailure::RepeatThenStop;
    bool dilutesAbove = false; ///< a sample above ULOQ is diluted and measured again, where the instrument can
    std::string fileName;      ///< of each run, with {fields}; empty: the usual
    bool operator==(const RunRule&) const = default;
};

/// How the standards are made: a page of the report.
struct StandardPlan {
    std::string stockName;
    std::string volumeUnit = "mL";
    PlanRules rules;
    bool operator==(const StandardPlan&) const = default;
};

/// The recipe in use: a batch keeps its own copy.
struct Method {
    std::string title = "New method";
    int revision = 1;
    std::vector<Analyte> analytes = {Analyte{}};   ///< analyte 1, 2, …; one or more
    std::map<std::string, SignalRule> signalRules; ///< by channel; one without an entry goes by the plain rule
    TraceRecipe traceRecipe;
    PlateRecipe plateRecipe;
    bool subtractsBlank = true;
    BlankBy blankBy = BlankBy::Carrier;
    bool blankEntersInterval = true;
    double dilutionRelativeSe = 0; ///< relative uncertainty of a dilution factor other than 1, for example 0.01
    double leastDilution = 1;      ///< that every sample needs; part of the dilution that is typed, not besides it
    double confidence = 0.95;
    ReplicateRule replicates;
    std::string criteriaName = "Ligand binding, ICH M10";
    CriteriaLimits limits;
    std::vector<Criterion> criteria;        ///< custom ones, besides the built-in ones
    std::vector<std::string> reportBlocks;  ///< names of the blocks of the report in their order; empty means all
    std::vector<std::string> resultColumns; ///< names of the columns of results in their order; empty means the usual
    std::string reportTop, reportFoot;      ///< of each page, with {fields}; empty: the usual
    std::string fileName;                   ///< of what is exported, with {fields}; empty: the usual
    std::vector<std::string> whenComplete;  ///< what is done when a reading came in: names of exports
    std::vector<NameRule> nameRules;        ///< the first that fits counts; none: the usual, see usualNameRules
    RunRule runRule;
    std::optional<StandardPlan> plan; ///< of the levels of the first analyte
    bool operator==(const Method&) const = default;

    const Analyte& analyte(int number = 1) const { return analytes.at(static_cast<std::size_t>(number - 1)); }
    Analyte& analyte(int number = 1) { return analytes.at(static_cast<std::size_t>(number - 1)); }
    const SignalRule& signal(const std::string& channel) const;
};

/// The analyte whose response an analyte's is divided by; 0: none, or one that is not there.
int internalOf(const Method& method, int analyte);
/// Whether others are divided by it.
bool isInternalStandard(const Method& method, int analyte);

} // namespace nuvat
