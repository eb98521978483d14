// What a batch of runs asks a person to look at, exclusions of one analyte, suitability of the separation.
#include "nuvat/batch/document.h"
#include "nuvat/batch/run_review.h"
#include "nuvat/batch/validate.h"
#include "support/trace_runs.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::apply;

/// Runs 1 to 4 are standards, run 5 a sample, run 6 a QC without the second peak.
Batch withEmptyQc() {
    Batch batch = test::traceBatch();
    batch.places[{5, 0}] = {Role::Qc, 1};
    return batch;
}

TEST(RunReview, NothingInASampleIsAnAnswer) {
    const Batch batch = test::traceBatch();
    const Evaluation evaluation = evaluate(batch);
    const RunReview review(batch, evaluation);
    ASSERT_EQ(evaluation.analyte(2).at({5, 0}).state, ResponseState::NotFound);
    EXPECT_EQ(review.countToLookAt(2), 0u);
}

TEST(RunReview, NamesWhatIsMissingAndGoesToIt) {
    const Batch batch = withEmptyQc();
    const Evaluation evaluation = evaluate(batch);
    const RunReview review(batch, evaluation);
    EXPECT_EQ(review.runs().size(), 6u);
    const Place last{5, 0};
    EXPECT_TRUE(review.asksForLook(2, last));
    ASSERT_EQ(review.reasons(2, last).size(), 1u);
    EXPECT_EQ(review.reasons(2, last).front(), "There is no peak within the window.");
    EXPECT_EQ(review.countToLookAt(1), 0u);
    EXPECT_EQ(review.countToLookAt(2), 1u);
    EXPECT_EQ(review.next(1, Place(0, 0)), std::pair(2, last));
    EXPECT_EQ(review.next(2, last), std::pair(2, last)); // round to the only one
    EXPECT_NEAR(*review.value(RunQuantity::Time, 1, {0, 0}), 60, 0.1);
    EXPECT_NEAR(*review.value(RunQuantity::Concentration, 1, {4, 0}), 3, 0.05);
    EXPECT_FALSE(review.value(RunQuantity::Area, 2, last));
    EXPECT_FALSE(review.value(RunQuantity::Ratio, 1, last));
}

TEST(RunReview, AcceptsWithAReasonForAsLongAsTheReasonsStay) {
    DocumentState state;
    state.batch = withEmptyQc();
    Document document(state);
    const Place last{5, 0};
    {
        const Evaluation evaluation = evaluate(document.batch());
        const RunReview review(document.batch(), evaluation);
        EXPECT_EQ(acceptRun(document.batch(), review, 2, last, "  ", 1).error().code, "override.reason");
        EXPECT_EQ(acceptRun(document.batch(), review, 1, last, "fine", 1).error().code, "review.nothing");
        ASSERT_TRUE(document.apply(acceptRun(document.batch(), review, 2, last, "none expected", 1)));
    }
    EXPECT_EQ(document.history().back().subject, Subject::Override);
    const Evaluation evaluation = evaluate(document.batch());
    const RunReview review(document.batch(), evaluation);
    EXPECT_TRUE(review.isAccepted(2, last));
    EXPECT_FALSE(review.asksForLook(2, last));
    EXPECT_EQ(review.next(1, std::nullopt), std::nullopt);
    // Another reason asks again.
    Batch changed = document.batch();
    Method method = changed.method;
    std::get<PeakRule>(method.analyte(2).source.rule).expected = 62;
    std::get<PeakRule>(method.analyte(2).source.rule).window = 2.2;
    apply(changed, setMethod(changed, method));
    const Evaluation other = evaluate(changed);
    const RunReview again(changed, other);
    EXPECT_TRUE(again.asksForLook(2, last)) << "its peak now lies near the edge of the window";
    ASSERT_TRUE(document.apply(withdrawAcceptance(document.batch(), 2, last)));
    const Evaluation after = evaluate(document.batch());
    EXPECT_TRUE(RunReview(document.batch(), after).asksForLook(2, last));
}

TEST(Exclusion, OfOneAnalyteLeavesTheOthersIn) {
    Batch batch = test::traceBatch();
    const Place place{1, 0};
    apply(batch, excludePlaces(batch, {place}, "rider", 1, 2));
    EXPECT_TRUE(batch.isExcluded(place, 2));
    EXPECT_FALSE(batch.isExcluded(place, 1));
    EXPECT_FALSE(batch.isExcluded(place));
    const Evaluation evaluation = evaluate(batch);
    EXPECT_EQ(evaluation.analyte(1).at(place).state, ResponseState::Used);
    EXPECT_EQ(evaluation.analyte(2).at(place).state, ResponseState::Excluded);
    EXPECT_EQ(evaluation.analyte(1).fit.n, 4u);
    EXPECT_EQ(evaluation.analyte(2).fit.n, 3u);
    EXPECT_EQ(excludePlaces(batch, {place}, "x", 1, 3).error().code, "method.no-analyte");
    EXPECT_TRUE(validate(batch));
    // It follows its analyte, and goes with it.
    Batch without = batch;
    apply(without, removeAnalyte(without, 1));
    EXPECT_TRUE(without.isExcluded(place, 1));
    Batch gone = batch;
    apply(gone, removeAnalyte(gone, 2));
    EXPECT_TRUE(gone.exclusions.empty());
    apply(batch, restorePlaces(batch, {place}, 1));
    EXPECT_TRUE(batch.isExcluded(place, 2)) << "that was another analyte's";
    apply(batch, restorePlaces(batch, {place}, 2));
    EXPECT_TRUE(batch.exclusions.empty());
}

const CriterionResult* criterion(const AnalyteEvaluation& evaluation, const std::string& key) {
    const auto found = std::ranges::find(evaluation.criteria, key, &CriterionResult::key);
    return found == evaluation.criteria.end() ? nullptr : &*found;
}

Batch withLimits(const SuitabilityLimits& limits) {
    Batch batch = test::traceBatch();
    Method method = batch.method;
    method.analyte(1).suitability = limits;
    apply(batch, setMethod(batch, method));
    return batch;
}

TEST(Suitability, IsJudgedOnlyWhereTheMethodHasLimits) {
    const Evaluation none = evaluate(test::traceBatch());
    EXPECT_EQ(criterion(none.analyte(1), "suitability-tailing"), nullptr);
    SuitabilityLimits limits;
    limits.tailing = 1.5;
    limits.plates = 1e6;
    const Evaluation found = evaluate(withLimits(limits));
    const CriterionResult* tailing = criterion(found.analyte(1), "suitability-tailing");
    ASSERT_NE(tailing, nullptr);
    EXPECT_EQ(tailing->outcome, Outcome::Pass); // Gaussians: 1 but for noise
    EXPECT_NEAR(tailing->used, 1 / 1.5, 0.05);
    const CriterionResult* plates = criterion(found.analyte(1), "suitability-plates");
    ASSERT_NE(plates, nullptr);
    EXPECT_EQ(plates->outcome, Outcome::Fail);
    EXPECT_FALSE(plates->places.empty());
    EXPECT_EQ(criterion(found.analyte(2), "suitability-tailing"), nullptr) << "the limits are of the first analyte";
}

TEST(Suitability, HoldsTheTimesAndTheCarryOver) {
    Batch batch = test::traceBatch();
    // A blank after the highest standard with a tenth of the lowest level.
    apply(batch, importRuns(batch, {test::runOf("S4 again", 8, 8, 31), test::runOf("after", 0.1, 0.1, 32)}, 1));
    batch.places[{6, 0}] = batch.at({3, 0});
    batch.places[{7, 0}] = {Role::Blank, 0};
    batch.method.analyte(1).suitability.timeRsd = 1;
    batch.method.analyte(1).suitability.carryOver = 5;
    const Evaluation evaluation = evaluate(batch);
    const CriterionResult* times = criterion(evaluation.analyte(1), "suitability-time-rsd");
    ASSERT_NE(times, nullptr);
    EXPECT_EQ(times->outcome, Outcome::Pass);
    const CriterionResult* over = criterion(evaluation.analyte(1), "suitability-carry-over");
    ASSERT_NE(over, nullptr);
    EXPECT_EQ(over->outcome, Outcome::Fail);
    EXPECT_NEAR(over->used * 5, 10, 1); // percent
    EXPECT_EQ(over->places, (std::vector<Place>{{7, 0}}));
    batch.method.analyte(1).suitability.carryOver = 20;
    EXPECT_EQ(criterion(evaluate(batch).analyte(1), "suitability-carry-over")->outcome, Outcome::Pass);
}

TEST(Suitability, LimitsHaveToBeAboveZero) {
    Method method = test::traceBatch().method;
    method.analyte(1).suitability.resolution = 0;
    EXPECT_EQ(validate(method).error().code, "method.suitability");
}

} // namespace
} // namespace nuvat
