// Limits of read-offs against their definitions, computed by other means: the general solver for the profile, the
// simulated curves for the bootstrap.
#include "nuvat/core/fit/least_squares.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/stats/distributions.h"
#include "support/hard_sets.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using Real = long double;

/// Sum of squares of the standards and one more reading y at concentration x, at its minimum, by the general solver on
/// the plain parameters.
double jointSquares(const Fit& fit, double x, double y, double weight) {
    std::vector<Real> allX(fit.x.begin(), fit.x.end());
    std::vector<Real> allY(fit.y.begin(), fit.y.end());
    std::vector<Real> w(fit.weights.begin(), fit.weights.end());
    allX.push_back(x);
    allY.push_back(y);
    w.push_back(weight);
    const bool isFive = fit.model == Model::Logistic5;
    const std::size_t p = isFive ? 5 : 4;
    const CurveFunction curve = [&](std::span<const Real> b, std::span<Real> values, std::span<Real> jacobian) {
        for (std::size_t i = 0; i < allX.size(); ++i) {
            const Real ratio = allX[i] / b[2];
            const Real power = std::pow(ratio, b[1]);
            const Real g = isFive ? b[4] : 1;
            const Real basis = std::pow(1 + power, -g);
            const Real e = b[0] - b[3];
            const Real byPower = -g * e * basis / (1 + power);
            values[i] = b[3] + e * basis;
            Real* row = &jacobian[i * p];
            row[0] = basis;
            row[1] = allX[i] > 0 ? byPower * power * std::log(ratio) : 0;
            row[2] = -byPower * power * b[1] / b[2];
            row[3] = 1 - basis;
            if (isFive) {
                row[4] = -e * basis * std::log1p(power);
            }
        }
        return b[2] > 0 && b[1] > 0 && (!isFive || b[4] > 0);
    };
    const LeastSquaresFit joint = fitNonlinear(curve, fit.parameters, allY, w);
    EXPECT_TRUE(joint.isUsable()) << joint.message;
    return joint.sse;
}

void expectProfileByDefinition(const Fit& fit, double y, double replicates, double blankSe) {
    ReadOffOptions options;
    options.interval = IntervalMethod::Profile;
    options.replicates = replicates;
    options.blankSe = blankSe;
    const ReadOff read = readOff(fit, y, options);
    ASSERT_TRUE(read.x && read.low && read.high) << y;
    EXPECT_LT(*read.low, *read.x);
    EXPECT_GT(*read.high, *read.x);
    const double t = studentFactor(options.confidence, fit.df);
    const double variance = readingVariance(fit, *read.x, y) / replicates + blankSe * blankSe;
    for (const double limit : {*read.low, *read.high}) {
        const double rise = jointSquares(fit, limit, y, fit.s * fit.s / variance) - fit.sse;
        EXPECT_NEAR(rise / (t * t * fit.s * fit.s), 1, 1e-6) << y << " at " << limit;
    }
}

struct Asked {
    double share; ///< of the way from a to d
    double replicates, blankSe;
};

/// The first well-determined hard sets of a model, so many of them.
void expectProfilesByDefinition(Model model, int sets, const std::vector<Asked>& asked) {
    int done = 0;
    for (unsigned seed = 1; done < sets && seed < 200; ++seed) {
        const test::HardSet set = test::hardSet(seed, model == Model::Logistic5);
        const Fit fit = fitCalibration(model, Weighting::None, set.x, set.y);
        if (!fit.isUsable() || !fit.warnings.empty()) {
            continue;
        }
        const double a = fit.parameter("a");
        const double d = fit.parameter("d");
        for (const auto& [share, replicates, blankSe] : asked) {
            expectProfileByDefinition(fit, a + share * (d - a), replicates, blankSe);
        }
        ++done;
    }
    EXPECT_EQ(done, sets);
}

TEST(ProfileLimits, RaiseTheSumOfSquaresByWhatTheyAreDefinedBy) {
    expectProfilesByDefinition(Model::Logistic4, 12, {{0.4, 1, 0}, {0.6, 3, 0.01}});
}

TEST(ProfileLimits, OfTheFiveParameterLogisticToo) {
    expectProfilesByDefinition(Model::Logistic5, 6, {{0.5, 2, 0}});
}

TEST(ProfileLimits, BeyondWhatTheCurveReachesAreAbsent) {
    const test::HardSet set = test::hardSet(4, false);
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, set.x, set.y);
    ASSERT_TRUE(fit.isUsable());
    ReadOffOptions options;
    options.interval = IntervalMethod::Profile;
    const double a = fit.parameter("a");
    const double d = fit.parameter("d");
    const ReadOff nearZero = readOff(fit, a + 1e-4 * (d - a), options);
    ASSERT_TRUE(nearZero.x);
    EXPECT_FALSE(nearZero.low); // a response that is not to be told from that of zero
    EXPECT_TRUE(nearZero.high);
    const ReadOff nearInfinity = readOff(fit, d - 1e-4 * (d - a), options);
    EXPECT_TRUE(nearInfinity.low);
    EXPECT_FALSE(nearInfinity.high);
}

// Every simulated curve is the best one for its own standards: the middle of the curves is the curve.
TEST(BootstrapLimits, ComeFromCurvesAroundTheFittedOne) {
    const test::HardSet set = test::hardSet(3, false);
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, set.x, set.y);
    ASSERT_TRUE(fit.isUsable());
    ReadOffOptions options;
    options.simulations = 4000;
    const auto curves = simulateCurves(fit, options);
    ASSERT_GE(curves->parameters.size(), 3990u);
    ASSERT_EQ(curves->s.size(), curves->parameters.size());
    for (const std::size_t k : {0u, 3u}) { // a and d are nearly linear: their SD is their SE with s known
        std::vector<double> values;
        double sum = 0;
        for (const ParameterVector& p : curves->parameters) {
            values.push_back(p[k]);
            sum += p[k];
        }
        std::sort(values.begin(), values.end());
        const double median = values[values.size() / 2];
        EXPECT_NEAR(median, fit.parameters[k], 0.2 * fit.se[k]) << k;
        const double inner = values[values.size() * 84 / 100] - values[values.size() * 16 / 100];
        EXPECT_NEAR(inner / 2 / fit.se[k], 1, 0.25) << k;
        EXPECT_TRUE(std::isfinite(sum));
    }
    // s is drawn as df*s^2 over chi-squared: its median square is that of the distribution.
    std::vector<double> s = curves->s;
    std::nth_element(s.begin(), s.begin() + static_cast<std::ptrdiff_t>(s.size() / 2), s.end());
    const double median = s[s.size() / 2];
    const double middle = fit.df - 2.0 / 3 + 4 / (27 * fit.df); // of chi-squared; Wilson and Hilferty (1931)
    EXPECT_NEAR(median * median / (fit.s * fit.s * fit.df / middle), 1, 0.05);
}

TEST(BootstrapLimits, OfStandardsThatFitExactlyAreTheBlanksShare) {
    std::vector<double> x;
    std::vector<double> y;
    for (double at : {0.5, 1.0, 2.0, 4.0, 8.0, 16.0}) {
        x.push_back(at);
        y.push_back(2 - 2 / (1 + at / 4)); // a = 0, b = 1, c = 4, d = 2
    }
    Fit fit = fitCalibration(Model::Logistic4, Weighting::None, x, y);
    ASSERT_TRUE(fit.isUsable());
    fit.s = 0; // to the last bit
    std::fill(fit.workCovariance.begin(), fit.workCovariance.end(), 0.0);
    ReadOffOptions options;
    options.blankSe = 0.01;
    for (const IntervalMethod method : {IntervalMethod::Profile, IntervalMethod::Bootstrap}) {
        options.interval = method;
        const ReadOff read = readOff(fit, 1, options);
        ASSERT_TRUE(read.x && read.low && read.high);
        EXPECT_LT(*read.low, *read.x);
        EXPECT_NEAR(*read.low + *read.high, 2 * *read.x, 1e-9);
        EXPECT_NEAR((*read.high - *read.low) / (2 * *read.se), 4.302652729749464, 1e-6); // t for df = 2, printed tables
    }
}

TEST(BootstrapLimits, AreAbsentWhenTooManySimulatedCurvesFail) {
    const test::HardSet set = test::hardSet(3, false);
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, set.x, set.y);
    ReadOffOptions options;
    options.interval = IntervalMethod::Bootstrap;
    auto curves = *simulateCurves(fit, options);
    const double y = (fit.parameter("a") + fit.parameter("d")) / 2;
    const auto limitsWith = [&](std::size_t failed) {
        curves.failed = failed;
        options.bootstrap = std::make_shared<BootstrapCurves>(curves);
        const ReadOff read = readOff(fit, y, options);
        return read.low.has_value() && read.high.has_value();
    };
    EXPECT_TRUE(limitsWith(curves.parameters.size() / 30));
    EXPECT_FALSE(limitsWith(curves.parameters.size() / 10));
}

TEST(BootstrapLimits, WidenWithTheBlankAndNarrowWithReplicates) {
    const test::HardSet set = test::hardSet(3, false);
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, set.x, set.y);
    ReadOffOptions options;
    options.interval = IntervalMethod::Bootstrap;
    const double y = (fit.parameter("a") + fit.parameter("d")) / 2;
    options.bootstrap = simulateCurves(fit, options);
    const auto width = [&] {
        const ReadOff read = readOff(fit, y, options);
        return *read.high - *read.low;
    };
    const double one = width();
    options.replicates = 4;
    const double four = width();
    options.blankSe = 3 * fit.s;
    const double blank = width();
    EXPECT_LT(four, one);
    EXPECT_GT(blank, four);
    EXPECT_THROW(simulateCurves(fitCalibration(Model::Line, Weighting::None, set.x, set.y), options),
                 std::invalid_argument);
}

TEST(Intervals, OfEveryMethodHoldTheConcentrationAndGrowWithTheConfidence) {
    const test::HardSet set = test::hardSet(3, false);
    for (const Model model : {Model::Line, Model::Quadratic, Model::Logistic4, Model::PointToPoint}) {
        const Fit fit = fitCalibration(model, Weighting::None, set.x, set.y);
        if (!fit.isUsable()) {
            continue;
        }
        const double x = model == Model::PointToPoint ? (fit.knots[4].x + fit.knots[5].x) / 2 : fit.highestX / 2;
        const double y = response(fit, x);
        for (const IntervalMethod method :
             {IntervalMethod::Propagation, IntervalMethod::LogPropagation, IntervalMethod::Fieller,
              IntervalMethod::Inversion, IntervalMethod::Profile, IntervalMethod::Bootstrap}) {
            ReadOffOptions options;
            options.interval = method;
            if (!isDefinedFor(method, model)) {
                EXPECT_THROW((void)readOff(fit, y, options), std::invalid_argument);
                continue;
            }
            double last = 0;
            for (const double confidence : {0.5, 0.8, 0.95}) {
                options.confidence = confidence;
                const ReadOff read = readOff(fit, y, options);
                if (!read.low || !read.high) {
                    continue; // the curve ends before
                }
                EXPECT_LE(*read.low, *read.x) << name(method);
                EXPECT_GE(*read.high, *read.x) << name(method);
                EXPECT_GT(*read.high - *read.low, last) << name(model) << " " << name(method);
                last = *read.high - *read.low;
            }
        }
    }
}

} // namespace
} // namespace nuvat
