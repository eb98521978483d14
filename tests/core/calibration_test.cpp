// Properties and refusals of the fit; values from outside are in tests/reference.
#include "logistic.h"
#include "nuvat/core/fit/read_off.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <numeric>
#include <random>

namespace nuvat {
namespace {

struct Data {
    std::vector<double> x, y;
};

/// 8 levels in duplicate on a 4PL with proportional scatter.
Data logisticData(unsigned seed, bool isFalling = true, double noise = 0.02) {
    std::mt19937 random(seed);
    std::normal_distribution<double> normal;
    Data data;
    const LogisticParameters truth =
        isFalling ? LogisticParameters{2.3, 1.1, 20, 0.08, 1} : LogisticParameters{0.08, 1.1, 20, 2.3, 1};
    for (int level = 0; level < 8; ++level) {
        for (int replicate = 0; replicate < 2; ++replicate) {
            const double x = 500 / std::pow(3.0, level);
            data.x.push_back(x);
            data.y.push_back(logisticResponse(truth, x) * (1 + noise * normal(random)));
        }
    }
    return data;
}

/// Standards that suit the model: a gently bending line for polynomials, a logistic for the others.
Data suitableData(Model model, unsigned seed) {
    if (model == Model::Logistic5) {
        Data data = logisticData(seed);
        std::mt19937 random(seed);
        std::normal_distribution<double> normal;
        for (std::size_t i = 0; i < data.x.size(); ++i) { // asymmetric enough for g to be determined
            data.y[i] = logisticResponse({2.3, 1.6, 20, 0.08, 0.4}, data.x[i]) * (1 + 0.0005 * normal(random));
        }
        return data;
    }
    if (model != Model::Quadratic && model != Model::Cubic) {
        return logisticData(seed);
    }
    std::mt19937 random(seed);
    std::normal_distribution<double> normal;
    Data data;
    for (const double x : {1.0, 8.0, 20.0, 60.0, 120.0, 200.0, 300.0}) {
        for (int replicate = 0; replicate < 2; ++replicate) {
            data.x.push_back(x);
            data.y.push_back(0.05 + 0.01 * x - 8e-6 * x * x + 0.004 * normal(random));
        }
    }
    return data;
}

/// Exact derivatives of the reduced sum against central differences: a wrong sign in a second derivative would only
/// show as a search that sometimes fails.
template<std::size_t S> void expectExactDerivatives(const LogisticForm& form, const LogisticShape<S>& shape) {
    const Data data = logisticData(7);
    const auto weights = unscaledWeights(Weighting::InverseY, data.x, data.y, 2e-6);
    const LogisticLevels levels(data.x, data.y, weights);
    const auto at = reducedSum<S>(levels, form, shape);
    ASSERT_TRUE(at.isUsable);
    double scale = std::abs(at.s);
    for (const double h : at.hessian) {
        scale = std::max(scale, std::abs(h));
    }
    std::size_t index = 0;
    for (std::size_t j = 0; j < S; ++j) {
        const double h = 1e-5;
        LogisticShape<S> up = shape;
        LogisticShape<S> down = shape;
        up[j] += h;
        down[j] -= h;
        const auto above = reducedSum<S>(levels, form, up);
        const auto below = reducedSum<S>(levels, form, down);
        EXPECT_NEAR(at.gradient[j], (above.s - below.s) / (2 * h), 1e-6 * scale) << j;
        for (std::size_t k = j; k < S; ++k) {
            EXPECT_NEAR(at.hessian[index++], (above.gradient[k] - below.gradient[k]) / (2 * h), 1e-6 * scale) << j << k;
        }
    }
}

TEST(ReducedSum, DerivativesAgreeWithFiniteDifferences) {
    const LogisticForm free;
    LogisticForm heldA;
    heldA.heldA = 2.2;
    LogisticForm heldD;
    heldD.heldD = 0.1;
    LogisticForm both = heldA;
    both.heldD = 0.1;
    for (const LogisticForm& form : {free, heldA, heldD, both}) {
        for (const LogisticShape<2>& shape :
             {LogisticShape<2>{0.3, 3.0}, LogisticShape<2>{-2.0, 1.0}, LogisticShape<2>{4.0, 6.0}}) {
            expectExactDerivatives<2>(form, shape);
        }
        for (const LogisticShape<3>& shape :
             {LogisticShape<3>{0.3, 1.0, 0.4}, LogisticShape<3>{-0.8, 0.1, -1.2}, LogisticShape<3>{0.9, 1.6, 2.5}}) {
            expectExactDerivatives<3>(form, shape);
        }
    }
}

TEST(Gradient, OfTheResponseAgreesWithFiniteDifferences) {
    for (const double g : {1.0, 0.6, 2.5}) {
        const std::array<double, 5> truth{2.3, 1.1, 20, 0.08, g};
        const auto at = [](const std::array<double, 5>& p, double x) {
            return logisticResponse({p[0], p[1], p[2], p[3], p[4]}, x);
        };
        for (const double x : {0.0, 0.5, 20.0, 400.0}) {
            const auto gradient = logisticGradient({2.3, 1.1, 20, 0.08, g}, x);
            for (std::size_t k = 0; k < 5; ++k) {
                auto up = truth;
                auto down = truth;
                const double h = 1e-6 * truth[k];
                up[k] += h;
                down[k] -= h;
                EXPECT_NEAR(gradient[k], (at(up, x) - at(down, x)) / (2 * h), 1e-8) << k << " at " << x;
            }
            const double h = 1e-6 * x;
            if (x > 0) {
                EXPECT_NEAR(logisticSlope({2.3, 1.1, 20, 0.08, g}, x), (at(truth, x + h) - at(truth, x - h)) / (2 * h),
                            1e-7);
            }
        }
    }
}

class EveryFit : public testing::TestWithParam<std::tuple<Model, Weighting>> {};

TEST_P(EveryFit, DoesNotDependOnTheOrderOfThePoints) {
    const auto [model, weighting] = GetParam();
    const Data data = suitableData(model, 3);
    const Fit fit = fitCalibration(model, weighting, data.x, data.y);
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    std::vector<std::size_t> order(data.x.size());
    std::iota(order.begin(), order.end(), 0u);
    std::shuffle(order.begin(), order.end(), std::mt19937(5));
    Data mixed;
    for (const std::size_t i : order) {
        mixed.x.push_back(data.x[i]);
        mixed.y.push_back(data.y[i]);
    }
    const Fit other = fitCalibration(model, weighting, mixed.x, mixed.y);
    // A 5PL ends in a flat valley: its parameters hold fewer digits than its curve.
    const double tolerance = model == Model::Logistic5 ? 1e-7 : 1e-11;
    for (std::size_t k = 0; k < fit.size(); ++k) {
        EXPECT_NEAR(other.parameters[k], fit.parameters[k], tolerance * (1 + std::abs(fit.parameters[k])));
        EXPECT_NEAR(other.se[k], fit.se[k], std::max(1e-9, 10 * tolerance) * fit.se[k]);
    }
}

TEST_P(EveryFit, DoesNotDependOnTheScaleOfTheWeights) {
    const auto [model, weighting] = GetParam();
    const Data data = suitableData(model, 8);
    const std::vector<double> weights = unscaledWeights(weighting, data.x, data.y, 2e-6);
    const auto fitWith = [&, modelName = model](double scale) {
        std::vector<double> s;
        for (const double w : weights) {
            s.push_back(scale / std::sqrt(w));
        }
        FitOptions options;
        options.model = modelName;
        options.weighting = Weighting::InverseS2;
        return fitCalibration(options, {data.x, data.y, {}, s});
    };
    const Fit one = fitWith(1);
    const Fit other = fitWith(1000);
    ASSERT_TRUE(one.isUsable()) << one.message;
    ASSERT_TRUE(other.isUsable()) << other.message;
    const double tolerance = model == Model::Logistic5 ? 1e-7 : 1e-10;
    for (std::size_t k = 0; k < one.size(); ++k) {
        EXPECT_NEAR(other.parameters[k], one.parameters[k], tolerance * (1 + std::abs(one.parameters[k])));
        EXPECT_NEAR(other.se[k], one.se[k], 10 * tolerance * one.se[k]);
    }
    EXPECT_NEAR(*other.aicc, *one.aicc, 1e-8 * std::abs(*one.aicc));
}

// Data on the curve itself: the parameters come back and nothing divides by zero.
TEST_P(EveryFit, RecoversNoiseFreeDataExactly) {
    const auto [model, weighting] = GetParam();
    if (weighting == Weighting::InverseS2) {
        return; // without scatter there is no such weight
    }
    Data data = suitableData(model, 9);
    const Fit truth = fitCalibration(model, Weighting::None, data.x, data.y);
    ASSERT_TRUE(truth.isUsable()) << truth.message;
    for (std::size_t i = 0; i < data.x.size(); ++i) {
        data.y[i] = response(truth, data.x[i]);
    }
    const Fit fit = fitCalibration(model, weighting, data.x, data.y);
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    for (std::size_t k = 0; k < fit.size(); ++k) {
        EXPECT_NEAR(fit.parameters[k], truth.parameters[k], 1e-7 * (1e-3 + std::abs(truth.parameters[k])));
    }
    for (std::size_t i = 0; i < data.x.size(); ++i) {
        EXPECT_NEAR(fit.fitted[i], data.y[i], 1e-11 * (1 + std::abs(data.y[i])));
    }
}

TEST_P(EveryFit, ScalesWithItsUnits) {
    const auto [model, weighting] = GetParam();
    const Data data = suitableData(model, 4);
    const Fit fit = fitCalibration(model, weighting, data.x, data.y);
    Data other = data;
    for (double& x : other.x) {
        x *= 1e-9; // grams for nanograms
    }
    for (double& y : other.y) {
        y *= 1000; // millivolts for volts
    }
    const Fit scaled = fitCalibration(model, weighting, other.x, other.y);
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    ASSERT_TRUE(scaled.isUsable()) << scaled.message;
    const ReadOff before = readOff(fit, 1.1);
    const ReadOff after = readOff(scaled, 1100);
    ASSERT_EQ(before.status, after.status);
    ASSERT_EQ(before.status, ReadOffStatus::Ok);
    EXPECT_NEAR(*after.x / (*before.x * 1e-9), 1, 1e-9);
    EXPECT_NEAR(*after.se / (*before.se * 1e-9), 1, 1e-8);
    EXPECT_NEAR(*scaled.rSquared, *fit.rSquared, 1e-12);
}

TEST_P(EveryFit, ReadsAFittedPointBack) {
    const auto [model, weighting] = GetParam();
    const Data data = suitableData(model, 6);
    const Fit fit = fitCalibration(model, weighting, data.x, data.y);
    for (const double x : {1.0, 8.0, 20.0, 300.0}) {
        const ReadOff read = readOff(fit, response(fit, x));
        ASSERT_EQ(read.status, ReadOffStatus::Ok);
        EXPECT_NEAR(*read.x, x, 1e-9 * x);
    }
}

INSTANTIATE_TEST_SUITE_P(
    Models, EveryFit,
    testing::Combine(testing::Values(Model::Line, Model::LineThroughOrigin, Model::LineFixedPoint, Model::Quadratic,
                                     Model::Cubic, Model::LogLog, Model::Logistic4, Model::Logistic5),
                     testing::Values(Weighting::None, Weighting::InverseX, Weighting::InverseX2, Weighting::InverseY,
                                     Weighting::InverseY2, Weighting::InverseS2)));

TEST(Logistic4, RisingIsTheMirrorOfFalling) {
    Data data = logisticData(8);
    const Fit falling = fitCalibration(Model::Logistic4, Weighting::None, data.x, data.y);
    for (double& y : data.y) {
        y = 3 - y;
    }
    const Fit rising = fitCalibration(Model::Logistic4, Weighting::None, data.x, data.y);
    ASSERT_TRUE(falling.isUsable() && rising.isUsable());
    EXPECT_NEAR(rising.parameters[0], 3 - falling.parameters[0], 1e-9);
    EXPECT_NEAR(rising.parameters[1], falling.parameters[1], 1e-8);
    EXPECT_NEAR(rising.parameters[2], falling.parameters[2], 1e-7);
    EXPECT_NEAR(rising.se[2], falling.se[2], 1e-7);
}

TEST(Logistic4, AZeroStandardIsOnThePlateau) {
    Data data = logisticData(9);
    data.x.push_back(0);
    data.y.push_back(2.29);
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::InverseX, data.x, data.y);
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    EXPECT_EQ(response(fit, 0), fit.parameters[0]); // exactly a
    EXPECT_TRUE(fit.zeroStandardWeighted);
    EXPECT_EQ(fit.weights.back(), 1 / fit.lowestPositiveX); // the weight of the lowest level
}

TEST(Polynomials, AreReadOffOnTheBranchThatHoldsTheStandards) {
    // Bends over at x = 10, beyond the standards: y = 20x - x^2.
    std::vector<double> x;
    std::vector<double> y;
    for (const double v : {0.0, 1.0, 2.0, 4.0, 6.0, 8.0}) {
        x.push_back(v);
        y.push_back(20 * v - v * v + (x.size() % 2 == 0 ? 0.01 : -0.01));
    }
    const Fit fit = fitCalibration(Model::Quadratic, Weighting::None, x, y);
    ASSERT_TRUE(fit.isUsable());
    EXPECT_TRUE(fit.warnings.empty());
    EXPECT_NEAR(*readOff(fit, 75).x, 5, 0.01);                      // not 15, where the parabola comes down again
    EXPECT_EQ(readOff(fit, 101).status, ReadOffStatus::AboveCurve); // the top is at 100
    EXPECT_LT(*readOff(fit, -5).x, 0);
}

TEST(Polynomials, WarnWhenTheyTurnInsideTheStandards) {
    std::vector<double> x;
    std::vector<double> y;
    for (const double v : {0.0, 2.0, 4.0, 6.0, 8.0, 10.0, 12.0}) {
        x.push_back(v);
        y.push_back(20 * v - v * v);
    }
    const Fit fit = fitCalibration(Model::Quadratic, Weighting::None, x, y);
    ASSERT_EQ(fit.warnings.size(), 1u);
    EXPECT_NE(fit.warnings[0].find("turns inside the range"), std::string::npos);
    EXPECT_NEAR(*readOff(fit, 75).x, 5, 1e-9);
}

TEST(Polynomials, LoseNoDigitsFarFromZero) {
    // The same standards moved by 1e6: reading off moves with them.
    const std::vector<double> x{1, 2, 3, 4, 5, 6, 7, 8};
    const std::vector<double> y{1.1, 3.9, 9.2, 15.8, 25.1, 36.2, 48.8, 64.1};
    std::vector<double> far = x;
    for (double& v : far) {
        v += 1e6;
    }
    const Fit near = fitCalibration(Model::Cubic, Weighting::None, x, y);
    const Fit moved = fitCalibration(Model::Cubic, Weighting::None, far, y);
    EXPECT_NEAR(*readOff(moved, 30).x - 1e6, *readOff(near, 30).x, 1e-8);
    EXPECT_NEAR(*readOff(moved, 30).se, *readOff(near, 30).se, 1e-8);
}

TEST(Akaike, IsAbsentWhereItIsNotDefined) {
    const std::vector<double> x{1, 2, 3, 4};
    EXPECT_FALSE(fitCalibration(Model::Line, Weighting::None, x, std::vector<double>{1, 2, 3, 4.1}).aicc); // n = k + 1
    const std::vector<double> more{1, 2, 3, 4, 5, 6};
    EXPECT_FALSE(fitCalibration(Model::Line, Weighting::None, more, more).aicc); // exact
}

TEST(Logistic4, SaysWhatIsNotDetermined) {
    const std::vector<double> x{1, 2, 4, 8, 16, 32};
    const Fit flat = fitCalibration(Model::Logistic4, Weighting::None, x, std::vector<double>(6, 1.0));
    EXPECT_EQ(flat.status, FitStatus::NotDetermined);
    EXPECT_TRUE(flat.parameters.empty()); // never a silent number
    EXPECT_FALSE(flat.message.empty());
    // A power law has no plateau at all: the mid-point runs away.
    std::vector<double> power;
    for (const double v : x) {
        power.push_back(0.1 * std::pow(v, 1.3));
    }
    const Fit noPlateau = fitCalibration(Model::Logistic4, Weighting::None, x, power);
    EXPECT_NE(noPlateau.status, FitStatus::Ok);
    EXPECT_TRUE(noPlateau.parameters.empty());
    // A step between two levels fixes neither slope nor mid-point.
    const Fit step =
        fitCalibration(Model::Logistic4, Weighting::None, x, std::vector<double>{1, 1.01, 0.99, 0.1, 0.11, 0.09});
    EXPECT_NE(step.status, FitStatus::Ok);
}

TEST(Fits, SayWhatIsMissing) {
    const Fit none = fitCalibration(Model::Logistic4, Weighting::None, {}, {});
    EXPECT_EQ(none.status, FitStatus::NotEnoughData);
    const std::vector<double> two{1, 2};
    EXPECT_EQ(fitCalibration(Model::Line, Weighting::None, two, two).status, FitStatus::NotEnoughData); // no df left
    const std::vector<double> same{5, 5, 5};
    const Fit oneLevel = fitCalibration(Model::Line, Weighting::None, same, std::vector<double>{1, 2, 3});
    EXPECT_EQ(oneLevel.status, FitStatus::NotEnoughData);
    EXPECT_NE(oneLevel.message.find("2 different concentrations"), std::string::npos) << oneLevel.message;
    const std::vector<double> zeros{0, 0, 0};
    EXPECT_NE(fitCalibration(Model::LineThroughOrigin, Weighting::None, zeros, same).status, FitStatus::Ok);
}

TEST(Fits, RefuseWhatACallerMustNotPass) {
    const std::vector<double> x{1, 2, 3};
    EXPECT_THROW((void)fitCalibration(Model::Line, Weighting::None, x, std::vector<double>{1, 2}),
                 std::invalid_argument);
    EXPECT_THROW((void)fitCalibration(Model::Line, Weighting::None, x, std::vector<double>{1, NAN, 2}),
                 std::invalid_argument);
    const std::vector<double> s{1, 0, 1};
    EXPECT_THROW((void)fitCalibration(FitOptions{}, {x, x, {}, s}), std::invalid_argument);
}

TEST(Fits, SayWhichStandardsAModelCannotHold) {
    const std::vector<double> x{-1, 2, 3, 5, 8, 9};
    const std::vector<double> y{1, 2, 3, 4, 5, 6};
    const Fit logistic = fitCalibration(Model::Logistic4, Weighting::None, x, y);
    EXPECT_EQ(logistic.status, FitStatus::NotDetermined);
    EXPECT_NE(logistic.message.find("0 or more"), std::string::npos);
    const Fit loglog = fitCalibration(Model::LogLog, Weighting::None, x, y);
    EXPECT_EQ(loglog.status, FitStatus::NotDetermined);
    EXPECT_NE(loglog.message.find("above zero"), std::string::npos);
}

TEST(Weights, FollowTheirDefinition) {
    const std::vector<double> x{0, 2, 4};
    const std::vector<double> y{-0.5, 0, 2};
    EXPECT_EQ(unscaledWeights(Weighting::InverseX, x, y, 2e-6), (std::vector<double>{0.5, 0.5, 0.25}));
    EXPECT_EQ(unscaledWeights(Weighting::InverseX2, x, y, 2e-6), (std::vector<double>{0.25, 0.25, 0.0625}));
    const auto byY = unscaledWeights(Weighting::InverseY, x, y, 2e-6);
    EXPECT_EQ(byY[0], 2);                // |y|
    EXPECT_NEAR(byY[1], 1 / 2e-6, 1e-3); // the floor of 1e-6*max|y|
    EXPECT_TRUE(
        unscaledWeights(Weighting::InverseX, std::vector<double>{0, 0}, std::vector<double>{1, 2}, 2e-6).empty());
}

TEST(Weights, FromTheScatterOfReplicatesPoolWhereThereIsNone) {
    const std::vector<double> x{1, 1, 2, 2, 3, 4, 4};
    const std::vector<double> y{1.0, 1.2, 2.0, 2.4, 3.0, 4.0, 4.0};
    const auto weights = unscaledWeights(Weighting::InverseS2, x, y, 2e-6);
    ASSERT_EQ(weights.size(), 7u);
    EXPECT_NEAR(weights[0], 1 / 0.02, 1e-9);     // SD of 1.0 and 1.2
    const double pooled = (0.02 + 0.08 + 0) / 3; // three levels with one degree of freedom each
    EXPECT_NEAR(weights[4], 1 / pooled, 1e-9);   // a single replicate
    EXPECT_NEAR(weights[5], 1 / pooled, 1e-9);   // two equal replicates
    EXPECT_TRUE(unscaledWeights(Weighting::InverseS2, std::vector<double>{1, 2, 3}, std::vector<double>{1, 2, 3}, 2e-6)
                    .empty());
    const Fit fit =
        fitCalibration(Model::Line, Weighting::InverseS2, std::vector<double>{1, 2, 3}, std::vector<double>{1, 2, 3.1});
    EXPECT_EQ(fit.status, FitStatus::NotDetermined);
    EXPECT_NE(fit.message.find("No level has replicates"), std::string::npos);
}

TEST(ReadOffs, HaveNoNumberBeyondTheCurve) {
    const Data data = logisticData(10);
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, data.x, data.y);
    const ReadOff below = readOff(fit, 3.5); // more signal than at zero: less than nothing of a falling curve
    EXPECT_EQ(below.status, ReadOffStatus::BelowCurve);
    EXPECT_FALSE(below.x || below.low || below.se);
    EXPECT_EQ(readOff(fit, -1).status, ReadOffStatus::AboveCurve);
    const Data up = logisticData(10, false);
    const Fit rising = fitCalibration(Model::Logistic4, Weighting::None, up.x, up.y);
    EXPECT_EQ(readOff(rising, 3.5).status, ReadOffStatus::AboveCurve);
    EXPECT_EQ(readOff(rising, -1).status, ReadOffStatus::BelowCurve);
}

TEST(ReadOffs, OfSeveralReplicatesShrinkOnlyTheirOwnScatter) {
    const Data data = logisticData(11);
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, data.x, data.y);
    const std::vector<double> same(4, 1.1);
    const ReadOff one = readOff(fit, 1.1);
    const ReadOff four = readOffMean(fit, same);
    EXPECT_NEAR(*four.x, *one.x, 1e-12 * *one.x);
    EXPECT_NEAR(four.seResponse, one.seResponse / 2, 1e-12);
    EXPECT_NEAR(four.seCurve, one.seCurve, 1e-12);
    // The mean of four equal replicates is one response with m = 4.
    ReadOffOptions m4;
    m4.replicates = 4;
    EXPECT_NEAR(*readOff(fit, 1.1, m4).se, *four.se, 1e-12);
}

TEST(ReadOffs, CarryTheBlanksShare) {
    const Data data = logisticData(12);
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, data.x, data.y);
    ReadOffOptions withBlank;
    withBlank.blankSe = 0.01;
    const ReadOff plain = readOff(fit, 1.1);
    const ReadOff wider = readOff(fit, 1.1, withBlank);
    const double share = 0.01 / std::abs(slope(fit, *plain.x));
    EXPECT_NEAR(wider.seBlank, share, 1e-12);
    EXPECT_NEAR(*wider.se, std::hypot(*plain.se, share), 1e-12);
}

TEST(ReadOffs, FiellersLimitsAreForLinesThatSlope) {
    const std::vector<double> x{1, 2, 3, 4, 5, 6};
    const Fit flat = fitCalibration(Model::Line, Weighting::None, x, std::vector<double>{1, 3, 0.5, 2.5, 1, 3});
    ReadOffOptions options;
    options.interval = IntervalMethod::Fieller;
    const ReadOff read = readOff(flat, 2, options);
    EXPECT_EQ(read.status, ReadOffStatus::Ok);
    EXPECT_FALSE(read.low || read.high); // the slope may be zero: every concentration is possible
    const Data data = logisticData(14);
    const Fit curve = fitCalibration(Model::Logistic4, Weighting::None, data.x, data.y);
    EXPECT_THROW((void)readOff(curve, 1, options), std::invalid_argument);
}

TEST(ReadOffs, LogLimitsNeverGoBelowZero) {
    const Data data = logisticData(13, true, 0.08);
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, data.x, data.y);
    ReadOffOptions options;
    options.interval = IntervalMethod::LogPropagation;
    const double y = response(fit, 0.3);
    EXPECT_LT(*readOff(fit, y).low, 0);
    EXPECT_GT(*readOff(fit, y, options).low, 0);
}

// Responses that cancel: the line through the origin is flat, and nothing can be divided by what it gives.
TEST(WeightsFromTheFittedResponses, AreRefusedWhereThoseAreAllZero) {
    FitOptions options;
    options.model = Model::LineThroughOrigin;
    options.weighting = Weighting::InverseY2;
    options.weightFrom = WeightSource::Fitted;
    options.weightFloor = 0;
    const std::vector<double> x{2, 2, 5, 5};
    const std::vector<double> y{1, -1, 1, -1};
    const Fit fit = fitCalibration(options, {x, y, {}, {}});
    EXPECT_EQ(fit.status, FitStatus::NotDetermined);
    EXPECT_NE(fit.message.find("zero"), std::string::npos) << fit.message;
}

} // namespace
} // namespace nuvat
