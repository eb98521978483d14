// Blanks of several plates: do 95 % intervals hold the truth when samples lie on another plate than the standards, each
// plate with an offset and blanks of its own? Two plates, three blanks each, scatter of the blanks as that of a reading
// at zero; standards on plate 1 or on both; a straight line, with a free intercept and through the origin. Columns: the
// blank's share as the program counts it, and left out. `blank_study [batches]`, 2000 unless said otherwise. The table
// in docs/decisions/0012-blanks-of-several-carriers.md is made by it.
#include "nuvat/batch/evaluation.h"

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <random>

namespace {

using namespace nuvat;

constexpr int kSamples = 12; // a plate, in duplicate
constexpr int kLevels = 7;

void place(Batch& batch, int carrier, int& at, Assignment assignment, int replicates) {
    for (int i = 0; i < replicates; ++i, ++at) {
        batch.places[{at / 12, at % 12, carrier}] = assignment;
    }
}

Batch layout(bool standardsOnBoth, Model model) {
    Batch batch;
    batch.carriers[2] = Carrier{};
    batch.method.analyte().fit = {.model = model};
    for (int carrier = 1; carrier <= 2; ++carrier) {
        int at = 0;
        for (int level = 1; level <= kLevels && (carrier == 1 || standardsOnBoth); ++level) {
            batch.levels[level] = {static_cast<double>(level)};
            place(batch, carrier, at, {Role::Standard, level}, 2);
        }
        place(batch, carrier, at, {Role::Blank, 0}, 3);
        for (int sample = 1; sample <= kSamples; ++sample) {
            place(batch, carrier, at, {Role::Unknown, (carrier - 1) * kSamples + sample}, 2);
        }
    }
    return batch;
}

double truthOf(int sample) {
    return 1.5 + 5.0 * ((sample - 1) % kSamples) / (kSamples - 1);
}

void read(Batch& batch, std::mt19937_64& random) {
    std::normal_distribution<double> noise(0, 0.02);
    for (int carrier = 1; carrier <= 2; ++carrier) {
        const double offset = 0.08 + 0.05 * noise(random) / 0.02;
        Grid grid{8, 12, std::vector<ReadingWell>(96)};
        for (const auto& [at, assignment] : batch.places) {
            if (at.carrier == carrier) {
                const double x = assignment.role == Role::Standard  ? *batch.concentration(assignment.number)
                                 : assignment.role == Role::Unknown ? truthOf(assignment.number)
                                                                    : 0;
                grid.wells[static_cast<std::size_t>(12 * at.row + at.column)].value = offset + 0.3 * x + noise(random);
            }
        }
        Reading reading;
        reading.slot.carrier = carrier;
        reading.payload = Payload::of(std::move(grid));
        batch.readings[carrier] = reading;
        batch.inUse[reading.slot] = carrier;
    }
}

/// Coverage of the samples of plate 2, in percent.
double coverage(bool standardsOnBoth, Model model, bool counts, int batches) {
    Batch batch = layout(standardsOnBoth, model);
    batch.method.blankEntersInterval = counts;
    std::mt19937_64 random(20261128);
    long held = 0;
    long counted = 0;
    for (int round = 0; round < batches; ++round) {
        read(batch, random);
        const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
        for (const SampleResult& r : evaluation.results) {
            if (r.group.number > kSamples && r.readOff.low && r.readOff.high) {
                const double truth = truthOf(r.group.number);
                held += *r.readOff.low <= truth && truth <= *r.readOff.high ? 1 : 0;
                ++counted;
            }
        }
    }
    return 100.0 * static_cast<double>(held) / static_cast<double>(counted);
}

} // namespace

int main(int argc, char** argv) {
    const int batches = argc > 1 ? std::atoi(argv[1]) : 2000;
    bool isGood = true;
    std::printf("%-20s %-20s %10s %10s\n", "standards", "model", "counted", "left out");
    for (const bool onBoth : {false, true}) {
        for (const Model model : {Model::Line, Model::LineThroughOrigin}) {
            const double counted = coverage(onBoth, model, true, batches);
            std::printf("%-20s %-20s %8.2f %% %8.2f %%\n", onBoth ? "on both plates" : "on plate 1",
                        std::string(name(model)).c_str(), counted, coverage(onBoth, model, false, batches));
            isGood = isGood && counted > 93 && counted < 97;
        }
    }
    return isGood ? 0 : 1;
}
