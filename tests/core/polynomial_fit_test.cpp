// The polynomial kernel against NIST, against a general-purpose library and against its own properties.
#include "nuvat/core/fit/calibration.h"
#include "nuvat/core/fit/polynomial_fit.h"
#include "support/reference.h"

#include <cmath>
#include <Eigen/Dense>
#include <gtest/gtest.h>
#include <random>

namespace nuvat {
namespace {

using test::correctDigits;

// Pontius is not in our pack: data and certified values from memory of NIST StRD (linear regression, quadratic).
TEST(PolynomialFit, AgreesWithNistPontius) {
    const std::vector<double> first{.11019,  .21956,  .32949,  .43899,  .54803,  .65694,  .76562,
                                    .87487,  .98292,  1.09146, 1.20001, 1.30822, 1.41599, 1.52399,
                                    1.63194, 1.73947, 1.84646, 1.95392, 2.06128, 2.16844};
    const std::vector<double> second{.11052,  .22018,  .32939,  .43886,  .54798,  .65739,  .76596,
                                     .87474,  .98300,  1.09150, 1.20004, 1.30818, 1.41613, 1.52408,
                                     1.63159, 1.73965, 1.84696, 1.95445, 2.06177, 2.16829};
    std::vector<double> x;
    std::vector<double> y;
    for (const auto& series : {first, second}) {
        for (std::size_t i = 0; i < series.size(); ++i) {
            x.push_back(150000.0 * static_cast<double>(i + 1));
            y.push_back(series[i]);
        }
    }
    const PolynomialFit<3> fit = fitPolynomial<3>(x, y);
    ASSERT_TRUE(fit.isDetermined);
    EXPECT_GE(correctDigits(fit.parameters[0], 0.673565789473684e-3), 11);
    EXPECT_GE(correctDigits(fit.parameters[1], 0.732059160401003e-6), 13);
    EXPECT_GE(correctDigits(fit.parameters[2], -0.316081871345029e-14), 11);
    EXPECT_GE(correctDigits(std::sqrt(fit.covariance[0]), 0.107938612033077e-3), 11);
    EXPECT_GE(correctDigits(std::sqrt(fit.covariance[4]), 0.157817399981659e-9), 11);
    EXPECT_GE(correctDigits(std::sqrt(fit.covariance[8]), 0.486652849992036e-16), 11);
    EXPECT_GE(correctDigits(std::sqrt(fit.sse / fit.df), 0.205177424076185e-3), 11);
    EXPECT_GE(correctDigits(1 - fit.sse / fit.squares, 0.999999900178537), 13);
}

struct Points {
    std::vector<double> x, y, w;
};

Points points(std::mt19937& random, std::size_t n, double offset, double scale) {
    std::uniform_real_distribution<double> uniform(0, 1);
    std::normal_distribution<double> normal;
    Points out;
    for (std::size_t i = 0; i < n; ++i) {
        const double z = std::floor(8 * uniform(random)) / 4 - 1 + 1e-3 * uniform(random);
        out.x.push_back(offset + scale * z);
        out.y.push_back(3 + 2 * z - 0.7 * z * z + 0.4 * z * z * z + 0.1 * normal(random));
        out.w.push_back(0.1 + uniform(random));
    }
    return out;
}

/// The same by Eigen's column-pivoting Householder QR in extended precision, in z.
template<std::size_t P> void expectLikeEigen(const Points& data, bool isWeighted) {
    using Real = long double;
    const auto fit =
        fitPolynomial<P>(data.x, data.y, isWeighted ? std::span<const double>(data.w) : std::span<const double>());
    ASSERT_TRUE(fit.isDetermined);
    const auto n = static_cast<Eigen::Index>(data.x.size());
    Eigen::Matrix<Real, Eigen::Dynamic, Eigen::Dynamic> design(n, static_cast<Eigen::Index>(P));
    Eigen::Matrix<Real, Eigen::Dynamic, 1> right(n);
    for (Eigen::Index i = 0; i < n; ++i) {
        const auto at = static_cast<std::size_t>(i);
        const Real root = isWeighted ? std::sqrt(static_cast<Real>(data.w[at])) : 1;
        const Real z = (static_cast<Real>(data.x[at]) - fit.centre) / fit.scale;
        for (Eigen::Index k = 0; k < static_cast<Eigen::Index>(P); ++k) {
            design(i, k) = root * std::pow(z, static_cast<int>(k));
        }
        right(i) = root * data.y[at];
    }
    const Eigen::Matrix<Real, Eigen::Dynamic, 1> best = design.colPivHouseholderQr().solve(right);
    const Real sse = (right - design * best).squaredNorm();
    const Eigen::Matrix<Real, Eigen::Dynamic, Eigen::Dynamic> covariance =
        (design.transpose() * design).inverse() * (sse / static_cast<Real>(fit.df));
    EXPECT_GE(correctDigits(fit.sse, static_cast<double>(sse)), 12.5);
    for (std::size_t k = 0; k < P; ++k) {
        const auto at = static_cast<Eigen::Index>(k);
        EXPECT_NEAR(fit.workParameters[k], static_cast<double>(best(at)), 1e-13 * static_cast<double>(best.norm()));
        for (std::size_t j = 0; j < P; ++j) {
            const auto other = static_cast<Eigen::Index>(j);
            EXPECT_NEAR(fit.workCovariance[k * P + j], static_cast<double>(covariance(at, other)),
                        1e-12 * static_cast<double>(covariance.norm()));
        }
    }
}

TEST(PolynomialFit, AgreesWithEigenInExtendedPrecision) {
    std::mt19937 random(20261125);
    for (int round = 0; round < 40; ++round) {
        const Points data = points(random, 8 + static_cast<std::size_t>(random() % 30), 5, 5);
        for (const bool isWeighted : {false, true}) {
            expectLikeEigen<2>(data, isWeighted);
            expectLikeEigen<3>(data, isWeighted);
            expectLikeEigen<4>(data, isWeighted);
        }
    }
}

TEST(PolynomialFit, GivesTheSameCurveInPlainXAndInZ) {
    std::mt19937 random(7);
    for (const double offset : {0.0, 5.0, -40.0}) {
        const Points data = points(random, 20, offset, 3);
        const auto fit = fitPolynomial<4>(data.x, data.y);
        for (const double x : data.x) {
            double plain = 0;
            double work = 0;
            for (std::size_t k = 4; k-- > 0;) {
                plain = plain * x + fit.parameters[k];
                work = work * (x - fit.centre) / fit.scale + fit.workParameters[k];
            }
            const double size = std::abs(fit.parameters[3]) * std::pow(std::abs(offset) + 3, 3) + 1;
            EXPECT_NEAR(plain, work, 1e-14 * size * 10) << offset;
        }
    }
}

TEST(PolynomialFit, DoesNotDependOnTheOrderOfThePointsOrTheScaleOfTheWeights) {
    std::mt19937 random(9);
    Points data = points(random, 24, 100, 20);
    const auto fit = fitPolynomial<3>(data.x, data.y, data.w);
    Points turned = data;
    std::reverse(turned.x.begin(), turned.x.end());
    std::reverse(turned.y.begin(), turned.y.end());
    std::reverse(turned.w.begin(), turned.w.end());
    for (double& w : turned.w) {
        w *= 1e6;
    }
    const auto other = fitPolynomial<3>(turned.x, turned.y, turned.w);
    for (std::size_t k = 0; k < 3; ++k) {
        EXPECT_NEAR(other.parameters[k] / fit.parameters[k], 1, 1e-13);
        EXPECT_NEAR(other.covariance[k * 4] / fit.covariance[k * 4], 1, 1e-12);
    }
    EXPECT_NEAR(other.sse / fit.sse, 1e6, 1e-6);
    EXPECT_NEAR(other.r, fit.r, 1e-14);
}

TEST(PolynomialFit, OfExactDataLeavesNothing) {
    const std::vector<double> x{1, 2, 3, 4, 5};
    const std::vector<double> y{2, 5, 10, 17, 26}; // 1 + x^2
    const auto fit = fitPolynomial<3>(x, y);
    EXPECT_EQ(fit.sse, 0);
    EXPECT_NEAR(fit.parameters[0], 1, 1e-15);
    EXPECT_NEAR(fit.parameters[1], 0, 1e-15);
    EXPECT_NEAR(fit.parameters[2], 1, 1e-15);
    EXPECT_EQ(fit.covariance[0], 0);
}

TEST(PolynomialFit, SaysWhatThePointsDoNotDetermine) {
    const std::vector<double> y{1, 2, 3, 4};
    EXPECT_FALSE(fitPolynomial<2>(std::vector<double>{2, 2, 2, 2}, y).isDetermined);
    EXPECT_FALSE(fitPolynomial<3>(std::vector<double>{1, 1, 2, 2}, y).isDetermined);
    EXPECT_FALSE(fitPolynomial<4>(std::vector<double>{1, 2, 2, 3}, y).isDetermined);
    EXPECT_FALSE(fitPolynomial<4>(std::vector<double>{1, 2, 3}, std::vector<double>{1, 2, 3}).isDetermined);
    EXPECT_TRUE(fitPolynomial<4>(std::vector<double>{1, 2, 3, 4}, y).isDetermined);
    EXPECT_THROW(fitPolynomial<2>(std::vector<double>{1, 2}, y), std::invalid_argument);
    EXPECT_THROW(fitPolynomial<2>(y, y, std::vector<double>{1, 2}), std::invalid_argument);
}

// The line of fitCalibration is this one, with and without weights.
TEST(PolynomialFit, IsWhatTheCalibrationReports) {
    const auto data = test::referenceColumns("wide_range_line.csv");
    const auto& x = data.begin()->second;
    std::vector<double> y;
    for (const double v : x) {
        y.push_back(0.3 + 1.7 * v + 0.01 * std::sin(37 * v));
    }
    const Fit fit = fitCalibration(Model::Line, Weighting::None, x, y);
    const auto kernel = fitPolynomial<2>(x, y);
    ASSERT_TRUE(fit.isUsable());
    EXPECT_EQ(fit.parameters[1], kernel.parameters[1]);
    EXPECT_EQ(fit.sse, kernel.sse);
    EXPECT_EQ(*fit.r, kernel.r);
    EXPECT_EQ(fit.se[0], std::sqrt(kernel.covariance[0]));
}

TEST(MatrixRows, CutASquareIntoItsRows) {
    EXPECT_EQ(matrixRows(std::vector<double>{1, 2, 3, 4}), (std::vector<std::vector<double>>{{1, 2}, {3, 4}}));
    EXPECT_TRUE(matrixRows({}).empty());
}

TEST(WeightsOfReadings, AreTheReadingsOwnOrTheirLevels) {
    const std::vector<double> x{1, 1, 4, 4, 16, 16};
    const std::vector<double> y{1.0, 1.2, 4.1, 3.8, 16.5, 15.5};
    for (const Model model : {Model::Line, Model::PointToPoint}) {
        FitOptions options;
        options.model = model;
        options.weighting = Weighting::InverseY;
        const Fit each = fitCalibration(options, {x, y, {}, {}});
        const auto own = readingWeights(each, x);
        ASSERT_EQ(own.size(), 6u);
        // 1/y of each reading, normalised to mean 1: the definition.
        EXPECT_NEAR(*own[0] / *own[1], 1.2, 1e-14);
        EXPECT_NEAR(*own[4] / *own[5], 15.5 / 16.5, 1e-14);
        options.fitTo = FitTo::Means;
        const Fit means = fitCalibration(options, {x, y, {}, {}});
        const auto shared = readingWeights(means, x);
        EXPECT_EQ(*shared[0], *shared[1]);
        EXPECT_NEAR(*shared[0] / *shared[2], 3.95 / 1.1, 1e-14);
        EXPECT_FALSE(readingWeights(means, std::vector<double>{7}).front());
    }
}

} // namespace
} // namespace nuvat
