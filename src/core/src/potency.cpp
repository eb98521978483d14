#include "nuvat/core/fit/potency.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/fit/calibration.h"
#include "nuvat/core/fit/least_squares.h"
#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace nuvat {

namespace {

/// The readings of one preparation.
struct Part {
    std::vector<double> x, y, s; ///< s: such that 1/s^2 is the weight
};

/// One fit while it is made.
class Assay {
public:
    Assay(const PotencyData& data, double confidence) : m_data(data), m_confidence(confidence) {
        for (std::size_t i = 0; i < data.dose.size(); ++i) {
            const double weight = data.weights.empty() ? 1 : data.weights[i];
            Part& part = m_parts[data.isTest[i] ? 1 : 0];
            part.x.push_back(data.dose[i]);
            part.y.push_back(data.response[i]);
            part.s.push_back(1 / std::sqrt(weight));
            m_y.push_back(data.response[i]);
            m_w.push_back(weight);
            m_ln.push_back(std::log(data.dose[i])); // of 0: minus infinity, where the curve is a
        }
    }

    Result<Potency> lines() {
        std::vector<long double> one(size(), 1), test, ln(m_ln.begin(), m_ln.end());
        for (const char isTest : m_data.isTest) {
            test.push_back(isTest ? 1 : 0);
        }
        const LeastSquaresFit fit = fitLinear(std::vector{one, ln, test}, m_y, m_w);
        if (!fit.isUsable()) {
            return fail("potency.not-determined", "There are no lines with a slope in common: " + fit.message,
                        "Test both preparations at two doses or more.");
        }
        const double b = fit.parameters[1], shift = fit.parameters[2];
        if (b == 0) {
            return fail("potency.not-determined", "The responses do not change with the dose.",
                        "Check which column holds the responses.");
        }
        Potency out = begun(fit, {"a", "b"}, 2);
        out.lnPotency = shift / b;
        const double vs = fit.covariance[8], vb = fit.covariance[4], c = fit.covariance[5];
        out.lnSe =
            std::sqrt(std::max(vs - 2 * out.lnPotency * c + out.lnPotency * out.lnPotency * vb, 0.0)) / std::abs(b);
        setInterval(out);
        // Fieller: (shift - L*b)^2 = t^2*Var(shift - L*b)
        const double t2 = m_t * m_t, second = b * b - t2 * vb, first = shift * b - t2 * c;
        const double root = first * first - second * (shift * shift - t2 * vs);
        if (second > 0 && root >= 0) {
            out.profile = {std::exp((first - std::sqrt(root)) / second), std::exp((first + std::sqrt(root)) / second)};
        }
        separateLines(out);
        return out;
    }

    Result<Potency> logistics() {
        separateLogistics();
        const LeastSquaresFit fit = commonFit();
        if (!fit.isUsable()) {
            return fail("potency.not-determined", "There are no curves in common: " + fit.message,
                        "Test both preparations from one plateau to the other.");
        }
        Potency out = begun(fit, {"a", "b", "c", "d"}, 4);
        out.parameters[2] = std::exp(fit.parameters[2]);
        out.se[2] = out.parameters[2] * fit.se[2];
        if (out.parameters[1] < 0) { // the same curve with b above 0
            std::swap(out.parameters[0], out.parameters[3]);
            std::swap(out.se[0], out.se[3]);
            out.parameters[1] = -out.parameters[1];
        }
        out.lnPotency = fit.parameters[4];
        out.lnSe = fit.se[4];
        setInterval(out);
        out.profile = profile(fit);
        if (m_curves[0].isUsable() && m_curves[1].isUsable()) {
            out.separate.emplace();
            for (std::size_t i = 0; i < 2; ++i) {
                (*out.separate)[i] = {m_curves[i].parameters, m_curves[i].sse};
            }
        }
        compare(out, 3);
        return out;
    }

private:
    std::size_t size() const { return m_ln.size(); }

    Potency begun(const LeastSquaresFit& fit, std::vector<std::string> names, std::size_t count) {
        Potency out;
        out.n = fit.n;
        out.df = fit.df;
        out.names = std::move(names);
        out.parameters.assign(fit.parameters.begin(), fit.parameters.begin() + static_cast<std::ptrdiff_t>(count));
        out.se.assign(fit.se.begin(), fit.se.begin() + static_cast<std::ptrdiff_t>(count));
        out.sse = fit.sse;
        out.s = fit.s;
        m_t = studentFactor(m_confidence, fit.df);
        return out;
    }

    void setInterval(Potency& out) const {
        out.potency = std::exp(out.lnPotency);
        out.interval = {std::exp(out.lnPotency - m_t * out.lnSe), std::exp(out.lnPotency + m_t * out.lnSe)};
    }

    void separateLines(Potency& out) const {
        std::array<Potency::Curve, 2> curves;
        for (std::size_t i = 0; i < 2; ++i) {
            const Part& part = m_parts[i];
            std::vector<long double> one(part.x.size(), 1), ln, y(part.y.begin(), part.y.end()), w;
            for (std::size_t k = 0; k < part.x.size(); ++k) {
                ln.push_back(std::log(part.x[k]));
                w.push_back(1 / (static_cast<long double>(part.s[k]) * part.s[k]));
            }
            const LeastSquaresFit fit = fitLinear(std::vector{one, ln}, y, w);
            if (!fit.isUsable()) {
                return;
            }
            curves[i] = {fit.parameters, fit.sse};
        }
        out.separate = std::move(curves);
        compare(out, 1);
    }

    /// Extra sum of squares. @param more parameters that separate curves have
    void compare(Potency& out, double more) const {
        out.df1 = more;
        out.df2 = out.df - more;
        if (!out.separate || !(out.df2 > 0)) {
            return;
        }
        const double sse = (*out.separate)[0].sse + (*out.separate)[1].sse;
        if (sse > 0) {
            out.f = std::max((out.sse - sse) / more, 0.0) / (sse / out.df2);
            out.p = fUpperTail(*out.f, more, out.df2);
        }
    }

    void separateLogistics() {
        FitOptions options;
        options.model = Model::Logistic4;
        options.weighting = Weighting::InverseS2;
        for (std::size_t i = 0; i < 2; ++i) {
            m_curves[i] = fitCalibration(options, {m_parts[i].x, m_parts[i].y, {}, m_parts[i].s});
        }
    }

    /// a, b, ln c, d and ln potency; the last may be held.
    LeastSquaresFit fitAt(std::span<const double> start, std::optional<double> held) const {
        const std::size_t p = held ? 4 : 5;
        const CurveFunction curve = [&, p](std::span<const long double> q, std::span<long double> values,
                                           std::span<long double> jacobian) {
            const long double a = q[0], b = q[1], lnC = q[2], d = q[3];
            const long double shift = held ? static_cast<long double>(*held) : q[4];
            for (std::size_t i = 0; i < size(); ++i) {
                const bool isTest = m_data.isTest[i] != 0;
                const bool isZero = std::isinf(m_ln[i]);
                const long double z = isZero ? 0 : m_ln[i] + (isTest ? shift : 0) - lnC;
                const long double g = isZero ? (b > 0 ? 1 : 0) : 1 / (1 + std::exp(b * z));
                const long double slope = (a - d) * g * (1 - g); // -d(value)/d(b*z)
                values[i] = d + (a - d) * g;
                long double* row = &jacobian[i * p];
                row[0] = g;
                row[1] = -slope * z;
                row[2] = slope * b;
                row[3] = 1 - g;
                if (!held) {
                    row[4] = isTest ? -slope * b : 0;
                }
                if (!std::isfinite(values[i])) {
                    return false;
                }
            }
            return true;
        };
        return fitNonlinear(curve, start.first(p), m_y, m_w);
    }

    /// From the separate curves where there are some, else from one curve through all readings.
    LeastSquaresFit commonFit() const {
        std::vector<std::array<double, 5>> starts;
        const auto add = [&](const Fit& one, const Fit& other) {
            if (one.isUsable() && other.isUsable()) {
                const auto mean = [&](std::size_t k) { return (one.parameters[k] + other.parameters[k]) / 2; };
                starts.push_back({mean(0), mean(1), std::log(one.parameters[2]), mean(3),
                                  std::log(one.parameters[2] / other.parameters[2])});
            }
        };
        add(m_curves[0], m_curves[1]);
        if (starts.empty()) {
            const Fit all = fitCalibration(Model::Logistic4, Weighting::None, m_data.dose, m_data.response);
            add(all, all);
            add(m_curves[0], m_curves[0]);
            add(m_curves[1], m_curves[1]);
        }
        LeastSquaresFit best;
        best.message = "neither preparation has a curve of its own.";
        for (const auto& start : starts) {
            LeastSquaresFit fit = fitAt(start, std::nullopt);
            if (fit.isUsable() && (!best.isUsable() || fit.sse < best.sse)) {
                best = std::move(fit);
            } else if (!best.isUsable()) {
                best.message = fit.message;
            }
        }
        return best;
    }

    /// Limits of the potency where the least sum of squares has risen by t^2*s^2.
    std::optional<std::pair<double, double>> profile(const LeastSquaresFit& fit) const {
        const double most = fit.sse * (1 + m_t * m_t / fit.df), centre = fit.parameters[4];
        std::pair<double, double> out;
        for (const double side : {-1.0, 1.0}) {
            std::vector<double> start(fit.parameters.begin(), fit.parameters.begin() + 4);
            const auto excess = [&](double at) {
                const LeastSquaresFit held = fitAt(start, at);
                if (held.isUsable()) {
                    start = held.parameters;
                }
                return held.isUsable() ? held.sse - most : NAN;
            };
            const auto limit = crossing(excess, centre, side * m_t * fit.se[4]);
            if (!limit) {
                return std::nullopt;
            }
            (side < 0 ? out.first : out.second) = std::exp(*limit);
        }
        return out;
    }

    /// Where a function that is below 0 at `from` rises through 0. @param step the first guess
    template<class F> static std::optional<double> crossing(const F& excess, double from, double step) {
        constexpr int kTurns = 60, kWidenings = 12;
        double inside = from, below = excess(from), outside = from + step, above = excess(outside);
        for (int turn = 0; turn < kWidenings && above <= 0; ++turn) {
            inside = outside;
            below = above;
            step *= 2;
            outside = from + step;
            above = excess(outside);
        }
        if (!(above > 0) || !(below < 0)) {
            return std::nullopt;
        }
        for (int turn = 0; turn < kTurns && std::abs(outside - inside) > 1e-12 * (1 + std::abs(outside)); ++turn) {
            // Regula falsi, by turns with halving, so that no side stays for ever.
            const double middle =
                turn % 3 == 2 ? (inside + outside) / 2 : inside - below * (outside - inside) / (above - below);
            const double value = excess(middle);
            if (std::isnan(value)) {
                return std::nullopt;
            }
            if (value == 0) {
                return middle;
            }
            (value > 0 ? outside : inside) = middle;
            (value > 0 ? above : below) = value;
        }
        return (inside + outside) / 2;
    }

    const PotencyData& m_data;
    double m_confidence, m_t = 0;
    std::array<Part, 2> m_parts;
    std::vector<double> m_ln;
    std::vector<long double> m_y, m_w;
    std::array<Fit, 2> m_curves;
};

} // namespace

Result<Potency> relativePotency(PotencyModel model, const PotencyData& data, double confidence) {
    const std::size_t n = data.dose.size();
    if (data.response.size() != n || data.isTest.size() != n || (!data.weights.empty() && data.weights.size() != n)) {
        throw std::invalid_argument("doses, responses, preparations and weights differ in length");
    }
    const std::size_t needed = model == PotencyModel::Line ? 4 : 6;
    if (n < needed) {
        return fail("potency.too-few-points",
                    "There are " + std::to_string(n) + " readings; a potency by these curves needs " +
                        std::to_string(needed) + " or more.",
                    "Test both preparations at further doses.");
    }
    for (const bool wanted : {false, true}) {
        if (std::ranges::count_if(data.isTest, [&](char one) { return (one != 0) == wanted; }) < 2) {
            return fail("potency.too-few-points",
                        std::string(wanted ? "The test preparation" : "The reference") +
                            " has fewer than two readings.",
                        "Test both preparations at further doses.");
        }
    }
    for (const double dose : data.dose) {
        if (dose < 0 || (dose == 0 && model == PotencyModel::Line)) {
            return fail("potency.dose", "A dose of " + formatNumber(dose) + " has no place on a logarithmic axis.",
                        "Leave it out, or take four-parameter curves for a dose of 0.");
        }
    }
    Assay assay(data, confidence);
    return model == PotencyModel::Line ? assay.lines() : assay.logistics();
}

} // namespace nuvat
