// The scatter of unknowns: do 95 % intervals hold the truth, and how often is a sample of an honest batch sent to
// review? Whole batches are simulated and evaluated: 7 standards in duplicate on a 4PL, 24 samples in duplicate over
// its middle. Cases: samples scatter as the standards do; twice as much; one sample ten times as much (it should be
// found). `scatter_study [batches]`, 1000 unless said otherwise. The table in docs/methods/calibration.md is made by
// it.
#include "logistic.h"
#include "nuvat/batch/evaluation.h"

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <random>

namespace {

using namespace nuvat;

constexpr int kSamples = 24;

struct Case {
    const char* title;
    double sampleCv;
    double oddCv; ///< of the first sample
};

Batch layout() {
    Batch batch;
    Reading reading;
    reading.payload = Payload::of({8, 12, std::vector<ReadingWell>(96)});
    batch.readings[1] = reading;
    batch.inUse[reading.slot] = 1;
    batch.method.subtractsBlank = false;
    for (int level = 1; level <= 7; ++level) {
        batch.levels[level] = {500 / std::pow(3.0, level - 1)};
    }
    for (int i = 0; i < 7 + kSamples; ++i) {
        for (int replicate = 0; replicate < 2; ++replicate) {
            const int at = 2 * i + replicate;
            batch.places[{at / 12, at % 12}] =
                i < 7 ? Assignment{Role::Standard, i + 1} : Assignment{Role::Unknown, i - 6};
        }
    }
    return batch;
}

double truthOf(int sample) {
    return 3 * std::pow(120.0 / 3, static_cast<double>(sample) / (kSamples - 1));
}

} // namespace

int main(int argc, char** argv) {
    const int batches = argc > 1 ? std::atoi(argv[1]) : 1000;
    constexpr double kStandardCv = 0.04;
    bool isGood = true;
    std::printf("%-34s %-8s %10s %18s %14s\n", "case", "scatter", "coverage", "batches to review", "odd one found");
    for (const Case& one : {Case{"as the standards", kStandardCv, kStandardCv},
                            Case{"twice the standards", 2 * kStandardCv, 2 * kStandardCv},
                            Case{"one sample of 40 % CV", kStandardCv, 10 * kStandardCv}}) {
        for (const ScatterFrom from : {ScatterFrom::Batch, ScatterFrom::Curve, ScatterFrom::Sample}) {
            std::mt19937_64 random(20261128);
            std::normal_distribution<double> normal;
            Batch batch = layout();
            batch.method.analyte().scatter = from;
            long held = 0;
            long counted = 0;
            long reviewed = 0;
            long found = 0;
            for (int round = 0; round < batches; ++round) {
                Grid grid{8, 12, std::vector<ReadingWell>(96)};
                for (auto& [place, assignment] : batch.places) {
                    const bool isStandard = assignment.role == Role::Standard;
                    const double x =
                        isStandard ? *batch.concentration(assignment.number) : truthOf(assignment.number - 1);
                    const double cv = isStandard ? kStandardCv : assignment.number == 1 ? one.oddCv : one.sampleCv;
                    const double y = logisticResponse({2.3, 1.1, 20, 0.08, 1}, x);
                    grid.wells[static_cast<std::size_t>(12 * place.row + place.column)].value =
                        y * (1 + cv * normal(random));
                }
                Reading reading;
                reading.payload = Payload::of(std::move(grid));
                batch.readings.at(1) = reading;
                const AnalyteEvaluation e = evaluateAnalyte(batch);
                bool isAny = false;
                for (const SampleResult& r : e.results) {
                    const bool isOdd = r.group.number == 1 && one.oddCv != one.sampleCv;
                    const bool needsReview = r.scatter && r.scatter->needsReview;
                    isAny = isAny || (needsReview && !isOdd);
                    found += isOdd && needsReview ? 1 : 0;
                    if (r.readOff.low && r.readOff.high && !isOdd) {
                        const double truth = truthOf(r.group.number - 1);
                        held += *r.readOff.low <= truth && truth <= *r.readOff.high ? 1 : 0;
                        ++counted;
                    }
                }
                reviewed += isAny ? 1 : 0;
            }
            const double coverage = 100.0 * static_cast<double>(held) / static_cast<double>(counted);
            const double alarms = 100.0 * static_cast<double>(reviewed) / batches;
            std::printf("%-34s %-8s %8.2f %% %15.1f %% %12.1f %%\n", one.title, std::string(name(from)).c_str(),
                        coverage, alarms, 100.0 * static_cast<double>(found) / batches);
            std::fflush(stdout);
            const bool isDefault = from == ScatterFrom::Batch;
            isGood = isGood && (!isDefault || (coverage > 93.5 && coverage < 97 && alarms < 7));
        }
    }
    return isGood ? 0 : 1;
}
