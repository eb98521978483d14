// Analysis of variance (NIST StRD), equal variances, Grubbs; each JSON in data/ names its source.
#include "nuvat/core/stats/groups.h"

#include "nuvat/core/base/number.h"
#include "support/reference.h"

#include <cmath>
#include <gtest/gtest.h>
#include <map>

namespace nuvat {
namespace {

Groups groupsOf(const std::string& file) {
    std::map<std::string, std::vector<double>> byName;
    for (const auto& row : test::referenceRows(file)) {
        byName[row.at(0)].push_back(parseNumber(row.at(1)).value());
    }
    Groups out;
    for (auto& [name, values] : byName) {
        out.push_back(values);
    }
    return out;
}

struct Anova {
    const char* name;
    double digits; // as the reference justifies: SmLs05 and SmLs07 carry 6 and 12 constant leading digits
};
class NistAnova : public testing::TestWithParam<Anova> {};

TEST_P(NistAnova, SumsOfSquaresAndF) {
    const std::string set = std::string("anova_") + GetParam().name;
    const auto json = test::referenceJson(set + ".json");
    const auto got = oneWayAnova(groupsOf(set + ".csv"));
    ASSERT_TRUE(got);
    const auto& want = json["certified"];
    const auto compare = [](const char* what, double value, double certified) {
        const double digits = test::correctDigits(value, certified);
        std::cout << "  " << GetParam().name << " " << what << ": " << digits << " digits\n";
        EXPECT_GE(digits, GetParam().digits) << what;
    };
    compare("between SS", got->betweenSs, want["between_ss"]);
    compare("within SS", got->withinSs, want["within_ss"]);
    compare("F", got->f, want["F"]);
    compare("residual SD", got->repeatabilitySd, want["residual_sd"]);
    EXPECT_EQ(got->betweenDf, want["between_df"].get<double>());
    EXPECT_EQ(got->withinDf, want["within_df"].get<double>());
    const auto& precision = json["recomputed"];
    EXPECT_NEAR(got->intermediatePrecisionSd / precision["intermediate_precision_sd"].get<double>(), 1,
                std::pow(10, -GetParam().digits));
}

INSTANTIATE_TEST_SUITE_P(Sets, NistAnova,
                         testing::Values(Anova{"SiRstv", 10}, Anova{"SmLs01", 10}, Anova{"SmLs05", 8},
                                         Anova{"SmLs07", 3}),
                         [](const auto& set) { return std::string(set.param.name); });

TEST(EqualVariances, BartlettAndLeveneAgreeWithTheReference) {
    for (const char* set : {"homogeneity_unequal_n", "homogeneity_ten_batches"}) {
        SCOPED_TRACE(set);
        const auto json = test::referenceJson(std::string(set) + ".json");
        const auto& want = json["expected"];
        const Groups groups = groupsOf(std::string(set) + ".csv");
        const auto near = [](double got, double wanted) { EXPECT_NEAR(got / wanted, 1, 1e-9); };
        near(bartlett(groups)->statistic, want["bartlett"]);
        near(bartlett(groups)->p, want["bartlett_p"]);
        near(levene(groups, false)->statistic, want["levene_mean"]);
        near(levene(groups, false)->p, want["levene_mean_p"]);
        near(levene(groups, true)->statistic, want["levene_median"]);
        near(levene(groups, true)->p, want["levene_median_p"]);
    }
}

TEST(GrubbsTest, AgreesWithTheReference) {
    for (const char* set : {"outlier_four_values", "outlier_seven_values", "outlier_sixteen_values"}) {
        SCOPED_TRACE(set);
        const auto values = test::referenceColumns(std::string(set) + ".csv").at("y");
        const auto json = test::referenceJson(std::string(set) + ".json");
        const auto& want = json["expected"];
        const auto got = grubbs(values, 0.05);
        ASSERT_TRUE(got);
        EXPECT_EQ(values[got->suspect], want["suspect"].get<double>());
        EXPECT_NEAR(got->g / want["grubbs_G"].get<double>(), 1, 1e-10);
        EXPECT_NEAR(got->critical / want["grubbs_crit_two_sided_5"].get<double>(), 1, 1e-10);
        EXPECT_NEAR(got->pBound / want["grubbs_p_two_sided_bound"].get<double>(), 1, 1e-9);
        EXPECT_EQ(got->isOutlier, want["grubbs_outlier_two_sided_5"].get<bool>());
    }
    for (const auto& row : test::referenceRows("grubbs_critical.csv")) {
        const auto n = static_cast<std::size_t>(parseNumber(row.at(0)).value());
        const double got = grubbsCritical(n, parseNumber(row.at(1)).value(), row.at(2) == "2");
        EXPECT_NEAR(got / parseNumber(row.at(3)).value(), 1, 1e-10) << "n " << n;
    }
}

TEST(Groups, WhatIsNotDefinedIsAbsent) {
    EXPECT_FALSE(oneWayAnova({}));
    EXPECT_FALSE(oneWayAnova({{1, 2}, {}}));
    EXPECT_FALSE(oneWayAnova({{1}, {2}}));
    EXPECT_FALSE(oneWayAnova({{1, 1}, {2, 2}})); // no scatter within
    EXPECT_FALSE(bartlett({{1, 2}, {3}}));
    EXPECT_FALSE(grubbs(std::vector<double>{1, 1, 1}, 0.05));
    EXPECT_FALSE(grubbs(std::vector<double>{1, 2}, 0.05));
    EXPECT_EQ(median(std::vector<double>{3, 1, 2, 10}), 2.5);
    EXPECT_FALSE(median({}));
}

} // namespace
} // namespace nuvat
