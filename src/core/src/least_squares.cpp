#include "nuvat/core/fit/least_squares.h"

#include "weighted_squares.h"

#include <algorithm>
#include <cmath>
#include <Eigen/Dense>
#include <limits>
#include <optional>
#include <stdexcept>

namespace nuvat {

namespace {

using Real = long double;
using Matrix = Eigen::Matrix<Real, Eigen::Dynamic, Eigen::Dynamic>;
using Vector = Eigen::Matrix<Real, Eigen::Dynamic, 1>;

constexpr Real kMostCondition = 1e16L; // of the scaled Jacobian; an extended double holds 19 digits
constexpr int kMostIterations = 3000;
constexpr Real kSmallestOffset = 1e-13L;
constexpr int kPolishingSteps = 12;
constexpr Real kLinearDamping = 1e-9L; // against rank loss only
constexpr Real kLooseOffset = 1e-6L;   // still a minimum when rounding stops the search
constexpr Real kAlike = 1e-9L;         // sums of squares of the same minimum, or of its mirror image
constexpr Real kNearlyExact = 1e-9L;   // residual to response; below it half the digits of the residuals are rounding
constexpr std::size_t kManyPoints = 100'000;  // the first search that ends in a minimum of so many points is enough
constexpr Eigen::Index kMostPrecise = 10'000; // points; more are left as they are, for they take their time

Vector rootsOfWeights(std::span<const Real> w, std::size_t n) {
    Vector roots = Vector::Ones(static_cast<Eigen::Index>(n));
    for (std::size_t i = 0; i < w.size(); ++i) {
        roots(static_cast<Eigen::Index>(i)) = std::sqrt(w[i]);
    }
    return roots;
}

/// R of a QR with columns scaled to length 1, its inverse, and what follows for the covariance.
struct Information {
    Matrix inverse; ///< of J'WJ
    bool isFullRank = false;
    std::size_t weakest = 0;
};

Information invert(const Matrix& jacobian) {
    Information out;
    const Eigen::Index p = jacobian.cols();
    const Vector length = jacobian.colwise().norm().transpose();
    Eigen::Index at = 0;
    if (!(length.minCoeff(&at) > 0) || !length.allFinite()) {
        out.weakest = static_cast<std::size_t>(at);
        return out;
    }
    const Eigen::HouseholderQR<Matrix> qr(jacobian * length.cwiseInverse().asDiagonal());
    const Matrix r = qr.matrixQR().topRows(p).triangularView<Eigen::Upper>();
    if (!(r.diagonal().cwiseAbs().minCoeff(&at) > 0)) {
        out.weakest = static_cast<std::size_t>(at);
        return out;
    }
    const Matrix rInverse = r.triangularView<Eigen::Upper>().solve(Matrix::Identity(p, p));
    const Matrix scaled = rInverse * rInverse.transpose();
    scaled.diagonal().maxCoeff(&at);
    out.weakest = static_cast<std::size_t>(at);
    out.isFullRank = r.norm() * rInverse.norm() < kMostCondition;
    out.inverse = length.cwiseInverse().asDiagonal() * scaled * length.cwiseInverse().asDiagonal();
    return out;
}

/// Fills estimates from parameters, weighted residuals and the inverted information.
void setEstimates(LeastSquaresFit& fit, const Vector& parameters, const Vector& weightedResidual,
                  const Information& information) {
    const Real sse = weightedResidual.squaredNorm();
    const Real s2 = sse / static_cast<Real>(fit.df);
    fit.sse = static_cast<double>(sse);
    fit.s = static_cast<double>(std::sqrt(s2));
    for (Eigen::Index k = 0; k < parameters.size(); ++k) {
        fit.parameters.push_back(static_cast<double>(parameters(k)));
        fit.se.push_back(static_cast<double>(std::sqrt(s2 * information.inverse(k, k))));
        for (Eigen::Index j = 0; j < parameters.size(); ++j) {
            fit.covariance.push_back(static_cast<double>(s2 * information.inverse(k, j)));
        }
    }
    fit.status = FitStatus::Ok;
}

void setRSquared(LeastSquaresFit& fit, std::span<const Real> y, std::span<const Real> w) {
    const Real squares = weightedSquares(y, w, fit.isAboutZero);
    fit.rSquared = squares > 0 ? static_cast<double>(1 - static_cast<Real>(fit.sse) / squares) : 0;
}

void checkLengths(std::size_t n, std::span<const Real> w, std::size_t rows) {
    if ((!w.empty() && w.size() != n) || rows != n) {
        throw std::invalid_argument("least squares: the columns differ in length");
    }
}

bool hasEnough(LeastSquaresFit& fit) {
    fit.df = static_cast<double>(fit.n) - static_cast<double>(fit.p);
    if (fit.n >= fit.p + 1 && fit.p > 0) {
        return true;
    }
    fit.message = "The model has " + std::to_string(fit.p) + " parameters and needs " + std::to_string(fit.p + 1) +
                  " points or more; there are " + std::to_string(fit.n) + ".";
    return false;
}

} // namespace

LeastSquaresFit fitLinear(std::span<const std::vector<long double>> columns, std::span<const long double> y,
                          std::span<const long double> w) {
    LeastSquaresFit fit;
    fit.n = y.size();
    fit.p = columns.size();
    for (const auto& column : columns) {
        checkLengths(fit.n, w, column.size());
    }
    if (!hasEnough(fit)) {
        return fit;
    }
    const auto n = static_cast<Eigen::Index>(fit.n);
    const auto p = static_cast<Eigen::Index>(fit.p);
    const Vector roots = rootsOfWeights(w, fit.n);
    Matrix design(n, p);
    Vector right(n);
    fit.isAboutZero = true;
    for (Eigen::Index k = 0; k < p; ++k) {
        const auto& column = columns[static_cast<std::size_t>(k)];
        fit.isAboutZero = fit.isAboutZero && !std::all_of(column.begin(), column.end(),
                                                          [&](Real v) { return v == column.front() && v != 0; });
        for (Eigen::Index i = 0; i < n; ++i) {
            design(i, k) = roots(i) * column[static_cast<std::size_t>(i)];
        }
    }
    for (Eigen::Index i = 0; i < n; ++i) {
        right(i) = roots(i) * y[static_cast<std::size_t>(i)];
    }
    const Information information = invert(design);
    if (!information.isFullRank) {
        fit.status = FitStatus::NotDetermined;
        fit.weakest = information.weakest;
        fit.message = "The columns of the model are linearly dependent.";
        return fit;
    }
    const Vector length = design.colwise().norm().transpose();
    const Eigen::HouseholderQR<Matrix> qr(design * length.cwiseInverse().asDiagonal());
    Vector parameters = length.cwiseInverse().cwiseProduct(qr.solve(right));
    parameters += length.cwiseInverse().cwiseProduct(qr.solve(right - design * parameters));
    const Vector residual = right - design * parameters;
    setEstimates(fit, parameters, residual, information);
    for (Eigen::Index i = 0; i < n; ++i) {
        fit.fitted.push_back(static_cast<double>((right(i) - residual(i)) / roots(i)));
    }
    setRSquared(fit, y, w);
    return fit;
}

namespace {

/// The model at one set of parameters, weighted.
struct State {
    Vector parameters;
    Vector residual; ///< sqrt(w)*(y - f)
    Matrix jacobian; ///< sqrt(w)*df/dparameters
    Real sse = std::numeric_limits<Real>::infinity();
    bool converged = false;
    int iterations = 0;

    /// Goes where the other one is.
    void take(const State& other) {
        parameters = other.parameters;
        residual = other.residual;
        jacobian = other.jacobian;
        sse = other.sse;
    }
};

class Search {
public:
    Search(const CurveFunction& model, std::span<const Real> y, std::span<const Real> w, std::size_t p)
        : m_model(model), m_y(y), m_roots(rootsOfWeights(w, y.size())), m_n(static_cast<Eigen::Index>(y.size())),
          m_p(static_cast<Eigen::Index>(p)), m_values(y.size()), m_derivatives(y.size() * p) {
        for (std::size_t i = 0; i < y.size(); ++i) {
            const Real weighted = m_roots(static_cast<Eigen::Index>(i)) * y[i];
            m_sizeOfY += weighted * weighted;
        }
        m_sizeOfY = std::sqrt(m_sizeOfY / static_cast<Real>(y.size()));
    }

    /// @return false when the model is not defined at the parameters
    bool evaluate(State& state) {
        if (!m_model(std::span(state.parameters.data(), static_cast<std::size_t>(m_p)), m_values, m_derivatives)) {
            return false;
        }
        state.residual.resize(m_n);
        state.jacobian.resize(m_n, m_p);
        for (Eigen::Index i = 0; i < m_n; ++i) {
            const auto at = static_cast<std::size_t>(i);
            state.residual(i) = m_roots(i) * (m_y[at] - m_values[at]);
            for (Eigen::Index k = 0; k < m_p; ++k) {
                state.jacobian(i, k) =
                    m_roots(i) * m_derivatives[at * static_cast<std::size_t>(m_p) + static_cast<std::size_t>(k)];
            }
        }
        // A plain loop: GCC 12 believes the vectorised sum reads what was never set.
        state.sse = 0;
        for (Eigen::Index i = 0; i < m_n; ++i) {
            state.sse += state.residual(i) * state.residual(i);
        }
        return std::isfinite(state.sse) && state.jacobian.allFinite();
    }

    /// Finds the parameters in which the model is linear: their columns of the Jacobian do not change with them.
    void findLinear(const State& at) {
        for (Eigen::Index k = 0; k < m_p; ++k) {
            std::vector<Eigen::Index> together = m_linear;
            together.push_back(k);
            State moved;
            moved.parameters = at.parameters;
            for (const Eigen::Index j : together) {
                moved.parameters(j) += 1 + std::abs(moved.parameters(j)) * 0.37L;
            }
            if (!evaluate(moved)) {
                continue;
            }
            const bool isLinear = std::all_of(together.begin(), together.end(), [&](Eigen::Index j) {
                const Vector change = moved.jacobian.col(j) - at.jacobian.col(j);
                return change.norm() <= 1e-15L * at.jacobian.col(j).norm();
            });
            if (isLinear) {
                m_linear = together;
            }
        }
    }

    /// Whether all parameters enter linearly: then there is one minimum, one step away.
    bool isLinear() const { return std::ssize(m_linear) == m_p; }

    State solveLinear(State state) {
        polish(state);
        state.converged = true;
        state.iterations = 1;
        return state;
    }

    bool hasLinear() const { return !m_linear.empty() && std::ssize(m_linear) < m_p; }

    /// @param keepsScale whether the scale of a parameter never shrinks (Moré); else it follows the Jacobian, which
    ///        gets out of valleys in which a derivative changes by many powers of ten
    /// @param projects whether the parameters that enter linearly are solved for at every step (variable projection)
    State run(State state, Real lambda, bool keepsScale, bool projects) {
        Vector scale = Vector::Zero(m_p);
        if (projects && !project(state)) {
            return state;
        }
        const Real rounding = 64 * std::numeric_limits<Real>::epsilon();
        for (int iteration = 0; iteration < kMostIterations; ++iteration) {
            state.iterations = iteration;
            const Vector length = state.jacobian.colwise().norm().transpose();
            scale = keepsScale ? scale.cwiseMax(length).eval() : length;
            const Vector safe = scale.unaryExpr([](Real v) { return v > 0 ? v : Real(1); });
            if (offsetOf(state.jacobian * safe.cwiseInverse().asDiagonal(), state.residual) < kSmallestOffset) {
                state.converged = true;
                return state;
            }
            // min |J d - r|^2 + lambda*|D d|^2 as one least-squares problem.
            Matrix stacked(m_n + m_p, m_p);
            stacked.topRows(m_n) = state.jacobian * safe.cwiseInverse().asDiagonal();
            bool improved = false;
            for (int attempt = 0; attempt < 60 && !improved; ++attempt) {
                stacked.bottomRows(m_p) = std::sqrt(lambda) * Matrix::Identity(m_p, m_p);
                for (const Eigen::Index k : m_linear) {
                    stacked(m_n + k, k) *= projects ? kLinearDamping : 1;
                }
                const Eigen::HouseholderQR<Matrix> qr(stacked);
                const auto solve = [&](const Vector& right) {
                    Vector all = Vector::Zero(m_n + m_p);
                    all.head(m_n) = right;
                    return Vector(safe.cwiseInverse().cwiseProduct(qr.solve(all)));
                };
                Vector step = solve(state.residual);
                accelerate(state, step, safe, solve);
                State trial;
                trial.parameters = state.parameters + step;
                const Real relative =
                    (step.cwiseAbs().array() / (state.parameters.cwiseAbs().array() + std::numeric_limits<Real>::min()))
                        .maxCoeff();
                if (evaluate(trial) && (!projects || project(trial)) && trial.sse <= state.sse * (1 + rounding)) {
                    improved = trial.sse < state.sse || relative > rounding;
                    const bool isSmall = relative < rounding;
                    state.take(trial);
                    lambda = std::max(lambda / 5, Real(1e-30L));
                    if (isSmall) {
                        state.converged = isStationary(state, safe);
                        return state;
                    }
                } else {
                    if (relative < rounding) {
                        state.converged = isStationary(state, safe);
                        return state;
                    }
                    lambda *= 3;
                }
            }
            if (!improved) {
                return state;
            }
        }
        return state;
    }

    /// Gauss-Newton steps to the last digit, taken as long as they get shorter.
    void polish(State& state) {
        Real last = std::numeric_limits<Real>::infinity();
        for (int round = 0; round < kPolishingSteps; ++round) {
            const Vector length = state.jacobian.colwise().norm().transpose();
            if (!(length.minCoeff() > 0)) {
                return;
            }
            const Eigen::HouseholderQR<Matrix> qr(state.jacobian * length.cwiseInverse().asDiagonal());
            const Vector step = length.cwiseInverse().cwiseProduct(qr.solve(state.residual));
            const Real size = step.cwiseProduct(length).norm();
            State next;
            next.parameters = state.parameters + step;
            if (!(size < last) || !evaluate(next) || !(next.sse <= state.sse * (1 + 1e-12L))) {
                return;
            }
            last = size;
            state.take(next);
        }
    }

    bool isNearlyExact(const State& state) const {
        return m_n <= kMostPrecise && std::sqrt(state.sse / static_cast<Real>(m_n)) < kNearlyExact * m_sizeOfY;
    }

    void refineResiduals(State& state, const PreciseResiduals& precise) const {
        std::vector<Real> residuals(static_cast<std::size_t>(m_n));
        if (precise(std::span(state.parameters.data(), static_cast<std::size_t>(m_p)), residuals)) {
            state.residual = m_roots.cwiseProduct(Eigen::Map<const Vector>(residuals.data(), m_n));
        }
    }

private:
    /// Moves the linear parameters to their best values for the others. @return false when the model is not defined
    /// there
    bool project(State& state) {
        for (int round = 0; round < 2; ++round) { // the second takes back the rounding of the first
            Matrix columns(m_n, std::ssize(m_linear));
            for (Eigen::Index k = 0; k < columns.cols(); ++k) {
                columns.col(k) = state.jacobian.col(m_linear[static_cast<std::size_t>(k)]);
            }
            const Vector length = columns.colwise().norm().transpose();
            if (!(length.minCoeff() > 0)) {
                return false;
            }
            columns = columns * length.cwiseInverse().asDiagonal();
            const Vector change =
                length.cwiseInverse().cwiseProduct(Eigen::ColPivHouseholderQR<Matrix>(columns).solve(state.residual));
            State next;
            next.parameters = state.parameters;
            for (Eigen::Index k = 0; k < change.size(); ++k) {
                next.parameters(m_linear[static_cast<std::size_t>(k)]) += change(k);
            }
            if (!evaluate(next)) {
                return false;
            }
            if (!(next.sse < state.sse)) {
                return true;
            }
            state.take(next);
        }
        return true;
    }
    /// Whether a search that cannot go on stands in a minimum as far as the digits carry.
    bool isStationary(const State& state, const Vector& scale) const {
        const Real offset = offsetOf(state.jacobian * scale.cwiseInverse().asDiagonal(), state.residual);
        return !std::isfinite(offset) || offset < kLooseOffset;
    }
    /// Part of the residual in the tangent plane against what stays, both per degree of freedom. A parameter that the
    /// others can replace takes no part.
    Real offsetOf(const Matrix& jacobian, const Vector& residual) const {
        const Eigen::ColPivHouseholderQR<Matrix> qr(jacobian);
        const Vector turned = qr.householderQ().adjoint() * residual;
        const Vector diagonal = qr.matrixQR().diagonal().cwiseAbs();
        Eigen::Index rank = 0;
        while (rank < m_p && diagonal(rank) * kMostCondition > diagonal(0)) {
            ++rank;
        }
        const Real inside = turned.head(rank).norm() / std::sqrt(static_cast<Real>(m_p));
        const Real outside = turned.tail(m_n - m_p).norm() / std::sqrt(std::max(static_cast<Real>(m_n - m_p), Real(1)));
        // Nothing can be said about residuals that are all rounding.
        const Real floor = 8 * std::numeric_limits<Real>::epsilon() * m_sizeOfY;
        return outside > floor ? inside / outside : std::numeric_limits<Real>::infinity();
    }
    /// Second-order correction along the step, taken where it is small against the step.
    template<class Solve> void accelerate(const State& state, Vector& step, const Vector& scale, const Solve& solve) {
        constexpr Real kShare = 0.1L;
        State ahead;
        ahead.parameters = state.parameters + kShare * step;
        if (!evaluate(ahead)) {
            return;
        }
        const Vector second =
            2 / kShare * ((state.residual - ahead.residual) / kShare - state.jacobian * step); // f'' along the step
        const Vector correction = solve(-second) / 2;
        const Real ratio = 2 * scale.cwiseProduct(correction).norm() / scale.cwiseProduct(step).norm();
        if (correction.allFinite() && ratio < 0.75L) {
            step += correction;
        }
    }

    const CurveFunction& m_model;
    std::span<const Real> m_y;
    Vector m_roots;
    Eigen::Index m_n;
    Eigen::Index m_p;
    Real m_sizeOfY = 0; // root mean square, weighted
    std::vector<Real> m_values;
    std::vector<Real> m_derivatives;
    std::vector<Eigen::Index> m_linear; ///< parameters in which the model is linear
};

/// How far parameters are from the start, each by its own size.
Real distance(const Vector& parameters, const Vector& start) {
    Real sum = 0;
    for (Eigen::Index k = 0; k < start.size(); ++k) {
        const Real size = std::abs(parameters(k)) + std::abs(start(k));
        const Real share = size > 0 ? (parameters(k) - start(k)) / size : 0;
        sum += share * share;
    }
    return sum;
}

/// Of minima that are equally low (terms of a sum can change places) the one next to the start is meant.
bool isBetter(const State& found, const State& best, const Vector& start) {
    if (found.converged != best.converged) {
        return found.converged;
    }
    const bool isAlike = std::abs(found.sse - best.sse) <= kAlike * best.sse;
    return isAlike ? distance(found.parameters, start) < distance(best.parameters, start) * (1 - kAlike)
                   : found.sse < best.sse;
}

} // namespace

LeastSquaresFit fitNonlinear(const CurveFunction& model, std::span<const double> start, std::span<const long double> y,
                             std::span<const long double> w, const PreciseResiduals& precise) {
    LeastSquaresFit fit;
    fit.n = y.size();
    fit.p = start.size();
    checkLengths(fit.n, w, fit.n);
    if (!hasEnough(fit)) {
        return fit;
    }
    Search search(model, y, w, fit.p);
    State first;
    first.parameters.resize(static_cast<Eigen::Index>(fit.p));
    for (std::size_t k = 0; k < fit.p; ++k) {
        first.parameters(static_cast<Eigen::Index>(k)) = start[k];
    }
    if (!search.evaluate(first)) {
        fit.status = FitStatus::NotConverged;
        fit.message = "The model has no finite value at the starting parameters.";
        return fit;
    }
    std::optional<State> best;
    struct Way {
        Real lambda;
        bool keepsScale;
        bool projects;
    };
    search.findLinear(first);
    for (const auto& [lambda, keepsScale, projects] :
         {Way{1e-3L, false, true}, Way{1e-3L, true, false}, Way{1e2L, true, false}, Way{1e-8L, false, false},
          Way{1e5L, true, false}}) {
        if (best && best->converged && (search.isLinear() || fit.n > kManyPoints)) {
            break;
        }
        State found = search.isLinear() ? search.solveLinear(first)
                                        : search.run(first, lambda, keepsScale, projects && search.hasLinear());
        fit.iterations += found.iterations;
        if (!best || isBetter(found, *best, first.parameters)) {
            best = std::move(found);
        }
    }
    if (!best->converged) {
        fit.status = FitStatus::NotConverged;
        fit.message = "The search did not end in a minimum; try another start.";
        return fit;
    }
    search.polish(*best);
    const Information information = invert(best->jacobian);
    if (!information.isFullRank) {
        fit.status = FitStatus::NotDetermined;
        fit.weakest = information.weakest;
        fit.message = "The data do not fix every parameter: one can be traded against the others.";
        return fit;
    }
    if (precise && search.isNearlyExact(*best)) {
        search.refineResiduals(*best, precise);
    }
    setEstimates(fit, best->parameters, best->residual, information);
    const Vector roots = rootsOfWeights(w, fit.n);
    for (std::size_t i = 0; i < fit.n; ++i) {
        const auto at = static_cast<Eigen::Index>(i);
        fit.fitted.push_back(static_cast<double>(y[i] - best->residual(at) / roots(at)));
    }
    setRSquared(fit, y, w);
    return fit;
}

} // namespace nuvat
