// Quantiles, tails and the noncentrality of ISO 11843 against values computed from the definitions in 25 to 40 digits.
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/distributions.h"
#include "support/reference.h"

#include <gtest/gtest.h>
#include <stdexcept>

namespace nuvat {
namespace {

double numberOf(const std::string& text) {
    return parseNumber(text).value();
}

TEST(Quantiles, AgreeToTwelveDigits) {
    int compared = 0;
    for (const auto& row : test::referenceRows("quantiles.csv")) {
        const double p = numberOf(row.at(1));
        const double want = numberOf(row.at(4));
        const std::string& which = row.at(0);
        const double got = which == "normal" ? normalQuantile(p)
                           : which == "t"    ? studentQuantile(p, numberOf(row.at(2)))
                           : which == "chi2" ? chiSquaredQuantile(p, numberOf(row.at(2)))
                                             : fQuantile(p, numberOf(row.at(2)), numberOf(row.at(3)));
        EXPECT_NEAR(got, want, 1e-12 * std::abs(want)) << which << " p " << p << " df " << row.at(2);
        if (which == "t" && p > 0.5) {
            EXPECT_NEAR(studentFactor(2 * p - 1, numberOf(row.at(2))), want, 1e-12 * want);
        }
        ++compared;
    }
    EXPECT_GT(compared, 300);
}

TEST(TailProbabilities, AgreeToTenDigits) {
    int compared = 0;
    for (const auto& row : test::referenceRows("tail_probabilities.csv")) {
        const std::string& which = row.at(0);
        const double x = numberOf(row.at(1));
        const double df = numberOf(row.at(2));
        const double want = numberOf(row.at(4));
        const double got = which == "t_upper"       ? studentUpperTail(x, df)
                           : which == "t_two_sided" ? studentTwoSided(x, df)
                           : which == "chi2_upper"  ? chiSquaredUpperTail(x, df)
                                                    : fUpperTail(x, df, numberOf(row.at(3)));
        EXPECT_NEAR(got / want, 1, 1e-10) << which << " " << x;
        ++compared;
    }
    EXPECT_GE(compared, 17);
}

TEST(Noncentrality, AgreesWithTheDefinition) {
    for (const auto& row : test::referenceRows("iso11843_delta.csv")) {
        const double nu = numberOf(row.at(2));
        EXPECT_NEAR(noncentrality(nu, numberOf(row.at(0)), numberOf(row.at(1))) / numberOf(row.at(4)), 1, 1e-8)
            << "nu " << nu;
    }
}

TEST(Distributions, RefuseWhatIsOutOfRange) {
    EXPECT_THROW(studentFactor(1, 3), std::invalid_argument);
    EXPECT_THROW(studentFactor(0.95, 0), std::invalid_argument);
    EXPECT_THROW(normalQuantile(0), std::invalid_argument);
    EXPECT_THROW(fQuantile(0.5, 1, -1), std::invalid_argument);
    EXPECT_THROW(noncentrality(5, 0.6, 0.05), std::invalid_argument);
}

} // namespace
} // namespace nuvat
