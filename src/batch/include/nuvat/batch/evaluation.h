#pragma once

#include "nuvat/batch/batch.h"
#include "nuvat/batch/place_index.h"
#include "nuvat/core/base/error.h"
#include "nuvat/core/fit/standard_addition.h"
#include "nuvat/core/stats/decision.h"
#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/dilutions.h"

#include <map>
#include <memory>
#include <span>
#include <stop_token>

namespace nuvat {

/// Why a place does or does not take part.
enum class ResponseState {
    Used,
    Excluded, ///< by a person, with a reason
    SetAside, ///< by the method's rule for replicates
    Unusable, ///< its text is no number
    NotRead,  ///< the reading has nothing for it, or there is no reading
    NotFound, ///< the trace has no peak where one is expected
    Empty,    ///< no role
};

/// Response::why of a place at which a formula gives no number.
inline constexpr const char* kFormulaWithoutNumber = "the formula gives no number";

/// What an analyte has at one place.
struct Response {
    ResponseState state = ResponseState::Empty;
    std::optional<double> raw;      ///< as the rule gives it, divided by the internal standard where there is one
    std::optional<double> own;      ///< with an internal standard: before it was divided
    std::optional<double> internal; ///< the response of the internal standard
    std::optional<double> value;    ///< corrected: minus the blank, in percent of a base, as the method says
    std::string why;                ///< set aside: the rule that did it, as a sentence; else the text that is no number
    bool isUnchosen = false;        ///< set aside by "best n of m", not as an outlier
    std::optional<double> position; ///< where on a trace it was taken: the apex of the peak, the point
    std::optional<Stretch> stretch; ///< start and end of the peak, or of the stretch
    std::vector<double> apexes;     ///< of the peaks that were taken: one, or a group
    std::optional<Stretch> window;  ///< in which the peak was looked for, moved with the reference peak
    bool isNearEdge = false;        ///< of that window, in the outer fifth of either half: worth a look
    bool operator==(const Response&) const = default;
};

/// Ratio of a qualifier to its quantifier in one run.
struct QualifierRatio {
    double percent = 0;
    bool isWithin = true;
};
/// Those of one qualifier.
struct QualifierValue {
    Description ofStandards;               ///< of the ratios of standards in use
    std::optional<ReferenceWindow> window; ///< that ratios have to lie in; absent without a reference
    std::map<Place, QualifierRatio> ratios;
};

/// Where readings share a blank: a carrier, or a row or column of it.
struct BlankArea {
    int carrier = 1;
    int line = -1; ///< row or column, as the method says; -1: the whole carrier
    auto operator<=>(const BlankArea&) const = default;
};

/// The blank of an area, or of all of them.
struct BlankValue {
    Description description; ///< of the included blanks' raw readings
    double subtracted = 0;   ///< what is subtracted: the mean, or 0
    /// SD/sqrt(n). Of a row or column the SD is that within all rows or columns, or of all blanks of the carrier where
    /// each has but one. Absent with fewer than two blanks.
    std::optional<double> se;
    double df = 0; ///< of the SE
};

/// What responses of a carrier are in percent of.
struct PercentBase {
    double base = 0; ///< mean response, corrected, that is 100 %
    double relativeSe = 0;
    double df = 0; ///< of it
    double factor() const { return 100 / base; }
};

/// Replicates that belong together, in the response.
struct GroupValue {
    Assignment group;
    std::vector<Place> places;
    Description response; ///< of the used places
    /// Also of those that the rule "best n of m" set aside: the scatter of chosen replicates is too small by the
    /// choice, so tests and limits of CV look at all of them.
    Description unchosen;
    double varianceFactor = 1; ///< of the mean of chosen replicates, see bestSubsetVariance
};

/// One standard on the curve.
struct StandardValue {
    Place place;
    int level = 0;
    double x = 0;
    double y = 0;
    bool isUsed = false; ///< in the fit
    std::optional<double> normalisedWeight;
    std::optional<double> fitted;
    std::optional<double> backCalculated;
    std::optional<double> errorPercent; ///< 100*(back-calculated - x)/x; none at x = 0
};

/// One level of the standards as the criteria see it.
struct LevelValue {
    int number = 0;
    std::optional<double> x;
    std::optional<double> onAxis;         ///< where it stands on the axis of the curve, see internalShare: mostly x
    bool isAnchor = false;                ///< holds the curve, is not judged
    Description response;                 ///< used replicates
    std::optional<double> cvPercent;      ///< of all replicates, also of those that were not chosen
    int standards = 0;                    ///< used ones
    int standardsWithin = 0;              ///< of them, back-calculated within the level's limit
    std::optional<double> backCalculated; ///< mean of the replicates' back-calculated concentrations
    std::optional<double> errorPercent;
    double limitPercent = 0; ///< that applies to it; 0 where the criteria have none
    bool isWithin = false;   ///< its mean
    bool isAccepted = false; ///< enough of its standards are within the limit
};

/// How a result stands.
enum class ResultStatus {
    Reported,     ///< inside the range
    Extrapolated, ///< outside the range, but within the method's extrapolation: given and marked
    BelowRange,   ///< below LLOQ
    AboveRange,   ///< above ULOQ
    BelowCurve,   ///< beyond the curve at the low end
    AboveCurve,   ///< beyond the curve at the high end
    AcrossLimit,  ///< replicates on both sides of a limit of the range: they have no mean
    NotDefined,   ///< no usable replicate, or no curve
};
std::string_view name(ResultStatus status); ///< "reported", "below-range", …: stable, for files

/// One replicate of a QC or an unknown.
struct ReplicateResult {
    Place place;
    ResponseState state = ResponseState::Empty;
    std::optional<double> response;
    ReadOff readOff; ///< of this replicate alone, before dilution
};

/// Whether the replicates of a sample scatter as the batch's replicates do at its response.
struct SampleScatter {
    double p = 1;                    ///< one-sided F test, adjusted over the batch (Holm)
    bool needsReview = false;        ///< p below 5 %
    std::optional<double> low, high; ///< interval with the sample's own scatter, after dilution
};

/// What follows from a result by a formula of the method.
struct DerivedResult {
    std::optional<double> value; ///< absent where volume or mass are missing, or the formula gives no number
    std::optional<double> low, high;
};

/// A QC or an unknown.
struct SampleResult {
    Assignment group;
    std::vector<ReplicateResult> replicates;
    Description response;
    Description concentration; ///< of the replicates' read-offs, before dilution
    ReadOff readOff;           ///< mean of the replicates, before dilution
    double dilution = 1;       ///< that counts: 1 where the internal standard was added before it
    ResultStatus status = ResultStatus::NotDefined;
    std::optional<double> result; ///< read-off times dilution; only when reported or extrapolated
    double se = 0;                ///< of the result, where there is one
    double df = 0;                ///< of its SE
    std::optional<double> low;    ///< limits of its interval
    std::optional<double> high;
    std::optional<double> nominal;         ///< QC
    std::optional<double> recoveryPercent; ///< QC: of its nominal; spike: of what was added
    std::vector<DerivedResult> derived;    ///< of a sample, one for each of Analyte::derived
    /// Its response in percent of that of the negative controls, before dilution; where there are some, and replicates.
    std::optional<PercentOfControl> ofControl;
    /// Concentration of the internal standard over the usual one: what the read-off is multiplied by besides.
    double internalShare = 1;
    double factor() const { return dilution * internalShare; } ///< from read-off to result
    std::optional<SampleScatter> scatter;                      ///< two replicates or more
    bool needsReview = false;                                  ///< a criterion asks for a look at this sample
    std::string remark;                                        ///< why, or what is missing, as a sentence
};

/// Several dilutions (preparations) of one unknown, taken together.
struct CombinedSample {
    int sample = 0;
    std::vector<Assignment> dilutions; ///< those that are reported by themselves, by preparation
    CombinedDilutions found;           ///< of them, in that order
    /// Of those in found.reported, where there are two or more: what the readings say, together with the share of the
    /// curve and a common blank, which is the same for all and not divided.
    std::optional<double> value, se, low, high;
    bool hasDoubt() const { return !found.agree || found.hasHook; }
};

/// Where a sample stands among the analyte's decision limits.
struct SampleDecision {
    int sample = 0;
    /// Its result, or that of its dilutions together, with the limits of its interval; absent beyond the range.
    std::optional<double> value, low, high;
    /// Classes that it may be in, from 0; of one that is decided the same.
    std::size_t lowest = 0, highest = 0;
    /// One a limit: the probability that the content lies above; none beyond the range.
    std::vector<double> probabilityAbove;
    bool isDecided() const { return lowest == highest; }
};

/// Range of the curve, from where the method's range rule takes it.
struct Range {
    std::optional<double> lloq;
    std::optional<double> uloq;
};

enum class Outcome { Pass, Review, Fail, NotApplicable };
std::string_view name(Outcome outcome); ///< "pass", "review", "fail", "not-applicable"

/// Key of the custom criterion at an index of Method::criteria: "own-1", …
std::string ownCriterionKey(std::size_t index);

/// One acceptance criterion with what was found.
struct CriterionResult {
    std::string key;       ///< stable: "levels-within", "r-squared", …
    std::string title;     ///< "Levels within limits"
    std::string limitText; ///< "at least 75 % of levels and 6 levels, ±20 % (±25 % at the ends)"
    std::string foundText; ///< "6 of 7"
    Outcome outcome = Outcome::NotApplicable;
    double used = 0;           ///< found on a scale on which the limit is 1; for the bar
    bool isFloor = false;      ///< the limit is a least value: used >= 1 is good
    std::string where;         ///< which places, in words; empty when it passes
    std::vector<Place> places; ///< the same places
    std::string why;           ///< what the criterion is for, one sentence
    /// A person decided that it does not count although it was not met; empty when nobody did.
    std::string overrideReason;
    bool isOverridden() const { return !overrideReason.empty(); }
};

/// Something that is missing or needs a person, with the place it is about.
struct Problem {
    std::string message; ///< a sentence: what is missing, where, what to do
    std::vector<Place> places;
};

/// A sample by standard addition: its line, and what it is made of.
struct AdditionLine {
    int sample = 0;
    std::vector<Place> places; ///< of the sample and its additions, those in use
    std::vector<double> added; ///< concentration added, by place
    std::vector<double> response;
    std::optional<StandardAddition> line;
    std::string problem; ///< why there is none
};

/// All that follows from a batch for one analyte.
struct AnalyteEvaluation {
    int analyte = 1;
    int carrier = 0;                         ///< whose curve it is; 0: of the whole batch
    int bracket = 0;                         ///< of the carrier, see bracketsOf; 0: all of it
    std::shared_ptr<const PlaceIndex> index; ///< of all places, with the groups that belong to the curve
    std::vector<Response> responses;         ///< of all carriers, by PlaceIndex::find
    std::map<Place, Peak> peaks;             ///< the one that was taken at each place, where peaks are
    bool isOnlyInternal = false;             ///< it serves others as internal standard and has no levels: no curve
    std::optional<double> internalMedian;    ///< of the internal standard over standards and QCs
    std::vector<QualifierValue> qualifiers;  ///< one for each of Analyte::qualifiers
    std::map<BlankArea, BlankValue> blanks;
    BlankValue blank; ///< of all together: its mean, and the scatter within areas; that of the only one
    std::map<int, PercentBase> percentBases; ///< by carrier, where responses are in percent
    /// What responses were multiplied by after the blank was subtracted: 1, or of percentBases the mean.
    double responseFactor = 1;
    std::optional<double> pooledCvPercent; ///< of the responses of all replicate groups, blanks left out
    std::vector<GroupValue> groups;        ///< standards, blanks, QCs, unknowns, by number
    std::vector<StandardValue> standards;
    std::vector<LevelValue> levels;
    std::vector<AdditionLine> additions; ///< where the method says standard addition
    int shownSample = 0;                 ///< whose line standards, levels and fit are; 0: no standard addition
    Fit fit;
    Range range;
    std::vector<SampleResult> results;     ///< QCs, then unknowns
    std::vector<CombinedSample> combined;  ///< unknowns with several preparations, by number
    std::vector<SampleDecision> decisions; ///< of unknowns that have a result or an inequality, by number
    std::vector<CriterionResult> criteria;
    Outcome verdict = Outcome::NotApplicable; ///< the worst outcome of the criteria
    std::vector<Problem> problems;

    const Response& at(Place place) const; ///< @throws std::out_of_range where no carrier is (mistake of the caller)
    /// By standard addition: the line that the curve is, nullptr where there is none.
    const AdditionLine* shownLine() const;
    const GroupValue* group(Assignment group) const;
    const SampleResult* result(Assignment group) const;
    const CombinedSample* combinedOf(Assignment group) const; ///< nullptr where it has one preparation
    const SampleDecision* decisionOf(Assignment group) const; ///< nullptr where nothing is decided
    std::size_t countCriteria(Outcome outcome) const;         ///< without overridden ones
    std::size_t countOverridden() const;
};

/// What a trace is asked for.
struct TraceRules {
    SignalRule signal;
    std::vector<PeakEdit> edits; ///< drawn on it, in their order
    std::vector<BandRule> bands; ///< what analytes take between markers, each once
    bool operator==(const TraceRules&) const = default;
};
/// What a batch asks the trace of a slot for.
TraceRules traceRules(const Batch& batch, const Slot& slot);

/// What a trace says between markers.
struct BandValue {
    std::optional<double> value; ///< [Y], of a slope [Y/X]
    std::string why;             ///< why there is no value
};

/// What was found in one trace, and what it depends on.
struct MeasuredTrace {
    PayloadId payload;
    TraceRules rules;
    std::string xUnit, yUnit;
    TraceFeatures features;
    std::vector<BandValue> bands; ///< one for each of rules.bands, in their order; none where there is a problem
    /// What an area is as a charge in C; absent where units and scan rate give none.
    std::optional<double> chargeFactor;
    std::string problem; ///< why there are no features; empty where there are

    /// Whether measuring that payload by these rules would give the same.
    bool holdsFor(const PayloadId& id, const TraceRules& others) const { return payload == id && rules == others; }
};
using MeasuredTraces = std::map<Slot, std::shared_ptr<const MeasuredTrace>>;

/// Tells one way of measuring from another: where it is the same, the digits are.
std::string measuringVersion();
/// Measures one trace. @param trace nullptr where its payload cannot be read; then `problem` says so
/// @param before the same trace by other rules, or nullptr: what they do not touch is taken from it
MeasuredTrace measureTrace(const PayloadId& id, const std::shared_ptr<const Trace>& trace, const TraceRules& rules,
                           const MeasuredTrace* before = nullptr);

/// The same with the line of another sample as its curve, where results come from standard addition.
AnalyteEvaluation withLineOf(const Batch& batch, AnalyteEvaluation evaluation, int sample);

/// All that follows from a batch.
struct Evaluation {
    std::shared_ptr<const PlaceIndex> index; ///< which places hold which group; never null
    /// By analyte, and where each carrier or bracket has a curve by carrier and bracket. What an edit does not concern
    /// is shared with the evaluation before.
    std::vector<Shared<AnalyteEvaluation>> analytes;
    MeasuredTraces traces;                    ///< of those that count; never null
    std::vector<CriterionResult> criteria;    ///< those of the batch as a whole
    Outcome verdict = Outcome::NotApplicable; ///< the worst of all analytes and of the batch's criteria
    /// Criteria with this outcome that nobody overrode, all analytes and the batch's together.
    std::size_t countCriteria(Outcome outcome) const;
    std::size_t countOverridden() const;
    /// Those of an analyte with the curve that holds for a carrier, or a bracket of it. @param carrier, bracket 0: the
    /// first. @return nullptr when there is no such analyte
    const AnalyteEvaluation* find(int number, int carrier = 0, int bracket = 0) const;
    /// The same. @throws std::out_of_range (mistake of the caller)
    const AnalyteEvaluation& analyte(int number = 1, int carrier = 0, int bracket = 0) const;
    /// That of an analyte whose curve holds for a place; the first where none does. @throws as analyte
    const AnalyteEvaluation& at(int number, Place place) const;
};

/// The analyte that takes each peak of a trace, 0 where none does; of two the later.
std::vector<int> takersOf(const Batch& batch, const Evaluation& evaluation, const Slot& slot);

/// The internal standard of a run in percent of the median over standards and QCs; nothing where it was not found.
std::optional<double> internalPercent(const AnalyteEvaluation& evaluation, Place place);

/// The area whose blank corrects a place.
BlankArea blankAreaOf(const Method& method, const AnalyteEvaluation& evaluation, Place place);

/// The analyte that an evaluation is about.
inline const Analyte& analyteOf(const Batch& batch, const AnalyteEvaluation& evaluation) {
    return batch.method.analyte(evaluation.analyte);
}

/// What a curve is of: the analyte's name, and the carrier or bracket where each has a curve: "Patulin, Plate 2".
std::string curveName(const Batch& batch, const AnalyteEvaluation& evaluation);

/// What goes into every read-off of an analyte: confidence, interval, average, the blank's share, Student factor.
ReadOffOptions readOffOptions(const Batch& batch, const AnalyteEvaluation& evaluation);

/// Computes everything that follows from the batch. Pure and deterministic: the same batch gives the same digits.
/// Never throws for what a batch can hold: what is missing shows in `problems`, the fit's status and the results.
Evaluation evaluate(const Batch& batch);
/// The same for one analyte alone, without the criteria of the batch as a whole.
AnalyteEvaluation evaluateAnalyte(const Batch& batch, int analyte = 1);

/// Evaluates a batch again and again and computes only what an edit touched: an analyte that nothing of it concerns is
/// left as it was, a curve whose points and options are those of the last time is not fitted again, a sample whose
/// responses, curve and options are the same is not read off again. Gives the same digits as evaluate(), since both run
/// the same functions on the same inputs.
class Evaluator {
public:
    /// @param processors how many it may use for curves that do not depend on each other; 0: all. The digits are the
    /// same with any number.
    explicit Evaluator(unsigned processors = 0);
    ~Evaluator();
    Evaluator(Evaluator&&) noexcept;
    Evaluator& operator=(Evaluator&&) noexcept;

    std::shared_ptr<const Evaluation> evaluate(const Batch& batch);
    /// The same without a copy of the batch, which nobody may change any more.
    /// @return null when it was asked to stop before it was done; what it did find is kept for the next time
    std::shared_ptr<const Evaluation> evaluate(std::shared_ptr<const Batch> batch, const std::stop_token& stop = {});

    /// Takes what is known of traces from elsewhere; what no longer holds is measured anew.
    void know(MeasuredTraces traces);

    /// What the last evaluation had to compute.
    struct WorkCounts {
        std::size_t fits = 0;
        std::size_t samples = 0;
    };
    const WorkCounts& work() const { return m_work; }

private:
    friend Evaluation evaluate(const Batch& batch);
    std::optional<Evaluation> compute(const Batch& batch, const std::stop_token& stop);
    struct Memory;
    std::unique_ptr<Memory> m_memory;
    unsigned m_processors = 1;
    WorkCounts m_work;
};

/// Names that a criterion's formula may use, with what each means. Quantities that are not defined make the criterion
/// not applicable there.
struct CriterionVariable {
    const char* name;
    const char* meaning;
};
std::span<const CriterionVariable> criterionVariables(CriterionScope scope);

/// What a criterion's quantity is in one of the places it applies to.
struct CriterionValue {
    std::string name;                ///< "S3"; empty for the analyte and the batch
    std::optional<Assignment> group; ///< of a level, a sample, a QC
    std::optional<double> value;     ///< absent where something it needs is not defined
    bool isMet = true;
};
/// The quantity of a custom criterion, which need not be the method's, everywhere it applies to; nothing is judged.
/// @return the errors of Formula::parse
Result<std::vector<CriterionValue>> criterionValues(const Batch& batch, const Evaluation& evaluation, int analyte,
                                                    const Criterion& criterion);

} // namespace nuvat
