// What follows a change: evaluation of the demo batch (96 wells) and of large plates, and the edit with its transaction
// on disk. A frame at 60 Hz is 16.7 ms.
#include "nuvat/batch/evaluation.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/session.h"
#include "support/large_batch.h"

#include <benchmark/benchmark.h>
#include <filesystem>

namespace {

void evaluateDemo(benchmark::State& state) {
    const auto demo = nuvat::demoBatch({});
    for (auto _ : state) {
        benchmark::DoNotOptimize(nuvat::evaluate(demo->document->batch()));
    }
}

/// One well left out and taken in again, on a plate of 1536 wells; the argument is the number of analytes.
void evaluateAfterAnExclusion(benchmark::State& state) {
    nuvat::Document document(nuvat::test::largeBatch(32, 48, static_cast<int>(state.range(0))));
    nuvat::Evaluator evaluator;
    (void)evaluator.evaluate(document.batch());
    bool isOut = false;
    for (auto _ : state) {
        (void)document.apply(isOut ? nuvat::restorePlaces(document.batch(), {{5, 20}})
                                   : nuvat::excludePlaces(document.batch(), {{5, 20}}, "bubble", 1));
        isOut = !isOut;
        benchmark::DoNotOptimize(evaluator.evaluate(document.batch()));
    }
}

void evaluationToJson(benchmark::State& state) {
    const auto demo = nuvat::demoBatch({});
    const auto evaluation = nuvat::evaluate(demo->document->batch());
    for (auto _ : state) {
        benchmark::DoNotOptimize(nuvat::evaluationJson(demo->document->batch(), evaluation));
    }
}

void openToRead(benchmark::State& state) {
    const auto path = std::filesystem::temp_directory_path() / "nuvat-bench-open.nuvat";
    { const auto made = nuvat::demoBatch(path); }
    for (auto _ : state) {
        benchmark::DoNotOptimize(nuvat::readBatchFile(path));
    }
    std::filesystem::remove(path);
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
BENCHMARK(evaluateAfterAnExclusion)->Arg(1)->Arg(10)->Unit(benchmark::kMillisecond);
BENCHMARK(evaluationToJson)->Unit(benchmark::kMicrosecond);
BENCHMARK(openToRead)->Unit(benchmark::kMicrosecond);
BENCHMARK(editWithItsTransaction)->Unit(benchmark::kMicrosecond);

} // namespace
