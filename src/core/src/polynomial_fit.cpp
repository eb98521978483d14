#include "nuvat/core/fit/polynomial_fit.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <stdexcept>
#include <utility>

namespace nuvat {

namespace {

using Real = long double;

/// Orthogonal polynomials q0 … q(P-1) of z over the points: q(k+1) = (z - alpha_k)*q_k - beta_k*q(k-1).
template<std::size_t P> struct Basis {
    std::array<double, P> alpha{}, beta{};
    std::array<double, P> norm{}, perNorm{}; ///< weighted sums of squares; their reciprocals
    std::array<double, P> spread{};          ///< weighted sums of squares of z*q_k
    std::array<Real, P> coefficient{};       ///< of y
};

struct Points {
    std::span<const double> x, y, w;
    double centre, perScale;
};

/// One pass over the points with the first K polynomials and coefficients known: those of number K.
/// @return weighted sum of squares of what the first K leave of y
template<std::size_t K, bool IsWeighted, std::size_t P> double pass(const Points& points, Basis<P>& basis) {
    std::array<double, P> coefficient{};
    std::copy(basis.coefficient.begin(), basis.coefficient.end(), coefficient.begin());
    double norm = 0;
    double shifted = 0; // with another z
    double spread = 0;  // with another z twice: what the next polynomial is made from
    double product = 0; // with what is left of y
    double squares = 0;
    for (std::size_t i = 0; i < points.x.size(); ++i) {
        const double z = (points.x[i] - points.centre) * points.perScale;
        double before = 0;
        double q = 1;
        double left = points.y[i];
        for (std::size_t k = 0; k < K; ++k) {
            left -= coefficient[k] * q;
            const double next = (z - basis.alpha[k]) * q - basis.beta[k] * before;
            before = q;
            q = next;
        }
        const double weighted = IsWeighted ? points.w[i] * left : left;
        const double own = IsWeighted ? points.w[i] * q * q : q * q;
        squares += weighted * left;
        norm += own;
        shifted += own * z;
        spread += own * z * z;
        product += weighted * q;
    }
    basis.norm[K] = norm;
    basis.spread[K] = spread;
    basis.perNorm[K] = 1 / norm;
    basis.alpha[K] = shifted * basis.perNorm[K];
    basis.beta[K] = K > 0 ? norm * basis.perNorm[K > 0 ? K - 1 : 0] : 0;
    basis.coefficient[K] = product * basis.perNorm[K];
    return squares;
}

/// The residuals once more in extended precision, which gives the coefficients their last digits.
/// @param ofResponses the weighted sum of squares of the responses themselves
/// @return that of the residuals; 0 when they are no more than rounding
template<bool IsWeighted, std::size_t P> Real refine(const Points& points, Basis<P>& basis, double ofResponses) {
    std::array<Real, P> products{};
    Real squares = 0;
    for (std::size_t i = 0; i < points.x.size(); ++i) {
        const Real z = (static_cast<Real>(points.x[i]) - points.centre) * points.perScale;
        std::array<Real, P> q;
        q[0] = 1;
        Real left = points.y[i] - basis.coefficient[0];
        for (std::size_t k = 0; k + 1 < P; ++k) {
            q[k + 1] = (z - basis.alpha[k]) * q[k] - (k > 0 ? basis.beta[k] * q[k > 0 ? k - 1 : 0] : 0);
            left -= basis.coefficient[k + 1] * q[k + 1];
        }
        const Real weighted = IsWeighted ? points.w[i] * left : left;
        squares += weighted * left;
        for (std::size_t k = 0; k < P; ++k) {
            products[k] += weighted * q[k];
        }
    }
    for (std::size_t k = 0; k < P; ++k) {
        const Real correction = products[k] * basis.perNorm[k];
        basis.coefficient[k] += correction;
        squares -= correction * products[k];
    }
    constexpr Real kRounding = 16 * std::numeric_limits<Real>::epsilon();
    const bool isExact = squares < kRounding * kRounding * ofResponses;
    return isExact ? 0 : squares;
}

/// Row k: the powers in basis polynomial k, up to its own degree.
template<class Number, std::size_t P> using Powers = std::array<std::array<Number, P>, P>;

template<class Number, std::size_t P> Powers<Number, P> powersOfZ(const Basis<P>& basis) {
    Powers<Number, P> powers{};
    powers[0][0] = 1;
    for (std::size_t k = 0; k + 1 < P; ++k) {
        for (std::size_t j = 0; j <= k + 1; ++j) {
            powers[k + 1][j] = (j > 0 ? powers[k][j - 1] : 0) - basis.alpha[k] * powers[k][j] -
                               (k > 0 ? basis.beta[k] * powers[k > 0 ? k - 1 : 0][j] : 0);
        }
    }
    return powers;
}

/// The same by powers of x: z^k = (h*x + u)^k by the binomial theorem.
template<std::size_t P> Powers<Real, P> powersOfX(const Powers<Real, P>& powers, Real centre, Real h) {
    Powers<Real, P> ofZ; // row k: z^k, with h^j left out
    const Real u = -centre * h;
    std::array<Real, P> hPowers;
    hPowers[0] = 1;
    ofZ[0][0] = 1;
    for (std::size_t k = 1; k < P; ++k) {
        hPowers[k] = hPowers[k - 1] * h;
        ofZ[k][0] = ofZ[k - 1][0] * u;
        for (std::size_t j = 1; j < k; ++j) {
            ofZ[k][j] = ofZ[k - 1][j] * u + ofZ[k - 1][j - 1];
        }
        ofZ[k][k] = 1;
    }
    Powers<Real, P> out;
    for (std::size_t k = 0; k < P; ++k) {
        for (std::size_t j = 0; j <= k; ++j) {
            Real sum = ofZ[k][j]; // powers[k][k] is 1
            for (std::size_t i = j; i < k; ++i) {
                sum += powers[k][i] * ofZ[i][j];
            }
            out[k][j] = sum * hPowers[j];
        }
    }
    return out;
}

/// Parameters and covariance by the basis -> by powers.
template<class Number, std::size_t P>
void setEstimates(const Powers<Number, P>& powers, const Basis<P>& basis, Number s2, std::array<double, P>& parameters,
                  std::array<double, P * P>& covariance, std::array<double, P>* se = nullptr) {
    for (std::size_t j = 0; j < P; ++j) {
        Real sum = basis.coefficient[j] * powers[j][j];
        for (std::size_t k = j + 1; k < P; ++k) {
            sum += basis.coefficient[k] * powers[k][j];
        }
        parameters[j] = static_cast<double>(sum);
    }
    for (std::size_t j = 0; j < P; ++j) {
        std::array<Number, P> scaled;
        for (std::size_t k = j; k < P; ++k) { // q_k has no powers above k
            scaled[k] = s2 * basis.perNorm[k] * powers[k][j];
        }
        for (std::size_t m = 0; m <= j; ++m) {
            Number products = scaled[j] * powers[j][m];
            for (std::size_t k = j + 1; k < P; ++k) {
                products += scaled[k] * powers[k][m];
            }
            covariance[j * P + m] = covariance[m * P + j] = static_cast<double>(products);
            if (se != nullptr && m == j) {
                (*se)[j] = static_cast<double>(std::sqrt(products));
            }
        }
    }
}

template<bool IsWeighted, std::size_t P, std::size_t... K>
Real allPasses(const Points& points, Basis<P>& basis, std::array<double, P>& squares, std::index_sequence<K...> /*k*/) {
    ((squares[K] = pass<K, IsWeighted, P>(points, basis)), ...);
    return refine<IsWeighted, P>(points, basis, squares[0]);
}

} // namespace

template<std::size_t P>
PolynomialFit<P> fitPolynomial(std::span<const double> x, std::span<const double> y, std::span<const double> w) {
    if (x.size() != y.size() || (!w.empty() && w.size() != x.size())) {
        throw std::invalid_argument("fitPolynomial: the columns differ in length");
    }
    PolynomialFit<P> fit;
    if (x.size() < P) {
        return fit;
    }
    double low = x[0];
    double high = x[0];
    for (const double v : x) {
        low = std::min(low, v);
        high = std::max(high, v);
    }
    if (!(low < high)) {
        return fit;
    }
    double centre = low + (high - low) / 2;
    if (!w.empty()) { // weights can draw the points to one end; from there nothing cancels
        Real sum = 0;
        Real first = 0;
        for (std::size_t i = 0; i < x.size(); ++i) {
            sum += w[i];
            first += w[i] * (static_cast<Real>(x[i]) - centre);
        }
        centre = std::clamp(static_cast<double>(centre + first / sum), low, high);
    }
    const double scale = (high - low) / 2;
    const Points points{x, y, w, centre, 1 / scale};
    Basis<P> basis;
    std::array<double, P> squares{}; // left by the polynomials before
    constexpr auto kAll = std::make_index_sequence<P>();
    const Real sse = w.empty() ? allPasses<false, P>(points, basis, squares, kAll)
                               : allPasses<true, P>(points, basis, squares, kAll);
    constexpr double kDigits = 1e-15; // a polynomial this small against what it is made from is rounding
    for (std::size_t k = 1; k < P; ++k) {
        if (!(basis.norm[k] > kDigits * kDigits * basis.spread[k - 1])) {
            return fit;
        }
    }
    fit.isDetermined = true;
    fit.centre = centre;
    fit.scale = scale;
    fit.sse = static_cast<double>(sse);
    fit.df = static_cast<double>(x.size() - P);
    fit.squares = squares[1];
    if (squares[1] > 0) {
        fit.r = static_cast<double>(basis.coefficient[1]) * std::sqrt(basis.norm[1] / squares[1]);
    }
    const Real s2 = fit.df > 0 ? sse / static_cast<Real>(fit.df) : 0;
    // Nothing cancels in z; in x far from zero much does.
    setEstimates(powersOfZ<double>(basis), basis, static_cast<double>(s2), fit.workParameters, fit.workCovariance);
    setEstimates(powersOfX<P>(powersOfZ<Real>(basis), centre, points.perScale), basis, s2, fit.parameters,
                 fit.covariance, &fit.se);
    for (std::size_t k = 0; k < P; ++k) {
        fit.alpha[k] = basis.alpha[k];
        fit.beta[k] = basis.beta[k];
        fit.basisParameters[k] = static_cast<double>(basis.coefficient[k]);
        fit.basisVariance[k] = static_cast<double>(s2 * basis.perNorm[k]);
    }
    return fit;
}

template PolynomialFit<2> fitPolynomial(std::span<const double>, std::span<const double>, std::span<const double>);
template PolynomialFit<3> fitPolynomial(std::span<const double>, std::span<const double>, std::span<const double>);
template PolynomialFit<4> fitPolynomial(std::span<const double>, std::span<const double>, std::span<const double>);

} // namespace nuvat
