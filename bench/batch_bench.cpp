// What follows a change of the demo batch (96 wells): evaluation, and the edit with its transaction on disk. A frame
// at 60 Hz is 16.7 ms.
#include "nuvat/batch/evaluation.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/session.h"

#include <benchmark/benchmark.h>
#include <filesystem>

namespace {

void evaluateDemo(benchmark::State& state) {
    const auto demo = nuvat::demoBatch({});
    for (auto _ : state) {
        benchmark::DoNotOptimize(nuvat::evaluate(demo->document->batch()));
    }
}

void evaluationToJson(benchmark::State& state) {
    const auto demo = nuvat::demoBatch({});
    const auto evaluation = nuvat::evaluate(demo->document->batch());
    for (auto _ : state) {
        benchmark::DoNotOptimize(nuvat::evaluationJson(demo->document->batch(), evaluation));
    }
}

void editWithItsTransaction(benchmark::State& state) {
    const auto path = std::filesystem::temp_directory_path() / "nuvat-bench.nuvat";
    auto demo = nuvat::demoBatch(path);
    bool on = false;
    for (auto _ : state) {
        nuvat::Method method = demo->document->batch().method;
        method.analyte().fit.weighting = on ? nuvat::Weighting::None : nuvat::Weighting::InverseY2;
        on = !on;
        benchmark::DoNotOptimize(demo->document->apply(nuvat::setMethod(demo->document->batch(), method)));
    }
    std::filesystem::remove(path);
}

BENCHMARK(evaluateDemo)->Unit(benchmark::kMicrosecond);
BENCHMARK(evaluationToJson)->Unit(benchmark::kMicrosecond);
BENCHMARK(editWithItsTransaction)->Unit(benchmark::kMicrosecond);

} // namespace
