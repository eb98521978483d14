#pragma once

#include "nuvat/batch/evaluation.h"
#include "nuvat/core/fit/potency.h"

namespace nuvat {

/// A sample's dilutions against the standards by parallel curves: what the sample contains, if its curve is that of the
/// standards moved along ln(dose).
struct SamplePotency {
    std::size_t dilutions = 0;
    PotencyModel model = PotencyModel::Logistic4;
    Potency found; ///< potency: the content of the undiluted sample, in the unit of the standards
    /// Whether common curves fit no worse than separate ones (F, p >= 0.05); nothing where that could not be asked.
    std::optional<bool> isParallel;
};

/// Doses are the standards' concentrations and the sample's 1/dilution; all readings that count take part, whether in
/// range or not. Curves of four parameters where the analyte has a logistic model, else lines over ln(dose). Weights
/// 1/y and 1/y2 are taken from the readings; every other weighting counts all alike, since a sample has no
/// concentration yet.
/// @return nothing for a sample of fewer than three dilutions; else as relativePotency()
std::optional<Result<SamplePotency>> samplePotency(const Batch& batch, const AnalyteEvaluation& evaluation, int sample);

} // namespace nuvat
