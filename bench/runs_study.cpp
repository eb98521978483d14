// Batches of chromatograms with known contents: how often does the 95 % interval of a result hold the truth when the
// detector drifts, a run leaves something in the next one, the matrix weakens the signal, or another peak stands beside
// the analyte's? Whole traces are made, integrated and evaluated: six levels in duplicate before, between and after two
// stretches of six samples in duplicate, a rinse blank after the highest level. `runs_study [batches]`, 850 unless said
// otherwise. The table in docs/methods/peaks.md is made by it.
#include "nuvat/batch/command.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/core/signal/synthetic.h"

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <random>

namespace {

using namespace nuvat;

constexpr int kSamples = 12;
constexpr int kLevels = 6;

struct Case {
    const char* title;
    bool hasInternal = true;
    CurveOf curve = CurveOf::Batch;
    double drift = 0;       ///< share of the sensitivity that goes from the first run to the last
    double suppression = 0; ///< SD of the logarithm of each run's own
    double carryOver = 0;   ///< share of each run that is left in the next
    double resolution = 0;  ///< to another peak, half to twice as high; 0: there is none
};

struct Injection {
    Role role;
    int number;
    double content;
};

std::vector<Injection> injections(std::mt19937_64& random) {
    std::vector<Injection> out{{Role::Blank, 0, 0}};
    const auto standards = [&out] {
        for (int level = 1; level <= kLevels; ++level) {
            const double content = std::pow(50.0, (level - 1.0) / (kLevels - 1)); // 1 to 50
            out.push_back({Role::Standard, level, content});
            out.push_back({Role::Standard, level, content});
        }
        out.push_back({Role::Blank, 0, 0});
    };
    standards();
    std::uniform_real_distribution<double> place(std::log(1.6), std::log(36));
    for (int sample = 1; sample <= kSamples; ++sample) {
        if (sample == kSamples / 2 + 1) {
            standards();
        }
        const double content = std::exp(place(random));
        out.push_back({Role::Unknown, sample, content});
        out.push_back({Role::Unknown, sample, content});
    }
    standards();
    return out;
}

Trace traceOf(const Case& what, double analyte, double internal, double shift, std::mt19937_64& random) {
    constexpr double kStep = 0.01, kSigma = 0.05, kTail = 0.015, kNoise = 0.03, kHeight = 4;
    std::normal_distribution<double> normal;
    std::uniform_real_distribution<double> height(0.5, 2);
    std::vector<SyntheticPeak> peaks{{2 + shift, kSigma, kHeight * analyte, kTail},
                                     {3.2 + shift, kSigma, kHeight * internal, kTail}};
    if (what.resolution > 0) {
        peaks.push_back({2 + shift + 4 * kSigma * what.resolution, kSigma, kHeight * analyte * height(random), kTail});
    }
    Trace out{"Time", "min", "Signal", "mV", 0, kStep, {}, {}, {}};
    for (int i = 0; i <= 420; ++i) {
        out.y.push_back(12 + 0.2 * kStep * i + syntheticSignal(peaks, kStep * i) + kNoise * normal(random));
    }
    return out;
}

void giveMethod(const Case& what, Batch& batch) {
    Analyte analyte;
    analyte.name = "analyte";
    analyte.fit = {.model = Model::Line, .weighting = Weighting::InverseX2};
    analyte.isConcentrationLogarithmic = false;
    analyte.source = {PeakRule{.channel = "signal", .expected = 2, .window = 0.1}, what.curve};
    analyte.internal.analyte = what.hasInternal ? 2 : 0;
    Analyte internal;
    internal.name = "internal standard";
    internal.addedConcentration = 10;
    internal.source.rule = PeakRule{.channel = "signal", .expected = 3.2, .window = 0.1};
    batch.method.analytes = {analyte};
    if (what.hasInternal) {
        batch.method.analytes.push_back(internal);
    }
    batch.method.subtractsBlank = false;
    batch.method.limits.levelsAtLeast = 4;
}

struct Counts {
    long held = 0, counted = 0, missing = 0;
    double recovery = 0;
};

void runBatch(const Case& what, std::mt19937_64& random, Counts& counts) {
    std::normal_distribution<double> normal;
    const auto runs = injections(random);
    std::vector<ImportedRun> imported;
    std::vector<double> truth(kSamples + 1);
    double left = 0, leftInternal = 0;
    for (std::size_t i = 0; i < runs.size(); ++i) {
        const bool isSample = runs[i].role == Role::Unknown;
        // The volume injected scatters, and what is done to the run: the internal standard sees both.
        const double own = (1 + 0.03 * normal(random)) *
                           (1 - what.drift * static_cast<double>(i) / static_cast<double>(runs.size())) *
                           (isSample ? std::exp(what.suppression * normal(random)) : 1);
        const double analyte = runs[i].content * own * (1 + 0.02 * normal(random)) + left;
        const double internal = 10 * own * (1 + 0.01 * normal(random)) + leftInternal;
        left = what.carryOver * analyte;
        leftInternal = what.carryOver * internal;
        imported.push_back(
            {"run.csv",
             "",
             "run",
             "text",
             {{"signal", Payload::of(traceOf(what, analyte, internal, 0.004 * normal(random), random))}}});
        if (isSample) {
            truth[static_cast<std::size_t>(runs[i].number)] = runs[i].content;
        }
    }
    Batch batch;
    applyChanges(batch, *importRuns(batch, imported, 0), false);
    giveMethod(what, batch);
    for (std::size_t i = 0; i < runs.size(); ++i) {
        batch.places[{static_cast<int>(i), 0}] = {runs[i].role, runs[i].number};
        if (runs[i].role == Role::Standard) {
            batch.levels[runs[i].number] = {runs[i].content};
        }
    }
    const Evaluation evaluation = evaluate(batch);
    for (const AnalyteEvaluation& part : evaluation.analytes) {
        for (const SampleResult& result : part.results) {
            if (part.analyte != 1 || result.group.role != Role::Unknown) {
                continue;
            }
            if (!result.result || !result.low || !result.high) {
                ++counts.missing;
                continue;
            }
            const double content = truth[static_cast<std::size_t>(result.group.number)];
            ++counts.counted;
            counts.held += *result.low <= content && content <= *result.high ? 1 : 0;
            counts.recovery += 100 * *result.result / content;
        }
    }
}

} // namespace

int main(int argc, char** argv) {
    const int batches = argc > 1 ? std::atoi(argv[1]) : 850;
    const std::vector<Case> cases{{"nothing, internal standard"},
                                  {"drift of 30 %, internal standard", true, CurveOf::Batch, 0.3},
                                  {"drift of 10 %, area, one curve", false, CurveOf::Batch, 0.1},
                                  {"drift of 10 %, area, brackets", false, CurveOf::Bracket, 0.1},
                                  {"suppression of 25 %, internal standard", true, CurveOf::Batch, 0, 0.25},
                                  {"suppression of 25 %, area", false, CurveOf::Batch, 0, 0.25},
                                  {"carry-over of 0.1 %, internal standard", true, CurveOf::Batch, 0, 0, 0.001},
                                  {"carry-over of 2 %, internal standard", true, CurveOf::Batch, 0, 0, 0.02},
                                  {"another peak at resolution 2", true, CurveOf::Batch, 0, 0, 0, 2},
                                  {"another peak at resolution 1.5", true, CurveOf::Batch, 0, 0, 0, 1.5},
                                  {"another peak at resolution 1", true, CurveOf::Batch, 0, 0, 0, 1}};
    std::printf("%-40s %9s %9s %10s %9s\n", "case", "results", "held, %", "recovery", "missing");
    for (const Case& one : cases) {
        std::mt19937_64 random(20261202);
        Counts counts;
        for (int i = 0; i < batches; ++i) {
            runBatch(one, random, counts);
        }
        const auto all = static_cast<double>(counts.counted);
        std::printf("%-40s %9ld %9.1f %10.1f %9ld\n", one.title, counts.counted,
                    100 * static_cast<double>(counts.held) / all, counts.recovery / all, counts.missing);
    }
}
