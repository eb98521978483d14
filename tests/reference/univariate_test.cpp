// Mean and SD against NIST StRD univariate sets.
#include "nuvat/core/stats/descriptive.h"
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

TEST(Descriptions, WhatIsNotDefinedIsAbsent) {
    EXPECT_FALSE(describe({}).mean);
    const std::vector<double> one{2.5};
    EXPECT_EQ(describe(one).mean, 2.5);
    EXPECT_FALSE(describe(one).sd);
    const std::vector<double> around{-1, 1};
    EXPECT_TRUE(describe(around).sd);
    EXPECT_FALSE(describe(around).cvPercent); // the mean is 0
}

} // namespace
} // namespace nuvat
