// The judge: from a dense net of starts nothing better than the fit may be found, in 1000 seeded hard sets each.
#include "logistic.h"
#include "support/hard_sets.h"

#include <array>
#include <cmath>
#include <gtest/gtest.h>
#include <iostream>
#include <random>

namespace nuvat {
namespace {

constexpr unsigned kSets = 1000;

template<std::size_t S> LogisticShape<S> startAt(double midpoint, double slope, double logG) {
    if constexpr (S == 2) {
        return {-slope * midpoint, slope};
    } else {
        return {midpoint, std::log(slope), logG};
    }
}

template<std::size_t S> RefinedShape<S> denseSearch(const LogisticLevels& levels, const LogisticForm& form) {
    RefinedShape<S> best;
    best.value.s = std::numeric_limits<double>::infinity();
    const std::vector<double> asymmetries = S == 2 ? std::vector<double>{0} : std::vector<double>{-2.5, -1, 0.5, 2};
    for (const double slope : {0.4, 0.8, 1.5, 2.5, 4.0, 6.5, 11.0, 20.0, 40.0}) {
        for (double midpoint = -2; midpoint <= 2; midpoint += S == 2 ? 0.1 : 0.4) {
            for (const double logG : asymmetries) {
                const auto found = refineShape<S>(levels, form, startAt<S>(midpoint, slope, logG));
                if (found.value.isUsable && found.value.s < best.value.s) {
                    best = found;
                }
            }
        }
    }
    return best;
}

template<std::size_t S> void judge() {
    LogisticForm form;
    form.hasAsymmetry = S == 3;
    int determined = 0;
    for (unsigned seed = 1; seed <= kSets; ++seed) {
        const test::HardSet data = test::hardSet(seed, form.hasAsymmetry);
        const auto weights =
            unscaledWeights(seed % 3 == 0 ? Weighting::InverseY2 : Weighting::None, data.x, data.y, 2e-6);
        const LogisticLevels levels(data.x, data.y, weights);
        const LogisticOutcome outcome = solveLogistic(form, data.x, data.y, weights);
        const RefinedShape<S> best = denseSearch<S>(levels, form);
        EXPECT_NE(outcome.status, FitStatus::NotConverged) << "seed " << seed;
        determined += outcome.status == FitStatus::Ok ? 1 : 0;
        // Where the judge itself ends in a valley without an end, or on a step that no spacing of levels resolves,
        // there is no minimum to compare with.
        const bool isStep = S == 3 && best.value.steepness / levels.half > 60;
        if (best.converged && !best.isAtBound && !isStep) {
            EXPECT_LE(outcome.levelSum, best.value.s * (1 + 1e-8))
                << "seed " << seed << ", " << name(outcome.status) << ", judge at " << best.shape[0] << " "
                << best.shape[1] << " " << best.shape[S - 1];
        }
    }
    EXPECT_GT(determined, static_cast<int>(kSets) / 3);
    std::cout << determined << " of " << kSets << " sets are determined, each at the best known minimum\n";
}

TEST(LogisticJudge, FourParametersReachTheBestKnownMinimumOfHardSets) {
    judge<2>();
}

TEST(LogisticJudge, FiveParametersReachTheBestKnownMinimumOfHardSets) {
    judge<3>();
}

/// Other designs than the usual plate: 5 to 12 levels with one to three replicates each, levels at random places, one
/// end held, weights of every kind.
struct OtherDesign {
    test::HardSet data;
    LogisticForm form;
    std::vector<double> weights;
};

OtherDesign otherDesign(unsigned seed, bool hasAsymmetry) {
    std::mt19937 random(seed * 7919u);
    std::uniform_real_distribution<double> uniform(0, 1);
    std::normal_distribution<double> normal;
    LogisticParameters truth{0.1, 0.7 + 1.5 * uniform(random), std::pow(10, 1 + uniform(random)), 2, 1};
    truth.g = hasAsymmetry ? std::exp(uniform(random) - 0.5) : 1;
    if (random() % 2 == 0) {
        std::swap(truth.a, truth.d);
    }
    OtherDesign out;
    out.form.hasAsymmetry = hasAsymmetry;
    const std::size_t levels = (hasAsymmetry ? 6 : 5) + random() % 7;
    for (std::size_t level = 0; level < levels; ++level) {
        const double at = (static_cast<double>(level) + 0.8 * uniform(random)) / static_cast<double>(levels);
        const double x = std::pow(10, 3.2 * at);
        for (unsigned replicate = 0; replicate <= random() % 3; ++replicate) {
            out.data.x.push_back(x);
            out.data.y.push_back(logisticResponse(truth, x) * (1 + 0.03 * normal(random)));
        }
    }
    if (seed % 3 == 1) {
        out.form.heldA = truth.a;
    } else if (seed % 3 == 2) {
        out.form.heldD = truth.d;
    }
    constexpr std::array kKinds{Weighting::None, Weighting::InverseX, Weighting::InverseY, Weighting::InverseY2};
    out.weights = unscaledWeights(kKinds[seed % kKinds.size()], out.data.x, out.data.y, 2e-6);
    return out;
}

template<std::size_t S> void judgeOtherDesigns() {
    int determined = 0;
    for (unsigned seed = 1; seed <= 240; ++seed) {
        const OtherDesign design = otherDesign(seed, S == 3);
        const LogisticLevels levels(design.data.x, design.data.y, design.weights);
        const LogisticOutcome outcome = solveLogistic(design.form, design.data.x, design.data.y, design.weights);
        determined += outcome.status == FitStatus::Ok ? 1 : 0;
        if (outcome.status != FitStatus::Ok) {
            continue;
        }
        const RefinedShape<S> best = denseSearch<S>(levels, design.form);
        EXPECT_LE(outcome.levelSum, best.value.s * (1 + 1e-8)) << "seed " << seed;
        if (design.form.heldA) {
            EXPECT_EQ(outcome.parameters.a, *design.form.heldA);
        }
        if (design.form.heldD) {
            EXPECT_EQ(outcome.parameters.d, *design.form.heldD);
        }
        // At a minimum every step that the general step lengths allow leads up.
        const auto shape = shapeOf<S>(levels, outcome.parameters);
        for (std::size_t k = 0; k < S; ++k) {
            for (const double off : {-1e-3, 1e-3}) {
                LogisticShape<S> moved = shape;
                moved[k] += off;
                EXPECT_GE(reducedSum<S>(levels, design.form, moved).s, outcome.levelSum * (1 - 1e-12))
                    << "seed " << seed << " " << k;
            }
        }
    }
    EXPECT_GT(determined, 120);
    std::cout << determined << " of 240 other designs are determined\n";
}

TEST(LogisticJudge, FourParametersOfOtherDesigns) {
    judgeOtherDesigns<2>();
}

TEST(LogisticJudge, FiveParametersOfOtherDesigns) {
    judgeOtherDesigns<3>();
}

// A curve and its mirror, other units, another order: the same curve.
TEST(LogisticSymmetry, OfUnitsMirrorAndOrder) {
    for (unsigned seed = 1; seed <= 60; ++seed) {
        const OtherDesign design = otherDesign(3 * seed, seed % 2 == 0); // nothing held
        const LogisticOutcome plain = solveLogistic(design.form, design.data.x, design.data.y, design.weights);
        if (plain.status != FitStatus::Ok) {
            continue;
        }
        test::HardSet other = design.data;
        std::vector<double> weights = design.weights;
        for (std::size_t i = 0; i < other.x.size(); ++i) {
            other.x[i] *= 1000;
            other.y[i] = 5 - 2 * other.y[i];
        }
        std::reverse(other.x.begin(), other.x.end());
        std::reverse(other.y.begin(), other.y.end());
        std::reverse(weights.begin(), weights.end());
        const LogisticOutcome mirrored = solveLogistic(design.form, other.x, other.y, weights);
        ASSERT_EQ(mirrored.status, FitStatus::Ok) << seed;
        EXPECT_NEAR(mirrored.levelSum / plain.levelSum, 4, 1e-7) << seed;
        EXPECT_NEAR(mirrored.parameters.b / plain.parameters.b, 1, 1e-6) << seed;
        EXPECT_NEAR(mirrored.parameters.c / plain.parameters.c, 1000, 1e-2) << seed;
        EXPECT_NEAR(mirrored.parameters.a, 5 - 2 * plain.parameters.a, 1e-6) << seed;
        EXPECT_NEAR(mirrored.parameters.d, 5 - 2 * plain.parameters.d, 1e-6) << seed;
        EXPECT_NEAR(mirrored.parameters.g / plain.parameters.g, 1, 1e-5) << seed;
    }
}

} // namespace
} // namespace nuvat
