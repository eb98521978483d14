// t tests and what goes with them against 40-digit arithmetic; two methods, eight paired results (synthetic).
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/groups.h"
#include "nuvat/core/stats/hypothesis.h"
#include "support/reference.h"

#include <gtest/gtest.h>
#include <stdexcept>

namespace nuvat {
namespace {

void near(double got, const nlohmann::json& want) {
    EXPECT_NEAR(got, want.get<double>(), 1e-9 * std::abs(want.get<double>()));
}

struct TwoMethods : testing::Test {
    void SetUp() override {
        for (const auto& row : test::referenceRows("t_tests.csv")) {
            (row.at(0) == "a" ? a : b).push_back(parseNumber(row.at(1)).value());
        }
    }
    std::vector<double> a, b;
    nlohmann::json want = test::referenceJson("t_tests.json")["expected"];
};

TEST_F(TwoMethods, DescriptionAndInterval) {
    const auto& of = want["a"];
    near(*describe(a).mean, of["mean"]);
    near(*describe(a).cvPercent, of["cv_percent"]);
    near((*meanInterval(a, 0.95))[0], of["ci95"][0]);
    near((*meanInterval(a, 0.95))[1], of["ci95"][1]);
    near(*median(a), of["median"]);
    near(*scaledMedianDeviation(a), of["mad_scaled"]);
}

TEST_F(TwoMethods, EveryTest) {
    const auto compare = [](const std::optional<TTest>& got, const nlohmann::json& of) {
        ASSERT_TRUE(got);
        near(got->t, of["t"]);
        near(got->df, of["df"]);
        near(got->pTwoSided, of["p_two_sided"]);
    };
    compare(tTestAgainst(a, 10), want["one_sample_versus_reference"]);
    compare(tTestPooled(a, b), want["two_sample_pooled"]);
    compare(tTestWelch(a, b), want["two_sample_welch"]);
    compare(tTestPaired(a, b), want["paired"]);
    near(tTestPaired(a, b)->difference, want["paired"]["mean_difference"]);
    near(varianceRatio(a, b)->f, want["variance_ratio"]["F"]);
    near(varianceRatio(a, b)->pTwoSided, want["variance_ratio"]["p_two_sided"]);
    near(*pooledSd({a, b}), want["two_sample_pooled"]["pooled_sd"]);
}

TEST_F(TwoMethods, HorwitzCurve) {
    const auto& of = want["horwitz_if_a_is_in_mg_per_kg"];
    near(horwitzRsdPercent(of["mass_fraction"]), of["predicted_rsd_R_percent"]);
    near(*describe(a).cvPercent / horwitzRsdPercent(of["mass_fraction"]), of["horrat_of_a"]);
    EXPECT_THROW(horwitzRsdPercent(0), std::invalid_argument);
}

TEST(Hypothesis, WhatIsNotDefinedIsAbsent) {
    const std::vector<double> one{1};
    const std::vector<double> same{1, 1, 1};
    EXPECT_FALSE(tTestAgainst(one, 0));
    EXPECT_FALSE(tTestAgainst(same, 0));
    EXPECT_FALSE(tTestPooled(one, same));
    EXPECT_FALSE(tTestWelch(one, same));
    EXPECT_THROW(tTestPaired(one, same), std::invalid_argument);
    EXPECT_FALSE(scaledMedianDeviation({}));
}

} // namespace
} // namespace nuvat
