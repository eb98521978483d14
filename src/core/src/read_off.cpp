#include "nuvat/core/fit/read_off.h"

#include "curve_limits.h"
#include "model_fits.h"
#include "nuvat/core/stats/distributions.h"
#include "polynomial.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace nuvat {

namespace {

/// The curve at a response that is read off.
struct PointOnCurve {
    double x = 0, slope = 0;
    ParameterVector gradient{};
};

/// All at once for a logistic: at a known response nothing but one logarithm and one exponential is needed.
std::optional<PointOnCurve> onLogistic(const Fit& fit, double y, ReadOffStatus& status) {
    const auto& p = fit.parameters;
    const double a = p[0];
    const double b = p[1];
    const double c = p[2];
    const double d = p[3];
    const double power = fit.model == Model::Logistic5 ? p[4] : 1;
    const double rest = (a - y) / (a - d); // 0 at the response of zero, 1 at infinity
    if (!std::isfinite(rest)) {
        return std::nullopt;
    }
    if (rest < 0 || rest >= 1) {
        status = rest < 0 ? ReadOffStatus::BelowCurve : ReadOffStatus::AboveCurve;
        return std::nullopt;
    }
    status = ReadOffStatus::Ok;
    PointOnCurve point;
    if (rest == 0) {
        point.gradient = {1, 0, 0, 0, 0};
        point.slope = slope(fit, 0);
        return point;
    }
    const double g = (y - d) / (a - d);
    double odds = (a - y) / (y - d); // exp(u)
    double plus = 0;                 // ln(1 + exp(u))
    if (power != 1) {
        plus = -(rest < 0.5 ? std::log1p(-rest) : std::log(g)) / power;
        odds = std::expm1(plus);
    } else if (fit.model == Model::Logistic5) {
        plus = std::log1p(odds);
    }
    const double u = std::log(odds);
    point.x = c * std::exp(u / b);
    const double byU = -power * g * odds / (1 + odds);
    const double e = a - d;
    point.slope = e * byU * b / point.x;
    point.gradient = {g, e * byU * u / b, -e * byU * b / c, rest, -e * plus * g};
    return point;
}

/// Concentration at response y; absent with the reason in `status`.
std::optional<double> invert(const Fit& fit, double y, ReadOffStatus& status) {
    const auto& p = fit.parameters;
    const auto beyond = [&](bool isHigh) {
        status = isHigh ? ReadOffStatus::AboveCurve : ReadOffStatus::BelowCurve;
        return std::optional<double>();
    };
    double x = 0;
    switch (fit.model) {
    case Model::Line:
        x = (y - p[0]) / p[1];
        break;
    case Model::LineFixedPoint:
        x = fit.options.fixedX + (y - fit.options.fixedY) / p[1];
        break;
    case Model::LineThroughOrigin:
        x = y / p[0];
        break;
    case Model::Quadratic:
    case Model::Cubic: {
        const BranchRoot root = solveOnBranch(fit, y);
        if (!root.x) {
            return beyond(root.isBeyondHigh);
        }
        x = *root.x;
        break;
    }
    case Model::LogLog:
        if (!(y > 0)) {
            return beyond(p[1] < 0);
        }
        x = std::pow(10, (std::log10(y) - p[0]) / p[1]);
        break;
    case Model::PointToPoint:
    case Model::Spline: {
        const auto roots = solveInterpolation(fit, y);
        if (roots.size() > 1) {
            return std::nullopt;
        }
        if (roots.empty()) {
            const bool rises = fit.knots.back().y > fit.knots.front().y;
            return beyond(rises ? y > fit.knots.back().y : y < fit.knots.back().y);
        }
        x = roots.front();
        break;
    }
    case Model::Logistic4:
    case Model::Logistic5:
        return std::nullopt; // onLogistic
    }
    if (!std::isfinite(x)) {
        return std::nullopt;
    }
    status = ReadOffStatus::Ok;
    return x;
}

std::optional<PointOnCurve> pointAt(const Fit& fit, double y, ReadOffStatus& status) {
    status = ReadOffStatus::NotDefined;
    if (!fit.isUsable() || !std::isfinite(y)) {
        return std::nullopt;
    }
    if (isLogistic(fit.model)) {
        return onLogistic(fit, y, status);
    }
    const auto x = invert(fit, y, status);
    if (!x) {
        return std::nullopt;
    }
    return PointOnCurve{*x, slope(fit, *x), responseGradient(fit, *x)};
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

std::string_view name(IntervalMethod method) {
    switch (method) {
    case IntervalMethod::Propagation:
        return "propagation";
    case IntervalMethod::LogPropagation:
        return "log-propagation";
    case IntervalMethod::Fieller:
        return "fieller";
    case IntervalMethod::Inversion:
        return "inversion";
    case IntervalMethod::Profile:
        return "profile";
    case IntervalMethod::Bootstrap:
        return "bootstrap";
    }
    throw std::invalid_argument("name: not an interval method");
}

std::optional<IntervalMethod> intervalMethodFromName(std::string_view text) {
    for (const auto method : {IntervalMethod::Propagation, IntervalMethod::LogPropagation, IntervalMethod::Fieller,
                              IntervalMethod::Inversion, IntervalMethod::Profile, IntervalMethod::Bootstrap}) {
        if (name(method) == text) {
            return method;
        }
    }
    return std::nullopt;
}

bool isDefinedFor(IntervalMethod method, Model model) {
    switch (method) {
    case IntervalMethod::Propagation:
    case IntervalMethod::LogPropagation:
    case IntervalMethod::Inversion:
        return true;
    case IntervalMethod::Fieller:
        return isStraightLine(model);
    case IntervalMethod::Profile:
    case IntervalMethod::Bootstrap:
        return isLogistic(model);
    }
    return false;
}

std::string_view name(AverageOf average) {
    return average == AverageOf::Concentrations ? "concentration" : "response";
}

std::optional<AverageOf> averageOfFromName(std::string_view text) {
    return text == "concentration" ? std::optional(AverageOf::Concentrations)
           : text == "response"    ? std::optional(AverageOf::Responses)
                                   : std::nullopt;
}

double readingVariance(const Fit& fit, double x, double y) {
    const double unit = fit.model == Model::LogLog ? y * std::numbers::ln10 : 1;
    return fit.s * fit.s * unit * unit / futureWeight(fit, x, y);
}

ReadOff readOff(const Fit& fit, double y, const ReadOffOptions& options) {
    return readOffMean(fit, std::span(&y, 1), options);
}

ReadOff readOffMean(const Fit& fit, std::span<const double> y, const ReadOffOptions& options) {
    ReadOff out;
    if (!isDefinedFor(options.interval, fit.model)) {
        throw std::invalid_argument("readOffMean: the interval method is not defined for this model");
    }
    if (y.empty()) {
        return out;
    }
    double meanY = 0;
    for (const double one : y) {
        meanY += one / static_cast<double>(y.size());
    }
    const double readings = y.size() == 1 ? std::max(options.replicates, 1.0) : static_cast<double>(y.size());
    const bool readsOnce = y.size() == 1 || options.average == AverageOf::Responses;
    const double onlyY = y.size() == 1 ? y.front() : meanY;
    const std::span<const double> toRead = readsOnce ? std::span(&onlyY, 1) : y;
    const double readingsEach = readsOnce ? readings : 1;
    const auto m = static_cast<double>(toRead.size());
    double sum = 0;
    double varResponse = 0;
    double varCurve = 0;
    double inverseSlope = 0;
    ParameterVector gradient{};
    for (const double one : toRead) {
        ReadOffStatus status{};
        const auto point = pointAt(fit, one, status);
        if (!point) {
            out.status = status;
            return out;
        }
        if (point->slope == 0) {
            out.status = ReadOffStatus::NotDefined;
            return out;
        }
        sum += point->x;
        inverseSlope += 1 / point->slope / m;
        varResponse += readingVariance(fit, point->x, one) / readingsEach / (point->slope * point->slope) / (m * m);
        for (std::size_t k = 0; k < fit.size(); ++k) {
            gradient[k] += point->gradient[k] / point->slope / m;
        }
        if (isInterpolation(fit.model)) { // taken as fully shared by the replicates: they sit between the same levels
            varCurve += responseVariance(fit, point->x) / (point->slope * point->slope) / m;
        }
    }
    if (!isInterpolation(fit.model)) {
        varCurve = variance(fit, gradient);
    }
    const double x = sum / m;
    if (fit.df <= 0) { // nothing is known about scatter
        out.status = std::isfinite(x) ? ReadOffStatus::Ok : ReadOffStatus::NotDefined;
        out.x = std::isfinite(x) ? std::optional(x) : std::nullopt;
        return out;
    }
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
    const auto varianceOfMean = [&] {
        return readingVariance(fit, x, meanY) / readings + options.blankSe * options.blankSe;
    };
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
    case IntervalMethod::Inversion:
        out.low = inversionLimit(fit, meanY, x, varianceOfMean(), t, -1);
        out.high = inversionLimit(fit, meanY, x, varianceOfMean(), t, 1);
        break;
    case IntervalMethod::Profile:
        setProfileLimits(fit, meanY, varianceOfMean(), t, out);
        break;
    case IntervalMethod::Bootstrap:
        setBootstrapLimits(fit, meanY, varianceOfMean(), options, out);
        break;
    }
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
