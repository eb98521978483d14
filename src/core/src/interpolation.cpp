#include "model_fits.h"

#include "nuvat/core/base/number.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

using Knots = std::vector<Fit::Knot>;

bool isMonotone(const Knots& knots) {
    const bool rises = knots.back().y > knots.front().y;
    for (std::size_t k = 1; k < knots.size(); ++k) {
        if (rises ? !(knots[k].y > knots[k - 1].y) : !(knots[k].y < knots[k - 1].y)) {
            return false;
        }
    }
    return true;
}

/// Abscissa the spline runs over: x or ln x.
double abscissa(const Fit& fit, double x) {
    return fit.options.isSplineInLogX ? std::log(x) : x;
}

/// Three-point end slope, kept inside the monotone region. Source: as Fritsch and Carlson (1980) with the end formula
/// of C. Moler, Numerical Computing with MATLAB (2004), section 3.4.
double endTangent(double h0, double h1, double slope0, double slope1) {
    double tangent = ((2 * h0 + h1) * slope0 - h0 * slope1) / (h0 + h1);
    if (tangent * slope0 <= 0) {
        return 0;
    }
    if (slope0 * slope1 <= 0 && std::abs(tangent) > 3 * std::abs(slope0)) {
        tangent = 3 * slope0;
    }
    return tangent;
}

void setTangents(const Fit& fit, Knots& knots) {
    const std::size_t n = knots.size();
    std::vector<double> h(n - 1);
    std::vector<double> slope(n - 1);
    for (std::size_t k = 0; k + 1 < n; ++k) {
        h[k] = abscissa(fit, knots[k + 1].x) - abscissa(fit, knots[k].x);
        slope[k] = (knots[k + 1].y - knots[k].y) / h[k];
    }
    if (n == 2) {
        knots[0].tangent = knots[1].tangent = slope[0];
        return;
    }
    knots.front().tangent = endTangent(h[0], h[1], slope[0], slope[1]);
    knots.back().tangent = endTangent(h[n - 2], h[n - 3], slope[n - 2], slope[n - 3]);
    for (std::size_t k = 1; k + 1 < n; ++k) { // three-point slope, then into the circle of radius 3
        knots[k].tangent = (h[k] * slope[k - 1] + h[k - 1] * slope[k]) / (h[k - 1] + h[k]);
    }
    for (std::size_t k = 0; k + 1 < n; ++k) {
        const double alpha = knots[k].tangent / slope[k];
        const double beta = knots[k + 1].tangent / slope[k];
        const double radius = std::hypot(alpha, beta);
        if (radius > 3) {
            knots[k].tangent = 3 / radius * alpha * slope[k];
            knots[k + 1].tangent = 3 / radius * beta * slope[k];
        }
    }
}

/// Interval that holds x; the end ones serve beyond the knots.
std::size_t intervalOf(const Knots& knots, double x) {
    const auto high = std::lower_bound(knots.begin() + 1, knots.end() - 1, x,
                                       [](const Fit::Knot& knot, double at) { return knot.x < at; });
    return static_cast<std::size_t>(high - knots.begin()) - 1;
}

struct OnInterval {
    double value = 0, slope = 0; // slope by x
};

OnInterval evaluateInterpolation(const Fit& fit, const Knots& knots, double x) {
    const std::size_t k = intervalOf(knots, x);
    const Fit::Knot& low = knots[k];
    const Fit::Knot& high = knots[k + 1];
    if (fit.model == Model::PointToPoint) {
        const double slope = (high.y - low.y) / (high.x - low.x);
        // From the nearer knot, so that a knot gives its own value to the last digit.
        return {x - low.x < high.x - x ? low.y + slope * (x - low.x) : high.y + slope * (x - high.x), slope};
    }
    const double h = abscissa(fit, high.x) - abscissa(fit, low.x);
    const double t = (abscissa(fit, x) - abscissa(fit, low.x)) / h;
    const double value =
        low.y + (high.y - low.y) * t * t * (3 - 2 * t) + h * t * (1 - t) * (low.tangent * (1 - t) - high.tangent * t);
    const double slope =
        6 * t * (1 - t) * (high.y - low.y) / h + low.tangent * (1 - t) * (1 - 3 * t) + high.tangent * t * (3 * t - 2);
    return {value, fit.options.isSplineInLogX ? slope / x : slope};
}

} // namespace

void fitInterpolation(Fit& fit) {
    if (fit.model == Model::Spline && !isMonotone(fit.knots)) {
        fit.status = FitStatus::NotDetermined;
        fit.message = "The monotone spline needs level means that rise or fall throughout; they do not. Look for an "
                      "exchanged or outlying level, or choose another model.";
        return;
    }
    if (fit.model == Model::Spline && fit.options.isSplineInLogX && !(fit.knots.front().x > 0)) {
        fit.status = FitStatus::NotDetermined;
        fit.message = "A spline over the logarithm of the concentration has no place for the zero standard; leave it "
                      "out or use a linear axis.";
        return;
    }
    if (fit.model == Model::Spline) {
        setTangents(fit, fit.knots);
    } else if (!isMonotone(fit.knots)) {
        fit.warnings.emplace_back("The level means do not rise or fall throughout: a response that the lines meet "
                                  "more than once is not read off.");
    }
    for (std::size_t i = 0; i < fit.n; ++i) {
        fit.fitted.push_back(interpolatedResponse(fit, fit.x[i]));
    }
    fit.sse = static_cast<double>(weightedSse(fit));
}

double interpolatedResponse(const Fit& fit, double x) {
    return evaluateInterpolation(fit, fit.knots, x).value;
}

double interpolatedSlope(const Fit& fit, double x) {
    return evaluateInterpolation(fit, fit.knots, x).slope;
}

double interpolatedVariance(const Fit& fit, double x) {
    const std::size_t k = intervalOf(fit.knots, x);
    const std::size_t first = fit.model == Model::Spline && k > 0 ? k - 1 : k;
    const std::size_t last = std::min(fit.model == Model::Spline ? k + 2 : k + 1, fit.knots.size() - 1);
    // A tangent follows from its neighbours, and from those before them as long as all are limited; so a stretch of the
    // knots serves as well as all of them, which would make the diagnostics of long tables quadratic.
    constexpr std::size_t kBefore = 32;
    constexpr std::size_t kBehind = 4;
    const std::size_t from = k > kBefore ? k - kBefore : 0;
    const std::size_t to = std::min(k + kBehind, fit.knots.size());
    const Knots around(fit.knots.begin() + static_cast<std::ptrdiff_t>(from),
                       fit.knots.begin() + static_cast<std::ptrdiff_t>(to));
    double variance = 0;
    for (std::size_t j = first; j <= last; ++j) { // the curve is smooth in its knots: central differences
        const double h = 1e-5 * std::abs(fit.knots[k + 1].y - fit.knots[k].y);
        if (h == 0 || fit.knots[j].variance == 0) {
            continue;
        }
        const auto moved = [&](double by) {
            Knots knots = around;
            knots[j - from].y += by;
            if (fit.model == Model::Spline) {
                setTangents(fit, knots);
            }
            return evaluateInterpolation(fit, knots, x).value;
        };
        const double derivative = (moved(h) - moved(-h)) / (2 * h);
        variance += derivative * derivative * fit.knots[j].variance;
    }
    return variance;
}

std::vector<double> solveInterpolation(const Fit& fit, double y) {
    std::vector<double> roots;
    // A response that misses an end by the rounding of its mean is that end.
    for (const Fit::Knot& end : {fit.knots.front(), fit.knots.back()}) {
        constexpr double kRounding = 1e-13;
        y = std::abs(y - end.y) <= kRounding * std::abs(end.y) ? end.y : y;
    }
    for (std::size_t k = 0; k + 1 < fit.knots.size(); ++k) {
        const Fit::Knot& low = fit.knots[k];
        const Fit::Knot& high = fit.knots[k + 1];
        if ((y - low.y) * (y - high.y) > 0 || low.y == high.y) {
            continue;
        }
        double from = low.x;
        double to = high.x;
        double at = low.x + (y - low.y) / (high.y - low.y) * (high.x - low.x);
        for (int i = 0; fit.model == Model::Spline && i < 200; ++i) {
            const OnInterval here = evaluateInterpolation(fit, fit.knots, at);
            const bool isBelow = high.y > low.y ? here.value < y : here.value > y;
            (isBelow ? from : to) = at;
            double next = at - (here.value - y) / here.slope;
            if (!(next > from && next < to)) {
                next = 0.5 * (from + to);
            }
            if (next == at || here.value == y) {
                break;
            }
            at = next;
        }
        if (roots.empty() || std::abs(at - roots.back()) > 1e-12 * (high.x - low.x)) {
            roots.push_back(at);
        }
    }
    return roots;
}

} // namespace nuvat
