// The judge: from a dense net of starts nothing better than the fit may be found, in 1000 seeded hard sets each.
#include "logistic.h"
#include "support/hard_sets.h"

#include <cmath>
#include <gtest/gtest.h>
#include <iostream>

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
        const auto weights = rawWeights(seed % 3 == 0 ? Weighting::InverseY2 : Weighting::None, data.x, data.y);
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

} // namespace
} // namespace nuvat
