// Point to point and the monotone spline by their definitions.
#include "nuvat/core/fit/calibration.h"
#include "nuvat/core/fit/read_off.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <random>

namespace nuvat {
namespace {

struct Set {
    std::vector<double> x, y;
};

Set monotoneSet(std::mt19937& random, bool isFalling) {
    std::uniform_real_distribution<double> uniform(0.05, 1);
    Set out;
    double x = 0.5;
    double y = isFalling ? 9 : 0.2;
    for (int level = 0; level < 9; ++level) {
        for (const double off : {-0.01, 0.01}) {
            out.x.push_back(x);
            out.y.push_back(y + off);
        }
        x *= 1.2 + 2 * uniform(random);
        y += (isFalling ? -1 : 1) * uniform(random) * (level % 3 == 1 ? 0.1 : 1);
    }
    return out;
}

Fit fitOf(const Set& set, Model model, bool isInLogX = false) {
    FitOptions options;
    options.model = model;
    options.isSplineInLogX = isInLogX;
    return fitCalibration(options, {set.x, set.y, {}, {}});
}

// The curve follows from the knots around: a stretch of a long table has the same scatter, in units of s, as the whole.
TEST(Interpolations, HaveTheScatterOfTheKnotsAround) {
    Set all;
    std::mt19937 random(9);
    std::uniform_real_distribution<double> step(0.02, 2);
    double y = 0;
    for (int level = 0; level < 200; ++level) {
        y += step(random);
        for (const double off : {-0.005, 0.005}) {
            all.x.push_back(level);
            all.y.push_back(y + off);
        }
    }
    const Set part{{all.x.begin() + 60, all.x.begin() + 340}, {all.y.begin() + 60, all.y.begin() + 340}};
    for (const Model model : {Model::PointToPoint, Model::Spline}) {
        const Fit whole = fitOf(all, model);
        const Fit stretch = fitOf(part, model);
        ASSERT_TRUE(whole.isUsable() && stretch.isUsable());
        for (double x = 75; x < 125; x += 0.37) {
            EXPECT_NEAR(responseSe(whole, x) / whole.s, responseSe(stretch, x) / stretch.s, 1e-8) << x;
        }
    }
}

TEST(Interpolations, RunThroughTheLevelMeansAndReadThemBack) {
    std::mt19937 random(20261125);
    for (int round = 0; round < 50; ++round) {
        const Set set = monotoneSet(random, round % 2 == 0);
        for (const auto& [model, isInLogX] :
             {std::pair{Model::PointToPoint, false}, {Model::Spline, false}, {Model::Spline, true}}) {
            const Fit fit = fitOf(set, model, isInLogX);
            ASSERT_TRUE(fit.isUsable()) << fit.message;
            ASSERT_EQ(fit.knots.size(), 9u);
            for (std::size_t k = 0; k < fit.knots.size(); ++k) {
                EXPECT_NEAR(fit.knots[k].y, (set.y[2 * k] + set.y[2 * k + 1]) / 2, 1e-15 * 10);
                EXPECT_NEAR(response(fit, fit.knots[k].x), fit.knots[k].y, 1e-13);
                const ReadOff read = readOff(fit, fit.knots[k].y);
                if (slope(fit, fit.knots[k].x) == 0 && !read.x) { // the spline's end may be flat: no finite error there
                    EXPECT_EQ(read.status, ReadOffStatus::NotDefined);
                    continue;
                }
                ASSERT_TRUE(read.x) << k;
                EXPECT_NEAR(*read.x / fit.knots[k].x, 1, 1e-12);
            }
        }
    }
}

// F. N. Fritsch, R. E. Carlson, SIAM J. Numer. Anal. 17 (1980): the interpolant is monotone wherever the data are, and
// its slopes are continuous.
TEST(MonotoneSpline, IsMonotoneBetweenItsLevelsWithContinuousSlope) {
    std::mt19937 random(7);
    for (int round = 0; round < 100; ++round) {
        const bool isFalling = round % 2 == 0;
        const Fit fit = fitOf(monotoneSet(random, isFalling), Model::Spline, round % 4 < 2);
        ASSERT_TRUE(fit.isUsable());
        double last = response(fit, fit.lowestX);
        for (int i = 1; i <= 2000; ++i) {
            const double x = fit.lowestX * std::pow(fit.highestX / fit.lowestX, i / 2000.0);
            const double y = response(fit, x);
            EXPECT_GE((isFalling ? -1 : 1) * (y - last), -1e-12) << "round " << round << " at " << x;
            last = y;
        }
        for (std::size_t k = 1; k + 1 < fit.knots.size(); ++k) {
            const double x = fit.knots[k].x;
            const double step = 1e-7 * x;
            EXPECT_NEAR(slope(fit, x - step), slope(fit, x + step), 1e-4 * (std::abs(slope(fit, x)) + 1e-3));
        }
    }
}

TEST(MonotoneSpline, SlopesAreTheDerivativesOfTheCurve) {
    std::mt19937 random(9);
    for (const bool isInLogX : {false, true}) {
        const Fit fit = fitOf(monotoneSet(random, false), Model::Spline, isInLogX);
        for (std::size_t k = 0; k + 1 < fit.knots.size(); ++k) {
            const double x = 0.3 * fit.knots[k].x + 0.7 * fit.knots[k + 1].x;
            const double step = 1e-6 * x;
            EXPECT_NEAR(slope(fit, x), (response(fit, x + step) - response(fit, x - step)) / (2 * step),
                        1e-6 * std::abs(slope(fit, x)) + 1e-9);
        }
    }
}

// Straight data have a straight spline, whatever the spacing.
TEST(MonotoneSpline, OfALineIsTheLine) {
    const Set set{{1, 2, 5, 11, 40}, {3, 5, 11, 23, 81}};
    const Fit fit = fitOf(set, Model::Spline);
    ASSERT_TRUE(fit.isUsable());
    for (double x = 1; x <= 40; x += 0.37) {
        EXPECT_NEAR(response(fit, x), 1 + 2 * x, 1e-12);
        EXPECT_NEAR(slope(fit, x), 2, 1e-12);
    }
}

TEST(MonotoneSpline, RefusesLevelsThatTurnAndAZeroOnALogarithmicAxis) {
    const Set turning{{1, 2, 3, 4}, {1, 3, 2, 4}};
    EXPECT_EQ(fitOf(turning, Model::Spline).status, FitStatus::NotDetermined);
    const Fit points = fitOf(turning, Model::PointToPoint);
    ASSERT_TRUE(points.isUsable());
    EXPECT_FALSE(points.warnings.empty());
    EXPECT_FALSE(readOff(points, 2.5).x); // met three times
    EXPECT_TRUE(readOff(points, 3.5).x);
    const Set zero{{0, 2, 3, 4}, {1, 2, 3, 4}};
    EXPECT_TRUE(fitOf(zero, Model::Spline).isUsable());
    EXPECT_EQ(fitOf(zero, Model::Spline, true).status, FitStatus::NotDetermined);
}

TEST(Interpolations, NeverExtrapolate) {
    std::mt19937 random(3);
    const Set set = monotoneSet(random, false);
    for (const Model model : {Model::PointToPoint, Model::Spline}) {
        const Fit fit = fitOf(set, model);
        EXPECT_EQ(readOff(fit, fit.knots.back().y + 0.1).status, ReadOffStatus::AboveCurve);
        EXPECT_EQ(readOff(fit, fit.knots.front().y - 0.1).status, ReadOffStatus::BelowCurve);
    }
}

// Between two levels the line is a weighted mean of theirs: var = (1-t)^2*v1 + t^2*v2, v the variance of a mean.
TEST(PointToPoint, HasTheVarianceOfAWeightedMeanOfTwoLevels) {
    std::mt19937 random(5);
    const Set set = monotoneSet(random, false);
    const Fit fit = fitOf(set, Model::PointToPoint);
    const double ofMean = fit.s * fit.s / 2; // two replicates, equal weights
    for (const double t : {0.0, 0.25, 0.5, 0.9}) {
        const double x = fit.knots[3].x + t * (fit.knots[4].x - fit.knots[3].x);
        EXPECT_NEAR(responseVariance(fit, x) / (ofMean * ((1 - t) * (1 - t) + t * t)), 1, 1e-9) << t;
    }
}

} // namespace
} // namespace nuvat
