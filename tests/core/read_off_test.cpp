// Reading off many at once, both kernels, limits that are absent, products with a dilution.
#include "logistic.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/stats/distributions.h"
#include "support/hard_sets.h"

#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

bool same(const ReadOff& a, const ReadOff& b) {
    return a.status == b.status && a.x == b.x && a.se == b.se && a.low == b.low && a.high == b.high &&
           a.seCurve == b.seCurve && a.seResponse == b.seResponse;
}

// One by one and many together give the same digits, wherever a response stands among the others.
TEST(ReadOffs, GiveTheDigitsOfReadOff) {
    for (unsigned seed = 1; seed <= 60; ++seed) {
        for (const Model model : {Model::Logistic4, Model::Logistic5, Model::Line, Model::Quadratic}) {
            const test::HardSet data = test::hardSet(seed, model == Model::Logistic5);
            const Fit fit = fitCalibration(model, Weighting::None, data.x, data.y);
            std::vector<double> y;
            for (int k = -2; k < 41; ++k) { // also beyond both ends
                y.push_back(0.05 * k);
            }
            const auto many = readOffs(fit, y);
            ASSERT_EQ(many.size(), y.size());
            for (std::size_t i = 0; i < y.size(); ++i) {
                EXPECT_TRUE(same(many[i], readOff(fit, y[i]))) << name(model) << " seed " << seed << " y " << y[i];
            }
        }
    }
}

// Against the formula written out with the C++ library's functions.
TEST(ReadOffs, AgreeWithTheFormulaInTheLibrarysFunctions) {
    for (unsigned seed = 1; seed <= 200; ++seed) {
        const test::HardSet data = test::hardSet(seed, true);
        const Fit fit = fitCalibration(Model::Logistic5, Weighting::None, data.x, data.y);
        if (!fit.isUsable()) {
            continue;
        }
        const double a = fit.parameter("a");
        const double d = fit.parameter("d");
        for (double share = 0.02; share < 1; share += 0.07) {
            const double y = a + (d - a) * share;
            const double x =
                fit.parameter("c") *
                std::pow(std::expm1(-std::log1p(-(a - y) / (a - d)) / fit.parameter("g")), 1 / fit.parameter("b"));
            const ReadOff got = readOff(fit, y);
            ASSERT_EQ(got.status, ReadOffStatus::Ok);
            EXPECT_NEAR(*got.x / x, 1, 1e-11) << "seed " << seed << " share " << share;
            // The share of the curve by the gradient of the response and its slope.
            EXPECT_NEAR(got.seCurve / (responseSe(fit, *got.x) / std::abs(slope(fit, *got.x))), 1, 1e-7);
        }
    }
}

TEST(Kernels, ReadOffAlikeOnEveryMachine) {
    if (!hasAvx2()) {
        GTEST_SKIP() << "this machine has no AVX2";
    }
    LogisticReadPlan plan{{2.3, 1.1, 20, 0.08, 0.7}, true, {}};
    plan.covariance.fill(1e-4);
    std::array<double, 30> y; // the last lanes have no response
    LogisticReadings plain;
    LogisticReadings wide;
    for (int first = 1; first < 100; first += 30) {
        for (std::size_t i = 0; i < y.size(); ++i) {
            y[i] = 0.08 + (2.3 - 0.08) * (first + static_cast<double>(i)) / 121;
        }
        baselineKernels().readOff(plan, y.data(), y.size(), plain);
        avx2Kernels().readOff(plan, y.data(), y.size(), wide);
        for (std::size_t i = 0; i < y.size(); ++i) {
            EXPECT_NEAR(wide.x[i] / plain.x[i], 1, 1e-13);
            EXPECT_NEAR(wide.variance[i] / plain.variance[i], 1, 1e-11);
            EXPECT_NEAR(wide.perSlope[i] / plain.perSlope[i], 1, 1e-13);
        }
    }
}

TEST(ReadOffs, AtTheResponseOfZeroThereIsAConcentrationOnlyWhereTheCurveSlopes) {
    const std::vector<double> x{0, 0, 1, 1, 3, 3, 10, 10, 30, 30, 100, 100};
    std::vector<double> y;
    for (const double v : x) {
        y.push_back(logisticResponse({0.1, 1.4, 12, 2, 1}, v));
    }
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, x, y);
    ASSERT_TRUE(fit.isUsable());
    EXPECT_EQ(readOff(fit, fit.parameter("a")).status, ReadOffStatus::NotDefined); // b > 1: flat at zero
    EXPECT_EQ(readOff(fit, fit.parameter("a") - 0.01).status, ReadOffStatus::BelowCurve);
    EXPECT_EQ(readOff(fit, fit.parameter("d")).status, ReadOffStatus::AboveCurve);
    EXPECT_EQ(readOff(fit, std::nan("")).status, ReadOffStatus::NotDefined);
}

TEST(Scaled, MultipliesAndAddsTheShareOfTheFactor) {
    ReadOff read;
    read.status = ReadOffStatus::Ok;
    read.x = 4.0;
    read.se = 0.3;
    read.low = 3.2;
    read.high = 5.1;
    const ReadOff plain = scaled(read, 10, 0, 2);
    EXPECT_EQ(plain.x, 40.0);
    EXPECT_EQ(plain.low, 32.0);
    EXPECT_EQ(plain.high, 51.0);
    const ReadOff wide = scaled(read, 10, 0.05, 2); // JCGM 100:2008, 5.1.2: relative variances of a product add
    EXPECT_NEAR(*wide.se, std::hypot(3, 2), 1e-12);
    EXPECT_NEAR(*wide.low, 40 - std::hypot(8, 4), 1e-12);
    EXPECT_NEAR(*wide.high, 40 + std::hypot(11, 4), 1e-12);
    read.high.reset(); // a limit that the data do not bound stays absent
    EXPECT_FALSE(scaled(read, 10, 0.05, 2).high);
    EXPECT_FALSE(scaled(ReadOff{}, 10, 0.05, 2).x);
}

TEST(Intervals, OfALineByInversionAreFiellers) {
    const std::vector<double> x{5, 10, 20, 40, 60, 80, 100};
    const std::vector<double> y{0.16, 0.24, 0.46, 0.83, 1.27, 1.66, 2.04};
    const Fit fit = fitCalibration(Model::Line, Weighting::None, x, y);
    for (const double response : {0.2, 0.9, 1.8}) {
        ReadOffOptions options;
        options.interval = IntervalMethod::Fieller;
        const ReadOff fieller = readOff(fit, response, options);
        options.interval = IntervalMethod::Inversion;
        const ReadOff inverted = readOff(fit, response, options);
        EXPECT_NEAR(*inverted.low / *fieller.low, 1, 1e-9);
        EXPECT_NEAR(*inverted.high / *fieller.high, 1, 1e-9);
    }
}

TEST(Intervals, OfTheBootstrapAreSeeded) {
    const test::HardSet data = test::hardSet(3, false);
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, data.x, data.y);
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    const double y = (fit.parameter("a") + fit.parameter("d")) / 2;
    ReadOffOptions options;
    options.interval = IntervalMethod::Bootstrap;
    const ReadOff once = readOff(fit, y, options);
    EXPECT_TRUE(same(once, readOff(fit, y, options)));
    options.seed = 5;
    EXPECT_FALSE(same(once, readOff(fit, y, options)));
    options.bootstrap = simulateCurves(fit, options);
    const ReadOff shared = readOff(fit, y, options);
    options.bootstrap = nullptr;
    EXPECT_TRUE(same(shared, readOff(fit, y, options))); // made once or made each time
    // Wide of the plateaus all methods tell about the same.
    options.interval = IntervalMethod::Profile;
    const ReadOff profile = readOff(fit, y, options);
    ASSERT_TRUE(profile.low && profile.high && once.low && once.high);
    EXPECT_NEAR((*profile.high - *profile.low) / (*once.high - *once.low), 1, 0.35);
}

} // namespace
} // namespace nuvat
