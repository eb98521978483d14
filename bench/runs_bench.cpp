// A long list of runs with many analytes: opening its file, measuring every trace again after a rule changed, a line
// dragged on one trace, an exclusion, and what all of it keeps in memory. Targets: docs/performance.md.
#include "nuvat/batch/evaluation.h"
#include "nuvat/store/batch_file.h"
#include "nuvat/workflow/session.h"
#include "support/large_runs.h"

#include <benchmark/benchmark.h>
#include <fstream>
#include <unistd.h>

namespace {

using namespace nuvat;

/// Bytes that the process holds.
double residentBytes() {
    std::ifstream statm("/proc/self/statm");
    double pages = 0, resident = 0;
    statm >> pages >> resident;
    return resident * static_cast<double>(::sysconf(_SC_PAGESIZE));
}

/// Runs and points of a row of the table; analytes and channels are the same in all: 24 of 2.
constexpr int kAnalytes = 24;
double rawBytes(const benchmark::State& state) {
    return 8.0 * 2 * kAnalytes * static_cast<double>(state.range(0)) * static_cast<double>(state.range(1));
}

std::filesystem::path fileOf(const benchmark::State& state) {
    const auto path = std::filesystem::temp_directory_path() /
                      ("runs-bench-" + std::to_string(state.range(0)) + "-" + std::to_string(::getpid()) + ".nuvat");
    if (!std::filesystem::exists(path)) {
        const auto written = BatchFile::write(
            path, test::largeRuns(static_cast<int>(state.range(0)), kAnalytes, static_cast<int>(state.range(1))));
        if (!written) {
            throw std::runtime_error(written.error().text());
        }
    }
    return path;
}

/// Removes the file when the process ends.
struct Files {
    std::filesystem::path path;
    ~Files() { std::filesystem::remove(path); }
};
const std::filesystem::path& keptFile(const benchmark::State& state) {
    static Files files;
    if (const auto path = fileOf(state); path != files.path) {
        std::filesystem::remove(files.path);
        files.path = path;
    }
    return files.path;
}

void openFile(benchmark::State& state) {
    const auto& path = keptFile(state);
    for (auto _ : state) {
        const auto open = openBatch(path);
        benchmark::DoNotOptimize(open->document.get());
    }
}

/// Opened, measured, and then each time measured again on two processors.
void measureAllAgain(benchmark::State& state) {
    const auto open = openBatch(keptFile(state));
    Batch batch = open->document->batch();
    const double before = residentBytes();
    Evaluator evaluator(2);
    (void)evaluator.evaluate(batch);
    double height = 8;
    for (auto _ : state) {
        height = height == 8 ? 9 : 8;
        Method method = batch.method;
        for (const std::string& channel : batch.channels()) {
            method.signalRules[channel].peaks.leastHeight.value = height;
        }
        applyChanges(batch, *setMethod(batch, method), false);
        benchmark::DoNotOptimize(evaluator.evaluate(batch));
    }
    state.counters["memory_by_raw"] = (residentBytes() - before) / rawBytes(state);
    state.counters["by_sample"] = benchmark::Counter(
        rawBytes(state) / 8, benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}

void lineOnOneTrace(benchmark::State& state) {
    const auto open = openBatch(keptFile(state));
    Batch batch = open->document->batch();
    Evaluator evaluator(2);
    (void)evaluator.evaluate(batch);
    const Slot slot{1, Place{17, 0}, "Analyte 5 a"};
    double y = 41;
    for (auto _ : state) {
        y += 0.001;
        applyChanges(batch, *drawOn(batch, {slot}, {{PeakEditKind::Line, 1, 3.6, 3.9, y, y}, "", 0}), false);
        benchmark::DoNotOptimize(evaluator.evaluate(batch));
    }
}

void excludeOneRun(benchmark::State& state) {
    const auto open = openBatch(keptFile(state));
    Batch batch = open->document->batch();
    Evaluator evaluator(2);
    (void)evaluator.evaluate(batch);
    int row = 20;
    for (auto _ : state) {
        row = row == 400 ? 20 : row + 1;
        batch.exclusions = {{ExclusionKey{Place{row % static_cast<int>(state.range(0)), 0}, 3}, {"spilt", 0}}};
        benchmark::DoNotOptimize(evaluator.evaluate(batch));
    }
}

void sizes(benchmark::internal::Benchmark* bench) {
    bench->Args({60, 600})->Args({500, 3000})->Unit(benchmark::kMillisecond)->UseRealTime();
}
BENCHMARK(openFile)->Apply(sizes);
BENCHMARK(measureAllAgain)->Apply(sizes);
BENCHMARK(lineOnOneTrace)->Apply(sizes);
BENCHMARK(excludeOneRun)->Apply(sizes);

} // namespace
