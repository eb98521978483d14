// The first stage: each reading by itself, on any number of processors, and not again.
#include "stages.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <atomic>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

/// Hands out grids and counts how often; nothing for one that is lost.
class CountingSource : public PayloadSource {
public:
    PayloadData load(const PayloadId& id) override {
        ++loads;
        const auto found = grids.find(id);
        return found == grids.end() ? nullptr : found->second;
    }
    std::map<PayloadId, std::shared_ptr<const Grid>> grids;
    std::atomic<int> loads = 0;
};

/// The sample batch with so many more reads, each stored; the last of them is lost.
Batch withStoredReads(int reads, const std::shared_ptr<CountingSource>& source) {
    Batch batch = test::sampleDocument().batch();
    for (int i = 0; i < reads; ++i) {
        Reading reading = *batch.readings.at(1);
        reading.slot.channel = "read " + std::to_string(i);
        test::editGrid(reading, [i](Grid& grid) {
            for (ReadingWell& well : grid.wells) {
                if (well.value) {
                    *well.value += 0.01 * (i + 1);
                }
            }
        });
        const PayloadId id = reading.payload.id();
        if (i + 1 < reads) {
            source->grids[id] = reading.payload.grid();
        }
        reading.payload = Payload::stored(id, source);
        batch.readings[10 + i] = reading;
        batch.inUse[reading.slot] = 10 + i;
    }
    return batch;
}

TEST(Measure, GivesTheSameOnAnyNumberOfProcessors) {
    for (const unsigned processors : {1u, 2u, 7u}) {
        const auto source = std::make_shared<CountingSource>();
        const Batch batch = withStoredReads(20, source);
        const Measured measured = measure(batch, {}, processors);
        EXPECT_EQ(measured.grids.size(), 21u);
        EXPECT_EQ(source->loads, 20);
        for (const auto& [key, reading] : batch.readings) {
            const Grid* grid = measured.grid(*reading);
            EXPECT_EQ(grid == nullptr, key == 29) << key; // the lost one
            if (grid != nullptr && key >= 10) {
                EXPECT_EQ(*grid, *source->grids.at(reading->payload.id()));
            }
        }
    }
}

TEST(Measure, TakesWhatItKnows) {
    const auto source = std::make_shared<CountingSource>();
    Batch batch = withStoredReads(5, source);
    const Measured first = measure(batch, {}, 2);
    const int loads = source->loads;
    batch.inUse.erase(Slot{1, std::nullopt, "read 2"});
    const Measured second = measure(batch, first, 2);
    EXPECT_EQ(source->loads, loads);
    EXPECT_EQ(second.grids.size(), first.grids.size() - 1);                             // it is let go
    EXPECT_EQ(second.grid(*batch.readings.at(10)), first.grid(*batch.readings.at(10))); // the same, not a copy
}

TEST(Rules, OfAnotherKindGiveNoResponseAndSayWhy) {
    Batch batch = test::sampleDocument().batch();
    const std::vector<std::pair<ResponseRule, std::string>> rules{{BandRule{.channel = "UV"}, "band"},
                                                                  {PeakRule{.channel = "UV", .window = 1}, "peak"},
                                                                  {PopulationRule{"P1", "FL1"}, "population"},
                                                                  {NamedRule{"composition", "mass 1"}, "named"}};
    for (const auto& [rule, kind] : rules) {
        EXPECT_EQ(kindName(rule), kind);
        batch.method.analyte().source.rule = rule;
        const Evaluation evaluation = evaluate(batch);
        EXPECT_FALSE(evaluation.analyte().fit.isUsable());
        EXPECT_EQ(evaluation.analyte().at({0, 0}).state, ResponseState::NotRead);
        ASSERT_FALSE(evaluation.analyte().problems.empty());
        EXPECT_NE(evaluation.analyte().problems.front().message.find(
                      kind == "band" || kind == "peak" ? "traces of UV" : "is the " + kind),
                  std::string::npos)
            << evaluation.analyte().problems.front().message;
    }
}

} // namespace
} // namespace nuvat
