// What follows a change: evaluation of the demo batch (96 wells) and of large plates, and the edit with its transaction
// on disk. A frame at 60 Hz is 16.7 ms.
#include "nuvat/batch/evaluation.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/session.h"
#include "support/large_batch.h"

#include <benchmark/benchmark.h>
#include <filesystem>
#include <malloc.h>

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

/// The same plate several times over, its unknowns going on: plates of the side given, how many.
nuvat::Batch manyPlates(int rows, int columns, int plates) {
    nuvat::Batch batch = nuvat::test::largeBatch(rows, columns).batch;
    const auto first = batch.places;
    const nuvat::Reading pattern = *batch.firstReading(1);
    for (int plate = 2; plate <= plates; ++plate) {
        batch.carriers[plate] = batch.carriers.at(1);
        nuvat::Reading reading = pattern;
        reading.slot.carrier = plate;
        batch.readings[plate] = reading;
        batch.inUse[reading.slot] = plate;
        for (auto [place, assignment] : first) {
            assignment.number += assignment.role == nuvat::Role::Unknown ? rows * columns * plate : 0;
            batch.places[{place.row, place.column, plate}] = assignment;
        }
    }
    return batch;
}

/// What is allocated, in KiB.
double heldKib() {
    const auto info = mallinfo2();
    return static_cast<double>(info.uordblks + info.hblkhd) / 1024;
}

/// One curve over several plates; "KiB" is what batch and evaluation take.
void evaluatePlates(benchmark::State& state) {
    const auto side = static_cast<int>(state.range(0));
    const double before = heldKib();
    const nuvat::Batch batch = manyPlates(side, side * 3 / 2, static_cast<int>(state.range(1)));
    const nuvat::Evaluation held = nuvat::evaluate(batch);
    state.counters["KiB"] = heldKib() - before;
    for (auto _ : state) {
        benchmark::DoNotOptimize(nuvat::evaluate(batch));
    }
}

/// A batch with so many readings of 1536 wells, each other than the rest; 12000 hold a gigabyte.
void copyBatch(benchmark::State& state) {
    nuvat::Batch batch = nuvat::test::largeBatch(32, 48).batch;
    const nuvat::Reading pattern = *batch.firstReading(1);
    nuvat::Grid grid = *pattern.payload.grid();
    for (int key = 2; key <= static_cast<int>(state.range(0)); ++key) {
        grid.wells.front().value = key;
        nuvat::Reading reading = pattern;
        reading.payload = nuvat::Payload::of(grid);
        batch.readings[key] = reading;
    }
    const double before = heldKib();
    const nuvat::Batch kept = batch;
    state.counters["KiB a copy"] = heldKib() - before;
    state.counters["MiB of payloads"] =
        static_cast<double>(state.range(0)) * 1536 * sizeof(nuvat::ReadingWell) / 1048576;
    for (auto _ : state) {
        nuvat::Batch copy = batch;
        benchmark::DoNotOptimize(copy);
    }
}

BENCHMARK(evaluatePlates)->Args({8, 1})->Args({16, 3})->Args({32, 10})->Unit(benchmark::kMillisecond);
BENCHMARK(copyBatch)->Arg(1)->Arg(1000)->Arg(12000)->Unit(benchmark::kMicrosecond);
BENCHMARK(evaluateDemo)->Unit(benchmark::kMicrosecond);
BENCHMARK(evaluateAfterAnExclusion)->Arg(1)->Arg(10)->Unit(benchmark::kMillisecond);
BENCHMARK(evaluationToJson)->Unit(benchmark::kMicrosecond);
BENCHMARK(openToRead)->Unit(benchmark::kMicrosecond);
BENCHMARK(editWithItsTransaction)->Unit(benchmark::kMicrosecond);

} // namespace
