#include "nuvat/core/fit/read_off.h"

#include "nuvat/core/stats/distributions.h"
#include "polynomial.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace nuvat {

namespace {

/// Concentration at response y; absent with the reason in `status`.
std::optional<double> invert(const Fit& fit, double y, ReadOffStatus& status) {
    status = ReadOffStatus::NotDefined;
    if (!fit.isUsable() || !std::isfinite(y)) {
        return std::nullopt;
    }
    const auto& p = fit.parameters;
    double x = 0;
    if (fit.model == Model::Line) {
        x = (y - p[0]) / p[1];
    } else if (fit.model == Model::LineThroughOrigin) {
        x = y / p[0];
    } else if (fit.model == Model::Quadratic || fit.model == Model::Cubic) {
        const BranchRoot root = solveOnBranch(fit, y);
        if (!root.x) {
            status = root.isBeyondHigh ? ReadOffStatus::AboveCurve : ReadOffStatus::BelowCurve;
            return std::nullopt;
        }
        x = *root.x;
    } else {
        const double a = p[0];
        const double d = p[3];
        if (a == d) {
            return std::nullopt;
        }
        const double below = (a - y) / (a - d); // 0 at the response of zero, 1 at infinity
        if (below < 0) {
            status = ReadOffStatus::BelowCurve;
            return std::nullopt;
        }
        if (below >= 1) {
            status = ReadOffStatus::AboveCurve;
            return std::nullopt;
        }
        x = below == 0 ? 0 : p[2] * std::exp(std::log((a - y) / (y - d)) / p[1]);
    }
    if (!std::isfinite(x)) {
        return std::nullopt;
    }
    status = ReadOffStatus::Ok;
    return x;
}

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
    const double size = std::max(std::abs(y), 1e-6 * fit.largestAbsY);
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
    }
    return 1;
}

/// Limits x + d with (b*d)^2 = t^2*(V + 2*d*C + d^2*Vb), V the variance of response and line at x, C = cov(a, b) +
/// x*Vb: Fieller's equation written about x, so that nothing cancels. @pre fit is a straight line, out.se is set
void setFiellerLimits(const Fit& fit, double t, ReadOff& out) {
    const bool isThroughOrigin = fit.model == Model::LineThroughOrigin;
    const double b = fit.parameters[isThroughOrigin ? 0 : 1];
    const double slopeVariance = fit.covariance[isThroughOrigin ? 0 : 3];
    const double cross = (isThroughOrigin ? 0 : fit.covariance[1]) + *out.x * slopeVariance;
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

} // namespace

std::string_view name(ReadOffStatus status) {
    switch (status) {
    case ReadOffStatus::Ok:
        return "ok";
    case ReadOffStatus::AboveCurve:
        return "above-curve";
    case ReadOffStatus::BelowCurve:
        return "below-curve";
    case ReadOffStatus::NotDefined:
        return "not-defined";
    }
    throw std::invalid_argument("name: not a read-off status");
}

ReadOff readOff(const Fit& fit, double y, const ReadOffOptions& options) {
    // One response that is the mean of m readings: the scatter of one reading over sqrt(m).
    ReadOff out = readOffMean(fit, std::span(&y, 1), [&] {
        ReadOffOptions one = options;
        one.replicates = std::max(options.replicates, 1.0);
        return one;
    }());
    return out;
}

ReadOff readOffMean(const Fit& fit, std::span<const double> y, const ReadOffOptions& options) {
    ReadOff out;
    if (options.interval == IntervalMethod::Fieller && fit.model != Model::Line &&
        fit.model != Model::LineThroughOrigin) {
        throw std::invalid_argument("readOffMean: Fieller's limits are for straight lines");
    }
    if (y.empty()) {
        return out;
    }
    const auto m = static_cast<double>(y.size());
    const double readingsEach = y.size() == 1 ? options.replicates : 1;
    double sum = 0;
    double varResponse = 0;
    double inverseSlope = 0;
    ParameterVector gradient{};
    for (const double one : y) {
        ReadOffStatus status{};
        const auto x = invert(fit, one, status);
        if (!x) {
            out = {};
            out.status = status;
            return out;
        }
        const double slopeHere = slope(fit, *x);
        if (slopeHere == 0) {
            out = {};
            return out;
        }
        sum += *x;
        const double varianceOfOne = fit.s * fit.s / futureWeight(fit, *x, one) / readingsEach;
        varResponse += varianceOfOne / (slopeHere * slopeHere) / (m * m);
        inverseSlope += 1 / slopeHere / m;
        const ParameterVector g = responseGradient(fit, *x);
        for (std::size_t k = 0; k < fit.p; ++k) {
            gradient[k] += g[k] / slopeHere / m;
        }
    }
    const double varCurve = variance(fit, gradient);
    const double x = sum / m;
    const double seBlank = options.blankSe * std::abs(inverseSlope);
    const double se = std::sqrt(varResponse + varCurve + seBlank * seBlank);
    if (!std::isfinite(se)) {
        return out;
    }
    out.status = ReadOffStatus::Ok;
    out.x = x;
    out.se = se;
    out.seResponse = std::sqrt(varResponse);
    out.seCurve = std::sqrt(varCurve);
    out.seBlank = seBlank;
    const double t = options.factor > 0 ? options.factor : studentFactor(options.confidence, fit.df);
    switch (options.interval) {
    case IntervalMethod::Propagation:
        out.low = x - t * se;
        out.high = x + t * se;
        break;
    case IntervalMethod::LogPropagation:
        if (x > 0) {
            out.low = std::exp(std::log(x) - t * se / x);
            out.high = std::exp(std::log(x) + t * se / x);
        }
        break;
    case IntervalMethod::Fieller:
        setFiellerLimits(fit, t, out);
        break;
    }
    return out;
}

} // namespace nuvat
