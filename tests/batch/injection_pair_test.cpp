// A second injection against the first: traces whose peaks stand where they were put.
#include "nuvat/batch/injection_pair.h"

#include "nuvat/batch/document.h"
#include "nuvat/core/signal/synthetic.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

ImportedRun run(std::vector<SyntheticPeak> peaks, std::uint64_t seed) {
    Trace trace{"Time", "min", "Signal", "mV", 0, 0.01, {}, {}, {}};
    for (std::uint64_t i = 0; i <= 1000; ++i) {
        trace.y.push_back(syntheticSignal(peaks, 0.01 * static_cast<double>(i)) + 0.001 * normalNoise(seed, i));
    }
    return {"run.csv", "", "run", "text", {{"signal", Payload::of(std::move(trace))}}};
}

Slot slot(int row) {
    return {1, Place{row, 0}, "signal"};
}

Evaluation of(const std::vector<ImportedRun>& runs) {
    Batch batch;
    applyChanges(batch, *importRuns(batch, runs, 0), false);
    return evaluate(batch);
}

TEST(InjectionPair, ShiftsAndAreasAreThoseThatWerePutIn) {
    // Late by 0.02, 0.03 and 0.05 min; 4 % less of everything.
    const Evaluation evaluation = of({run({{2, 0.05, 10, 0}, {4, 0.06, 20, 0}, {7, 0.08, 15, 0}}, 1),
                                      run({{2.02, 0.05, 9.6, 0}, {4.03, 0.06, 19.2, 0}, {7.05, 0.08, 14.4, 0}}, 2)});
    const auto pair = compareInjections(evaluation, slot(0), slot(1));
    ASSERT_TRUE(pair);
    EXPECT_EQ(pair->matched, 3u);
    EXPECT_EQ(pair->onlyFirst + pair->onlySecond, 0u);
    EXPECT_NEAR(pair->medianShift, 0.03, 0.001);
    EXPECT_NEAR(pair->largestShift, 0.05, 0.001);
    EXPECT_NEAR(pair->medianAreaPercent, 96, 0.1);
    const auto back = compareInjections(evaluation, slot(1), slot(0));
    EXPECT_NEAR(back->largestShift, -0.05, 0.001) << "with its sign";
}

TEST(InjectionPair, PeaksWithoutPartnerAreCounted) {
    const Evaluation evaluation = of(
        {run({{2, 0.05, 10, 0}, {4, 0.06, 20, 0}}, 3), run({{2, 0.05, 10, 0}, {5, 0.06, 20, 0}, {7, 0.05, 8, 0}}, 4)});
    const auto pair = compareInjections(evaluation, slot(0), slot(1));
    ASSERT_TRUE(pair);
    EXPECT_EQ(pair->matched, 1u);
    EXPECT_EQ(pair->onlyFirst, 1u);
    EXPECT_EQ(pair->onlySecond, 2u);
    EXPECT_EQ(injectionWords(*pair, "min").front(), "1 of 4 peaks in both");
    EXPECT_FALSE(compareInjections(evaluation, slot(0), slot(5)));
}

} // namespace
} // namespace nuvat
