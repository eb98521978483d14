#include "nuvat/batch/other_curves.h"

#include "evaluation_memory.h"
#include "nuvat/batch/internal_standard.h"
#include "nuvat/batch/kept_curve.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

OtherCurve ofAnalyte(const Batch& batch, const AnalyteEvaluation& one, bool hasSeveralAnalytes) {
    OtherCurve out;
    out.analyte = one.analyte;
    out.carrier = one.carrier;
    out.fit = one.fit;
    out.lowest = one.fit.lowestX;
    out.highest = one.fit.highestX;
    const std::string& analyte = analyteOf(batch, one).name;
    out.bracket = one.bracket;
    const std::string plate =
        one.carrier == 0 ? std::string()
        : one.bracket == 0
            ? carrierName(batch.carriers, one.carrier)
            : (batch.carriers.size() == 1 ? bracketName(one.bracket)
                                          : carrierName(batch.carriers, one.carrier) + ", " + bracketName(one.bracket));
    out.name = plate.empty() ? analyte : hasSeveralAnalytes ? analyte + ", " + plate : plate;
    return out;
}

} // namespace

Fit fitOfKept(const KeptCurve& kept) {
    return fitCalibration(kept.fit, {kept.x, kept.y, kept.level, {}, kept.blankSd, kept.blankDf, kept.offset});
}

OtherCurve otherCurve(const KeptCurve& kept) {
    OtherCurve out{.name = "kept: " + kept.name, .fit = fitOfKept(kept)};
    if (!kept.x.empty()) {
        const auto [low, high] = std::ranges::minmax(kept.x);
        out.lowest = low;
        out.highest = high;
    }
    return out;
}

Fit qualifierFit(const Batch& batch, const AnalyteEvaluation& evaluation, std::size_t qualifier) {
    FitInput input;
    const Analyte& analyte = analyteOf(batch, evaluation);
    const auto& ratios = evaluation.qualifiers.at(qualifier).ratios;
    for (const StandardValue& standard : evaluation.standards) {
        const auto ratio = ratios.find(standard.place);
        if (standard.isUsed && ratio != ratios.end()) {
            input.x.push_back(standard.x);
            input.y.push_back(standard.y * ratio->second.percent / 100);
            input.level.push_back(standard.level);
        }
    }
    return fitCalibration(fitOptions(analyte, analyte.fit, input.x), input.data());
}

std::optional<double> readByQualifier(const Batch& batch, const AnalyteEvaluation& evaluation, std::size_t qualifier,
                                      Place place) {
    const auto& ratios = evaluation.qualifiers.at(qualifier).ratios;
    const auto ratio = ratios.find(place);
    const auto& value = evaluation.at(place).value;
    if (ratio == ratios.end() || !value) {
        return std::nullopt;
    }
    const Fit fit = qualifierFit(batch, evaluation, qualifier);
    const auto x = fit.isUsable() ? readOffPoint(fit, *value * ratio->second.percent / 100).x : std::nullopt;
    return x ? std::optional(*x * internalShare(batch, evaluation.analyte, place)) : std::nullopt;
}

std::vector<OtherCurve> otherCurves(const Batch& batch, const Evaluation& evaluation, const AnalyteEvaluation& shown) {
    std::vector<OtherCurve> out;
    for (std::size_t i = 0; i < shown.qualifiers.size(); ++i) {
        OtherCurve one{.name = "qualifier " + analyteOf(batch, shown).qualifiers.at(i).channel,
                       .fit = qualifierFit(batch, shown, i)};
        if (one.fit.isUsable()) {
            one.lowest = one.fit.lowestX;
            one.highest = one.fit.highestX;
            out.push_back(std::move(one));
        }
    }
    for (const AnalyteEvaluation& one : evaluation.analytes) {
        const bool isShown =
            one.analyte == shown.analyte && one.carrier == shown.carrier && one.bracket == shown.bracket;
        if (!isShown && one.fit.isUsable()) {
            out.push_back(ofAnalyte(batch, one, batch.method.analytes.size() > 1));
        }
    }
    const Analyte& analyte = analyteOf(batch, shown);
    if (analyte.kept && keptCurve(analyte) == nullptr) {
        if (OtherCurve kept = otherCurve(*analyte.kept); kept.fit.isUsable()) {
            out.push_back(std::move(kept));
        }
    }
    for (std::size_t i = 0; i < out.size(); ++i) { // plates and analytes may be called alike
        for (int number = 2; std::any_of(out.begin(), out.begin() + static_cast<std::ptrdiff_t>(i),
                                         [&](const OtherCurve& before) { return before.name == out[i].name; });
             ++number) {
            out[i].name += " (" + std::to_string(number) + ")";
        }
    }
    return out;
}

std::pair<std::vector<double>, std::vector<double>> drawnOn(const CurveShape& shape, const OtherCurve& curve,
                                                            int samples) {
    std::pair<std::vector<double>, std::vector<double>> out;
    const double low = std::max(shape.xLow, curve.lowest.value_or(shape.xLow));
    const double high = std::min(shape.xHigh, curve.highest.value_or(shape.xHigh));
    if (!curve.fit.isUsable() || samples < 2 || !(low < high)) {
        return out;
    }
    for (int i = 0; i < samples; ++i) {
        const double share = static_cast<double>(i) / (samples - 1);
        const double x = shape.isLogarithmic ? low * std::pow(high / low, share) : low + share * (high - low);
        const bool isDefined = x >= 0 || (!isLogistic(curve.fit.model) && curve.fit.model != Model::LogLog);
        const double y = isDefined ? response(curve.fit, x) : NAN;
        if (std::isfinite(y)) {
            out.first.push_back(x);
            out.second.push_back(y);
        }
    }
    return out;
}

} // namespace nuvat
