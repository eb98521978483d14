#pragma once

#include "nuvat/core/fit/calibration.h"

#include <functional>
#include <span>
#include <string>
#include <vector>

namespace nuvat {

/// What came of a general least-squares fit. Estimates are absent unless status is Ok.
struct LeastSquaresFit {
    FitStatus status = FitStatus::NotEnoughData;
    std::string message;            ///< why there are no estimates, as a sentence
    std::vector<double> parameters; ///< p
    std::vector<double> se;         ///< p
    std::vector<double> covariance; ///< p*p, row by row
    std::size_t n = 0;
    std::size_t p = 0;
    double df = 0;
    double sse = 0;
    double s = 0;
    double rSquared = 0; ///< about the weighted mean, about zero when `isAboutZero`
    bool isAboutZero = false;
    int iterations = 0;         ///< of the non-linear fit
    std::size_t weakest = 0;    ///< NotDetermined: the parameter that the others can replace
    std::vector<double> fitted; ///< n
    bool isUsable() const { return status == FitStatus::Ok; }
};

/// Linear least squares y = X b for any columns X, in extended precision.
/// @param columns p columns of n values each; @param y n values; @param w n weights > 0, empty: all equal
/// @throws std::invalid_argument when lengths differ (mistake of the caller)
/// Outcome: NotEnoughData when n < p + 1; NotDetermined with `weakest` when the columns are linearly dependent.
/// Method:  Householder QR with columns scaled to length 1, one step of iterative refinement. R2 is about the mean when
///          the columns hold a constant one, else about zero.
/// Source:  A. Bjorck, Numerical Methods for Least Squares Problems (1996), sections 2.4 and 2.9.
/// Checked: tests/reference/nist_linear_test.cpp (NIST StRD Longley, Filip, Wampler 1 to 5).
LeastSquaresFit fitLinear(std::span<const std::vector<long double>> columns, std::span<const long double> y,
                          std::span<const long double> w = {});

/// Model values and derivatives at parameters: fills n values and n*p derivatives, row by row.
/// @return false when the model is not defined there
using CurveFunction = std::function<bool(std::span<const long double> parameters, std::span<long double> values,
                                         std::span<long double> jacobian)>;

/// Residuals y - f at parameters, worked out in more digits than an extended double has: fills n values.
/// @return false when the model is not defined there
using PreciseResiduals = std::function<bool(std::span<const long double> parameters, std::span<long double> residuals)>;

/// Non-linear least squares for any model with derivatives, in extended precision.
/// @param start p parameters, where the search begins; @param y n values; @param w n weights > 0, empty: all equal
/// @param precise asked once, at the minimum, where a model fits nearly exactly: residuals below 1e-9 of the responses
///        have lost half the digits of an extended double. The parameters have not, since the sum is stationary in
///        them.
/// @throws std::invalid_argument when lengths differ (mistake of the caller)
/// Outcome: NotConverged when no search ended in a minimum; NotDetermined with `weakest` when the Jacobian at the
///          minimum has no full rank.
/// Method:  Levenberg-Marquardt on the QR factors of the Jacobian with geodesic acceleration, several times: with the
///          parameters that enter linearly solved for at every step (variable projection), and in all parameters with
///          weak, middle and strong first damping; the lowest minimum counts, of equal ones that next to the start.
///          A model that is linear in all parameters is solved in one step; of more than 100 000 points the first
///          search that ends in a minimum counts. Ends on the relative offset of Bates and Watts. Sources: G. H. Golub,
///          V. Pereyra, SIAM J. Numer. Anal. 10 (1973) 413-432; J. J. Moré, in Lecture Notes in Mathematics 630 (1978)
///          105-116; M. K. Transtrum, J. P. Sethna, arXiv:1201.5885 (2012); D. M. Bates, D. G. Watts, Technometrics 23
///          (1981) 179-183.
/// Checked: tests/reference/nist_nonlinear_test.cpp (NIST StRD, both starts).
LeastSquaresFit fitNonlinear(const CurveFunction& model, std::span<const double> start, std::span<const long double> y,
                             std::span<const long double> w = {}, const PreciseResiduals& precise = {});

} // namespace nuvat
