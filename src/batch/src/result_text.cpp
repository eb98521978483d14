// Concentrations, intervals and results as people read them.
#include "nuvat/batch/working.h"

#include "nuvat/core/base/number.h"

namespace nuvat {

std::string concentrationText(const ReadOff& readOff) {
    return readOff.x ? valueText(*readOff.x, readOff.low, readOff.high) : std::string();
}

std::string valueText(double x, const std::optional<double>& low, const std::optional<double>& high) {
    constexpr int kFiguresWithoutInterval = 4;
    return low && high ? valueText(x, *low, *high) : formatFigures(x, kFiguresWithoutInterval);
}

std::string intervalText(double x, const std::optional<double>& low, const std::optional<double>& high) {
    return low && high ? intervalText(x, *low, *high) : std::string();
}

std::string valueText(double x, double low, double high, double factor) {
    return formatFigures(x * factor, figuresForInterval(x, (high - low) / 2));
}

std::string intervalText(double x, double low, double high, double factor) {
    const double half = (high - low) / 2;
    if (!(half > 0)) {
        return {};
    }
    // Both limits to the decimal place of the value, so that they can be compared with it.
    const int figures = figuresForInterval(x, half);
    const auto decimalsOf = [](const std::string& text) {
        const auto point = text.find('.');
        return point == std::string::npos ? 0 : static_cast<int>(text.size() - point - 1);
    };
    const std::string value = formatFigures(x * factor, figures);
    if (value.find('e') != std::string::npos || decimalsOf(value) == 0) {
        return formatFigures(low * factor, figures) + " to " + formatFigures(high * factor, figures);
    }
    return formatDecimals(low * factor, decimalsOf(value)) + " to " + formatDecimals(high * factor, decimalsOf(value));
}

std::string resultText(const SampleResult& result, const Range& range) {
    switch (result.status) {
    case ResultStatus::Reported:
    case ResultStatus::Extrapolated:
        return valueText(*result.result, result.low, result.high);
    case ResultStatus::BelowRange:
        return "< LLOQ (" + formatFigures(*range.lloq * result.factor(), 3) + ")";
    case ResultStatus::AboveRange:
        return "> ULOQ (" + formatFigures(*range.uloq * result.factor(), 3) + ")";
    case ResultStatus::BelowCurve:
        return range.lloq ? "< LLOQ (" + formatFigures(*range.lloq * result.factor(), 3) + ")" : "below the curve";
    case ResultStatus::AboveCurve:
        return range.uloq ? "> ULOQ (" + formatFigures(*range.uloq * result.factor(), 3) + ")" : "above the curve";
    case ResultStatus::AcrossLimit:
        return "across a limit";
    case ResultStatus::NotDefined:
        break;
    }
    return isNotFound(result) ? "not found" : isNotRead(result) ? "not read" : "not defined";
}

std::string combinedText(const Batch& batch, const AnalyteEvaluation& evaluation, const CombinedSample& sample) {
    std::string out = fullName(batch, {Role::Unknown, sample.sample}) + ": ";
    if (!sample.value) {
        return out + (sample.found.warnings.empty() ? std::string("No dilution is inside the range.")
                                                    : sample.found.warnings.front());
    }
    const std::string unit = analyteOf(batch, evaluation).unit;
    out += valueText(*sample.value, sample.low, sample.high) + (unit.empty() ? "" : " " + unit);
    if (const std::string interval = intervalText(*sample.value, sample.low, sample.high); !interval.empty()) {
        out += " (" + interval + ")";
    }
    std::string of;
    for (const std::size_t i : sample.found.reported) {
        const bool isLast = i == sample.found.reported.back();
        of += (of.empty() ? "" : isLast ? " and " : ", ") + ("× " + formatNumber(batch.dilution(sample.dilutions[i])));
    }
    return out + " from " + of + (sample.hasDoubt() ? "; to be reviewed" : "");
}

} // namespace nuvat
