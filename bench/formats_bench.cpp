// Reading a plate and a long table against the time to look at each of their bytes once.
#include "nuvat/formats/column_table.h"
#include "nuvat/formats/plate_file.h"

#include <algorithm>
#include <array>
#include <benchmark/benchmark.h>
#include <charconv>
#include <random>
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

/// A million lines of two numbers, as a trace is exported.
const std::string& millionLines() {
    static const std::string text = [] {
        std::string out = "x,y\n";
        std::mt19937 random(3);
        std::uniform_real_distribution<double> uniform(0, 3);
        std::array<char, 64> line{};
        for (int i = 0; i < 1'000'000; ++i) {
            auto end = std::to_chars(line.data(), line.data() + 32, 0.01 * i, std::chars_format::fixed, 4).ptr;
            *end++ = ',';
            end = std::to_chars(end, line.data() + 63, uniform(random), std::chars_format::fixed, 6).ptr;
            *end++ = '\n';
            out.append(line.data(), end);
        }
        return out;
    }();
    return text;
}

/// Finds the end of every line, one after the other, as a reader of lines has to.
void findLinesOfMillion(benchmark::State& state) {
    const std::string& text = millionLines();
    for (auto _ : state) {
        std::size_t lines = 0;
        for (std::size_t at = text.find('\n'); at != std::string::npos; at = text.find('\n', at + 1)) {
            ++lines;
        }
        benchmark::DoNotOptimize(lines);
    }
}

void readMillionLinesOfTwoColumns(benchmark::State& state) {
    std::istringstream stream(millionLines());
    nuvat::NoProgress progress;
    for (auto _ : state) {
        stream.clear();
        stream.seekg(0);
        benchmark::DoNotOptimize(nuvat::ColumnTable::read(stream, "columns", progress, {1u << 30, 50'000'000}));
    }
}

BENCHMARK(findLinesOfMillion)->Unit(benchmark::kMillisecond);
BENCHMARK(readMillionLinesOfTwoColumns)->Unit(benchmark::kMillisecond)->MeasureProcessCPUTime()->UseRealTime();
BENCHMARK(scanNewlines);
BENCHMARK(readPlateOf1536Wells);

} // namespace
