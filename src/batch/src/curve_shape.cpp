#include "nuvat/batch/curve_shape.h"

#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

void chooseAxes(const Batch& batch, const AnalyteEvaluation& evaluation, CurveShape& shape) {
    double lowest = 0; // above zero
    double highest = 0;
    bool anyZero = false;
    shape.yLow = 0;
    shape.yHigh = 0;
    const auto take = [&](double x, double y) {
        highest = std::max(highest, x);
        anyZero = anyZero || x <= 0;
        if (x > 0 && (lowest == 0 || x < lowest)) {
            lowest = x;
        }
        shape.yLow = std::min(shape.yLow, y);
        shape.yHigh = std::max(shape.yHigh, y);
    };
    for (const StandardValue& standard : evaluation.standards) {
        take(standard.x, standard.y);
    }
    for (const SampleResult& result : evaluation.results) {
        for (const ReplicateResult& replicate : result.replicates) {
            if (result.nominal && replicate.response) {
                take(*result.nominal, *replicate.response);
            }
        }
    }
    if (highest <= 0) {
        lowest = 0.1;
        highest = 10;
    }
    shape.isLogarithmic = analyteOf(batch, evaluation).isConcentrationLogarithmic && lowest > 0;
    if (shape.isLogarithmic) {
        shape.xHigh = highest * 1.6;
        shape.xLow = lowest / 2.7;
        if (anyZero) {
            shape.zeroX = lowest / 4;
            shape.xLow = lowest / 6;
        }
    } else {
        shape.xLow = -0.02 * highest;
        shape.xHigh = 1.05 * highest;
    }
    // By standard addition the line is drawn to where it meets response 0.
    if (const AdditionLine* line = evaluation.shownLine(); line && line->line->content > 0) {
        shape.isLogarithmic = false;
        shape.zeroX.reset();
        shape.xLow = -1.15 * line->line->content;
        shape.xHigh = 1.05 * highest;
    }
    const double span = shape.yHigh - shape.yLow;
    shape.yHigh += 0.08 * (span > 0 ? span : 1);
    shape.yLow -= shape.yLow < 0 ? 0.05 * span : 0;
}

/// Ends of the axes that the analyst set; those that would turn an axis around are left out.
void takeAxes(const FigureSettings& figure, CurveShape& shape) {
    const auto set = [](double& low, double& high, const std::optional<double>& newLow,
                        const std::optional<double>& newHigh) {
        const double from = newLow.value_or(low), to = newHigh.value_or(high);
        if (from < to) {
            low = from;
            high = to;
        }
    };
    if (!shape.isLogarithmic || figure.xLow.value_or(shape.xLow) > 0) {
        set(shape.xLow, shape.xHigh, figure.xLow, figure.xHigh);
    }
    if (shape.zeroX && *shape.zeroX < shape.xLow) {
        shape.zeroX.reset();
    }
    set(shape.yLow, shape.yHigh, figure.yLow, figure.yHigh);
}

} // namespace

double CurveShape::drawn(double concentration) const {
    return isLogarithmic && concentration <= 0 ? zeroX.value_or(xLow) : concentration;
}

std::string concentrationAxisTitle(const Analyte& analyte) {
    if (!analyte.figure.xTitle.empty()) {
        return analyte.figure.xTitle;
    }
    return (analyte.name.empty() ? "Concentration" : analyte.name) + (analyte.unit.empty() ? "" : ", " + analyte.unit);
}

std::string responseAxisTitle(const Method& method, const Analyte& analyte) {
    if (!analyte.figure.yTitle.empty()) {
        return analyte.figure.yTitle;
    }
    const int internal = analyte.internal.analyte;
    const bool isRatio = internal >= 1 && internal <= static_cast<int>(method.analytes.size());
    return analyte.responseName + (isRatio ? " ÷ that of " + method.analyte(internal).name : "") +
           (method.subtractsBlank ? ", blank-corrected" : "");
}

std::optional<double> markedX(const AnalyteEvaluation& evaluation, const SampleResult& result) {
    if (evaluation.additions.empty()) {
        return result.readOff.x;
    }
    const AdditionLine* line = evaluation.shownLine();
    return line && line->sample == result.group.number ? std::optional(-line->line->content) : std::nullopt;
}

CurveShape curveShape(const Batch& batch, const AnalyteEvaluation& evaluation, int samples) {
    CurveShape shape;
    chooseAxes(batch, evaluation, shape);
    takeAxes(analyteOf(batch, evaluation).figure, shape);
    const Fit& fit = evaluation.fit;
    if (!fit.isUsable() || samples < 2) {
        return shape;
    }
    const double t = fit.df > 0 ? studentFactor(batch.method.confidence, fit.df) : 0;
    for (int i = 0; i < samples; ++i) {
        const double share = static_cast<double>(i) / (samples - 1);
        double x = shape.xLow + share * (shape.xHigh - shape.xLow);
        if (shape.isLogarithmic) {
            x = shape.xLow * std::pow(shape.xHigh / shape.xLow, share);
        } else if (x < 0 && (isLogistic(fit.model) || fit.model == Model::LogLog)) {
            continue; // begins at zero
        }
        if (isInterpolation(fit.model) && (x < fit.lowestX || x > fit.highestX)) {
            continue; // ends with its levels
        }
        const double y = response(fit, x);
        const double half = t * responseSe(fit, x);
        shape.x.push_back(x);
        shape.y.push_back(y);
        shape.low.push_back(y - half);
        shape.high.push_back(y + half);
    }
    return shape;
}

std::vector<double> roundTicks(double low, double high, int wanted) {
    std::vector<double> ticks;
    if (!(high > low) || wanted < 1) {
        return ticks;
    }
    const double raw = (high - low) / wanted;
    const double unit = std::pow(10.0, std::floor(std::log10(raw)));
    const double share = raw / unit;
    const double step = unit * (share < 1.5 ? 1 : share < 3.5 ? 2 : share < 7.5 ? 5 : 10);
    const auto first = static_cast<long>(std::ceil(low / step - 1e-9));
    const auto last = static_cast<long>(std::floor(high / step + 1e-9));
    for (long i = first; i <= last; ++i) {
        ticks.push_back(static_cast<double>(i) * step);
    }
    return ticks;
}

std::vector<double> logTicks(double low, double high) {
    std::vector<double> ticks;
    if (!(low > 0) || !(high > low)) {
        return ticks;
    }
    const auto fill = [&](std::initializer_list<double> steps) {
        ticks.clear();
        const auto from = static_cast<int>(std::floor(std::log10(low)));
        const auto to = static_cast<int>(std::ceil(std::log10(high)));
        for (int exponent = from; exponent <= to; ++exponent) {
            for (const double step : steps) {
                const double tick = step * std::pow(10.0, exponent);
                if (tick >= low && tick <= high) {
                    ticks.push_back(tick);
                }
            }
        }
    };
    fill({1});
    if (ticks.size() < 3) {
        fill({1, 2, 5});
    }
    return ticks;
}

} // namespace nuvat
