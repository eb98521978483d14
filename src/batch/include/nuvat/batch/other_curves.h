#pragma once

#include "nuvat/batch/curve_shape.h"
#include "nuvat/batch/evaluation.h"

namespace nuvat {

/// A curve that can be laid over the one that is shown.
struct OtherCurve {
    std::string
        name; ///< "Plate 2", "Patulin", "Patulin, Plate 2", "kept: week 38", "qualifier 226 nm"; none comes twice
    int analyte = 0; ///< 0: a kept curve, or that of a qualifier
    int carrier = 0; ///< whose curve it is; 0: of the whole batch
    int bracket = 0; ///< of the carrier; 0: all of it
    Fit fit;
    std::optional<double> lowest, highest; ///< concentrations between which it holds: its standards'
};

/// The fit of a kept curve, the same as in its own batch. @return as fitCalibration
Fit fitOfKept(const KeptCurve& kept);
/// The curve of a qualifier: the responses of its quantifier's standards times their ratios, with the quantifier's
/// model and weighting. @param qualifier index in Analyte::qualifiers. @return as fitCalibration
Fit qualifierFit(const Batch& batch, const AnalyteEvaluation& evaluation, std::size_t qualifier);
/// What a run reads off that curve, before dilution [X]. @return nothing without a ratio or a curve
std::optional<double> readByQualifier(const Batch& batch, const AnalyteEvaluation& evaluation, std::size_t qualifier,
                                      Place place);
/// The usable curves of a batch besides the one that is shown: of its qualifiers, of other analytes and plates, and the
/// one that the analyte keeps but does not use. @param shown one of the evaluation's
std::vector<OtherCurve> otherCurves(const Batch& batch, const Evaluation& evaluation, const AnalyteEvaluation& shown);
/// A kept curve as one of them.
OtherCurve otherCurve(const KeptCurve& kept);
/// Its points on the axes of a shape, within its standards. @return x and y, of one size
std::pair<std::vector<double>, std::vector<double>> drawnOn(const CurveShape& shape, const OtherCurve& curve,
                                                            int samples);

} // namespace nuvat
