// Grubbs and Dixon against values computed from the definitions; printed tables and sources are named in the JSONs.
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/outliers.h"
#include "support/reference.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

double numberOf(const std::string& text) {
    return parseNumber(text).value();
}

class OutlierReference : public testing::TestWithParam<const char*> {};

TEST_P(OutlierReference, GrubbsAndDixonAgree) {
    const std::string set = GetParam();
    const auto values = test::referenceColumns(set + ".csv").at("y");
    const auto json = test::referenceJson(set + ".json");
    const auto& want = json["expected"];
    const auto got = grubbs(values, 0.05);
    ASSERT_TRUE(got);
    EXPECT_EQ(values[got->suspect], want["suspect"].get<double>());
    EXPECT_NEAR(got->g / want["grubbs_G"].get<double>(), 1, 1e-10);
    EXPECT_NEAR(got->critical / want["grubbs_crit_two_sided_5"].get<double>(), 1, 1e-10);
    EXPECT_NEAR(got->pBound / want["grubbs_p_two_sided_bound"].get<double>(), 1, 1e-9);
    EXPECT_EQ(got->isOutlier, want["grubbs_outlier_two_sided_5"].get<bool>());

    const auto byDixon = dixon(values, 0.05);
    ASSERT_TRUE(byDixon);
    EXPECT_EQ(name(byDixon->ratio), want["dixon_ratio"].get<std::string>());
    EXPECT_EQ(values[byDixon->suspect], want["suspect"].get<double>());
    EXPECT_NEAR(byDixon->value / want["dixon_value"].get<double>(), 1, 1e-10);
    EXPECT_NEAR(byDixon->critical / want["dixon_crit_two_sided_5"].get<double>(), 1, 1e-7);
    EXPECT_EQ(byDixon->isOutlier, want["dixon_outlier_two_sided_5"].get<bool>());
    EXPECT_EQ(byDixon->p < 0.05, byDixon->isOutlier);
}

INSTANTIATE_TEST_SUITE_P(Sets, OutlierReference,
                         testing::Values("outlier_four_values", "outlier_seven_values", "outlier_sixteen_values"),
                         [](const auto& set) { return std::string(set.param); });

TEST(GrubbsTest, CriticalValuesAgree) {
    for (const auto& row : test::referenceRows("grubbs_critical.csv")) {
        const auto n = static_cast<std::size_t>(numberOf(row.at(0)));
        const double got = grubbsCritical(n, numberOf(row.at(1)), row.at(2) == "2");
        EXPECT_NEAR(got / numberOf(row.at(3)), 1, 1e-10) << "n " << n;
    }
}

TEST(DixonTest, CriticalValuesAgreeToSevenDigits) {
    int compared = 0;
    for (const auto& row : test::referenceRows("dixon_critical.csv")) {
        const DixonRatio ratio = row.at(0) == "r10"   ? DixonRatio::R10
                                 : row.at(0) == "r11" ? DixonRatio::R11
                                 : row.at(0) == "r21" ? DixonRatio::R21
                                                      : DixonRatio::R22;
        const auto n = static_cast<std::size_t>(numberOf(row.at(1)));
        EXPECT_NEAR(dixonCritical(ratio, n, numberOf(row.at(2))) / numberOf(row.at(3)), 1, 1e-7)
            << row.at(0) << " n " << n << " alpha " << row.at(2);
        ++compared;
    }
    EXPECT_GT(compared, 30);
}

TEST(Outliers, WhatIsNotDefinedIsAbsent) {
    EXPECT_FALSE(grubbs(std::vector<double>{1, 1, 1}, 0.05));
    EXPECT_FALSE(grubbs(std::vector<double>{1, 2}, 0.05));
    EXPECT_FALSE(dixon(std::vector<double>{1, 1, 1}, 0.05));
    EXPECT_FALSE(dixon(std::vector<double>{1, 2}, 0.05));
    EXPECT_FALSE(dixon(std::vector<double>(101, 1), 0.05));
}

} // namespace
} // namespace nuvat
