#include "nuvat/core/fit/standard_addition.h"

#include "nuvat/core/fit/polynomial_fit.h"
#include "nuvat/core/stats/distributions.h"

#include <cmath>

namespace nuvat {

namespace {

/// Limits of -x where (a + b x)^2 = t^2 Var(a + b x).
std::optional<std::pair<double, double>> fiellerLimits(const StandardAddition& line) {
    const double t2 = line.t * line.t;
    // (b^2 - t2 vb) x^2 + 2 (a b - t2 c) x + (a^2 - t2 va) = 0
    const double second = line.b * line.b - t2 * line.seB * line.seB;
    if (!(second > 0)) {
        return std::nullopt;
    }
    const double first = line.a * line.b - t2 * line.covariance;
    const double constant = line.a * line.a - t2 * line.seA * line.seA;
    const double root = std::sqrt(std::max(first * first - second * constant, 0.0));
    return std::pair((first - root) / second, (first + root) / second);
}

} // namespace

Result<StandardAddition> standardAddition(std::span<const double> added, std::span<const double> response,
                                          double confidence) {
    if (added.size() < 3) {
        return fail("addition.too-few-points", "A standard addition needs three responses or more.",
                    "Measure further additions.");
    }
    const PolynomialFit<2> fit = fitPolynomial<2>(added, response);
    if (!fit.isDetermined) {
        return fail("addition.same-x", "All additions are the same: there is no line through them.",
                    "Measure the sample without addition as well.");
    }
    StandardAddition out;
    out.n = added.size();
    out.df = fit.df;
    out.a = fit.parameters[0];
    out.b = fit.parameters[1];
    if (out.b == 0) {
        return fail("addition.no-slope", "The responses do not change with what is added.");
    }
    out.seA = fit.se[0];
    out.seB = fit.se[1];
    out.covariance = fit.covariance[1];
    out.s = std::sqrt(fit.sse / fit.df);
    out.rSquared = fit.squares > 0 ? 1 - fit.sse / fit.squares : 0;
    out.content = out.a / out.b;
    const double c = out.content;
    out.se = std::sqrt(out.seA * out.seA + c * c * out.seB * out.seB - 2 * c * out.covariance) / std::abs(out.b);
    out.t = studentQuantile(1 - (1 - confidence) / 2, out.df);
    out.deltaLimits = {c - out.t * out.se, c + out.t * out.se};
    out.fiellerLimits = fiellerLimits(out);
    return out;
}

} // namespace nuvat
