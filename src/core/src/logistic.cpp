#include "logistic.h"

#include "nuvat/core/stats/distributions.h"
#include "small_matrix.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace nuvat {

const LogisticKernels& kernels() {
    static const LogisticKernels& chosen = hasAvx2() ? avx2Kernels() : baselineKernels();
    return chosen;
}

namespace {

constexpr double kMostCondition = 1e8; // of the scaled Jacobian: half the digits of a double
constexpr double kMidpointReach = 1e3; // c this many times beyond the standards is not determined by them
constexpr double kFlat = 1e-6;    // a search that ends while steps promise less than this crawls along a flat valley
constexpr double kValleyLogG = 2; // a search that ends on its way beyond this is in the valley that has no end

LogisticOutcome notDetermined(std::string why, double levelSum = 0) {
    LogisticOutcome out;
    out.levelSum = levelSum;
    out.status = FitStatus::NotDetermined;
    out.message = std::move(why);
    return out;
}

std::string modelName(const LogisticForm& form) {
    return form.hasAsymmetry ? "The 5PL" : "The 4PL";
}

constexpr std::array<char, kMostParameters> kLetters{'a', 'b', 'c', 'd', 'g'};

/// Jacobian of the level means by the free parameters, its information inverted; false with the reason in `message`
/// when it is rank-deficient.
bool invertInformation(const LogisticForm& form, const LogisticLevels& levels, LogisticOutcome& out) {
    std::array<std::size_t, kMostParameters> free{};
    std::size_t count = 0;
    for (std::size_t k = 0; k < kMostParameters; ++k) {
        const bool isHeld = (k == 0 && form.heldA) || (k == 3 && form.heldD) || (k == 4 && !form.hasAsymmetry);
        if (!isHeld) {
            free[count++] = k;
        }
    }
    SmallMatrix jacobian(levels.size(), count);
    for (std::size_t i = 0; i < levels.size(); ++i) {
        const ParameterVector gradient = logisticGradient(out.parameters, levels.concentration(i));
        const double root = std::sqrt(levels.w[i]);
        for (std::size_t k = 0; k < count; ++k) {
            jacobian(i, k) = root * gradient[free[k]];
        }
    }
    std::size_t weakest = 0;
    std::array<double, kMostParameters * kMostParameters> inverse{};
    const double condition = invertGram(jacobian, std::span(inverse).first(count * count), weakest);
    if (!(condition < kMostCondition)) {
        out.message = modelName(form) + " is not determined by these standards: " + kLetters[free[weakest]] +
                      " can be traded against the other parameters without changing the fit.";
        return false;
    }
    for (std::size_t i = 0; i < count; ++i) {
        for (std::size_t k = 0; k < count; ++k) {
            out.inverseInformation[free[i] * kMostParameters + free[k]] = inverse[i * count + k];
        }
    }
    return true;
}

/// ln c of a 5PL.
double logPlace(const LogisticLevels& levels, const LogisticShape<3>& shape) {
    const AsymmetryTerms terms(shape[2]);
    return levels.middle + levels.half * (shape[0] - terms.offset / (std::exp(shape[1]) * terms.scale));
}

/// What the shape of the optimum says against it; empty when nothing does.
std::string whyNotDetermined(const LogisticForm& form, const LogisticLevels& levels, double b, double logC) {
    const double low = levels.middle - levels.half;
    const double high = levels.middle + levels.half;
    if (b > kSteepest) {
        return "The responses jump between two neighbouring levels, so the slope factor b and the mid-point c are not "
               "determined; a level between them would fix them.";
    }
    if (b * levels.half < kSmallestB || logC > high + std::log(kMidpointReach) ||
        logC < low - std::log(kMidpointReach)) {
        return form.hasAsymmetry
                   ? "The standards do not fix c and g of the 5PL: the place c of the curve lies far outside them. "
                     "Choose the 4PL, or add standards where the curve flattens."
                   : "The standards show no plateau on one side: the mid-point c lies far outside them, so c and the "
                     "plateau on that side are not determined.";
    }
    return {};
}

LogisticOutcome solve4(const LogisticForm& form, const LogisticLevels& levels) {
    const RefinedShape<2> best = kernels().search4(levels, form);
    LogisticOutcome out;
    out.levelSum = best.value.s;
    if (!best.value.isUsable) {
        out.message = "The 4PL found no starting point for these standards.";
        return out;
    }
    out.parameters = parametersAt(levels, best);
    const double logC = levels.middle - levels.half * best.shape[0] / best.shape[1];
    if (std::string why = whyNotDetermined(form, levels, out.parameters.b, logC); !why.empty()) {
        return notDetermined(std::move(why), best.value.s);
    }
    if (!best.converged && (best.isFlat || best.promise < kFlat)) {
        return notDetermined(
            "The standards do not fix b and c of the 4PL: they can be traded against each other without "
            "changing the fit.",
            best.value.s);
    }
    if (!best.converged) {
        out.message = "The 4PL did not converge on these standards.";
        return out;
    }
    out.status = invertInformation(form, levels, out) ? FitStatus::Ok : FitStatus::NotDetermined;
    if (std::abs(best.shape[0]) > best.shape[1]) {
        out.warnings.emplace_back("The mid-point c lies outside the standards: c and the plateau on that side rest on "
                                  "few points.");
    }
    return out;
}

/// Whether g can run to an end of its range without the fit getting significantly worse (95 % profile interval).
/// @param freedom degrees of freedom; @param pureError weighted sum of squares within the levels
std::string openSides(const LogisticForm& form, const LogisticLevels& levels, const RefinedShape<3>& best,
                      double freedom, double pureError) {
    const double least = best.value.s + pureError;
    const double t = studentFactor(0.95, freedom);
    const double allowed = least * (1 + t * t / freedom);
    std::string sides;
    for (const double end : {-kMostLogG, kMostLogG}) {
        // Followed along the valley in a few steps, so that the refinement starts near its minimum each time.
        RefinedShape<3> at = best;
        constexpr int kSteps = 2;
        const double from = best.shape[2];
        for (int step = 1; step <= kSteps; ++step) {
            LogisticShape<3> shape = at.shape;
            shape[2] = from + (end - from) * step / kSteps;
            at = refineShape<3>(
                levels, form, shape,
                {.freezesG = true, .tolerance = 1e-2, .enough = step == kSteps ? allowed - pureError : 0});
            if (!at.value.isUsable || at.value.s + pureError > allowed) {
                break; // the interval is closed on this side
            }
        }
        if (at.value.isUsable && at.value.s + pureError <= allowed) {
            sides += sides.empty() ? "" : " and ";
            sides += end > 0 ? "large" : "small";
        }
    }
    return sides;
}

LogisticOutcome solve5(const LogisticForm& form, const LogisticLevels& levels, double freedom, double pureError) {
    const RefinedShape<3> best = kernels().search5(levels, form);
    LogisticOutcome out;
    out.levelSum = best.value.s;
    if (!best.value.isUsable) {
        out.message = "The 5PL found no starting point for these standards.";
        return out;
    }
    if (best.isAtBound || (!best.converged && std::abs(best.shape[2]) > kValleyLogG)) {
        return notDetermined(
            best.shape[2] > 0
                ? "The asymmetry g of the 5PL is not determined: the fit gets better and better as g grows, so there "
                  "is no best 5PL for these standards. Choose the 4PL."
                : "The asymmetry g of the 5PL is not determined: the fit gets better and better as g goes to zero, so "
                  "there is no best 5PL for these standards. Choose the 4PL.",
            best.value.s);
    }
    out.parameters = parametersAt(levels, best);
    const double logC = logPlace(levels, best.shape);
    if (std::string why = whyNotDetermined(form, levels, out.parameters.b, logC); !why.empty()) {
        return notDetermined(std::move(why), best.value.s);
    }
    if (!best.converged && (best.isFlat || best.promise < kFlat)) {
        return notDetermined("The asymmetry g of the 5PL is not determined: it can be traded against b and c without "
                             "changing the fit. Choose the 4PL.",
                             best.value.s);
    }
    if (!best.converged) {
        out.message = "The 5PL did not converge on these standards.";
        return out;
    }
    out.status = invertInformation(form, levels, out) ? FitStatus::Ok : FitStatus::NotDetermined;
    if (out.status == FitStatus::Ok) {
        if (const std::string sides = openSides(form, levels, best, freedom, pureError); !sides.empty()) {
            out.warnings.push_back("The asymmetry g is only weakly determined: a very " + sides +
                                   " g fits these standards about as well. The 4PL may say as much with less.");
        }
        if (std::abs(logC - levels.middle) > levels.half) {
            out.warnings.emplace_back("The place c lies outside the standards: it rests on few points.");
        }
    }
    return out;
}

} // namespace

LogisticLevels::LogisticLevels(std::span<const double> x, std::span<const double> yIn, std::span<const double> wIn) {
    boost::container::small_vector<std::size_t, 64> order(x.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t l, std::size_t r) { return x[l] < x[r]; });
    for (std::size_t from = 0; from < order.size();) {
        double sum = 0;
        double sumY = 0;
        const double level = x[order[from]];
        for (; from < order.size() && x[order[from]] == level; ++from) {
            sum += wIn[order[from]];
            sumY += wIn[order[from]] * yIn[order[from]];
        }
        zeroLevel += level == 0 ? 1u : 0u;
        t.push_back(level > 0 ? std::log(level) : 0);
        y.push_back(sumY / sum);
        w.push_back(sum);
    }
    m_size = y.size();
    if (zeroLevel < m_size) {
        const double low = t[zeroLevel];
        const double high = t.back();
        middle = (low + high) / 2;
        half = high > low ? (high - low) / 2 : 1;
        for (std::size_t i = zeroLevel; i < m_size; ++i) {
            t[i] = (t[i] - middle) / half;
        }
    }
    pad();
    updateMean();
}

double LogisticLevels::squares() const {
    double total = 0;
    for (std::size_t i = 0; i < m_size; ++i) {
        total += w[i] * (y[i] - meanY) * (y[i] - meanY);
    }
    return total;
}

void LogisticLevels::pad() {
    const std::size_t padded = (m_size + kLanes - 1) / kLanes * kLanes;
    t.resize(padded, 0.0);
    y.resize(padded, 0.0);
    w.resize(padded, 0.0);
}

void LogisticLevels::append(double atT, double response, double weight) {
    t.resize(m_size);
    y.resize(m_size);
    w.resize(m_size);
    t.push_back(atT);
    y.push_back(response);
    w.push_back(weight);
    ++m_size;
    pad();
}

double LogisticLevels::concentration(std::size_t level) const {
    return isZero(level) ? 0 : std::exp(middle + half * t[level]);
}

void LogisticLevels::updateMean() {
    double sum = 0;
    double sumY = 0;
    for (std::size_t i = 0; i < m_size; ++i) {
        sum += w[i];
        sumY += w[i] * y[i];
    }
    sumW = sum;
    meanY = sumY / sum;
}

AsymmetryTerms::AsymmetryTerms(double asymmetry, double logOnePlusG)
    : g(asymmetry), scale(1 + 1 / g), offset(-logOnePlusG), first(g / (1 + g)), second(first / (1 + g)) {}

AsymmetryTerms::AsymmetryTerms(double logG) : AsymmetryTerms(std::exp(logG), std::log1p(std::exp(logG))) {}

template<> ReducedValue<2> reducedSum(const LogisticLevels& l, const LogisticForm& f, const LogisticShape<2>& s) {
    return kernels().reduced4(l, f, s);
}
template<> ReducedValue<3> reducedSum(const LogisticLevels& l, const LogisticForm& f, const LogisticShape<3>& s) {
    return kernels().reduced5(l, f, s);
}
template<>
RefinedShape<2> refineShape(const LogisticLevels& l, const LogisticForm& f, const LogisticShape<2>& s,
                            const RefineOptions& options) {
    return kernels().refine4(l, f, s, options);
}
template<>
RefinedShape<3> refineShape(const LogisticLevels& l, const LogisticForm& f, const LogisticShape<3>& s,
                            const RefineOptions& options) {
    return kernels().refine5(l, f, s, options);
}

template<std::size_t S> LogisticParameters parametersAt(const LogisticLevels& levels, const RefinedShape<S>& refined) {
    LogisticParameters p;
    p.a = refined.value.a;
    p.d = refined.value.d;
    if constexpr (S == 2) {
        p.b = refined.shape[1] / levels.half;
        p.c = std::exp(levels.middle - levels.half * refined.shape[0] / refined.shape[1]);
    } else {
        p.b = refined.value.steepness / levels.half;
        p.c = std::exp(logPlace(levels, refined.shape));
        p.g = std::exp(refined.shape[2]);
    }
    return p;
}

template<std::size_t S> LogisticShape<S> shapeOf(const LogisticLevels& levels, const LogisticParameters& p) {
    const double slope = p.b * levels.half;
    const double midpoint = (std::log(p.c) - levels.middle) / levels.half;
    if constexpr (S == 2) {
        return {-slope * midpoint, slope};
    } else {
        const AsymmetryTerms terms(std::log(p.g));
        return {midpoint + terms.offset / slope, std::log(slope / terms.scale), std::log(p.g)};
    }
}

template LogisticParameters parametersAt(const LogisticLevels&, const RefinedShape<2>&);
template LogisticParameters parametersAt(const LogisticLevels&, const RefinedShape<3>&);
template LogisticShape<2> shapeOf(const LogisticLevels&, const LogisticParameters&);
template LogisticShape<3> shapeOf(const LogisticLevels&, const LogisticParameters&);

LogisticOutcome solveLogistic(const LogisticForm& form, std::span<const double> x, std::span<const double> y,
                              std::span<const double> w) {
    const LogisticLevels levels(x, y, w);
    if (!(levels.squares() > 0)) {
        return notDetermined("All responses are equal, so no parameter of " +
                             std::string(form.hasAsymmetry ? "the 5PL" : "the 4PL") + " is determined.");
    }
    if (form.heldA && form.heldD && *form.heldA == *form.heldD) {
        return notDetermined("a and d are held at the same value, so there is no curve between them.");
    }
    if (!form.hasAsymmetry) {
        return solve4(form, levels);
    }
    // Squares within the levels, for the judgement on g only.
    double all = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        all += w[i] * (y[i] - levels.meanY) * (y[i] - levels.meanY);
    }
    const double free = 5.0 - (form.heldA ? 1 : 0) - (form.heldD ? 1 : 0);
    const double freedom = std::max(static_cast<double>(x.size()) - free, 1.0);
    return solve5(form, levels, freedom, std::max(all - levels.squares(), 0.0));
}

namespace {

/// ln(1 + exp(u)) without overflow.
double softPlus(double u) {
    return std::max(u, 0.0) + std::log1p(std::exp(-std::abs(u)));
}

} // namespace

double logisticResponse(const LogisticParameters& p, double x) {
    if (x <= 0) {
        return p.a;
    }
    const double u = p.b * (std::log(x) - std::log(p.c));
    // From the nearer plateau, so that neither loses its digits.
    if (p.g == 1) {
        return u < 0 ? p.a - (p.a - p.d) / (1 + std::exp(-u)) : p.d + (p.a - p.d) / (1 + std::exp(u));
    }
    const double gl = p.g * softPlus(u);
    return gl < 0.5 ? p.a + (p.a - p.d) * std::expm1(-gl) : p.d + (p.a - p.d) * std::exp(-gl);
}

double logisticSlope(const LogisticParameters& p, double x) {
    if (x <= 0) {
        // The limit towards zero: steep for b < 1, that of the straight start for b = 1, flat beyond.
        if (p.b > 1) {
            return 0;
        }
        return p.b < 1 ? std::copysign(std::numeric_limits<double>::infinity(), p.d - p.a) : p.g * (p.d - p.a) / p.c;
    }
    const double u = p.b * (std::log(x) - std::log(p.c));
    const double share = 1 / (1 + std::exp(-u));
    return -(p.a - p.d) * p.g * share * std::exp(-p.g * softPlus(u)) * p.b / x;
}

ParameterVector logisticGradient(const LogisticParameters& p, double x) {
    if (x <= 0) {
        return {1, 0, 0, 0, 0};
    }
    const double l = std::log(x) - std::log(p.c);
    const double u = p.b * l;
    const double e = p.a - p.d;
    if (p.g == 1) {
        const double odds = std::exp(-std::abs(u));
        const double near = 1 / (1 + odds);
        const double far = odds * near;
        const double g = u < 0 ? near : far;
        const double rest = u < 0 ? far : near;
        return {g, -e * g * rest * l, e * g * rest * p.b / p.c, rest, -e * softPlus(u) * g};
    }
    const double plus = softPlus(u);
    const double gl = p.g * plus;
    const double g = std::exp(-gl);
    const double byU = -p.g * g / (1 + std::exp(-u));
    return {g, e * byU * l, -e * byU * p.b / p.c, -std::expm1(-gl), -e * plus * g};
}

} // namespace nuvat
