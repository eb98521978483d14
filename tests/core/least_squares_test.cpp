// Properties and refusals of the general solvers; certified problems are in tests/reference.
#include "nuvat/core/fit/calibration.h"
#include "nuvat/core/fit/least_squares.h"

#include <cmath>
#include <gtest/gtest.h>
#include <stdexcept>

namespace nuvat {
namespace {

using Real = long double;

/// a*exp(-k*x) + c at 12 places with a little scatter.
struct Decay {
    std::vector<Real> x, y;
    Decay() {
        const std::vector<double> scatter{0.01, -0.02, 0.015, 0, -0.01, 0.02, -0.015, 0.005, 0.01, -0.005, 0, -0.01};
        for (std::size_t i = 0; i < scatter.size(); ++i) {
            x.push_back(static_cast<Real>(i) / 2);
            y.push_back(3 * std::exp(-0.8L * x.back()) + 0.5L + scatter[i]);
        }
    }
    CurveFunction curve() const {
        return [this](std::span<const Real> b, std::span<Real> values, std::span<Real> jacobian) {
            for (std::size_t i = 0; i < x.size(); ++i) {
                const Real e = std::exp(-b[1] * x[i]);
                values[i] = b[0] * e + b[2];
                jacobian[3 * i] = e;
                jacobian[3 * i + 1] = -b[0] * x[i] * e;
                jacobian[3 * i + 2] = 1;
            }
            return std::all_of(values.begin(), values.end(), [](Real v) { return std::isfinite(v); });
        };
    }
};

TEST(Nonlinear, EndsInTheSameMinimumFromFarApartStarts) {
    const Decay data;
    const LeastSquaresFit near = fitNonlinear(data.curve(), std::vector<double>{3, 0.8, 0.5}, data.y);
    ASSERT_TRUE(near.isUsable()) << near.message;
    for (const auto& start : std::vector<std::vector<double>>{{1, 0.1, 0}, {100, 5, -3}, {-1, 0.01, 10}}) {
        const LeastSquaresFit far = fitNonlinear(data.curve(), start, data.y);
        ASSERT_TRUE(far.isUsable()) << far.message;
        for (std::size_t k = 0; k < 3; ++k) {
            EXPECT_NEAR(far.parameters[k] / near.parameters[k], 1, 1e-12);
            EXPECT_NEAR(far.se[k] / near.se[k], 1, 1e-12);
        }
    }
}

TEST(Nonlinear, DoesNotDependOnTheScaleOfTheWeights) {
    const Decay data;
    std::vector<Real> w;
    std::vector<Real> scaled;
    for (const Real v : data.y) {
        w.push_back(1 / v);
        scaled.push_back(1000 / v);
    }
    const LeastSquaresFit one = fitNonlinear(data.curve(), std::vector<double>{2, 1, 0}, data.y, w);
    const LeastSquaresFit other = fitNonlinear(data.curve(), std::vector<double>{2, 1, 0}, data.y, scaled);
    for (std::size_t k = 0; k < 3; ++k) {
        EXPECT_NEAR(other.parameters[k] / one.parameters[k], 1, 1e-12);
        EXPECT_NEAR(other.se[k] / one.se[k], 1, 1e-12);
    }
    EXPECT_NEAR(other.rSquared, one.rSquared, 1e-12);
}

TEST(Nonlinear, OfALinearModelIsLinearLeastSquares) {
    const Decay data;
    std::vector<std::vector<Real>> columns(3);
    for (const Real x : data.x) {
        columns[0].push_back(1);
        columns[1].push_back(x);
        columns[2].push_back(x * x);
    }
    const LeastSquaresFit linear = fitLinear(columns, data.y);
    const CurveFunction curve = [&](std::span<const Real> b, std::span<Real> values, std::span<Real> jacobian) {
        for (std::size_t i = 0; i < values.size(); ++i) {
            values[i] = 0;
            for (std::size_t k = 0; k < 3; ++k) {
                values[i] += b[k] * columns[k][i];
                jacobian[3 * i + k] = columns[k][i];
            }
        }
        return true;
    };
    const LeastSquaresFit other = fitNonlinear(curve, std::vector<double>{9, -9, 9}, data.y);
    ASSERT_TRUE(other.isUsable()) << other.message;
    for (std::size_t k = 0; k < 3; ++k) {
        EXPECT_NEAR(other.parameters[k] / linear.parameters[k], 1, 1e-13);
        EXPECT_NEAR(other.se[k] / linear.se[k], 1, 1e-13);
    }
    // … and that is the quadratic of the calibration.
    const std::vector<double> x(data.x.begin(), data.x.end());
    const std::vector<double> y(data.y.begin(), data.y.end());
    const Fit quadratic = fitCalibration(Model::Quadratic, Weighting::None, x, y);
    EXPECT_NEAR(quadratic.parameter("b2") / linear.parameters[2], 1, 1e-9);
    EXPECT_NEAR(quadratic.se[2] / linear.se[2], 1, 1e-9);
}

TEST(Nonlinear, SaysWhatIsMissingOrNotDetermined) {
    const Decay data;
    const auto start = std::vector<double>{1, 1, 1};
    EXPECT_EQ(fitNonlinear(data.curve(), start, std::vector<Real>{1, 2, 3}).status, FitStatus::NotEnoughData);
    const CurveFunction doubled = [&](std::span<const Real> b, std::span<Real> values, std::span<Real> jacobian) {
        for (std::size_t i = 0; i < values.size(); ++i) {
            values[i] = b[0] * b[1] * data.x[i];
            jacobian[2 * i] = b[1] * data.x[i];
            jacobian[2 * i + 1] = b[0] * data.x[i];
        }
        return true;
    };
    const LeastSquaresFit traded = fitNonlinear(doubled, std::vector<double>{1, 1}, data.y);
    EXPECT_EQ(traded.status, FitStatus::NotDetermined);
    EXPECT_TRUE(traded.parameters.empty());
    const CurveFunction nowhere = [](std::span<const Real>, std::span<Real>, std::span<Real>) { return false; };
    EXPECT_EQ(fitNonlinear(nowhere, start, data.y).status, FitStatus::NotConverged);
    EXPECT_THROW(fitNonlinear(data.curve(), start, data.y, std::vector<Real>{1}), std::invalid_argument);
    EXPECT_THROW(fitLinear(std::vector<std::vector<Real>>{{1, 2}}, data.y), std::invalid_argument);
}

} // namespace
} // namespace nuvat
