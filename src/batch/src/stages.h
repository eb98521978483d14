#pragma once

#include "evaluation_memory.h"
#include "nuvat/batch/internal_standard.h"

#include <map>
#include <span>

namespace nuvat {

// The stages of an evaluation, in their order. Each needs what the one before it left; none after the first knows what
// kind of reading a response came from. Judging has a header of its own, criteria.h.

/// What is taken from the readings that count: of a grid, by the identity of its payload, its wells; of a trace, by its
/// slot, its peaks and what stands between markers.
struct Measured {
    std::map<PayloadId, std::shared_ptr<const Grid>> grids; ///< null where a payload cannot be read
    MeasuredTraces traces;
    const Grid* grid(const Reading& reading) const;
};
/// Measures each reading by itself, shared out to so many processors. @param before what need not be measured again
Measured measure(const Batch& batch, const Measured& before, unsigned processors);

/// Fills `places` with what the analyte's rule gives at each place, not yet corrected, and says what is missing.
void respond(const Batch& batch, const Measured& measured, AnalyteEvaluation& evaluation);

/// The same by another rule than the analyte's own.
void respondBy(const Batch& batch, const Measured& measured, const ResponseRule& rule, AnalyteEvaluation& evaluation);

/// Divides responses by those of the internal standard, and holds the ratios of qualifiers against their references.
void relate(const Batch& batch, const Measured& measured, AnalyteEvaluation& evaluation);
/// Places with a role that a curve is about: of the whole batch, or of its carrier.
std::vector<Place> placesOf(const PlaceIndex& index);

/// Subtracts from every response the blank of its own carrier, row or column, and takes it in percent, when the method
/// says so. Fills `blanks`, `blank` and `percentBases`.
void correct(const Batch& batch, AnalyteEvaluation& evaluation);

/// What the places of each group have in common.
void describeGroups(AnalyteEvaluation& evaluation);
/// Replicate groups, levels, standards and the curve; then what the curve gives back for them.
void calibrate(const Batch& batch, AnalyteEvaluation& evaluation, AnalyteMemory& memory);

/// Standard addition: a line for each sample through its own response and those of its additions, whose steps have the
/// concentrations of the levels of the same numbers; results where the lines meet response 0. In the place of
/// `calibrate` and what is read off a common curve.
void addLines(const Batch& batch, AnalyteEvaluation& evaluation);
/// Groups with the rules for replicates applied, without anything read off.
void describeResponses(const Batch& batch, AnalyteEvaluation& evaluation);
/// Results that are the responses themselves, with limits from the scatter of their replicates.
void addDirectResults(const Batch& batch, AnalyteEvaluation& evaluation);

/// Unknowns of several dilutions taken together: fills `combined`, and has those looked at that disagree.
void combineSamples(const Batch& batch, AnalyteEvaluation& evaluation);

/// Results of unknowns, by sample and preparation.
std::map<int, std::vector<const SampleResult*>> resultsBySample(const AnalyteEvaluation& evaluation);
/// What is reported of a sample: of its dilutions together, or of the first that is in range.
struct Content {
    std::optional<double> value, low, high;
    double se = 0, df = 0; ///< of the value; df 0 where it is not known
};
/// @param results of the sample. @pre combineSamples
Content contentOf(const AnalyteEvaluation& evaluation, int sample, const std::vector<const SampleResult*>& results);

/// Where unknowns stand among the decision limits: fills `decisions`.
void decideSamples(const Batch& batch, AnalyteEvaluation& evaluation);

/// Responses of samples in percent of those of the negative controls, with the scatter growing as the weights of the
/// curve say. On raw readings with their common blank; where there are several blanks, on corrected ones.
void addPercentOfControl(const Batch& batch, AnalyteEvaluation& evaluation);

/// Recoveries of spikes, percent of control, derived values, and a problem for each sample that is diluted less than
/// the method needs.
void addExtras(const Batch& batch, AnalyteEvaluation& evaluation);

/// What an uncertain blank, and an uncertain 100 %, add to the response of samples.
struct BlankShare {
    double se = 0;
    double df = 0; ///< 0: of the curve
};
/// Where there are several blanks, a sample and the curve it is read off do not share theirs. With the share w of the
/// standards in each area and the part k of a common blank that the curve follows (1 with a free intercept), the
/// response moves by (1 - w k) of its own blank and by w k of each other one; of what is 100 % on its carrier likewise,
/// in proportion to the response.
/// @param places of the sample, on one carrier or several; @param follows k; @param y its response. Source:
/// docs/decisions/0012-blanks-of-several-carriers.md
BlankShare blankShare(const Batch& batch, const AnalyteEvaluation& evaluation, std::span<const Place> places,
                      double follows, double y);
/// Whether blanks or bases of samples may be others than those of the curve.
bool hasOwnShares(const Batch& batch, const AnalyteEvaluation& evaluation);

} // namespace nuvat
