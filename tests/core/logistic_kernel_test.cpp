// The inner parts of the logistic search: both kernels, the coordinates of the 5PL, the Gauss-Newton part.
#include "logistic.h"
#include "nuvat/core/fit/read_off.h"
#include "support/hard_sets.h"

#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

struct Posed {
    std::vector<double> weights;
    LogisticLevels levels;
    explicit Posed(const test::HardSet& set) : weights(set.x.size(), 1.0), levels(set.x, set.y, weights) {}
};

template<std::size_t S>
void expectAlike(const RefinedShape<S>& plain, const RefinedShape<S>& wide, const std::string& what) {
    SCOPED_TRACE(what);
    const bool isFound = plain.converged && wide.converged;
    // Along a valley without an end each gives up at its place; at the very end it may still converge.
    const bool isAtEnd = S == 3 && std::abs(plain.shape[S - 1]) > 0.99 * kMostLogG;
    EXPECT_TRUE(plain.converged == wide.converged || isAtEnd);
    EXPECT_NEAR(wide.value.s / plain.value.s, 1, isFound ? 1e-11 : 1e-6);
    const bool isStep = plain.value.steepness > 20; // which no level resolves
    for (std::size_t k = 0; k < S && isFound && !plain.isAtBound && !isStep; ++k) {
        EXPECT_NEAR(wide.shape[k], plain.shape[k], 1e-6 * (1 + std::abs(plain.shape[k])));
    }
}

// The fast one contracts products into sums: the same to all digits that count, not to the last bit.
TEST(LogisticKernels, AgreeOnEveryMachine) {
    if (!hasAvx2()) {
        GTEST_SKIP() << "no AVX2 here";
    }
    for (unsigned seed = 1; seed <= 200; ++seed) {
        const Posed four(test::hardSet(seed, false));
        const Posed five(test::hardSet(seed, true));
        LogisticForm form;
        const auto plain4 = baselineKernels().search4(four.levels, form);
        const auto wide4 = avx2Kernels().search4(four.levels, form);
        expectAlike(plain4, wide4, "4PL, seed " + std::to_string(seed));
        form.hasAsymmetry = true;
        const auto plain5 = baselineKernels().search5(five.levels, form);
        const auto wide5 = avx2Kernels().search5(five.levels, form);
        expectAlike(plain5, wide5, "5PL, seed " + std::to_string(seed));
    }
}

// More levels than usual calibrations have, with data that a curve fits exactly: both kernels find it, and so does the
// fit.
TEST(LogisticKernels, TakeAnyNumberOfLevels) {
    for (const bool hasAsymmetry : {false, true}) {
        const LogisticParameters p{0.1, 1.3, 12, 2.2, hasAsymmetry ? 0.6 : 1};
        for (const unsigned count : {6u, 15u, 16u, 17u, 31u, 32u, 33u, 40u, 65u, 100u, 384u, 2000u}) {
            SCOPED_TRACE(std::to_string(count) + (hasAsymmetry ? " levels, 5PL" : " levels, 4PL"));
            test::HardSet set;
            for (unsigned i = 0; i < count; ++i) {
                set.x.push_back(i == 0 ? 0 : 0.3 * std::pow(5000, static_cast<double>(i) / count));
                set.y.push_back(logisticResponse(p, set.x.back()));
            }
            const Posed posed(set);
            LogisticForm form;
            form.hasAsymmetry = hasAsymmetry;
            for (const LogisticKernels* kernel : {&baselineKernels(), &avx2Kernels()}) {
                const double s = hasAsymmetry ? kernel->search5(posed.levels, form).value.s
                                              : kernel->search4(posed.levels, form).value.s;
                EXPECT_LT(s, 1e-16 * count);
            }
            const Fit fit =
                fitCalibration(hasAsymmetry ? Model::Logistic5 : Model::Logistic4, Weighting::None, set.x, set.y);
            ASSERT_TRUE(fit.isUsable()) << fit.message;
            EXPECT_NEAR(fit.parameter("c") / p.c, 1, 1e-6);
            EXPECT_NEAR(fit.parameter("d") / p.d, 1, 1e-6);
        }
    }
}

TEST(LogisticShapes, LeadToParametersAndBack) {
    const Posed posed(test::hardSet(3, true));
    for (const double g : {0.05, 0.4, 1.0, 3.0, 40.0}) {
        const LogisticParameters p{2.1, 1.3, 40, 0.1, g};
        const auto shape = shapeOf<3>(posed.levels, p);
        RefinedShape<3> at;
        at.shape = shape;
        LogisticForm form;
        form.hasAsymmetry = true;
        at.value = reducedSum<3>(posed.levels, form, shape);
        const LogisticParameters back = parametersAt(posed.levels, at);
        EXPECT_NEAR(back.b / p.b, 1, 1e-13) << g;
        EXPECT_NEAR(back.c / p.c, 1, 1e-12) << g;
        EXPECT_NEAR(back.g / p.g, 1, 1e-14) << g;
        EXPECT_NEAR(at.value.steepness / posed.levels.half / p.b, 1, 1e-13) << g;
    }
}

// The reduced sum is that of the curve with the best a and d: residuals of the curve itself, summed the plain way.
TEST(LogisticShapes, HaveTheSumOfSquaresOfTheirCurve) {
    for (unsigned seed = 1; seed <= 50; ++seed) {
        const test::HardSet set = test::hardSet(seed, true);
        const Posed posed(set);
        LogisticForm form;
        form.hasAsymmetry = true;
        RefinedShape<3> at;
        at.shape = {0.2, 0.9, 0.5};
        at.value = reducedSum<3>(posed.levels, form, at.shape);
        const LogisticParameters p = parametersAt(posed.levels, at);
        double sum = 0;
        for (std::size_t i = 0; i < posed.levels.size(); ++i) {
            const double off = posed.levels.y[i] - logisticResponse(p, posed.levels.concentration(i));
            sum += posed.levels.w[i] * off * off;
        }
        EXPECT_NEAR(at.value.s / sum, 1, 1e-10) << seed;
    }
}

// The Gauss-Newton part is J'J of the curve with a and d solved for: symmetric, never indefinite, and the whole Hessian
// where the residuals vanish.
TEST(GaussNewton, IsTheHessianOfAnExactFit) {
    std::vector<double> x;
    std::vector<double> y;
    const LogisticParameters truth{0.1, 1.2, 50, 2.0, 0.6};
    for (double level = 1; level < 5000; level *= 3) {
        x.push_back(level);
        y.push_back(logisticResponse(truth, level));
    }
    const LogisticLevels levels(x, y, std::vector<double>(x.size(), 1.0));
    LogisticForm form;
    form.hasAsymmetry = true;
    const auto at = reducedSum<3>(levels, form, shapeOf<3>(levels, truth));
    double size = 0;
    for (const double h : at.hessian) {
        size = std::max(size, std::abs(h));
    }
    for (std::size_t k = 0; k < at.hessian.size(); ++k) {
        EXPECT_NEAR(at.gaussNewton[k], at.hessian[k], 1e-12 * size) << k;
    }
    for (unsigned seed = 1; seed <= 50; ++seed) {
        const Posed posed(test::hardSet(seed, true));
        const auto any = reducedSum<3>(posed.levels, form, {0.1, 0.7, -0.4});
        const auto& m = any.gaussNewton; // 00 01 02 11 12 22
        EXPECT_GE(m[0], 0);
        EXPECT_GE(m[0] * m[3] - m[1] * m[1], -1e-12 * m[0] * m[3]);
    }
}

TEST(AsymmetryTerms, DerivativesAgreeWithFiniteDifferences) {
    for (const double logG : {-3.5, -1.0, 0.0, 0.7, 3.5}) {
        constexpr double kStep = 1e-5;
        const AsymmetryTerms at(logG);
        const AsymmetryTerms up(logG + kStep);
        const AsymmetryTerms down(logG - kStep);
        EXPECT_NEAR(at.offset, -std::log(1 + at.g), 1e-14);
        EXPECT_NEAR(-at.first, (up.offset - down.offset) / (2 * kStep), 1e-9);
        EXPECT_NEAR(at.first - 1, (std::log(up.scale) - std::log(down.scale)) / (2 * kStep), 1e-9);
        EXPECT_NEAR(at.second, (up.first - down.first) / (2 * kStep), 1e-9);
    }
}

TEST(Refinement, StopsAtWhatIsEnoughAndAtAKnownMinimum) {
    const Posed posed(test::hardSet(2, true));
    LogisticForm form;
    form.hasAsymmetry = true;
    const LogisticShape<3> start{0.5, 0.5, 0.5};
    const auto full = refineShape<3>(posed.levels, form, start);
    ASSERT_TRUE(full.converged);
    const double first = reducedSum<3>(posed.levels, form, start).s;
    RefineOptions options;
    options.enough = 0.5 * first;
    const auto enough = refineShape<3>(posed.levels, form, start, options);
    EXPECT_LE(enough.value.s, options.enough);
    EXPECT_FALSE(enough.converged);
    options = {};
    options.known = &full.shape;
    const auto near = refineShape<3>(posed.levels, form, start, options);
    EXPECT_FALSE(near.converged);
    options = {};
    options.toBeat = 0.5 * full.value.s; // nothing leads there
    const auto hopeless = refineShape<3>(posed.levels, form, start, options);
    EXPECT_FALSE(hopeless.converged);
    EXPECT_GE(hopeless.value.s, full.value.s);
    options = {};
    options.freezesG = true;
    const auto frozen = refineShape<3>(posed.levels, form, start, options);
    EXPECT_EQ(frozen.shape[2], start[2]);
    EXPECT_GE(frozen.value.s, full.value.s * (1 - 1e-12));
}

TEST(ReadOffPoint, IsTheReadOffWithoutLimits) {
    const test::HardSet set = test::hardSet(5, false);
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, set.x, set.y);
    ASSERT_TRUE(fit.isUsable());
    for (const double y : set.y) {
        const ReadOff whole = readOff(fit, y);
        const ReadOff point = readOffPoint(fit, y);
        EXPECT_EQ(point.status, whole.status);
        EXPECT_EQ(point.x, whole.x);
        EXPECT_EQ(point.se, whole.se);
        EXPECT_FALSE(point.low || point.high);
    }
}

} // namespace
} // namespace nuvat
