// Fits as an analyst needs them: 8 levels in duplicate. Read the ratios, not the times: the floor is the exponentials
// that a grid of starts needs at the least.
#include "logistic4.h"
#include "nuvat/core/fit/read_off.h"

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
            const nuvat::Logistic4Parameters truth{2 + uniform(random), 0.8 + uniform(random),
                                                   std::pow(10, 0.5 + 1.5 * uniform(random)), 0.1};
            Data data;
            for (int level = 0; level < 8; ++level) {
                for (int replicate = 0; replicate < 2; ++replicate) {
                    const double x = 500 / std::pow(3.0, level);
                    data.x.push_back(x);
                    data.y.push_back(nuvat::logistic4Response(truth, x) * (1 + 0.03 * normal(random)));
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

void readOffsWithInterval(benchmark::State& state) {
    const Data& data = dataSets().front();
    const nuvat::Fit curve =
        nuvat::fitCalibration(nuvat::Model::Logistic4, nuvat::Weighting::InverseY2, data.x, data.y);
    for (auto _ : state) {
        for (int k = 0; k < 80; ++k) {
            benchmark::DoNotOptimize(nuvat::readOff(curve, 0.3 + 0.02 * k));
        }
    }
}

BENCHMARK(floorOfExponentials);
BENCHMARK(fit<nuvat::Model::Line, nuvat::Weighting::None>)->Name("line");
BENCHMARK(fit<nuvat::Model::Line, nuvat::Weighting::InverseX2>)->Name("weightedLine");
BENCHMARK(fit<nuvat::Model::Logistic4, nuvat::Weighting::None>)->Name("fourPl");
BENCHMARK(fit<nuvat::Model::Logistic4, nuvat::Weighting::InverseY2>)->Name("fourPlWeighted");
BENCHMARK(readOffsWithInterval)->Name("readOffs80");

} // namespace
