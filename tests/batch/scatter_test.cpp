// Scatter of unknowns, range going inward, replicates across a limit, chosen replicates, blanks in response.
#include "scatter.h"

#include "nuvat/batch/command.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/stats/best_subset.h"
#include "nuvat/core/stats/distributions.h"
#include "replicate_rules.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::sampleDocument;
using test::setValue;
using test::valueAt;
using test::withMethod;

/// Every standard and sample with duplicates that differ by 2 %, U03 by 40 %.
Batch withOddSample() {
    Batch batch = sampleDocument().batch();
    for (const auto& [place, assignment] : batch.places) {
        if (place.column % 2 == 1 && assignment.role != Role::Blank) {
            setValue(batch, place, valueAt(batch, place) * (assignment == Assignment{Role::Unknown, 3} ? 0.6 : 0.98));
        }
    }
    return batch;
}

TEST(SampleScatter, OfAnOddSampleAsksForReviewAndShowsItsOwnInterval) {
    const Batch batch = withOddSample();
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const SampleResult& odd = *evaluation.result({Role::Unknown, 3});
    const SampleResult& usual = *evaluation.result({Role::Unknown, 2});
    ASSERT_TRUE(odd.scatter);
    EXPECT_TRUE(odd.scatter->needsReview);
    EXPECT_TRUE(odd.needsReview);
    EXPECT_FALSE(usual.scatter->needsReview);
    EXPECT_GT(*odd.scatter->high - *odd.scatter->low, 3 * (*odd.high - *odd.low)); // before and after dilution alike
    const auto found = std::find_if(evaluation.criteria.begin(), evaluation.criteria.end(),
                                    [](const auto& c) { return c.key == "sample-scatter"; });
    ASSERT_NE(found, evaluation.criteria.end());
    EXPECT_EQ(found->outcome, Outcome::Review);
    EXPECT_NE(found->where.find("U03: "), std::string::npos) << found->where;
    EXPECT_EQ(found->places, (std::vector<Place>{{4, 2}, {4, 3}}));
    // By choice it is the curve's scatter, or the sample's own.
    const auto width = [&](ScatterFrom from) {
        const Batch other = withMethod(batch, [from](Method& m) { m.analyte().scatter = from; });
        const SampleResult r = *evaluateAnalyte(other).result({Role::Unknown, 3});
        return *r.high - *r.low;
    };
    EXPECT_LT(width(ScatterFrom::Batch), width(ScatterFrom::Sample));
}

// The relative variance of an estimate on the variance function is 2/df (1 + z^2), as of a mean on a straight line (see
// any textbook of regression); coverage by simulation: docs/decisions/0025.
TEST(SampleScatter, IsKnownTheWorseTheFartherFromTheMiddle) {
    Batch batch = withOddSample();
    setValue(batch, {4, 3}, valueAt(batch, {4, 2}) * 0.98);
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const BatchScatter scatter(batch, evaluation);
    const GroupValue& group = *evaluation.group({Role::Unknown, 2});
    std::vector<double> logs;
    for (const GroupValue& one : evaluation.groups) {
        if (isReadOff(one.group.role)) {
            logs.push_back(std::log(*one.response.mean + evaluation.blank.subtracted));
        }
    }
    const Description d = describe(logs);
    const double middle = std::exp(*d.mean) - evaluation.blank.subtracted;
    const double far = std::exp(*d.mean + 3 * *d.sd) - evaluation.blank.subtracted;
    const double fromCurve = evaluation.fit.df;
    const double atMiddle = scatter.of(group, 9, middle).df, atFar = scatter.of(group, 9, far).df;
    EXPECT_LT(atFar, atMiddle);
    EXPECT_GE(scatter.of(group, 9, 1e9).df, 1) << "a quantile of Student's t is still defined";
    EXPECT_TRUE(std::abs(atMiddle - 7) < 0.5 || std::abs(atMiddle - 7 - fromCurve) < 0.5) << atMiddle;
}

// Pooled by hand: variances of the samples over their common shape, with the curve's by degrees of freedom.
TEST(SampleScatter, IsShrunkWithTheCurveByDegreesOfFreedom) {
    Batch batch = withOddSample();
    setValue(batch, {4, 3}, valueAt(batch, {4, 2}) * 0.98);
    batch.method.analyte().fit.weighting = Weighting::None;
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const BatchScatter scatter(batch, evaluation);
    const GroupValue& group = *evaluation.group({Role::Unknown, 2});
    const auto variance = scatter.of(group, 9, *group.response.mean);
    EXPECT_GT(variance.value, 0);
    EXPECT_GE(variance.df, 7); // eight samples in duplicate, less one for the shape
    EXPECT_NEAR(*scatter.test(group, 9, *group.response.mean), 0.4, 0.35); // nothing odd
}

TEST(Holm, AdjustsBySteps) {
    // By hand: sorted 0.01, 0.02, 0.03, 0.5 -> 0.04, 0.06, 0.06, 0.5.
    const auto p = holm({0.03, 0.5, 0.01, 0.02});
    EXPECT_NEAR(p[0], 0.06, 1e-12);
    EXPECT_NEAR(p[1], 0.5, 1e-12);
    EXPECT_NEAR(p[2], 0.04, 1e-12);
    EXPECT_NEAR(p[3], 0.06, 1e-12);
    EXPECT_TRUE(holm({}).empty());
}

TEST(Range, GoesInwardFromTheEndsAndIsNotCutInTwo) {
    Batch batch = sampleDocument().batch();
    for (int column = 0; column < 2; ++column) {
        setValue(batch, {3, column}, valueAt(batch, {3, column}) * 0.6); // S4, in the middle
    }
    batch.method.analyte().fit.weighting = Weighting::InverseY2;
    AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const auto level = [&](int number) {
        return *std::find_if(evaluation.levels.begin(), evaluation.levels.end(),
                             [&](const auto& l) { return l.number == number; });
    };
    ASSERT_FALSE(level(4).isWithin);
    ASSERT_TRUE(level(1).isWithin);
    const int lowest = level(7).isWithin ? 7 : level(6).isWithin ? 6 : 5;
    EXPECT_EQ(evaluation.range.uloq, 500);
    EXPECT_NEAR(*evaluation.range.lloq, 500 / std::pow(3.0, lowest - 1), 1e-9);
    batch.method.analyte().range.by = RangeBy::Levels;
    evaluation = evaluateAnalyte(batch);
    EXPECT_NEAR(*evaluation.range.lloq, 500 / std::pow(3.0, 6), 1e-9);
    EXPECT_EQ(evaluation.range.uloq, 500);
}

TEST(Replicates, OnBothSidesOfALimitHaveNoMean) {
    Batch batch = sampleDocument().batch();
    batch.method.analyte().range = {RangeBy::Hand, 20, 10, 400, 1};
    setValue(batch, {4, 3}, valueAt(batch, {0, 2}) + 0.2); // U03: one of 16, one of about 9
    for (const AverageOf average : {AverageOf::Responses, AverageOf::Concentrations}) {
        batch.method.analyte().average = average;
        const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
        const SampleResult& r = *evaluation.result({Role::Unknown, 3});
        EXPECT_EQ(r.status, ResultStatus::AcrossLimit);
        EXPECT_FALSE(r.result);
        EXPECT_TRUE(r.needsReview);
        EXPECT_NE(r.remark.find("on both sides of a limit of the range (16.0, "), std::string::npos) << r.remark;
        EXPECT_EQ(resultText(r, evaluation.range), "across a limit");
        EXPECT_EQ(statusWord(r), "Review");
        EXPECT_EQ(evaluation.verdict, Outcome::Review);
    }
    // One that the curve does not reach is on the other side too.
    setValue(batch, {4, 3}, 9);
    EXPECT_EQ(evaluateAnalyte(batch).result({Role::Unknown, 3})->status, ResultStatus::AcrossLimit);
    // Both beyond: a limit times the factor.
    setValue(batch, {4, 2}, 9);
    const AnalyteEvaluation below = evaluateAnalyte(batch);
    EXPECT_EQ(below.result({Role::Unknown, 3})->status, ResultStatus::BelowCurve);
    EXPECT_EQ(resultText(*below.result({Role::Unknown, 3}), below.range), "< LLOQ (50.0)");
}

TEST(BestSubset, VarianceOfTheKeptMeanIsThatOfTheTable) {
    EXPECT_NEAR(bestSubsetVariance(2, 3), 0.64, 0.002); // against 0.50 for any two
    EXPECT_EQ(bestSubsetVariance(3, 3), 1.0 / 3);
    for (std::size_t m = 3; m <= 8; ++m) {
        for (std::size_t n = 2; n < m; ++n) {
            EXPECT_GT(bestSubsetVariance(n, m), 1.0 / static_cast<double>(n));
            EXPECT_LT(bestSubsetVariance(n, m), 0.7);
        }
    }
}

TEST(BestSubset, NeverEntersAnIntervalOrACv) {
    Batch batch = withOddSample();
    batch.places[{4, 4}] = {Role::Unknown, 3};
    setValue(batch, {4, 4}, valueAt(batch, {4, 2}) * 1.001);
    test::editWell(batch, {4, 4}, [](ReadingWell& well) { well.text = "1"; });
    batch.method.replicates.keepBest = 2;
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const GroupValue& group = *evaluation.group({Role::Unknown, 3});
    EXPECT_EQ(group.response.n, 2u);
    EXPECT_EQ(group.unchosen.n, 3u);
    EXPECT_LT(*group.response.cvPercent, 1);
    EXPECT_GT(*group.unchosen.cvPercent, 20);
    EXPECT_NEAR(group.varianceFactor, 2 * 0.6389, 1e-12);
    EXPECT_TRUE(evaluation.result({Role::Unknown, 3})->scatter->needsReview)
        << evaluation.result({Role::Unknown, 3})->scatter->p;
}

TEST(BlankResponse, IsJudgedAgainstLloqOrZero) {
    Batch batch = withMethod(sampleDocument().batch(), [](Method& m) { m.limits.blankOfLloq = 20; });
    const auto found = [](const AnalyteEvaluation& e) {
        return *std::find_if(e.criteria.begin(), e.criteria.end(),
                             [](const auto& c) { return c.key == "blank-of-lloq"; });
    };
    // Falling: the blank reads 0.06, zero 2.36 as read.
    const CriterionResult falling = found(evaluateAnalyte(batch));
    EXPECT_EQ(falling.outcome, Outcome::Pass);
    EXPECT_NEAR(falling.used, 100 * 0.06 / 2.36 / 20, 0.002);
    EXPECT_NE(falling.limitText.find("response at zero"), std::string::npos);
    // Rising: a line whose LLOQ lies 0.5 above zero; blanks 0.2 above it fail.
    for (const auto& [place, assignment] : batch.places) {
        if (assignment.role == Role::Standard) {
            setValue(batch, place, 0.1 + 0.001 * *batch.concentration(assignment.number));
        }
    }
    batch.method.subtractsBlank = false;
    batch.method.analyte().fit = {.model = Model::Line, .weighting = Weighting::InverseX2};
    setValue(batch, {7, 0}, 0.1002);
    setValue(batch, {7, 1}, 0.1002);
    const AnalyteEvaluation rising = evaluateAnalyte(batch);
    const CriterionResult blank = found(rising);
    EXPECT_NEAR(blank.used, 100 * 0.0002 / (0.001 * *rising.range.lloq) / 20, 1e-6);
    EXPECT_EQ(blank.outcome, Outcome::Fail);
    EXPECT_EQ(blank.places, (std::vector<Place>{{7, 0}, {7, 1}}));
    setValue(batch, {7, 0}, 0.1001);
    setValue(batch, {7, 1}, 0.1001);
    EXPECT_EQ(found(evaluateAnalyte(batch)).outcome, Outcome::Pass);
}

TEST(StandardsWithin, AreCountedSinglyAndLevelsByHalf) {
    Batch batch = sampleDocument().batch();
    setValue(batch, {2, 1}, 0.75 * valueAt(batch, {2, 1})); // one of two standards of S3
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const LevelValue& level =
        *std::find_if(evaluation.levels.begin(), evaluation.levels.end(), [](const auto& l) { return l.number == 3; });
    EXPECT_EQ(level.standards, 2);
    EXPECT_EQ(level.standardsWithin, 1);
    EXPECT_TRUE(level.isAccepted); // half of them is enough
    const Batch strict = withMethod(batch, [](Method& m) { m.limits.standardsAtLevel = 51; });
    const CriterionResult found = evaluateAnalyte(strict).criteria.front();
    EXPECT_NE(found.foundText.find("11 of 14, 5 of 7 levels"), std::string::npos) << found.foundText;
}

} // namespace
} // namespace nuvat
