#pragma once

namespace nuvat {

/// Two-sided Student t factor: the half-width of an interval of the given confidence in units of the SE.
/// @param confidence 0 < confidence < 1, for example 0.95
/// @param degreesOfFreedom > 0, need not be whole
/// @throws std::invalid_argument outside these ranges (mistake of the caller)
/// Checked: tests/reference/distributions_test.cpp to 1e-12.
double studentFactor(double confidence, double degreesOfFreedom);

// Quantiles of a cumulative probability 0 < p < 1 and upper tail probabilities, by Boost.Math; degrees of freedom > 0
// need not be whole.
// @throws std::invalid_argument outside these ranges (mistake of the caller)
// Checked: tests/reference/distributions_test.cpp, quantiles to 1e-12, tails to 1e-10.
double normalQuantile(double p);
double studentQuantile(double p, double degreesOfFreedom);
double chiSquaredQuantile(double p, double degreesOfFreedom);
double fQuantile(double p, double df1, double df2);
double studentUpperTail(double t, double degreesOfFreedom);
/// P(|T| >= |t|).
double studentTwoSided(double t, double degreesOfFreedom);
double chiSquaredUpperTail(double statistic, double degreesOfFreedom);
double fUpperTail(double f, double df1, double df2);
double normalCumulative(double z);

/// Noncentrality delta(nu; alpha; beta) of ISO 11843: P(T'(nu, delta) <= t_(1-alpha)(nu)) = beta, T' noncentral
/// Student t.
/// @param alpha, beta probabilities of the errors of the first and second kind, between 0 and 0.5
/// @throws std::invalid_argument outside these ranges (mistake of the caller)
/// Source: ISO 11843-1, definition of the noncentrality parameter. Checked: tests/reference/distributions_test.cpp.
double noncentrality(double degreesOfFreedom, double alpha, double beta);

} // namespace nuvat
