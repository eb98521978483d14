// Mean and SD against NIST StRD univariate sets; Student factors against quantiles computed from the definition.
#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/distributions.h"
#include "support/reference.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

struct Set {
    const char* name;
    double digitsOfSd; // NumAcc3: the decimal data cannot be represented exactly (said by the reference)
};
class NistUnivariate : public testing::TestWithParam<Set> {};

TEST_P(NistUnivariate, MeanAndSd) {
    const auto data = test::referenceColumns(std::string("univariate_") + GetParam().name + ".csv");
    const auto want = test::referenceJson(std::string("univariate_") + GetParam().name + ".json")["certified"];
    const Description got = describe(data.at("y"));
    const double mean = test::correctDigits(*got.mean, want["mean"]);
    const double sd = test::correctDigits(*got.sd, want["sd"]);
    std::cout << "  " << GetParam().name << ": mean " << mean << ", SD " << sd << " digits\n";
    EXPECT_GE(mean, 14);
    EXPECT_GE(sd, GetParam().digitsOfSd);
}

INSTANTIATE_TEST_SUITE_P(Sets, NistUnivariate,
                         testing::Values(Set{"Lew", 13}, Set{"Michelso", 13}, Set{"NumAcc1", 13}, Set{"NumAcc3", 9},
                                         Set{"PiDigits", 13}),
                         [](const auto& set) { return std::string(set.param.name); });

TEST(Quantiles, StudentFactorsAgreeToTwelveDigits) {
    int compared = 0;
    for (const auto& row : test::referenceRows("quantiles.csv")) {
        if (row.at(0) != "t" && row.at(0) != "student_t") {
            continue;
        }
        const double p = std::stod(row.at(1));
        const double want = std::stod(row.at(4));
        if (p <= 0.5) {
            continue;
        }
        const double got = studentFactor(2 * p - 1, std::stod(row.at(2)));
        EXPECT_NEAR(got / want, 1, 1e-12) << "p " << p << " df " << row.at(2);
        ++compared;
    }
    EXPECT_GT(compared, 20);
}

TEST(Descriptions, WhatIsNotDefinedIsAbsent) {
    EXPECT_FALSE(describe({}).mean);
    const std::vector<double> one{2.5};
    EXPECT_EQ(describe(one).mean, 2.5);
    EXPECT_FALSE(describe(one).sd);
    const std::vector<double> around{-1, 1};
    EXPECT_TRUE(describe(around).sd);
    EXPECT_FALSE(describe(around).cvPercent); // the mean is 0
    EXPECT_THROW(studentFactor(1, 3), std::invalid_argument);
    EXPECT_THROW(studentFactor(0.95, 0), std::invalid_argument);
}

} // namespace
} // namespace nuvat
