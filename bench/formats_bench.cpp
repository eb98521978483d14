// Reading a plate against the time to look at each of its bytes once.
#include "nuvat/formats/plate_file.h"

#include <algorithm>
#include <benchmark/benchmark.h>
#include <sstream>

namespace {

std::string plate1536() {
    std::string text;
    for (int column = 1; column <= 48; ++column) {
        text += ";" + std::to_string(column);
    }
    for (int row = 0; row < 32; ++row) {
        text += "\n" + (row < 26 ? std::string(1, static_cast<char>('A' + row))
                                 : "A" + std::string(1, static_cast<char>('A' + row - 26)));
        for (int column = 0; column < 48; ++column) {
            text += ";" + std::to_string(row) + "." + std::to_string(100 + column);
        }
    }
    return text;
}

void scanNewlines(benchmark::State& state) {
    const std::string text = plate1536();
    for (auto _ : state) {
        benchmark::DoNotOptimize(std::count(text.begin(), text.end(), '\n'));
    }
    state.SetBytesProcessed(static_cast<std::int64_t>(state.iterations() * static_cast<std::int64_t>(text.size())));
}

void readPlateOf1536Wells(benchmark::State& state) {
    const std::string text = plate1536();
    nuvat::NoProgress progress;
    for (auto _ : state) {
        std::istringstream stream(text);
        benchmark::DoNotOptimize(nuvat::readPlate(stream, "plate", progress));
    }
    state.SetBytesProcessed(static_cast<std::int64_t>(state.iterations() * static_cast<std::int64_t>(text.size())));
}

BENCHMARK(scanNewlines);
BENCHMARK(readPlateOf1536Wells);

} // namespace
