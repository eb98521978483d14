#include "curve_limits.h"

#include "logistic.h"

#include <algorithm>
#include <boost/random/chi_squared_distribution.hpp>
#include <boost/random/mersenne_twister.hpp>
#include <boost/random/normal_distribution.hpp>
#include <cmath>
#include <limits>
#include <stdexcept>

namespace nuvat {

namespace {

constexpr double kInfinity = std::numeric_limits<double>::infinity();

LogisticForm formOf(const Fit& fit) {
    return {fit.model == Model::Logistic5, fit.options.heldA, fit.options.heldD};
}

LogisticParameters parametersOf(const Fit& fit) {
    const auto& p = fit.parameters;
    return {p[0], p[1], p[2], p[3], fit.model == Model::Logistic5 ? p[4] : 1};
}

/// The standards together with one reading at a concentration that is tried.
template<std::size_t S> class ProfiledReadOff {
public:
    ProfiledReadOff(const Fit& fit, double y, double weight)
        : m_form(formOf(fit)), m_levels(fit.x, fit.y, fit.weights),
          m_best(refineShape<S>(m_levels, m_form, shapeOf<S>(m_levels, parametersOf(fit)))), m_last(m_best.shape) {
        m_levels.append(0, y, weight);
        m_levels.updateMean();
    }
    /// Rise of the sum of squares when the reading is at x = exp(logX).
    double rise(double logX) {
        m_levels.t[m_levels.size() - 1] = (logX - m_levels.middle) / m_levels.half;
        const auto refined = refineShape<S>(m_levels, m_form, m_last, {.startsWithNewton = true});
        if (!refined.value.isUsable) {
            return kInfinity;
        }
        m_last = refined.shape;
        return std::max(refined.value.s - m_best.value.s, 0.0);
    }
    void restart() { m_last = m_best.shape; }

private:
    LogisticForm m_form;
    LogisticLevels m_levels;
    RefinedShape<S> m_best;
    LogisticShape<S> m_last;
};

/// ln x where sqrt(rise) = target, searched from `guess` away from `centre`. The root of the rise is nearly linear in
/// ln x, so the secant needs few steps. @return nothing when the rise stays below the target
template<std::size_t S>
std::optional<double> profileLimit(ProfiledReadOff<S>& profile, double centre, double guess, double target) {
    constexpr double kFarthest = 14; // a factor of a million
    profile.restart();
    const double direction = guess > centre ? 1 : -1;
    double inside = 0; // distances from the centre in ln x
    double insideValue = -target;
    double outside = std::abs(guess - centre);
    double outsideValue = std::sqrt(profile.rise(guess)) - target;
    while (outsideValue < 0) {
        inside = outside;
        insideValue = outsideValue;
        outside *= 1.5;
        if (outside > kFarthest) {
            return std::nullopt;
        }
        outsideValue = std::sqrt(profile.rise(centre + direction * outside)) - target;
    }
    for (int i = 0; i < 60 && outside - inside > 1e-12; ++i) {
        double next = outside - outsideValue * (outside - inside) / (outsideValue - insideValue);
        if (!std::isfinite(next) || (i > 8 && i % 2 == 0)) {
            next = 0.5 * (inside + outside);
        }
        const double value = std::sqrt(profile.rise(centre + direction * next)) - target;
        if (std::abs(value) < 1e-10 * target) {
            return centre + direction * next;
        }
        if (value > 0) { // Illinois: the end that stays counts half, so that both close in
            outside = next;
            outsideValue = value;
            insideValue *= i > 0 ? 0.5 : 1;
        } else {
            inside = next;
            insideValue = value;
            outsideValue *= i > 0 ? 0.5 : 1;
        }
    }
    return centre + direction * 0.5 * (inside + outside);
}

/// The standards fit exactly and rule out every other curve: the blank's share is all there is.
void setLimitsOfExactFit(double t, ReadOff& out) {
    out.low = *out.x - t * *out.se;
    out.high = *out.x + t * *out.se;
}

template<std::size_t S> void profileLimits(const Fit& fit, double y, double varianceOfY, double t, ReadOff& out) {
    if (!(fit.s > 0)) {
        setLimitsOfExactFit(t, out);
        return;
    }
    ProfiledReadOff<S> profile(fit, y, fit.s * fit.s / varianceOfY);
    const double centre = std::log(*out.x);
    const double half = std::clamp(t * *out.se / *out.x, 1e-9, 3.0);
    const double target = t * fit.s;
    const auto low = profileLimit(profile, centre, centre - half, target);
    const auto high = profileLimit(profile, centre, centre + half, target);
    out.low = low ? std::optional(std::exp(*low)) : std::nullopt;
    out.high = high ? std::optional(std::exp(*high)) : std::nullopt;
}

/// Concentration at response y, -infinity below and +infinity above the curve.
double readOffOrInfinity(const ParameterVector& p, double y) {
    const double rest = (p[0] - y) / (p[0] - p[3]);
    if (!(rest > 0)) {
        return -kInfinity;
    }
    if (rest >= 1) {
        return kInfinity;
    }
    const double odds = p[4] == 1 ? rest / (1 - rest) : std::expm1(-std::log1p(-rest) / p[4]);
    return p[2] * std::exp(std::log(odds) / p[1]);
}

template<std::size_t S> void simulate(const Fit& fit, const ReadOffOptions& options, BootstrapCurves& out) {
    const LogisticForm form = formOf(fit);
    const LogisticParameters best = parametersOf(fit);
    LogisticLevels levels(fit.x, fit.y, fit.weights);
    const LogisticShape<S> shape = shapeOf<S>(levels, best);
    LevelValues expected(levels.size());
    for (std::size_t i = 0; i < levels.size(); ++i) {
        expected[i] = logisticResponse(best, levels.concentration(i));
    }
    boost::random::mt19937_64 random(options.seed);
    boost::random::normal_distribution<double> normal;
    boost::random::chi_squared_distribution<double> chi(fit.df);
    for (int k = 0; k < options.simulations; ++k) {
        const double s = fit.s * std::sqrt(fit.df / chi(random));
        for (std::size_t i = 0; i < levels.size(); ++i) {
            levels.y[i] = expected[i] + s / std::sqrt(levels.w[i]) * normal(random);
        }
        levels.updateMean();
        const auto refined = refineShape<S>(levels, form, shape, {.tolerance = 1e-7, .startsWithNewton = true});
        if (!refined.value.isUsable) {
            ++out.failed;
            continue;
        }
        const LogisticParameters p = parametersAt(levels, refined);
        out.parameters.push_back({p.a, p.b, p.c, p.d, p.g});
        out.s.push_back(s);
    }
}

} // namespace

void setProfileLimits(const Fit& fit, double y, double varianceOfY, double t, ReadOff& out) {
    if (!(*out.x > 0) || !(varianceOfY > 0)) {
        return;
    }
    if (fit.model == Model::Logistic5) {
        profileLimits<3>(fit, y, varianceOfY, t, out);
    } else {
        profileLimits<2>(fit, y, varianceOfY, t, out);
    }
}

std::shared_ptr<const BootstrapCurves> simulateCurves(const Fit& fit, const ReadOffOptions& options) {
    if (!isLogistic(fit.model) || !fit.isUsable()) {
        throw std::invalid_argument("simulateCurves: the bootstrap is for fitted logistics");
    }
    auto curves = std::make_shared<BootstrapCurves>();
    if (fit.model == Model::Logistic5) {
        simulate<3>(fit, options, *curves);
    } else {
        simulate<2>(fit, options, *curves);
    }
    return curves;
}

void setBootstrapLimits(const Fit& fit, double y, double varianceOfY, double t, const ReadOffOptions& options,
                        ReadOff& out) {
    if (!(fit.s > 0)) {
        setLimitsOfExactFit(t, out);
        return;
    }
    const auto curves = options.bootstrap ? options.bootstrap : simulateCurves(fit, options);
    constexpr std::size_t kOneIn = 20;
    if (curves->failed * kOneIn > curves->failed + curves->parameters.size()) {
        return;
    }
    // Another stream than that of the curves; the same for every reading, so that order does not matter.
    boost::random::mt19937_64 random(options.seed ^ 0x9E3779B97F4A7C15u);
    boost::random::normal_distribution<double> normal;
    const double noise = std::sqrt(varianceOfY) / fit.s;
    std::vector<double> x;
    x.reserve(curves->parameters.size());
    for (std::size_t k = 0; k < curves->parameters.size(); ++k) {
        x.push_back(readOffOrInfinity(curves->parameters[k], y + curves->s[k] * noise * normal(random)));
    }
    if (x.empty()) {
        return;
    }
    const auto percentile = [&](double share) -> std::optional<double> {
        const auto at = x.begin() + static_cast<std::ptrdiff_t>(share * static_cast<double>(x.size() - 1) + 0.5);
        std::nth_element(x.begin(), at, x.end());
        return std::isfinite(*at) ? std::optional(*at) : std::nullopt;
    };
    out.low = percentile((1 - options.confidence) / 2);
    out.high = percentile((1 + options.confidence) / 2);
}

} // namespace nuvat
