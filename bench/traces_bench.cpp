// Finding and measuring peaks against the time to look at the samples once; a batch of runs after a rule changed; one
// trace after a line was dragged. Targets: docs/performance.md.
#include "nuvat/batch/document.h"
#include "nuvat/batch/evaluation.h"

#include <benchmark/benchmark.h>
#include <cmath>
#include <numeric>
#include <random>

namespace {

/// Peaks every 200 samples on a ground that drifts.
nuvat::Trace trace(std::size_t points, unsigned seed) {
    nuvat::Trace out{"time", "min", "signal", "mV", 0, 0.005, {}, {}, {}};
    std::mt19937 random(seed);
    std::normal_distribution<double> noise(0, 0.05);
    for (std::size_t i = 0; i < points; ++i) {
        const double z = (static_cast<double>(i % 400) - 200) / 9;
        out.y.push_back(5 + 2 * std::sin(static_cast<double>(i) / 4000) + 40 * std::exp(-z * z / 2) + noise(random));
    }
    return out;
}

void sumSamples(benchmark::State& state) {
    const nuvat::Trace one = trace(static_cast<std::size_t>(state.range(0)), 1);
    for (auto _ : state) {
        benchmark::DoNotOptimize(std::accumulate(one.y.begin(), one.y.end(), 0.0));
    }
}

void measureOne(benchmark::State& state) {
    const auto [x, y] = trace(static_cast<std::size_t>(state.range(0)), 1).points();
    nuvat::PeakRules rules;
    rules.hasShoulders = state.range(1) == 1;
    std::size_t peaks = 0;
    for (auto _ : state) {
        const auto found = nuvat::measurePeaks(x, y, rules);
        peaks = found->peaks.size();
    }
    state.counters["peaks"] = static_cast<double>(peaks);
}

nuvat::Batch batchOf(int runs, std::size_t points) {
    std::vector<nuvat::ImportedRun> imported;
    for (int i = 0; i < runs; ++i) {
        imported.push_back({"run.csv",
                            "",
                            "run",
                            "text",
                            {{"signal", nuvat::Payload::of(trace(points, static_cast<unsigned>(i) + 1))}}});
    }
    nuvat::Batch batch;
    applyChanges(batch, *importRuns(batch, imported, 0), false);
    return batch;
}

/// Every run measured again, because a rule for all of them changed.
void measureBatchAgain(benchmark::State& state) {
    nuvat::Batch batch = batchOf(static_cast<int>(state.range(0)), 12'000);
    const auto processors = static_cast<unsigned>(state.range(1));
    nuvat::Evaluator evaluator(processors);
    (void)evaluator.evaluate(batch);
    double height = 8;
    for (auto _ : state) {
        nuvat::SignalRule rule;
        rule.peaks.leastHeight.value = height = height == 8 ? 9 : 8;
        applyChanges(batch, *setSignal(batch, "signal", rule), false);
        benchmark::DoNotOptimize(evaluator.evaluate(batch));
    }
}

/// A line dragged on one of many runs: one trace is measured, the others stay.
void measureAfterALine(benchmark::State& state) {
    nuvat::Batch batch = batchOf(200, 12'000);
    nuvat::Evaluator evaluator(1);
    (void)evaluator.evaluate(batch);
    const nuvat::Slot slot{1, nuvat::Place{17, 0}, "signal"};
    double y = 4;
    for (auto _ : state) {
        y += 0.001;
        applyChanges(batch, *drawOn(batch, {slot}, {{nuvat::PeakEditKind::Line, 1, 0.7, 1.3, y, y}, "", 0}), false);
        benchmark::DoNotOptimize(evaluator.evaluate(batch));
    }
}

BENCHMARK(sumSamples)->Arg(60'000)->Unit(benchmark::kMicrosecond);
BENCHMARK(measureOne)->Args({60'000, 0})->Args({60'000, 1})->Unit(benchmark::kMicrosecond);
BENCHMARK(measureBatchAgain)->Args({200, 1})->Args({200, 2})->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(measureAfterALine)->Unit(benchmark::kMillisecond);

} // namespace
