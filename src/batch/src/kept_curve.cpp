#include "nuvat/batch/kept_curve.h"

#include "evaluation_memory.h"

namespace nuvat {

Result<KeptCurve> keepCurve(const Batch& batch, const AnalyteEvaluation& evaluation, const std::string& name,
                            std::optional<double> validDays, std::int64_t millis) {
    const Analyte& analyte = analyteOf(batch, evaluation);
    const CurveOf of = analyte.source.curve;
    if (!evaluation.fit.isUsable() || of == CurveOf::Sample || of == CurveOf::None) {
        return fail("curve.not-usable", "There is no curve to keep.", "Assign standards and read them first.");
    }
    FitInput input = fitInput(analyte, evaluation);
    KeptCurve out;
    out.name = name;
    out.batch = batch.info.title;
    out.method = batch.method.title;
    out.revision = batch.method.revision;
    out.unit = analyte.unit;
    out.keptMillis = millis;
    out.validDays = validDays;
    out.fit = input.options;
    out.x = std::move(input.x);
    out.y = std::move(input.y);
    out.level = std::move(input.level);
    out.blankSd = input.blankSd;
    out.blankDf = input.blankDf;
    out.offset = input.offset;
    out.lloq = evaluation.range.lloq;
    out.uloq = evaluation.range.uloq;
    return out;
}

Result<Command> useKeptCurve(const Batch& batch, int analyte, const KeptCurve& curve) {
    Method method = batch.method;
    Analyte& changed = method.analyte(analyte);
    if (!changed.unit.empty() && changed.unit != curve.unit) {
        return fail("curve.unit",
                    "The curve \"" + curve.name + "\" is in " + curve.unit + ", " + changed.name + " is in " +
                        changed.unit + ".",
                    "Choose a curve in the same unit, or change the unit of the analyte.");
    }
    changed.unit = curve.unit;
    changed.fit = curve.fit;
    changed.kept = curve;
    changed.source.curve = CurveOf::Kept;
    return setMethod(batch, method);
}

const KeptCurve* keptCurve(const Analyte& analyte) {
    return analyte.source.curve == CurveOf::Kept && analyte.kept ? &*analyte.kept : nullptr;
}

std::optional<double> ageOfKeptCurve(const Batch& batch, int analyte) {
    const KeptCurve* kept = keptCurve(batch.method.analyte(analyte));
    const Reading* reading = batch.firstReading(analyte);
    constexpr double kDay = 86'400'000;
    return kept == nullptr || reading == nullptr
               ? std::nullopt
               : std::optional(static_cast<double>(reading->takenInMillis - kept->keptMillis) / kDay);
}

} // namespace nuvat
