#include "nuvat/core/fit/read_off.h"

#include "curve_limits.h"
#include "inverse.h"
#include "logistic.h"
#include "model_fits.h"
#include "nuvat/core/stats/distributions.h"
#include "polynomial.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace nuvat {

namespace {

/// SD of a reading of response y: linear between the levels' mean responses, that of the end level beyond them.
double scatterAt(const std::vector<LevelScatter>& levels, double y) {
    if (y <= levels.front().meanY) {
        return levels.front().s;
    }
    for (std::size_t i = 1; i < levels.size(); ++i) {
        if (y <= levels[i].meanY) {
            const double share = (y - levels[i - 1].meanY) / (levels[i].meanY - levels[i - 1].meanY);
            return levels[i - 1].s + share * (levels[i].s - levels[i - 1].s);
        }
    }
    return levels.back().s;
}

/// Weight of one future reading of response y at concentration x, on the scale of Fit::weights.
double futureWeight(const Fit& fit, double x, double y) {
    const double level = x > 0 ? x : fit.lowestPositiveX;
    const double size = std::max(std::abs(y), fit.floorOfY);
    switch (fit.weighting) {
    case Weighting::None:
        return 1;
    case Weighting::InverseX:
        return 1 / level;
    case Weighting::InverseX2:
        return 1 / (level * level);
    case Weighting::InverseY:
        return 1 / size;
    case Weighting::InverseY2:
        return 1 / (size * size);
    case Weighting::InverseS2: {
        const double scatter = scatterAt(fit.scatter, y);
        return 1 / (scatter * scatter);
    }
    case Weighting::Variance: {
        const double sigma = fit.variance.at(y + fit.offset);
        return 1 / (sigma * sigma);
    }
    }
    return 1;
}

/// Limits x + d with (b*d)^2 = t^2*(V + 2*d*C + d^2*Vb), V the variance of response and line at x, C = (x - pivot)*Vb,
/// the pivot being the mean of the points or the point the line is held at: Fieller's equation written about x, so that
/// nothing cancels. @pre fit is a straight line, out.se is set
void setFiellerLimits(const Fit& fit, double t, ReadOff& out) {
    const double b = slope(fit, *out.x);
    const double slopeVariance =
        fit.model == Model::Line ? fit.workCovariance[3] / (fit.scale * fit.scale) : fit.workCovariance[0];
    const double fromPivot = fit.model == Model::Line                ? *out.x - (fit.centre + fit.scale * fit.alpha[0])
                             : fit.model == Model::LineThroughOrigin ? *out.x
                                                                     : *out.x - fit.options.fixedX;
    const double cross = fromPivot * slopeVariance;
    const double quadratic = b * b - t * t * slopeVariance;
    if (!(quadratic > 0)) {
        return; // no finite interval
    }
    const double variance = *out.se * *out.se * b * b;
    const double middle = t * t * cross / quadratic;
    const double half = std::sqrt(middle * middle + t * t * variance / quadratic);
    out.low = *out.x + middle - half;
    out.high = *out.x + middle + half;
}

/// Nearest concentration on one side where the reading is just significantly off the curve.
/// @param direction -1 or 1; @return nothing when the curve ends before
std::optional<double> inversionLimit(const Fit& fit, double y, double x, double variance0, double t, int direction) {
    const bool needsPositive = isLogistic(fit.model) || fit.model == Model::LogLog;
    const auto excess = [&](double at) {
        const double off = y - response(fit, at);
        return off * off - t * t * (variance0 + responseVariance(fit, at));
    };
    // Away from x in growing steps until the excess changes its sign, then by the secant held inside the bracket.
    double inside = x;
    double step = std::max(std::abs(x) * 1e-3, 1e-6 * (fit.highestX - fit.lowestX));
    double outside = x;
    for (int i = 0;; ++i) {
        outside = x + direction * step;
        if (needsPositive && outside <= 0) {
            outside = i > 0 && inside > 1e-12 * fit.lowestPositiveX ? inside / 4 : 0;
        }
        if (isInterpolation(fit.model) && (outside < fit.lowestX || outside > fit.highestX)) {
            outside = direction < 0 ? fit.lowestX : fit.highestX;
        }
        if (excess(outside) > 0) {
            break;
        }
        if (outside == inside || i > 200 || (needsPositive && outside == 0)) {
            return std::nullopt;
        }
        inside = outside;
        step *= 1.6;
        if (!(std::abs(outside) < 1e9 * std::max(std::abs(x), fit.highestX))) {
            return std::nullopt;
        }
    }
    double low = inside;
    double high = outside;
    double lowValue = excess(low);
    double highValue = excess(high);
    for (int i = 0; i < 200 && std::abs(high - low) > 4e-16 * std::max(std::abs(low), std::abs(high)); ++i) {
        double middle = high - highValue * (high - low) / (highValue - lowValue);
        const double margin = 1e-3 * (high - low); // keeps the secant from creeping up on one side
        if (i % 3 == 2 || !((middle - low) * (middle - high) < 0)) {
            middle = 0.5 * (low + high);
        } else if (std::abs(middle - low) < std::abs(margin) && i % 2 == 1) {
            middle = low + margin;
        }
        const double value = excess(middle);
        if (value > 0) {
            high = middle;
            highValue = value;
        } else {
            low = middle;
            lowValue = value;
        }
    }
    return 0.5 * (low + high);
}

} // namespace

double readingVariance(const Fit& fit, double x, double y) {
    if (fit.weighting == Weighting::None && fit.model != Model::LogLog) {
        return fit.s * fit.s;
    }
    const double unit = fit.model == Model::LogLog ? y * std::numbers::ln10 : 1;
    return fit.s * fit.s * unit * unit / futureWeight(fit, x, y);
}

namespace {

void requireDefined(const Fit& fit, const ReadOffOptions& options) {
    if (!isDefinedFor(options.interval, fit.model)) {
        throw std::invalid_argument("readOff: the interval method is not defined for this model");
    }
}

/// What was read off, before its limits.
struct Reading {
    double x = 0;
    double varResponse = 0; ///< shares of the variance of x
    double varCurve = 0;
    double perSlope = 0; ///< dx/dy, mean of the responses'
    double meanY = 0;
    double readings = 1; ///< behind meanY
};

/// Variance of one reading: what the caller knows of it, or the curve's.
double varianceOfReading(const Fit& fit, double x, double y, const ReadOffOptions& options) {
    return options.scatterVariance > 0 ? options.scatterVariance : readingVariance(fit, x, y);
}

/// Degrees of freedom of a sum of variances that have some of their own.
double degreesOf(const Fit& fit, const ReadOffOptions& options, double response, double curve, double blank) {
    const bool isOfCurve = options.scatterDf <= 0 && (options.blankDf <= 0 || blank == 0);
    if (isOfCurve) {
        return fit.df;
    }
    const double sum = response + curve + blank;
    const double parts = response * response / (options.scatterDf > 0 ? options.scatterDf : fit.df) +
                         curve * curve / fit.df + blank * blank / (options.blankDf > 0 ? options.blankDf : fit.df);
    return parts > 0 ? sum * sum / parts : fit.df;
}

/// Limits that take more than a line.
void setOtherLimits(ReadOff& out, const Fit& fit, const Reading& reading, const ReadOffOptions& options, double t) {
    const double x = reading.x;
    const auto varianceOfMean = [&] {
        const double blank = out.seBlank / std::abs(reading.perSlope);
        return varianceOfReading(fit, x, reading.meanY, options) * options.varianceFactor / reading.readings +
               blank * blank;
    };
    switch (options.interval) {
    case IntervalMethod::Propagation:
        break;
    case IntervalMethod::LogPropagation:
        if (x > 0) {
            out.low = std::exp(std::log(x) - t * *out.se / x);
            out.high = std::exp(std::log(x) + t * *out.se / x);
        }
        break;
    case IntervalMethod::Fieller:
        setFiellerLimits(fit, t, out);
        break;
    case IntervalMethod::Inversion:
        out.low = inversionLimit(fit, reading.meanY, x, varianceOfMean(), t, -1);
        out.high = inversionLimit(fit, reading.meanY, x, varianceOfMean(), t, 1);
        break;
    case IntervalMethod::Profile:
        setProfileLimits(fit, reading.meanY, varianceOfMean(), t, out);
        break;
    case IntervalMethod::Bootstrap:
        setBootstrapLimits(fit, reading.meanY, varianceOfMean(), t, options, out);
        break;
    }
}

/// Fills what is still empty. Inlined, so that many read-offs go from registers to their place.
[[gnu::always_inline]] inline void setReadOff(ReadOff& out, const Fit& fit, const Reading& reading,
                                              const ReadOffOptions& options) {
    const double x = reading.x;
    if (fit.df <= 0) { // nothing is known about scatter
        out.status = std::isfinite(x) ? ReadOffStatus::Ok : ReadOffStatus::NotDefined;
        out.x = std::isfinite(x) ? std::optional(x) : std::nullopt;
        return;
    }
    double seBlank = options.blankSe * std::abs(reading.perSlope);
    if (options.sharedBlank) {
        seBlank *= std::abs(options.sharedBlank->share(x));
    }
    const double se = std::sqrt(reading.varResponse + reading.varCurve + seBlank * seBlank);
    if (!std::isfinite(se)) {
        return;
    }
    out.status = ReadOffStatus::Ok;
    out.x = x;
    out.se = se;
    out.seResponse = std::sqrt(reading.varResponse);
    out.seCurve = std::sqrt(reading.varCurve);
    out.seBlank = seBlank;
    out.df = degreesOf(fit, options, reading.varResponse, reading.varCurve, seBlank * seBlank);
    const bool isKnown = options.factor > 0 && out.df == fit.df;
    const double t = isKnown ? options.factor : studentFactor(options.confidence, out.df);
    if (options.interval == IntervalMethod::Propagation) {
        out.low = x - t * se;
        out.high = x + t * se;
    } else {
        setOtherLimits(out, fit, reading, options, t);
    }
}

/// One response, itself the mean of `readings`.
Reading readingOf(const Fit& fit, double x, double perSlope, double variance, double y, const ReadOffOptions& options) {
    const double readings = std::max(options.replicates, 1.0);
    const double ofOne = varianceOfReading(fit, x, y, options) * options.varianceFactor;
    return {x, ofOne * (perSlope * perSlope) / readings, variance, perSlope, y, readings};
}

ReadOff without(ReadOffStatus status) {
    ReadOff out;
    out.status = status;
    return out;
}

} // namespace

ReadOff readOff(const Fit& fit, double y, const ReadOffOptions& options) {
    requireDefined(fit, options);
    ReadOffStatus status{};
    const auto point = pointAt(fit, y, status);
    if (!point) {
        return without(status);
    }
    ReadOff out;
    setReadOff(out, fit, readingOf(fit, point->x, point->perSlope, point->variance, y, options), options);
    return out;
}

ReadOff readOffPoint(const Fit& fit, double y) {
    ReadOffOptions options;
    options.factor = 1;
    ReadOff out = readOff(fit, y, options);
    out.low.reset();
    out.high.reset();
    return out;
}

namespace {

ReadOff ofMeanResponse(const Fit& fit, double y, double readings, const ReadOffOptions& options) {
    ReadOffOptions ofOne = options;
    ofOne.replicates = readings;
    return readOff(fit, y, ofOne);
}

/// Gives a mean of concentrations the limits of the mean response, widened where the mean itself lies beyond them: the
/// two means differ where the curve bends, and it is the mean response whose limits hold what they say.
void takeLimits(ReadOff& out, const ReadOff& ofMean) {
    out.low = ofMean.low ? std::optional(std::min(*ofMean.low, out.x.value_or(*ofMean.low))) : std::nullopt;
    out.high = ofMean.high ? std::optional(std::max(*ofMean.high, out.x.value_or(*ofMean.high))) : std::nullopt;
}

} // namespace

std::vector<ReadOff> readOffs(const Fit& fit, std::span<const double> y, const ReadOffOptions& options) {
    requireDefined(fit, options);
    std::vector<ReadOff> out;
    out.reserve(y.size());
    if (!fit.isUsable() || !isLogistic(fit.model)) {
        for (const double one : y) {
            out.push_back(readOff(fit, one, options));
        }
        return out;
    }
    LogisticReadPlan plan = readPlan(fit);
    plan.wantsGradient = false;
    LogisticReadings read;
    for (std::size_t from = 0; from < y.size(); from += LogisticReadings::kMost) {
        const auto block = y.subspan(from, std::min(LogisticReadings::kMost, y.size() - from));
        kernels().readOff(plan, block.data(), block.size(), read);
        for (std::size_t i = 0; i < block.size(); ++i) {
            const ReadOffStatus status = complete(fit, read, i);
            ReadOff& one = out.emplace_back();
            if (status == ReadOffStatus::Ok) {
                const Reading reading =
                    readingOf(fit, read.x[i], read.perSlope[i], read.variance[i], block[i], options);
                setReadOff(one, fit, reading, options);
            } else {
                one.status = status;
            }
        }
    }
    return out;
}

ReadOff readOffMean(const Fit& fit, std::span<const double> y, const ReadOffOptions& options) {
    requireDefined(fit, options);
    if (y.empty()) {
        return {};
    }
    if (y.size() == 1) {
        return readOff(fit, y.front(), options);
    }
    const auto m = static_cast<double>(y.size());
    Reading mean;
    mean.readings = m;
    for (const double one : y) {
        mean.meanY += one / m;
    }
    if (options.average == AverageOf::Responses) {
        return ofMeanResponse(fit, mean.meanY, m, options);
    }
    ReadOffStatus status{};
    ParameterVector gradient{};
    for (const double one : y) {
        const auto point = pointAt(fit, one, status);
        if (!point) {
            return without(status);
        }
        mean.x += point->x / m;
        mean.perSlope += point->perSlope / m;
        mean.varResponse += varianceOfReading(fit, point->x, one, options) * options.varianceFactor *
                            (point->perSlope * point->perSlope) / (m * m);
        for (std::size_t k = 0; k < kMostParameters; ++k) {
            gradient[k] += point->gradient[k] / m;
        }
        if (isInterpolation(fit.model)) { // taken as fully shared by the replicates: they sit between the same levels
            mean.varCurve += point->variance / m;
        }
    }
    if (!isInterpolation(fit.model)) {
        mean.varCurve = variance(fit, gradient);
    }
    ReadOff out;
    const bool isOfResponse = options.interval == IntervalMethod::Inversion ||
                              options.interval == IntervalMethod::Profile ||
                              options.interval == IntervalMethod::Bootstrap;
    if (!isOfResponse) {
        setReadOff(out, fit, mean, options);
        return out;
    }
    ReadOffOptions plain = options;
    plain.interval = IntervalMethod::Propagation;
    setReadOff(out, fit, mean, plain);
    takeLimits(out, ofMeanResponse(fit, mean.meanY, m, options));
    return out;
}

ReadOff scaled(const ReadOff& readOff, double factor, double relativeSe, double t) {
    ReadOff out = readOff;
    if (!readOff.x) {
        return out;
    }
    const double x = *readOff.x * factor;
    const double share = std::abs(x) * relativeSe;
    out.x = x;
    out.seResponse *= factor;
    out.seCurve *= factor;
    out.seBlank *= factor;
    if (readOff.se) {
        out.se = std::hypot(*readOff.se * factor, share);
    }
    if (readOff.low) {
        const double low = *readOff.low * factor;
        out.low = relativeSe > 0 ? x - std::hypot(x - low, t * share) : low;
    }
    if (readOff.high) {
        const double high = *readOff.high * factor;
        out.high = relativeSe > 0 ? x + std::hypot(high - x, t * share) : high;
    }
    return out;
}

} // namespace nuvat
