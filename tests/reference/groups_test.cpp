// Analysis of variance (NIST StRD), equal variances; each JSON in data/ names its source.
#include "nuvat/core/stats/groups.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/distributions.h"
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

TEST(EqualVariances, CochranAndVarianceRatiosAgreeWithTheReference) {
    const auto near = [](double got, double wanted) { EXPECT_NEAR(got / wanted, 1, 1e-9); };
    for (const char* set : {"homogeneity_low_high", "homogeneity_ten_batches"}) {
        SCOPED_TRACE(set);
        const auto json = test::referenceJson(std::string(set) + ".json");
        const auto& want = json["expected"];
        const Groups groups = groupsOf(std::string(set) + ".csv");
        near(cochran(groups, 0.05)->c, want["cochran_C"]);
        near(cochran(groups, 0.05)->critical, want["cochran_crit_05"]);
        near(cochran(groups, 0.01)->critical, want["cochran_crit_01"]);
        near(*largestVarianceRatio(groups), want["hartley_Fmax"]);
        near(*pooledSd(groups) * *pooledSd(groups), want["pooled_variance"]);
    }
    const auto want = test::referenceJson("homogeneity_low_high.json")["expected"];
    const Groups groups = groupsOf("homogeneity_low_high.csv");
    const auto ratio = varianceRatio(groups.front(), groups.back());
    near(ratio->f, want["F_of_last_and_first_group"]);
    near(fQuantile(0.99, ratio->df1, ratio->df2), want["F_crit_1_percent"]);
    EXPECT_FALSE(cochran({{1, 2}, {1, 2, 3}}, 0.05)); // unequal sizes
}

TEST(Groups, WhatIsNotDefinedIsAbsent) {
    EXPECT_FALSE(oneWayAnova({}));
    EXPECT_FALSE(oneWayAnova({{1, 2}, {}}));
    EXPECT_FALSE(oneWayAnova({{1}, {2}}));
    EXPECT_FALSE(oneWayAnova({{1, 1}, {2, 2}})); // no scatter within
    EXPECT_FALSE(bartlett({{1, 2}, {3}}));
    EXPECT_EQ(median(std::vector<double>{3, 1, 2, 10}), 2.5);
    EXPECT_FALSE(median({}));
}

} // namespace
} // namespace nuvat
