#pragma once

#include "nuvat/batch/command.h"
#include "nuvat/batch/evaluation.h"

namespace nuvat {

/// The curve of an analyte with all it is fitted to, under a name. @param millis now
/// @return curve.not-usable when there is none to keep
Result<KeptCurve> keepCurve(const Batch& batch, const AnalyteEvaluation& evaluation, const std::string& name,
                            std::optional<double> validDays, std::int64_t millis);
/// The analyte is read off a kept curve from now on; model and weights become those it was fitted with.
/// @return curve.unit when it is of another unit than the analyte has
Result<Command> useKeptCurve(const Batch& batch, int analyte, const KeptCurve& curve);
/// The kept curve that an analyte is read off, or nullptr where its own standards count.
const KeptCurve* keptCurve(const Analyte& analyte);
/// How old a kept curve was when the readings came in [days]; nothing without a reading.
std::optional<double> ageOfKeptCurve(const Batch& batch, int analyte);

} // namespace nuvat
