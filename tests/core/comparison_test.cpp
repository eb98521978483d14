// Ranking of models: AICc with a price for bend, never by R2 or by the errors of the calibration's own levels.
#include "nuvat/core/fit/comparison.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

/// A wide proportional series with 4 % scatter: an unweighted line has a splendid R2 and is useless at the low end.
struct Wide : testing::Test {
    std::vector<double> x{1, 1, 2, 2, 5, 5, 10, 10, 50, 50, 200, 200, 1000, 1000};
    std::vector<double> y;
    void SetUp() override {
        const std::vector<double> off{0.03, -0.02, -0.04, 0.01, 0.02,  -0.03, 0.04,
                                      0,    -0.01, 0.03,  0.04, -0.04, 0.05,  -0.02};
        for (std::size_t i = 0; i < x.size(); ++i) {
            y.push_back(3 * x[i] * (1 + off[i]) + 0.5);
        }
    }
    CalibrationData data() const { return {x, y, {}, {}}; }
};

FitOptions option(Model model, Weighting weighting) {
    FitOptions out;
    out.model = model;
    out.weighting = weighting;
    return out;
}

TEST_F(Wide, TheWeightedLineStandsBeforeTheLineWithTheBetterR2) {
    const auto ranked =
        compareModels({option(Model::Line, Weighting::None), option(Model::Line, Weighting::InverseX2)}, data(), {});
    ASSERT_EQ(ranked.size(), 2u);
    EXPECT_EQ(ranked[0].fit.weighting, Weighting::InverseX2);
    EXPECT_EQ(ranked[0].rank, 1u);
    EXPECT_EQ(ranked[0].levelsWithin, 7u);
    EXPECT_LT(ranked[1].levelsWithin, 7u);
    EXPECT_GT(*ranked[1].fit.rSquared, 0.998); // splendid, and no reason to choose it
    EXPECT_NE(ranked[0].sentence.find("7 of 7 levels within limits"), std::string::npos) << ranked[0].sentence;
    EXPECT_NE(ranked[0].sentence.find("It has the lowest AICc."), std::string::npos) << ranked[0].sentence;
    EXPECT_NE(ranked[1].sentence.find("above that of line with 1/x2"), std::string::npos) << ranked[1].sentence;
    ASSERT_TRUE(ranked[0].leftOutErrorPercent);
    EXPECT_LT(*ranked[0].leftOutErrorPercent, 10);
    EXPECT_GT(*ranked[1].leftOutErrorPercent, 10);
}

TEST_F(Wide, InterpolationsAndFailedFitsAreListedWithoutARank) {
    const auto ranked = compareModels(usualCandidates(data()), data(), {});
    std::size_t unranked = 0;
    std::size_t last = 0;
    for (const Candidate& one : ranked) {
        EXPECT_FALSE(one.sentence.empty());
        if (one.rank == 0) {
            ++unranked;
            EXPECT_TRUE(isInterpolation(one.fit.model) || !one.fit.isUsable() || !one.fit.aicc ||
                        one.fit.weighting == Weighting::InverseS2);
        } else {
            EXPECT_EQ(one.rank, ++last); // ranked ones first, without a gap
            EXPECT_EQ(unranked, 0u);
        }
    }
    EXPECT_GE(unranked, 2u);
}

TEST_F(Wide, OrderOfThePointsDoesNotMatter) {
    const auto before = compareModels(usualCandidates(data()), data(), {});
    std::reverse(x.begin(), x.end());
    std::reverse(y.begin(), y.end());
    const auto after = compareModels(usualCandidates(data()), data(), {});
    for (std::size_t i = 0; i < before.size(); ++i) {
        EXPECT_EQ(before[i].fit.options, after[i].fit.options) << i;
    }
}

// Five levels in duplicate about y = x: a cubic with 1/x2 gives its own levels back with a worst error of 0.02 % and
// used to come first.
TEST(Ranking, DoesNotRewardOverfitting) {
    const std::vector<double> x{1, 1, 2, 2, 4, 4, 8, 8, 16, 16};
    const std::vector<double> y{1.0, 1.02, 2.1, 1.9, 4.01, 4.0, 8.2, 7.9, 16.1, 15.2};
    const auto ranked = compareModels(usualCandidates({x, y, {}, {}}), {x, y, {}, {}}, {});
    EXPECT_TRUE(isStraightLine(ranked[0].fit.model) || ranked[0].fit.model == Model::LogLog) << ranked[0].sentence;
    EXPECT_NE(ranked[0].fit.weighting, Weighting::InverseS2);
    for (const Candidate& one : ranked) {
        EXPECT_TRUE(one.rank == 0 || one.fit.weighting != Weighting::InverseS2) << one.sentence;
    }
}

TEST(Ranking, OfExactFitsTakesThePlainest) {
    const std::vector<double> x{1, 2, 3, 4, 5, 6, 7, 8};
    std::vector<double> y;
    for (const double v : x) {
        y.push_back(0.5 + 2 * v);
    }
    const auto ranked = compareModels(usualCandidates({x, y, {}, {}}), {x, y, {}, {}}, {});
    EXPECT_EQ(ranked[0].fit.model, Model::Line) << ranked[0].sentence;
    EXPECT_EQ(ranked[0].fit.weighting, Weighting::None);
}

TEST(UsualCandidates, LeaveOutWhatTheDataForbid) {
    const std::vector<double> x{0, 1, 2, 3};
    const std::vector<double> y{0.1, 1, 2, 3};
    for (const FitOptions& one : usualCandidates({x, y, {}, {}})) {
        EXPECT_NE(one.model, Model::LogLog); // a zero standard has no logarithm
    }
}

} // namespace
} // namespace nuvat
