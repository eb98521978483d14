// Control results and chart constants against 40-digit arithmetic; 30 synthetic results with a shift.
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/control_series.h"
#include "nuvat/core/stats/descriptive.h"
#include "support/reference.h"

#include <gtest/gtest.h>
#include <stdexcept>

namespace nuvat {
namespace {

void near(double got, const nlohmann::json& want) {
    EXPECT_NEAR(got, want.get<double>(), 1e-9 * std::max(1.0, std::abs(want.get<double>())));
}

TEST(ControlSeries, AgreesWithTheReference) {
    const auto values = test::referenceColumns("control_series.csv").at("y");
    const auto json = test::referenceJson("control_series.json");
    const auto& want = json["expected"];
    std::vector<double> z;
    for (const double v : values) {
        z.push_back((v - want["target_mean"].get<double>()) / want["target_sd"].get<double>());
    }
    for (const ControlRule rule : {ControlRule::OneTwoS, ControlRule::OneThreeS, ControlRule::TwoTwoS,
                                   ControlRule::RFourS, ControlRule::FourOneS, ControlRule::TenX}) {
        std::vector<std::size_t> runs; // counted from 1 there
        for (const std::size_t i : violations(rule, z)) {
            runs.push_back(i + 1);
        }
        EXPECT_EQ(runs, want["runs_triggering_each_rule"][std::string(name(rule))].get<std::vector<std::size_t>>())
            << name(rule);
    }
    const IndividualsLimits limits = individualsLimits(values);
    near(limits.meanMovingRange, want["mean_moving_range"]);
    near(limits.sigma, want["sigma_from_moving_range"]);
    near(limits.low, want["individuals_limits"][0]);
    near(limits.high, want["individuals_limits"][1]);
    const auto sums = cumulativeSums(z, 0.5);
    const auto averages = movingAverage(z, 0.2);
    for (std::size_t i = 0; i < z.size(); ++i) {
        near(sums[i][0], want["cusum_k05_upper_lower"][i][0]);
        near(sums[i][1], want["cusum_k05_upper_lower"][i][1]);
        near(averages[i], want["ewma_lambda02"][i]);
    }
}

TEST(ChartConstants, AgreeToEightDigits) {
    for (const auto& row : test::referenceRows("control_chart_constants.csv")) {
        const auto number = [&](std::size_t k) { return parseNumber(row.at(k)).value(); };
        const ChartConstants got = chartConstants(static_cast<std::size_t>(number(0)));
        const std::array<double, 9> all{got.c4, got.d2, got.d3,      got.a2,     got.a3,
                                        got.b3, got.b4, got.lowerD3, got.upperD4};
        for (std::size_t k = 0; k < all.size(); ++k) {
            EXPECT_NEAR(all[k], number(k + 1), 1e-8 * std::max(0.1, number(k + 1)))
                << "n " << row.at(0) << " column " << k;
        }
    }
    EXPECT_THROW(chartConstants(1), std::invalid_argument);
    EXPECT_THROW(individualsLimits(std::vector<double>{1}), std::invalid_argument);
}

} // namespace
} // namespace nuvat
