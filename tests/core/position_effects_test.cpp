// Effects of rows, columns and the edge: what is planted is found, and what is not is not, as often as is said.
#include "nuvat/core/stats/position_effects.h"

#include <cmath>
#include <gtest/gtest.h>
#include <random>

namespace nuvat {
namespace {

/// Pairs across on a plate of 96; contents scatter by a third.
std::vector<PlacedValue> pairs(unsigned seed) {
    std::mt19937_64 random(seed);
    std::normal_distribution<double> normal;
    std::vector<PlacedValue> out;
    for (int i = 0; i < 48; ++i) {
        const double content = std::exp(0.3 * normal(random));
        for (int k = 0; k < 2; ++k) {
            const int well = 2 * i + k;
            out.push_back({well / 12, well % 12, content * (1 + 0.03 * normal(random)), i});
        }
    }
    return out;
}

template<class F> std::vector<PlacedValue> changed(std::vector<PlacedValue> values, const F& by) {
    for (PlacedValue& one : values) {
        one.value *= by(one);
    }
    return values;
}

std::optional<PositionEffects> effectsOf(std::span<const PlacedValue> values) {
    NoProgress progress;
    return positionEffects(values, 8, 12, progress);
}

TEST(PositionEffects, FalseAlarmsStayUnderFivePercent) {
    int alarms = 0, rows = 0;
    constexpr int kPlates = 200;
    for (unsigned seed = 1; seed <= kPlates; ++seed) {
        const auto found = effectsOf(pairs(seed));
        ASSERT_TRUE(found);
        alarms += found->isFound() ? 1 : 0;
        rows += found->row.p < 0.05 ? 1 : 0;
    }
    EXPECT_LE(alarms, 0.05 * kPlates + 3 * std::sqrt(0.05 * 0.95 * kPlates));
    EXPECT_NEAR(rows, 0.05 * kPlates, 4 * std::sqrt(0.05 * 0.95 * kPlates)) << "each test by itself is exact";
}

TEST(PositionEffects, WhatIsPlantedIsFound) {
    int rows = 0, columns = 0, edges = 0;
    constexpr int kPlates = 20;
    for (unsigned seed = 1; seed <= kPlates; ++seed) {
        const auto row = effectsOf(changed(pairs(seed), [](auto& one) { return one.row == 7 ? 0.5 : 1.0; }));
        rows += row->isFound() && row->row.index == 7u && row->row.percent < -20 ? 1 : 0;
        const auto column = effectsOf(changed(pairs(seed), [](auto& one) { return one.column >= 10 ? 1.7 : 1.0; }));
        columns += column->isFound() && *column->column.index >= 10u && column->column.percent > 20 ? 1 : 0;
        const auto edge = effectsOf(
            changed(pairs(seed), [](auto& one) { return one.row % 7 == 0 || one.column % 11 == 0 ? 1.5 : 1.0; }));
        edges += edge->isFound() && edge->edge->percent > 20 && edge->edge->p < 0.05 ? 1 : 0;
    }
    EXPECT_GE(rows, 12) << "half the signal in a row of six samples whose contents scatter by a third";
    EXPECT_GE(columns, 15);
    EXPECT_GE(edges, 18);
}

TEST(PositionEffects, PercentsAreThoseOfThePlate) {
    std::vector<PlacedValue> values; // 100, one row 10 % higher
    for (int i = 0; i < 96; ++i) {
        values.push_back({i / 12, i % 12, i / 12 == 2 ? 110.0 : 100.0, i});
    }
    const auto found = effectsOf(values);
    ASSERT_TRUE(found);
    EXPECT_EQ(found->row.index, 2u);
    EXPECT_NEAR(found->row.percent, 10, 1e-12);
    EXPECT_NEAR(*found->rows[3], 0, 1e-12);
    EXPECT_EQ(found->row.p, 1.0 / 500);
    EXPECT_NEAR(found->p, 3.0 / 500, 1e-12);
}

TEST(PositionEffects, StopWhenNobodyWantsThem) {
    class Cancelled : public Progress {
        void report(double) override {}
        bool cancelled() const override { return true; }
    } progress;
    EXPECT_FALSE(positionEffects(pairs(1), 8, 12, progress));
}

TEST(PositionEffects, TooLittleIsNotJudged) {
    const auto values = pairs(1);
    EXPECT_FALSE(effectsOf(std::span(values).first(14))) << "seven samples";
    EXPECT_FALSE(effectsOf(std::span(values).first(24))) << "two rows";
    EXPECT_TRUE(effectsOf(std::span(values).first(36)));
    EXPECT_FALSE(effectsOf({}));
    const auto first = effectsOf(values), again = effectsOf(values);
    EXPECT_EQ(first->p, again->p);
}

} // namespace
} // namespace nuvat
