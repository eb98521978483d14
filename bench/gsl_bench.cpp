// The same work with the GNU Scientific Library, in the same run: 1000 seeded hard sets, each fitted with its
// covariance and 80 responses read off with SE. Trust-region Levenberg-Marquardt with analytic derivatives from one
// good start.
#include "nuvat/core/fit/polynomial_fit.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/stats/distributions.h"
#include "support/hard_sets.h"

#include <array>
#include <benchmark/benchmark.h>
#include <gsl/gsl_blas.h>
#include <gsl/gsl_errno.h>
#include <gsl/gsl_fit.h>
#include <gsl/gsl_multifit.h>
#include <gsl/gsl_multifit_nlinear.h>

namespace {

constexpr unsigned kSets = 1000;
constexpr int kReadOffs = 80;

struct Item : nuvat::test::HardSet {
    std::vector<double> responses; ///< to read off, from the low to the high end of the standards
};

const Item& set(std::size_t i, bool hasAsymmetry) {
    static const auto all = [] {
        std::array<std::vector<Item>, 2> out;
        for (unsigned seed = 1; seed <= kSets; ++seed) {
            for (const bool isFive : {false, true}) {
                Item item{nuvat::test::hardSet(seed, isFive), {}};
                const auto [low, high] = std::minmax_element(item.y.begin(), item.y.end());
                for (int k = 0; k < kReadOffs; ++k) {
                    item.responses.push_back(*low + (*high - *low) * (0.1 + 0.8 * k / kReadOffs));
                }
                out[isFive ? 1 : 0].push_back(std::move(item));
            }
        }
        return out;
    }();
    return all[hasAsymmetry ? 1 : 0][i % kSets];
}

template<nuvat::Model model> void nuvatItem(benchmark::State& state) {
    std::size_t i = 0;
    for (auto _ : state) {
        const auto& data = set(i++, model == nuvat::Model::Logistic5);
        const nuvat::Fit curve = nuvat::fitCalibration(model, nuvat::Weighting::None, data.x, data.y);
        if (!curve.isUsable()) {
            continue;
        }
        nuvat::ReadOffOptions options;
        options.factor = nuvat::studentFactor(0.95, curve.df);
        benchmark::DoNotOptimize(nuvat::readOffs(curve, data.responses, options));
    }
}

/// a, ln b, ln c, d (, ln g)
template<std::size_t P> nuvat::LogisticParameters parametersOf(const gsl_vector* v) {
    return {gsl_vector_get(v, 0), std::exp(gsl_vector_get(v, 1)), std::exp(gsl_vector_get(v, 2)), gsl_vector_get(v, 3),
            P == 5 ? std::exp(gsl_vector_get(v, 4)) : 1};
}

template<std::size_t P> int residuals(const gsl_vector* v, void* raw, gsl_vector* f) {
    const auto& data = *static_cast<const Item*>(raw);
    const auto p = parametersOf<P>(v);
    for (std::size_t i = 0; i < data.x.size(); ++i) {
        gsl_vector_set(f, i, nuvat::logisticResponse(p, data.x[i]) - data.y[i]);
    }
    return GSL_SUCCESS;
}

template<std::size_t P> int derivatives(const gsl_vector* v, void* raw, gsl_matrix* jacobian) {
    const auto& data = *static_cast<const Item*>(raw);
    const auto p = parametersOf<P>(v);
    const std::array<double, 5> inner{1, p.b, p.c, 1, p.g}; // of the logarithms
    for (std::size_t i = 0; i < data.x.size(); ++i) {
        const auto gradient = nuvat::logisticGradient(p, data.x[i]);
        for (std::size_t k = 0; k < P; ++k) {
            gsl_matrix_set(jacobian, i, k, gradient[k] * inner[k]);
        }
    }
    return GSL_SUCCESS;
}

template<std::size_t P> void gslItem(benchmark::State& state) {
    gsl_set_error_handler_off();
    const gsl_multifit_nlinear_parameters settings = gsl_multifit_nlinear_default_parameters();
    gsl_multifit_nlinear_workspace* work = gsl_multifit_nlinear_alloc(gsl_multifit_nlinear_trust, &settings, 16, P);
    gsl_matrix* covariance = gsl_matrix_alloc(P, P);
    gsl_vector* start = gsl_vector_alloc(P);
    std::size_t i = 0;
    for (auto _ : state) {
        const Item& data = set(i++, P == 5);
        gsl_multifit_nlinear_fdf problem{};
        problem.f = residuals<P>;
        problem.df = derivatives<P>;
        problem.n = data.x.size();
        problem.p = P;
        problem.params = const_cast<Item*>(&data); // only read
        gsl_vector_set(start, 0, (data.y[0] + data.y[1]) / 2);
        gsl_vector_set(start, 1, 0);
        gsl_vector_set(start, 2, std::log(data.x[8]));
        gsl_vector_set(start, 3, (data.y[14] + data.y[15]) / 2);
        if (P == 5) {
            gsl_vector_set(start, 4, 0);
        }
        gsl_multifit_nlinear_init(start, &problem, work);
        int info = 0;
        gsl_multifit_nlinear_driver(200, 1e-10, 1e-10, 0, nullptr, nullptr, &info, work);
        gsl_multifit_nlinear_covar(gsl_multifit_nlinear_jac(work), 0, covariance);
        const auto p = parametersOf<P>(gsl_multifit_nlinear_position(work));
        const double s2 =
            std::pow(gsl_blas_dnrm2(gsl_multifit_nlinear_residual(work)), 2) / static_cast<double>(16 - P);
        const std::array<double, 5> inner{1, p.b, p.c, 1, p.g};
        for (const double y : data.responses) {
            const double ratio = std::pow((p.a - p.d) / (y - p.d), 1 / p.g) - 1;
            const double x = p.c * std::pow(ratio, 1 / p.b);
            const auto gradient = nuvat::logisticGradient(p, x);
            double variance = s2;
            for (std::size_t r = 0; r < P; ++r) {
                for (std::size_t c = 0; c < P; ++c) {
                    variance += s2 * gradient[r] * inner[r] * gradient[c] * inner[c] * gsl_matrix_get(covariance, r, c);
                }
            }
            benchmark::DoNotOptimize(std::sqrt(variance) / nuvat::logisticSlope(p, x));
        }
    }
    gsl_vector_free(start);
    gsl_matrix_free(covariance);
    gsl_multifit_nlinear_free(work);
}

/// Coefficients, covariance and sum of squares, as GSL returns them.
template<std::size_t P> void nuvatPolynomial(benchmark::State& state) {
    std::size_t i = 0;
    for (auto _ : state) {
        const auto& data = set(i++, false);
        benchmark::DoNotOptimize(nuvat::fitPolynomial<P>(data.x, data.y));
    }
}

void gslLine(benchmark::State& state) {
    std::size_t i = 0;
    for (auto _ : state) {
        const auto& data = set(i++, false);
        double a = 0, b = 0, aa = 0, ab = 0, bb = 0, sse = 0;
        gsl_fit_linear(data.x.data(), 1, data.y.data(), 1, data.x.size(), &a, &b, &aa, &ab, &bb, &sse);
        benchmark::DoNotOptimize(b);
    }
}

void gslQuadratic(benchmark::State& state) {
    gsl_multifit_linear_workspace* work = gsl_multifit_linear_alloc(16, 3);
    gsl_matrix* design = gsl_matrix_alloc(16, 3);
    gsl_matrix* covariance = gsl_matrix_alloc(3, 3);
    gsl_vector* best = gsl_vector_alloc(3);
    std::size_t i = 0;
    for (auto _ : state) {
        const auto& data = set(i++, false);
        for (std::size_t k = 0; k < 16; ++k) {
            gsl_matrix_set(design, k, 0, 1);
            gsl_matrix_set(design, k, 1, data.x[k]);
            gsl_matrix_set(design, k, 2, data.x[k] * data.x[k]);
        }
        const gsl_vector_const_view y = gsl_vector_const_view_array(data.y.data(), data.y.size());
        double sse = 0;
        gsl_multifit_linear(design, &y.vector, best, covariance, &sse, work);
        benchmark::DoNotOptimize(sse);
    }
    gsl_vector_free(best);
    gsl_matrix_free(covariance);
    gsl_matrix_free(design);
    gsl_multifit_linear_free(work);
}

BENCHMARK(nuvatItem<nuvat::Model::Logistic4>)->Name("hardFourPlItem");
BENCHMARK(gslItem<4>)->Name("hardFourPlItemGsl");
BENCHMARK(nuvatItem<nuvat::Model::Logistic5>)->Name("hardFivePlItem");
BENCHMARK(gslItem<5>)->Name("hardFivePlItemGsl");
BENCHMARK(nuvatPolynomial<2>)->Name("hardLine");
BENCHMARK(gslLine)->Name("hardLineGsl");
BENCHMARK(nuvatPolynomial<3>)->Name("hardQuadratic");
BENCHMARK(gslQuadratic)->Name("hardQuadraticGsl");

} // namespace
