// What is said of fits that are weak, flat or out of scale, and of the least |y| that weights take.
#include "nuvat/core/fit/calibration.h"
#include "nuvat/core/fit/read_off.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <random>

namespace nuvat {
namespace {

bool warns(const Fit& fit, const std::string& of) {
    return std::any_of(fit.warnings.begin(), fit.warnings.end(),
                       [&](const std::string& w) { return w.find(of) != std::string::npos; });
}

TEST(FlatCurves, ReadNothingOffAndSaySo) {
    const std::vector<double> x{1, 2, 3, 4, 5, 6};
    const std::vector<double> y(6, 5.0);
    for (const Model model : {Model::PointToPoint, Model::Quadratic, Model::Cubic, Model::Line}) {
        const Fit fit = fitCalibration(model, Weighting::None, x, y);
        ASSERT_TRUE(fit.isUsable()) << name(model);
        EXPECT_TRUE(warns(fit, "flat")) << name(model);
        for (const double response : {4.0, 5.0, 6.0}) {
            EXPECT_EQ(readOff(fit, response).status, ReadOffStatus::NotDefined) << name(model) << " " << response;
        }
    }
}

TEST(WeakSlopes, AreSaid) {
    const std::vector<double> x{1, 2, 3, 4, 5, 6};
    EXPECT_TRUE(
        warns(fitCalibration(Model::Line, Weighting::None, x, std::vector<double>{3.1, 2.7, 3.3, 2.9, 3.2, 3.1}),
              "not significantly different from zero"));
    EXPECT_FALSE(warns(
        fitCalibration(Model::Line, Weighting::None, x, std::vector<double>{1.1, 1.9, 3.1, 3.9, 5.2, 5.9}), "slope"));
}

TEST(Scales, OutOfReachAreRefusedWithTheReason) {
    const std::vector<double> x{1e200, 2e200, 3e200, 4e200};
    const std::vector<double> y{1, 2.02, 2.98, 4};
    const Fit large = fitCalibration(Model::Line, Weighting::None, x, y);
    EXPECT_EQ(large.status, FitStatus::NotDetermined);
    EXPECT_NE(large.message.find("choose a unit"), std::string::npos) << large.message;
    EXPECT_NE(fitCalibration(Model::Line, Weighting::InverseX2, x, y).message.find("The concentrations are too large"),
              std::string::npos);
    const Fit small =
        fitCalibration(Model::Line, Weighting::None, y, std::vector<double>{1e-90, 2e-90, 3e-90, 4.1e-90});
    EXPECT_NE(small.message.find("The responses are too large or too small"), std::string::npos) << small.message;
}

TEST(Scales, OfManyDecadesAreFitted) {
    std::vector<double> x;
    std::vector<double> y;
    for (int i = -12; i <= 12; i += 2) {
        x.push_back(std::pow(10.0, i));
        y.push_back(2 * x.back() * (i % 4 == 0 ? 1.01 : 0.99));
    }
    for (const Model model : {Model::Line, Model::Quadratic, Model::Cubic}) {
        const Fit fit = fitCalibration(model, Weighting::InverseX2, x, y);
        ASSERT_TRUE(fit.isUsable()) << name(model) << ": " << fit.message;
        const ReadOff read = readOff(fit, 2e-10);
        EXPECT_NEAR(*read.x, 1e-10, 2e-12) << name(model);
    }
}

TEST(WeightFloor, IsTheScatterNextToZero) {
    // The level nearest to zero scatters by 0.02; a reading of 0.001 there must not weigh 10^6 times the others.
    const std::vector<double> x{1, 1, 2, 2, 4, 4};
    const std::vector<double> y{0.001, 0.029, 1.0, 1.1, 2.0, 2.2};
    FitOptions options;
    options.weighting = Weighting::InverseY2;
    const Fit own = fitCalibration(options, {x, y, {}, {}});
    const double sd = std::sqrt(2 * 0.014 * 0.014);
    EXPECT_NEAR(own.floorOfY, sd, 1e-12);
    EXPECT_NEAR(own.weights[0], 1 / (sd * sd), 1e-6);
    EXPECT_NEAR(own.weights[1], 1 / (0.029 * 0.029), 1e-6);
    CalibrationData withBlanks{x, y, {}, {}};
    withBlanks.blankSd = 0.05;
    withBlanks.blankDf = 3;
    EXPECT_NEAR(fitCalibration(options, withBlanks).floorOfY, std::sqrt((3 * 0.0025 + sd * sd) / 4), 1e-12);
    const std::vector<double> single{1, 2, 4};
    EXPECT_NEAR(fitCalibration(options, {single, std::vector<double>{0.001, 1, 2}, {}, {}}).floorOfY, 0.02, 1e-12);
    options.weightFloor = 1e-6; // as the reference values have it
    EXPECT_NEAR(fitCalibration(options, {x, y, {}, {}}).floorOfY, 2.2e-6, 1e-12);
}

TEST(VarianceFunctions, FindTheExponentThatMadeTheScatter) {
    std::mt19937_64 random(20261128);
    for (const double theta : {0.0, 0.5, 1.0}) {
        double sum = 0;
        constexpr int kSets = 60;
        for (int set = 0; set < kSets; ++set) {
            std::vector<double> y;
            std::vector<double> s;
            std::vector<double> df;
            for (const double level : {1.0, 3.0, 10.0, 30.0, 100.0, 300.0}) {
                std::chi_squared_distribution<double> chi(4);
                y.push_back(level);
                df.push_back(4);
                s.push_back(0.05 * std::pow(level, theta) * std::sqrt(chi(random) / 4));
            }
            const auto found = fitVarianceFunction(y, s, df, 0, std::nullopt);
            ASSERT_TRUE(found);
            EXPECT_GE(found->theta, 0);
            EXPECT_LE(found->theta, 1.5);
            sum += found->theta;
        }
        EXPECT_NEAR(sum / kSets, theta, 0.08) << theta; // clamped at 0, so a little above there
    }
    EXPECT_FALSE(fitVarianceFunction(std::vector<double>{1, 2, 3}, std::vector<double>{1, 1, 1},
                                     std::vector<double>{2, 2, 3}, 0, std::nullopt)); // seven degrees of freedom
    const auto byHand = fitVarianceFunction(std::vector<double>{1, 2}, std::vector<double>{0.1, 0.2},
                                            std::vector<double>{1, 1}, 0, 1.0);
    ASSERT_TRUE(byHand);
    EXPECT_NEAR(byHand->k, 0.1, 1e-12); // a constant CV of 10 %
    EXPECT_NEAR(byHand->at(5), 0.5, 1e-12);
    const auto floored = fitVarianceFunction(std::vector<double>{0.01, 1, 2}, std::vector<double>{0.05, 0.1, 0.2},
                                             std::vector<double>{5, 5, 5}, 0.05, 1.0);
    EXPECT_EQ(floored->at(0.01), 0.05);
}

TEST(VarianceFunctions, WeighAFitAndItsReadOffs) {
    const std::vector<double> x{1, 1, 1, 10, 10, 10, 100, 100, 100, 1000, 1000, 1000};
    const std::vector<double> y{0.97, 1.05, 0.98, 10.2, 9.7, 10.1, 104, 97, 99, 1030, 980, 995};
    FitOptions options;
    options.weighting = Weighting::Variance;
    const Fit fit = fitCalibration(options, {x, y, {}, {}});
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    EXPECT_NEAR(fit.variance.theta, 1, 0.15);
    EXPECT_NEAR(fit.weights[0] / fit.weights[11], std::pow(1000, 2 * fit.variance.theta),
                0.1 * fit.weights[0] / fit.weights[11]);
    EXPECT_NEAR(readingVariance(fit, 50, 50), fit.s * fit.s * std::pow(fit.variance.at(50), 2), 1e-12);
    // theta is a parameter of the likelihood.
    options.theta = fit.variance.theta;
    EXPECT_GT(*fit.aicc, *fitCalibration(options, {x, y, {}, {}}).aicc + 2);
    const Fit few = fitCalibration(options = {.weighting = Weighting::Variance},
                                   {std::vector<double>{1, 2, 3}, std::vector<double>{1, 2, 3.1}, {}, {}});
    EXPECT_EQ(few.status, FitStatus::NotDetermined);
    EXPECT_NE(few.message.find("8 degrees of freedom"), std::string::npos);
}

TEST(ScatterWeights, FromFewReplicatesWarn) {
    const std::vector<double> x{1, 1, 2, 2, 3, 3};
    const std::vector<double> y{1.0, 1.1, 2.1, 1.9, 3.2, 2.9};
    EXPECT_TRUE(warns(fitCalibration(Model::Line, Weighting::InverseS2, x, y), "intervals hold about 80 %"));
    const std::vector<double> s(6, 0.1);
    FitOptions options;
    options.weighting = Weighting::InverseS2;
    EXPECT_FALSE(warns(fitCalibration(options, {x, y, {}, s}), "replicates"));
}

// By definition of the weight: two levels with means 2 and 8 weigh 4 to 1 under 1/y, 16 to 1 under 1/y2, whatever the
// single responses are.
TEST(WeightsOfLevelMeans, AreThoseOfTheMeans) {
    const std::vector<double> x{1, 1, 2, 2, 4, 4};
    const std::vector<double> y{1, 3, 4, 4, 7, 9};
    FitOptions options;
    options.model = Model::Line;
    options.weightFrom = WeightSource::LevelMean;
    options.weightFloor = 0.0;
    for (const auto& [weighting, ratio] :
         {std::pair(Weighting::InverseY, 4.0), std::pair(Weighting::InverseY2, 16.0)}) {
        options.weighting = weighting;
        const Fit fit = fitCalibration(options, {x, y, {}, {}, 0, 0, 0});
        ASSERT_TRUE(fit.isUsable());
        EXPECT_DOUBLE_EQ(fit.weights[0], fit.weights[1]);
        EXPECT_DOUBLE_EQ(fit.weights[4], fit.weights[5]);
        EXPECT_NEAR(fit.weights[0] / fit.weights[4], ratio, 1e-12 * ratio);
    }
}

// Levels at 10, 30 and 50 with SDs of 1, 3 and 5 parts: a reading between two of them scatters in between, in
// proportion.
TEST(ScatterUnderS2, IsInterpolatedBetweenTheLevels) {
    const std::vector<double> x{10, 10, 30, 30, 50, 50};
    const std::vector<double> y{9.9, 10.1, 29.7, 30.3, 49.5, 50.5};
    const Fit fit = fitCalibration(Model::Line, Weighting::InverseS2, x, y);
    ASSERT_TRUE(fit.isUsable());
    const double atLevel = readOff(fit, 10).seResponse;
    EXPECT_NEAR(readOff(fit, 15).seResponse / atLevel, 1.5, 1e-9);
    EXPECT_NEAR(readOff(fit, 20).seResponse / atLevel, 2.0, 1e-9);
    EXPECT_NEAR(readOff(fit, 45).seResponse / atLevel, 4.5, 1e-9);
}

} // namespace
} // namespace nuvat
