#pragma once

#include <array>
#include <cstddef>
#include <span>

namespace nuvat {

/// A polynomial b0 + b1*x + … fitted by weighted least squares: what the line, the quadratic and the cubic of
/// fitCalibration are made of, for callers that fit many and need no more. Lives without heap.
template<std::size_t P> struct PolynomialFit {
    std::array<double, P> parameters{};     ///< bk [Y/X^k]
    std::array<double, P * P> covariance{}; ///< row by row; 0 when n is P
    double sse = 0;                         ///< sum of w*(y - fitted)^2
    double df = 0;                          ///< n - P
    double r = 0;                           ///< weighted correlation of x and y; 0 when y is constant
    double squares = 0;                     ///< sum of w*(y - weighted mean)^2
    /// The same in z = (x - centre)/scale, where the points lie within -2 to 2.
    double centre = 0, scale = 1;
    std::array<double, P> workParameters{};
    std::array<double, P * P> workCovariance{};
    /// The same in polynomials that are orthogonal over the points: q0 = 1, q(k+1) = (z - alpha_k)*q_k - beta_k*q(k-1).
    /// Their coefficients are independent of each other, so the variance of the curve is a sum of squares in which
    /// nothing cancels: sum of q_k(z)^2*basisVariance_k.
    std::array<double, P> alpha{}, beta{}, basisParameters{}, basisVariance{};
    std::array<double, P> se{}; ///< of the parameters; finite where a covariance would overflow
    bool isDetermined = false;  ///< false with fewer than P different x: everything else is 0 then
};

/// @param x n values [X], finite; @param y n values [Y], finite; @param w n weights > 0; empty: all 1
/// @throws std::invalid_argument when lengths differ (mistake of the caller)
/// Method: polynomials that are orthogonal over the points, by their three-term recurrence on x about its weighted
/// mean,
///         the residuals once more in extended precision: an x far from zero or levels over many decades cost no
///         digits of the curve and its variance. Those of the powers of x lose what the powers lose. Source: G. E.
///         Forsythe, "Generation and use of orthogonal polynomials for data-fitting with a digital computer", J. SIAM 5
///         (1957) 74-88.
/// Checked: tests/reference/ (NIST Norris, Pontius; textbook lines). P: 2, 3, 4. Cost O(n).
template<std::size_t P>
PolynomialFit<P> fitPolynomial(std::span<const double> x, std::span<const double> y, std::span<const double> w = {});

} // namespace nuvat
