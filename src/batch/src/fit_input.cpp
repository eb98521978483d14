#include "evaluation_memory.h"
#include "nuvat/batch/kept_curve.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

FitOptions fitOptions(const Analyte& analyte, FitOptions options, std::span<const double> x) {
    const bool isPositive = std::all_of(x.begin(), x.end(), [](double one) { return one > 0; });
    if (options.model == Model::Spline && analyte.isConcentrationLogarithmic && isPositive) {
        options.isSplineInLogX = true;
    }
    return options;
}

FitInput fitInput(const Analyte& analyte, const AnalyteEvaluation& evaluation) {
    FitInput input;
    if (const KeptCurve* kept = keptCurve(analyte)) {
        return {analyte.fit, kept->x, kept->y, kept->level, kept->blankSd, kept->blankDf, kept->offset};
    }
    for (const StandardValue& standard : evaluation.standards) {
        if (standard.isUsed) {
            input.x.push_back(standard.x);
            input.y.push_back(standard.y);
            input.level.push_back(standard.level);
        }
    }
    input.options = fitOptions(analyte, analyte.fit, input.x);
    const Description& blank = evaluation.blank.description;
    if (blank.sd) {
        input.blankSd = *blank.sd * std::abs(evaluation.responseFactor);
        input.blankDf = static_cast<double>(blank.n) - 1;
    }
    input.offset = evaluation.blank.subtracted * evaluation.responseFactor;
    return input;
}

} // namespace nuvat
