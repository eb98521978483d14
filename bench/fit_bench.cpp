// Fits as an analyst needs them: 8 levels in duplicate. Read the ratios, not the times: the floor is the exponentials
// that a grid of starts needs at the least.
#include "logistic.h"
#include "nuvat/core/fit/polynomial_fit.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/stats/distributions.h"

#include <array>
#include <benchmark/benchmark.h>
#include <cmath>
#include <random>

namespace {

struct Data {
    std::vector<double> x, y;
};

const std::vector<Data>& dataSets() {
    static const std::vector<Data> sets = [] {
        std::vector<Data> out;
        std::mt19937 random(11);
        std::normal_distribution<double> normal;
        std::uniform_real_distribution<double> uniform(0, 1);
        for (int set = 0; set < 200; ++set) {
            const nuvat::LogisticParameters truth{2 + uniform(random), 0.8 + uniform(random),
                                                  std::pow(10, 0.5 + 1.5 * uniform(random)), 0.1};
            Data data;
            for (int level = 0; level < 8; ++level) {
                for (int replicate = 0; replicate < 2; ++replicate) {
                    const double x = 500 / std::pow(3.0, level);
                    data.x.push_back(x);
                    data.y.push_back(nuvat::logisticResponse(truth, x) * (1 + 0.03 * normal(random)));
                }
            }
            out.push_back(data);
        }
        return out;
    }();
    return sets;
}

template<nuvat::Model model, nuvat::Weighting weighting> void fit(benchmark::State& state) {
    std::size_t i = 0;
    for (auto _ : state) {
        const Data& data = dataSets()[i++ % dataSets().size()];
        benchmark::DoNotOptimize(nuvat::fitCalibration(model, weighting, data.x, data.y));
    }
}

/// Coefficients with their covariance and nothing else.
template<std::size_t P> void estimate(benchmark::State& state) {
    std::size_t i = 0;
    for (auto _ : state) {
        const Data& data = dataSets()[i++ % dataSets().size()];
        benchmark::DoNotOptimize(nuvat::fitPolynomial<P>(data.x, data.y));
    }
}

void floorOfExponentials(benchmark::State& state) {
    std::size_t i = 0;
    for (auto _ : state) {
        double sum = 0;
        for (int k = 0; k < 16 * 16; ++k) { // 16 evaluations of 16 points
            sum += std::exp(dataSets()[i % dataSets().size()].y[static_cast<std::size_t>(k % 16)] - 1e-3 * k);
        }
        ++i;
        benchmark::DoNotOptimize(sum);
    }
}

/// What a plate asks for: a fit with covariance and 40 samples in duplicate read off with SE and limits.
template<nuvat::Model model> void plateItem(benchmark::State& state) {
    std::size_t i = 0;
    for (auto _ : state) {
        const Data& data = dataSets()[i++ % dataSets().size()];
        const nuvat::Fit curve = nuvat::fitCalibration(model, nuvat::Weighting::None, data.x, data.y);
        if (!curve.isUsable()) {
            continue;
        }
        nuvat::ReadOffOptions options;
        options.factor = nuvat::studentFactor(0.95, curve.df);
        std::array<double, 80> responses{};
        for (std::size_t k = 0; k < responses.size(); ++k) {
            responses[k] = 0.3 + 0.02 * static_cast<double>(k);
        }
        benchmark::DoNotOptimize(nuvat::readOffs(curve, responses, options));
    }
}

void readOffsWithInterval(benchmark::State& state, nuvat::IntervalMethod method) {
    const Data& data = dataSets().front();
    const nuvat::Fit curve =
        nuvat::fitCalibration(nuvat::Model::Logistic4, nuvat::Weighting::InverseY2, data.x, data.y);
    nuvat::ReadOffOptions options;
    options.interval = method;
    options.factor = nuvat::studentFactor(0.95, curve.df);
    if (method == nuvat::IntervalMethod::Bootstrap) {
        options.bootstrap = nuvat::simulateCurves(curve, options);
    }
    int k = 0;
    for (auto _ : state) {
        benchmark::DoNotOptimize(nuvat::readOff(curve, 0.3 + 0.02 * (k++ % 80), options));
    }
}

void bootstrapCurves(benchmark::State& state) {
    const Data& data = dataSets().front();
    const nuvat::Fit curve =
        nuvat::fitCalibration(nuvat::Model::Logistic4, nuvat::Weighting::InverseY2, data.x, data.y);
    for (auto _ : state) {
        benchmark::DoNotOptimize(nuvat::simulateCurves(curve, {}));
    }
}

BENCHMARK(floorOfExponentials);
BENCHMARK(estimate<2>)->Name("lineEstimate");
BENCHMARK(estimate<3>)->Name("quadraticEstimate");
BENCHMARK(fit<nuvat::Model::Line, nuvat::Weighting::None>)->Name("line");
BENCHMARK(fit<nuvat::Model::Line, nuvat::Weighting::InverseX2>)->Name("weightedLine");
BENCHMARK(fit<nuvat::Model::Logistic4, nuvat::Weighting::None>)->Name("fourPl");
BENCHMARK(fit<nuvat::Model::Logistic4, nuvat::Weighting::InverseY2>)->Name("fourPlWeighted");
BENCHMARK(fit<nuvat::Model::Logistic5, nuvat::Weighting::None>)->Name("fivePl");
BENCHMARK(plateItem<nuvat::Model::Logistic4>)->Name("fourPlItem");
BENCHMARK(plateItem<nuvat::Model::Logistic5>)->Name("fivePlItem");
BENCHMARK(fit<nuvat::Model::Quadratic, nuvat::Weighting::None>)->Name("quadratic");
BENCHMARK_CAPTURE(readOffsWithInterval, propagation, nuvat::IntervalMethod::Propagation)->Name("readOff");
BENCHMARK_CAPTURE(readOffsWithInterval, inversion, nuvat::IntervalMethod::Inversion)->Name("readOffInversion");
BENCHMARK_CAPTURE(readOffsWithInterval, profile, nuvat::IntervalMethod::Profile)->Name("readOffProfile");
BENCHMARK_CAPTURE(readOffsWithInterval, bootstrap, nuvat::IntervalMethod::Bootstrap)->Name("readOffBootstrap2000");
BENCHMARK(bootstrapCurves)->Name("bootstrapCurves2000");

} // namespace
