#include "nuvat/core/fit/detection.h"

#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace nuvat {

namespace {

/// What every limit of a line is made of.
struct LineSums {
    double a = 0, b = 0; ///< b > 0: the magnitude
    double sign = 1;     ///< of the slope
    double n = 0, meanX = 0, qx = 0;
};

LineSums sumsOf(const Fit& fit) {
    LineSums out;
    out.a = fit.parameter("a");
    out.b = std::abs(fit.parameter("b"));
    out.sign = fit.parameter("b") < 0 ? -1 : 1;
    out.n = static_cast<double>(fit.n);
    long double sum = 0;
    for (const double x : fit.x) {
        sum += x;
    }
    const long double mean = sum / static_cast<long double>(fit.n);
    long double squares = 0;
    for (const double x : fit.x) {
        squares += (x - mean) * (x - mean);
    }
    out.meanX = static_cast<double>(mean);
    out.qx = static_cast<double>(squares);
    return out;
}

double curveSign(const Fit& fit) {
    return response(fit, fit.highestX) < response(fit, fit.lowestX) ? -1 : 1;
}

/// Weighted straight line, for sigma(x) and for the calibration of ISO 11843-2.
Fit weightedLine(std::span<const double> x, std::span<const double> y, std::span<const double> sigma) {
    FitOptions options;
    options.model = Model::Line;
    options.weighting = Weighting::InverseS2;
    return fitCalibration(options, {x, y, {}, sigma});
}

} // namespace

std::string whyNoLineLimits(const Fit& fit) {
    if (fit.model != Model::Line || fit.weighting != Weighting::None || !fit.isUsable()) {
        return "This limit is defined for an unweighted straight line.";
    }
    if (!(fit.s > 0) || fit.parameter("b") == 0) {
        return "The standards lie exactly on the line, or the line has no slope: there is no limit.";
    }
    return {};
}

std::optional<DinLimits> dinCalibrationLimits(const Fit& fit, const DinOptions& options) {
    const LineSums line = sumsOf(fit);
    const double sx0 = fit.s / line.b;
    const double fixed = 1 / options.m + 1 / line.n;
    DinLimits out;
    out.tOneSided = studentQuantile(1 - options.alpha, fit.df);
    out.tTwoSided = studentFactor(1 - options.alpha, fit.df);
    const double root = std::sqrt(fixed + line.meanX * line.meanX / line.qx);
    out.detection = sx0 * out.tOneSided * root;
    out.capture = out.detection + sx0 * studentQuantile(1 - options.beta, fit.df) * root;
    out.criticalResponse = line.a + line.sign * line.b * out.detection;
    const double kst = options.k * sx0 * out.tTwoSided;
    const double near = options.k * out.detection - line.meanX;
    out.determinationFirstApproximation = kst * std::sqrt(fixed + near * near / line.qx);
    // x^2 = q (fixed + (x - xbar)^2/Qx) with q = (k s t)^2: a quadratic in x with one positive root.
    const double q = kst * kst;
    const double a = 1 - q / line.qx;
    const double b = 2 * q * line.meanX / line.qx;
    const double c = -q * (fixed + line.meanX * line.meanX / line.qx);
    const double discriminant = b * b - 4 * a * c;
    if (!(a > 0) || discriminant < 0) {
        return std::nullopt;
    }
    out.determination = -2 * c / (b + std::sqrt(discriminant));
    return out;
}

std::optional<DinBlankLimits> dinBlankLimits(const Fit& fit, std::span<const double> blanks,
                                             const DinOptions& options) {
    const Description d = describe(blanks);
    if (!d.sd) {
        return std::nullopt;
    }
    const auto n = static_cast<double>(blanks.size());
    const double b = std::abs(fit.parameter("b"));
    const double root = *d.sd / b * std::sqrt(1 / options.m + 1 / n);
    DinBlankLimits out;
    out.tOneSided = studentQuantile(1 - options.alpha, n - 1);
    out.detection = root * out.tOneSided;
    out.capture = out.detection + root * studentQuantile(1 - options.beta, n - 1);
    out.criticalResponse = *d.mean + curveSign(fit) * b * out.detection;
    return out;
}

IchLimits ichLimits(double sigma, double slope) {
    return {sigma, 3.3 * sigma / std::abs(slope), 10 * sigma / std::abs(slope)};
}

std::optional<BlankLimit> blankPlusSd(const Fit& fit, std::span<const double> blanks, double k) {
    const Description d = describe(blanks);
    if (!d.sd) {
        return std::nullopt;
    }
    BlankLimit out;
    out.response = *d.mean + curveSign(fit) * k * *d.sd;
    out.x = readOffPoint(fit, out.response).x;
    if (isStraightLine(fit.model)) {
        out.kSdOverB = k * *d.sd / std::abs(fit.parameter("b"));
    }
    return out;
}

std::optional<LimitOfBlank> limitOfBlank(const Fit& fit, std::span<const double> blanks, std::span<const double> low) {
    const Description b = describe(blanks);
    const Description l = describe(low);
    if (!b.sd || !l.sd) {
        return std::nullopt;
    }
    const double z = normalQuantile(0.95);
    const auto corrected = [&](std::size_t n) { return z / (1 - 1 / (4 * (static_cast<double>(n) - 1))); };
    const double sign = curveSign(fit);
    LimitOfBlank out;
    out.lob = *b.mean + sign * z * *b.sd;
    out.lod = out.lob + sign * z * *l.sd;
    out.lobCorrected = *b.mean + sign * corrected(b.n) * *b.sd;
    out.lodCorrected = out.lobCorrected + sign * corrected(l.n) * *l.sd;
    out.xLob = readOffPoint(fit, out.lobCorrected).x;
    out.xLod = readOffPoint(fit, out.lodCorrected).x;
    return out;
}

std::optional<MethodDetectionLimit> methodDetectionLimit(const Fit& fit, std::span<const double> low) {
    const Description d = describe(low);
    if (!d.sd) {
        return std::nullopt;
    }
    MethodDetectionLimit out;
    out.t = studentQuantile(0.99, static_cast<double>(low.size()) - 1);
    out.response = out.t * *d.sd;
    if (isStraightLine(fit.model)) {
        out.x = out.response / std::abs(fit.parameter("b"));
    }
    return out;
}

IsoLimits isoLimits(const Fit& fit, double alpha, double beta, double readings) {
    const LineSums line = sumsOf(fit);
    IsoLimits out;
    out.t = studentQuantile(1 - alpha, fit.df);
    out.delta = noncentrality(fit.df, alpha, beta);
    const double unit = fit.s / line.b * std::sqrt(1 / readings + 1 / line.n + line.meanX * line.meanX / line.qx);
    out.criticalValue = out.t * unit;
    out.criticalResponse = line.a + line.sign * line.b * out.criticalValue;
    out.minimumDetectable = out.delta * unit;
    out.minimumDetectable2t = 2 * out.t * unit;
    return out;
}

std::optional<IsoRisingLimits> isoRisingLimits(std::span<const double> x, std::span<const double> y, double alpha,
                                               double beta, double readings) {
    std::map<double, std::vector<double>> levels;
    for (std::size_t i = 0; i < x.size(); ++i) {
        levels[x[i]].push_back(y[i]);
    }
    std::vector<double> at;
    std::vector<double> sd;
    for (const auto& [level, values] : levels) {
        const auto s = describe(values).sd;
        if (!s || !(*s > 0)) {
            return std::nullopt;
        }
        at.push_back(level);
        sd.push_back(*s);
    }
    if (at.size() < 3) {
        return std::nullopt;
    }
    IsoRisingLimits out;
    std::vector<double> sigma = sd;
    constexpr int kRounds = 3; // as the standard says
    for (int round = 0; round < kRounds; ++round) {
        const Fit line = weightedLine(at, sd, sigma);
        if (!line.isUsable()) {
            return std::nullopt;
        }
        out.c = line.parameter("a");
        out.d = line.parameter("b");
        for (std::size_t i = 0; i < at.size(); ++i) {
            sigma[i] = out.c + out.d * at[i];
            if (!(sigma[i] > 0)) {
                return std::nullopt;
            }
        }
    }
    std::vector<double> ofPoints;
    for (const double v : x) {
        ofPoints.push_back(out.c + out.d * v);
    }
    const Fit fit = weightedLine(x, y, ofPoints);
    if (!fit.isUsable() || fit.parameter("b") == 0 || !(out.c > 0)) {
        return std::nullopt;
    }
    out.intercept = fit.parameter("a");
    out.slope = fit.parameter("b");
    long double t1 = 0;
    long double sum = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const long double w = 1 / (static_cast<long double>(ofPoints[i]) * ofPoints[i]);
        t1 += w;
        sum += w * x[i];
    }
    const long double mean = sum / t1;
    long double sxx = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        sxx += (x[i] - mean) * (x[i] - mean) / (static_cast<long double>(ofPoints[i]) * ofPoints[i]);
    }
    const auto curve = static_cast<double>((1 / t1 + mean * mean / sxx) * fit.sse / fit.df);
    const double b = std::abs(out.slope);
    out.limits.t = studentQuantile(1 - alpha, fit.df);
    out.limits.delta = noncentrality(fit.df, alpha, beta);
    out.limits.criticalValue = out.limits.t / b * std::sqrt(out.c * out.c / readings + curve);
    out.limits.criticalResponse = out.intercept + out.slope * out.limits.criticalValue;
    // x = (delta/b) sqrt((c + d x)^2/K + curve): a quadratic in x.
    const double q = out.limits.delta * out.limits.delta / (b * b);
    const double a2 = 1 - q * out.d * out.d / readings;
    const double a1 = q * 2 * out.c * out.d / readings;
    const double a0 = q * (out.c * out.c / readings + curve);
    if (!(a2 > 0)) {
        return std::nullopt;
    }
    out.limits.minimumDetectable = (a1 + std::sqrt(a1 * a1 + 4 * a2 * a0)) / (2 * a2);
    out.limits.minimumDetectable2t = 0;
    return out;
}

PrecisionRange rangeByPrecision(const Fit& fit, double limitPercent, const ReadOffOptions& options) {
    PrecisionRange out;
    const double from = fit.lowestPositiveX;
    const double to = fit.highestX;
    if (!(from > 0) || !(to > from)) {
        return out;
    }
    ReadOffOptions plain = options;
    plain.interval = IntervalMethod::Propagation;
    plain.factor = 1; // only the SE is used
    const auto isPrecise = [&](double logX) {
        const double x = std::exp(logX);
        const ReadOff read = readOff(fit, response(fit, x), plain);
        return read.x && read.se && 100 * *read.se <= limitPercent * *read.x;
    };
    constexpr int kSteps = 400;
    const double start = std::log(from);
    const double step = (std::log(to) - start) / kSteps;
    int bestFrom = -1;
    int bestLength = 0;
    int length = 0;
    for (int i = 0; i <= kSteps; ++i) {
        length = isPrecise(i == kSteps ? std::log(to) : start + i * step) ? length + 1 : 0;
        if (length > bestLength) {
            bestLength = length;
            bestFrom = i - length + 1;
        }
    }
    if (bestLength == 0) {
        return out;
    }
    const auto crossing = [&](double precise, double not_precise) {
        for (int round = 0; round < 60; ++round) {
            const double middle = (precise + not_precise) / 2;
            (isPrecise(middle) ? precise : not_precise) = middle;
        }
        return std::exp(precise);
    };
    const int bestTo = bestFrom + bestLength - 1;
    out.lowest = bestFrom == 0 ? from : crossing(start + bestFrom * step, start + (bestFrom - 1) * step);
    out.highest = bestTo == kSteps ? to : crossing(start + bestTo * step, start + (bestTo + 1) * step);
    return out;
}

} // namespace nuvat
