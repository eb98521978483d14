// The demo batch of free sulfite: flow injection on a list whose end is still planned, with a diluting autosampler, the
// best two of three injections, and one failure that was repeated; invented here.
#include "demo_steps.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/batch/run_commands.h"
#include "nuvat/core/signal/synthetic.h"

#include <array>
#include <cmath>
#include <map>

namespace nuvat {

namespace {

constexpr const char* kChannel = "amperometer";
constexpr double kHighest = 50; ///< [mg/L]

struct Cider {
    const char* name;
    double content; ///< [mg/L], as demo/sulfite/truth.csv
};
constexpr std::array<Cider, 12> kCiders{{{"Cider base, vat 1", 12.4},
                                         {"Cider base, vat 2", 18.9},
                                         {"Cider base, vat 3", 8.7},
                                         {"Perry, lot 4", 22.6},
                                         {"Perry, lot 5", 31.2},
                                         {"Keeved cider, week 2", 5.9},
                                         {"Keeved cider, week 6", 4.1},
                                         {"Ice cider", 83},
                                         {"Windfall cider", 14.8},
                                         {"Quince wine", 27.3},
                                         {"Mead, sharp", 9.6},
                                         {"Verjuice", 38.5}}};
constexpr std::size_t kPlannedCiders = 2; ///< that have not been injected yet
constexpr std::uint64_t kRunWithBubble = 34;
constexpr std::uint64_t kRunThatFailed = 22; ///< a control injected with air in the loop, measured once more

double contentOf(const Batch& batch, Place place) {
    const Assignment group = batch.at(place);
    if (group.role == Role::Standard) {
        return batch.concentration(group.number).value_or(0);
    }
    if (group.role == Role::Qc) {
        return batch.nominal(group.number).value_or(0);
    }
    const bool isCider = group.role == Role::Unknown && static_cast<std::size_t>(group.number) <= kCiders.size();
    return isCider ? kCiders.at(static_cast<std::size_t>(group.number) - 1).content / batch.dilution(group) : 0;
}

ImportedRun injection(const std::string& name, double content, std::uint64_t run, bool isFailed) {
    constexpr double kPerSecond = 4, kSeconds = 90, kNoise = 0.35;
    const double height = 21.5 * content * (1 + 0.012 * normalNoise(610, run)) * (isFailed ? 0.55 : 1);
    std::vector<SyntheticPeak> peaks{{34.5 + 0.2 * normalNoise(611, run), 3.1, height + 4, 5.5}};
    if (run == kRunWithBubble) {
        peaks.push_back({38, 0.9, 0.3 * height, 0});
    }
    Trace trace{"Time", "s", "Current", "nA", 0, 1 / kPerSecond, {}, {}, {}};
    for (int i = 0; i <= static_cast<int>(kSeconds * kPerSecond); ++i) {
        const double value = 38 + 0.02 * i / kPerSecond + syntheticSignal(peaks, i / kPerSecond) +
                             kNoise * normalNoise(6200 + run, static_cast<std::uint64_t>(i));
        trace.y.push_back(std::round(value * 100) / 100);
    }
    return inventedRun("sulfite", run + 1, name, {{kChannel, std::move(trace)}});
}

/// Every 100 seconds from the begin on.
Step measured(Place place, std::uint64_t run, std::int64_t begin) {
    return [=](const Batch& batch) {
        const std::int64_t injected = begin + 100'000 * static_cast<std::int64_t>(run);
        const bool isFailed = run == kRunThatFailed;
        return recordRun(batch, place, injection(batch.runs.at(place).name, contentOf(batch, place), run, isFailed),
                         RunState::Done, injected, injected + 92'000);
    };
}

Result<Command> plan(const Batch& batch) {
    ListBlocks blocks;
    blocks.standardInjections = blocks.sampleInjections = 3;
    blocks.qcEvery = 6;
    for (const Cider& cider : kCiders) {
        blocks.samples.push_back({cider.name, "", Role::Unknown, {}, 1, 50});
    }
    return planRuns(batch, runsOfBlocks(batch, blocks));
}

DocumentState begun() {
    DocumentState state;
    state.batch.info = {"a1de7b700c5e003f", "Free sulfite in cider, week 43", "Alderbrook laboratory", "", ""};
    Method& method = state.batch.method;
    method.title = "Free sulfite by flow injection";
    method.subtractsBlank = false;
    method.criteriaName = shippedCriteria().front().name;
    method.limits = shippedCriteria().front().limits;
    method.plan =
        StandardPlan{"Sulfite, from sodium metabisulfite", "mL", {PlanWay::Direct, 1000, 50, 0.1, 0.02, 0.006}};
    method.replicates.keepBest = 2;
    method.runRule = {AfterFailure::RepeatThenStop, true, "{date}_sulfite_{run}"};
    Analyte& analyte = method.analyte();
    analyte.name = "Free sulfite";
    analyte.unit = "mg/L";
    analyte.responseName = "Peak height, nA";
    analyte.isConcentrationLogarithmic = false;
    analyte.fit = {.model = Model::Line, .weighting = Weighting::InverseX};
    analyte.source.rule =
        PeakRule{.channel = kChannel, .expected = 37.5, .window = 6, .quantity = PeakQuantity::Height};
    return state;
}

} // namespace

Result<OpenBatch> sulfiteDemo(const std::filesystem::path& path) {
    // 21 October 2026, 08:00 UTC and on.
    constexpr std::int64_t kBegin = 1'792'569'600'000;
    std::vector<Step> steps{[](const Batch& b) {
                                return setSeries(b, {kHighest, true, 2, 6});
                            },
                            [](const Batch& b) {
                                return setQc(b, 1, {"Control low", 4});
                            },
                            [](const Batch& b) {
                                return setQc(b, 2, {"Control high", 35});
                            },
                            plan};
    // Two blanks, six levels of three, the controls three times, and twelve ciders of three.
    constexpr int kStandardsEnd = 1 + 6 * 3 + 1;
    constexpr int kFailed = static_cast<int>(kRunThatFailed) - 1; // its repeat stands after it
    constexpr int kMeasured = kStandardsEnd + 2 + 6 * 3 + 2 + static_cast<int>(6 - kPlannedCiders) * 3 + 1;
    static_assert(kFailed == kStandardsEnd + 1);
    for (int row = 0; row < kMeasured; ++row) {
        const bool isRepeat = row == kFailed + 1;
        if (isRepeat) {
            steps.emplace_back([=](const Batch& b) {
                return repeatRun(b, {kFailed, 0}, "Recovery below its limit; air in the loop.", kBegin + 2'000'000);
            });
        }
        steps.push_back(measured({row, 0}, static_cast<std::uint64_t>(row + 1), kBegin));
    }
    steps.emplace_back([](const Batch& b) { return planDilutedAgain(b, evaluate(b), 1); });
    return made(begun(), kBegin - 600'000, steps, path);
}

} // namespace nuvat
