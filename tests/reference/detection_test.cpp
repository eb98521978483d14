// Detection limits by every method against 40-digit arithmetic; formulas stand in the JSONs.
#include "nuvat/core/fit/detection.h"
#include "nuvat/core/stats/descriptive.h"
#include "support/reference.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

void near(const char* what, double got, const nlohmann::json& want, double relative = 1e-9) {
    EXPECT_NEAR(got / want.get<double>(), 1, relative) << what;
}

struct TenLevels : testing::Test {
    std::vector<double> x = test::referenceColumns("detection_ten_levels.csv").at("x");
    std::vector<double> y = test::referenceColumns("detection_ten_levels.csv").at("y");
    std::vector<double> blanks = test::referenceColumns("detection_ten_levels_blanks.csv").at("blank_response");
    std::vector<double> low = test::referenceColumns("detection_ten_levels_low_samples.csv").at("low_sample_response");
    Fit fit = fitCalibration(Model::Line, Weighting::None, x, y);
    nlohmann::json want = test::referenceJson("detection_ten_levels.json")["expected"];
};

TEST_F(TenLevels, Din32645) {
    for (const auto& of : want["din32645_calibration"]) {
        const auto got = dinCalibrationLimits(fit, {of["alpha"], of["beta"], of["m"], of["k"]});
        ASSERT_TRUE(got);
        near("t one-sided", got->tOneSided, of["t_one_sided"]);
        near("t two-sided", got->tTwoSided, of["t_two_sided"]);
        near("detection", got->detection, of["detection_limit"]);
        near("capture", got->capture, of["capture_limit"]);
        near("determination", got->determination, of["determination_limit"]);
        near("first approximation", got->determinationFirstApproximation,
             of["determination_limit_first_approximation"]);
        near("critical response", got->criticalResponse, of["critical_response"]);
    }
    for (const auto& of : want["din32645_blank"]) {
        const auto got = dinBlankLimits(fit, blanks, {of["alpha"], of["alpha"], of["m"], 3});
        near("detection", got->detection, of["detection_limit"]);
        near("capture", got->capture, of["capture_limit"]);
        near("critical response", got->criticalResponse, of["critical_response"]);
    }
}

TEST_F(TenLevels, IchAndBlanks) {
    const auto compare = [&](double sigma, const nlohmann::json& of) {
        const IchLimits got = ichLimits(sigma, fit.parameter("b"));
        near("sigma", got.sigma, of["sigma"]);
        near("detection", got.detection, of["detection_limit"]);
        near("quantitation", got.quantitation, of["quantitation_limit"]);
    };
    compare(fit.s, want["ich_q2"]["residual_sd"]);
    compare(fit.se[0], want["ich_q2"]["se_of_intercept"]);
    compare(*describe(blanks).sd, want["ich_q2"]["sd_of_blanks"]);
    for (const auto& [name, k] : {std::pair{"k_3", 3.0}, std::pair{"k_10", 10.0}}) {
        const auto got = blankPlusSd(fit, blanks, k);
        const auto& of = want["blank_mean_plus_k_sd"][name];
        near("response", got->response, of["response"]);
        near("x", *got->x, of["concentration_through_the_line"]);
        near("k SD/b", *got->kSdOverB, of["concentration_k_sd_over_slope"]);
    }
}

TEST_F(TenLevels, LimitOfBlankAndLowLevelSpikes) {
    const auto lob = limitOfBlank(fit, blanks, low);
    const auto& of = want["limit_of_blank"];
    near("LoB", lob->lob, of["LoB"]);
    near("LoD", lob->lod, of["LoD"]);
    near("LoB corrected", lob->lobCorrected, of["LoB_with_cp"]);
    near("LoD corrected", lob->lodCorrected, of["LoD_with_cp"]);
    const auto mdl = methodDetectionLimit(fit, low);
    near("t", mdl->t, want["mdl_low_level_spikes"]["t_one_sided_99"]);
    near("response", mdl->response, want["mdl_low_level_spikes"]["mdl_response"]);
    near("x", *mdl->x, want["mdl_low_level_spikes"]["mdl_concentration"]);
}

TEST_F(TenLevels, Iso11843) {
    for (const auto& of : want["iso11843_2_constant_sd"]) {
        const IsoLimits got = isoLimits(fit, of["alpha"], of["beta"], of["K"]);
        near("t", got.t, of["t"]);
        near("delta", got.delta, of["delta"], 1e-8);
        near("critical response", got.criticalResponse, of["critical_response"]);
        near("critical value", got.criticalValue, of["critical_value_x"]);
        near("minimum detectable", got.minimumDetectable, of["minimum_detectable_x"], 1e-7);
        near("with 2t", got.minimumDetectable2t, of["minimum_detectable_x_with_2t"]);
    }
}

TEST(Iso11843, RisingStandardDeviation) {
    const auto data = test::referenceColumns("iso11843_rising_sd.csv");
    const auto want = test::referenceJson("iso11843_rising_sd.json")["expected"];
    for (const auto& of : want["limits"]) {
        const auto got = isoRisingLimits(data.at("x"), data.at("y"), 0.05, 0.05, of["K"]);
        ASSERT_TRUE(got);
        near("c", got->c, want["sigma0"]);
        near("d", got->d, want["d"]);
        near("intercept", got->intercept, want["intercept"]);
        near("slope", got->slope, want["slope"]);
        near("critical value", got->limits.criticalValue, of["critical_value_x"]);
        near("critical response", got->limits.criticalResponse, of["critical_response"]);
        near("minimum detectable", got->limits.minimumDetectable, of["minimum_detectable_x"], 1e-8);
    }
}

// Mirror: a falling line has the same limits as its rising mirror image.
TEST_F(TenLevels, AFallingLineHasTheSameLimits) {
    std::vector<double> mirrored;
    for (const double v : y) {
        mirrored.push_back(1 - v);
    }
    std::vector<double> mirroredBlanks;
    for (const double v : blanks) {
        mirroredBlanks.push_back(1 - v);
    }
    const Fit falling = fitCalibration(Model::Line, Weighting::None, x, mirrored);
    EXPECT_NEAR(dinCalibrationLimits(falling, {})->detection / dinCalibrationLimits(fit, {})->detection, 1, 1e-9);
    EXPECT_NEAR(*blankPlusSd(falling, mirroredBlanks, 3)->x / *blankPlusSd(fit, blanks, 3)->x, 1, 1e-9);
    EXPECT_NEAR(isoLimits(falling, 0.05, 0.05, 1).criticalResponse, 1 - isoLimits(fit, 0.05, 0.05, 1).criticalResponse,
                1e-9);
}

TEST(DetectionLimits, SayWhyTheyCannotBeFormed) {
    const std::vector<double> x{1, 2, 3, 4};
    const std::vector<double> exact{2, 4, 6, 8};
    EXPECT_FALSE(whyNoLineLimits(fitCalibration(Model::Line, Weighting::None, x, exact)).empty());
    EXPECT_FALSE(whyNoLineLimits(fitCalibration(Model::Line, Weighting::InverseX, x, exact)).empty());
    const std::vector<double> wild{2, 9, 1, 8};
    const Fit fit = fitCalibration(Model::Line, Weighting::None, x, wild);
    EXPECT_FALSE(dinCalibrationLimits(fit, {})); // too uncertain for a relative uncertainty of a third
    EXPECT_FALSE(isoRisingLimits(x, exact, 0.05, 0.05, 1));
    EXPECT_FALSE(blankPlusSd(fit, std::vector<double>{1}, 3));
}

// By definition: at both ends of the range 100*SE/x is the limit, inside it is below.
TEST(RangeByPrecision, EndsWhereTheRelativeErrorCrossesTheLimit) {
    const auto data = test::referenceColumns("dnase_run01.csv");
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, data.at("x"), data.at("y"));
    const PrecisionRange range = rangeByPrecision(fit, 10, {});
    ASSERT_TRUE(range.lowest && range.highest);
    EXPECT_GT(*range.lowest, fit.lowestPositiveX);
    const auto relative = [&](double x) {
        const ReadOff read = readOff(fit, response(fit, x));
        return 100 * *read.se / *read.x;
    };
    EXPECT_NEAR(relative(*range.lowest), 10, 1e-6);
    EXPECT_LT(relative(std::sqrt(*range.lowest * *range.highest)), 10);
    EXPECT_FALSE(rangeByPrecision(fit, 0.01, {}).lowest);
}

} // namespace
} // namespace nuvat
