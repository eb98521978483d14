// Roles beyond standards, blanks, QCs and unknowns, and samples that were prepared at several dilutions.
#include "nuvat/batch/evaluation.h"
#include "nuvat/batch/validate.h"
#include "nuvat/batch/working.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

/// Unknowns of the sample batch: C3:H4 in pairs, the truth by number.
Place wellOf(int unknown, int replicate) {
    return {1 + unknown, 2 + replicate};
}

Document withRole(int unknown, Role role) {
    Document document = test::sampleDocument();
    const auto command =
        assignRole(document.batch(), {wellOf(unknown, 0), wellOf(unknown, 1)}, role, 2, Direction::Across);
    EXPECT_TRUE(command && document.apply(*command));
    return document;
}

TEST(Roles, HaveNamesThatAreReadBack) {
    for (const Role role : rolesInUse()) {
        EXPECT_EQ(roleFromName(name(role)), role);
        EXPECT_FALSE(roleWord(role).empty());
        const Assignment group{role, isCounted(role) ? 1 : 0};
        EXPECT_TRUE(validate(group)) << name(role);
        EXPECT_FALSE(shortName(Batch{}, group).empty());
        EXPECT_FALSE(validate(Assignment{role, isCounted(role) ? 0 : 1})) << name(role);
        EXPECT_EQ(validate(Assignment{role, group.number, 2}).has_value(), isOfSample(role)) << name(role);
    }
    EXPECT_EQ(roleFromName("drift"), std::nullopt);
}

// Blanks of other kinds say something of the assay; the one that is subtracted is the blank alone.
TEST(Roles, OtherBlanksAreNotSubtracted) {
    const Document plain = test::sampleDocument();
    for (const Role role : {Role::DoubleBlank, Role::ReagentBlank}) {
        const Document document = withRole(6, role);
        const AnalyteEvaluation with = evaluate(document.batch()).analyte();
        EXPECT_EQ(with.blank.description.mean, evaluate(plain.batch()).analyte().blank.description.mean);
        ASSERT_NE(with.group({role, 0}), nullptr);
        EXPECT_EQ(with.group({role, 0})->response.n, 2u);
        EXPECT_EQ(with.result({role, 0}), nullptr);
        const Working working = workingOf(document.batch(), with, Assignment{role, 0});
        EXPECT_FALSE(working.steps.empty());
        EXPECT_NE(working.steps.back().title, "No curve");
    }
}

// How blanks scatter says nothing of a CV, and none of their replicates is chosen.
TEST(Roles, OtherBlanksHaveNoPartInRulesForReplicates) {
    for (const Role role : {Role::DoubleBlank, Role::ReagentBlank}) {
        Document document = withRole(6, role);
        auto command = assignRole(document.batch(), {wellOf(6, 0), wellOf(6, 1), {0, 6}}, role, 3, Direction::Across);
        ASSERT_TRUE(command && document.apply(*command));
        Batch batch = document.batch();
        Reading reading = *batch.readings.at(1);
        test::editGrid(reading, [](Grid& grid) {
            for (int replicate = 0; replicate < 2; ++replicate) {
                const Place place = wellOf(6, replicate);
                grid.wells.at(static_cast<std::size_t>(place.row * grid.columns + place.column)).value =
                    0.2 + 0.1 * replicate;
            }
            grid.wells.at(6).value = 0.6;
        });
        batch.readings[1] = reading;
        const AnalyteEvaluation plain = evaluate(batch).analyte();
        ASSERT_EQ(plain.group({role, 0})->response.n, 3u);
        EXPECT_LT(plain.pooledCvPercent.value_or(0), 1e-9); // all else is without noise
        batch.method.replicates.keepBest = 2;
        EXPECT_EQ(evaluate(batch).analyte().group({role, 0})->response.n, 3u);
    }
}

TEST(Roles, ACheckStandardIsReadOffAndJudgedByItself) {
    Document document = withRole(3, Role::CheckStandard);
    const double truth = test::sampleTruth()[2];
    auto command = setQc(document.batch(), 1, {"mid", truth}, 1, Role::CheckStandard);
    ASSERT_TRUE(command && document.apply(*command));
    EXPECT_EQ(document.batch().qcs.at(1).name, "QC lo"); // QC 1 is another thing
    EXPECT_EQ(shortName(document.batch(), {Role::CheckStandard, 1}), "mid");
    const AnalyteEvaluation good = evaluate(document.batch()).analyte();
    const SampleResult* check = good.result({Role::CheckStandard, 1});
    ASSERT_NE(check, nullptr);
    EXPECT_NEAR(check->recoveryPercent.value_or(0), 100, 0.01);
    EXPECT_EQ(check->dilution, 1);
    const auto criterion = [](const AnalyteEvaluation& evaluation, const std::string& key) {
        const auto found = std::find_if(evaluation.criteria.begin(), evaluation.criteria.end(),
                                        [&](const CriterionResult& c) { return c.key == key; });
        return found == evaluation.criteria.end() ? nullptr : &*found;
    };
    ASSERT_NE(criterion(good, "check-1"), nullptr);
    EXPECT_EQ(criterion(good, "check-1")->outcome, Outcome::Pass);
    const std::string counted = criterion(good, "qc-within")->foundText;
    // Found at half of what it should be: the batch fails, the share of QCs is as before.
    command = setQc(document.batch(), 1, {"mid", 2 * truth}, 1, Role::CheckStandard);
    ASSERT_TRUE(command && document.apply(*command));
    const AnalyteEvaluation bad = evaluate(document.batch()).analyte();
    EXPECT_EQ(criterion(bad, "check-1")->outcome, Outcome::Fail);
    EXPECT_EQ(criterion(bad, "qc-within")->foundText, counted);
    EXPECT_EQ(bad.fit.n, good.fit.n); // it is no standard of the curve
}

TEST(Roles, NegativeControlsAndSpikesAreReadOff) {
    const Document negative = withRole(2, Role::NegativeControl);
    const Evaluation control = evaluate(negative.batch());
    const SampleResult* read = control.analyte().result({Role::NegativeControl, 1});
    ASSERT_NE(read, nullptr);
    EXPECT_NEAR(read->readOff.x.value_or(0), test::sampleTruth()[1], 1e-3 * test::sampleTruth()[1]);
    EXPECT_EQ(read->dilution, 1);
    // The first spike belongs to the first unknown and shares its dilution.
    const Document spiked = withRole(2, Role::Spike);
    const Evaluation evaluation = evaluate(spiked.batch());
    ASSERT_NE(evaluation.analyte().result({Role::Spike, 1}), nullptr);
    EXPECT_EQ(evaluation.analyte().result({Role::Spike, 1})->dilution, spiked.batch().samples.at(1).dilution);
    EXPECT_EQ(shortName(spiked.batch(), {Role::Spike, 1}), "U01 sp");
}

TEST(Roles, AnAdditionIsAStepOfItsSample) {
    Document document = test::sampleDocument();
    const std::vector<Place> places{{0, 6}, {0, 7}, {0, 8}, {0, 9}};
    auto command = assignRole(document.batch(), places, Role::Addition, 2, Direction::Across);
    ASSERT_TRUE(command && document.apply(*command));
    EXPECT_EQ(document.batch().at({0, 6}), (Assignment{Role::Addition, 1, 1}));
    EXPECT_EQ(document.batch().at({0, 9}), (Assignment{Role::Addition, 1, 2}));
    command = assignRole(document.batch(), {{1, 6}, {1, 7}}, Role::Addition, 2, Direction::Across);
    ASSERT_TRUE(command && document.apply(*command));
    EXPECT_EQ(document.batch().at({1, 6}), (Assignment{Role::Addition, 2, 1})); // the next stroke, the next sample
    EXPECT_EQ(evaluate(document.batch()).analyte().result({Role::Addition, 1, 1}), nullptr);
}

TEST(Preparations, GoOnWhereTheLastOnesEnded) {
    Document document = test::sampleDocument();
    const auto add = [&](const std::vector<Place>& places) {
        const auto command = addPreparations(document.batch(), places, 1, Direction::Across);
        ASSERT_TRUE(command) << command.error().text();
        ASSERT_TRUE(document.apply(*command));
    };
    add({{0, 6}, {0, 7}, {0, 8}, {0, 9}}); // second dilutions of U01 to U04
    add({{1, 6}, {1, 7}, {1, 8}});         // of U05 and U06, then the third of U01
    EXPECT_EQ(document.batch().at({0, 6}), (Assignment{Role::Unknown, 1, 2}));
    EXPECT_EQ(document.batch().at({1, 7}), (Assignment{Role::Unknown, 6, 2}));
    EXPECT_EQ(document.batch().at({1, 8}), (Assignment{Role::Unknown, 1, 3}));
    EXPECT_EQ(document.batch().dilution({Role::Unknown, 1, 2}), 5); // as the first, until it is set
    EXPECT_EQ(PlaceIndex(document.batch()).numbersOf(Role::Unknown), (std::vector{1, 2, 3, 4, 5, 6}));
    const auto none = addPreparations(Batch{}, {{0, 0}}, 1, Direction::Across);
    ASSERT_FALSE(none);
    EXPECT_EQ(none.error().code, "layout.no-sample");
}

TEST(Preparations, HaveADilutionAndAResultOfTheirOwn) {
    Document document = test::sampleDocument();
    auto command = addPreparations(document.batch(), {wellOf(6, 0), wellOf(6, 1)}, 2, Direction::Across);
    ASSERT_TRUE(command && document.apply(*command)); // U06's wells now hold the second dilution of U01
    const Assignment second{Role::Unknown, 1, 2};
    command = setDilution(document.batch(), second, 50);
    ASSERT_TRUE(command && document.apply(*command));
    EXPECT_EQ(command->label, "Dilution of U01.2 × 5 → × 50");
    EXPECT_EQ(document.batch().samples.at(1).dilution, 5);
    const Evaluation evaluation = evaluate(document.batch());
    const SampleResult* result = evaluation.analyte().result(second);
    ASSERT_NE(result, nullptr);
    EXPECT_NEAR(result->result.value_or(0), 50 * test::sampleTruth()[5], 0.05 * test::sampleTruth()[5]);
    EXPECT_EQ(fullName(document.batch(), second), "one, dilution 2");
    const auto wrong = setDilution(document.batch(), second, 0);
    ASSERT_FALSE(wrong);
    EXPECT_EQ(wrong.error().code, "layout.dilution");
    EXPECT_FALSE(setDilution(document.batch(), {Role::Qc, 1}, 2));
}

/// U02's wells hold the second dilution of U01 (content 20), by a factor that makes `times` of it; dilutions are known
/// to 2 %.
Document withSecondDilution(double times) {
    Document document = test::sampleDocument();
    auto command = addPreparations(document.batch(), {wellOf(2, 0), wellOf(2, 1)}, 2, Direction::Across);
    EXPECT_TRUE(command && document.apply(*command));
    command = setDilution(document.batch(), {Role::Unknown, 1, 2}, times / test::sampleTruth()[1]);
    EXPECT_TRUE(command && document.apply(*command));
    return document;
}

const CriterionResult* criterion(const AnalyteEvaluation& evaluation, const std::string& key) {
    const auto found = std::ranges::find(evaluation.criteria, key, &CriterionResult::key);
    return found == evaluation.criteria.end() ? nullptr : &*found;
}

TEST(Preparations, ThatAgreeAreTakenTogether) {
    const Batch batch =
        test::withMethod(withSecondDilution(20.25).batch(), [](Method& m) { m.dilutionRelativeSe = 0.02; });
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    ASSERT_EQ(evaluation.combined.size(), 1u) << "one sample has several";
    const CombinedSample& one = evaluation.combined[0];
    EXPECT_EQ(one.found.reported.size(), 2u);
    EXPECT_NEAR(one.value.value_or(0), 20.12, 0.02) << "of 20 and 20.25, the smaller weighs more";
    EXPECT_NEAR(one.se.value_or(0), 20.12 * 0.02 / std::sqrt(2), 0.002) << "the curve of the sample has no scatter";
    EXPECT_EQ(evaluation.combinedOf({Role::Unknown, 1, 2}), &one);
    EXPECT_EQ(evaluation.combinedOf({Role::Unknown, 3}), nullptr);
    ASSERT_NE(criterion(evaluation, "dilutions"), nullptr);
    EXPECT_EQ(criterion(evaluation, "dilutions")->outcome, Outcome::Pass);
    EXPECT_EQ(criterion(evaluation, "dilutions")->foundText, "1 of 1");
    const std::string text = combinedText(batch, evaluation, one);
    EXPECT_NE(text.find("from × 2.25 and × 5"), std::string::npos) << text;
    const Working working = workingOf(batch, evaluation, Assignment{Role::Unknown, 1});
    EXPECT_TRUE(std::ranges::any_of(working.steps,
                                    [](const WorkingStep& step) { return step.title == "Dilutions taken together"; }));
    EXPECT_EQ(criterion(evaluateAnalyte(test::sampleDocument().batch()), "dilutions"), nullptr)
        << "nothing to judge where no sample has several";
}

TEST(Preparations, ShareTheUncertaintyOfTheirCurve) {
    Document document = withSecondDilution(20.25);
    for (int number = 1; number <= 7; ++number) { // standards that miss their curve make it uncertain
        const double x = *document.batch().concentration(number, 1) * (number % 2 == 0 ? 1.05 : 0.95);
        const auto command = setLevel(document.batch(), number, x);
        ASSERT_TRUE(command && document.apply(*command));
    }
    const Batch batch = test::withMethod(document.batch(), [](Method& m) { m.dilutionRelativeSe = 0.02; });
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const CombinedSample& one = evaluation.combined.at(0);
    ASSERT_TRUE(one.se);
    const double least = std::min(evaluation.result({Role::Unknown, 1})->readOff.seCurve * 5,
                                  evaluation.result({Role::Unknown, 1, 2})->readOff.seCurve * 2.25);
    ASSERT_GT(least, 0.05);
    EXPECT_GE(*one.se, std::hypot(*one.found.se, least) * (1 - 1e-12)) << "it is not divided by their number";
}

TEST(Preparations, ThatRiseWithDilutionAreToBeReviewed) {
    const Batch batch =
        test::withMethod(withSecondDilution(200).batch(), [](Method& m) { m.dilutionRelativeSe = 0.02; });
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const CombinedSample& one = evaluation.combined.at(0);
    EXPECT_TRUE(one.found.hasHook);
    EXPECT_FALSE(one.value);
    const CriterionResult* found = criterion(evaluation, "dilutions");
    ASSERT_NE(found, nullptr);
    EXPECT_EQ(found->outcome, Outcome::Review);
    EXPECT_EQ(found->places.size(), 4u);
    EXPECT_TRUE(evaluation.result({Role::Unknown, 1})->needsReview);
    EXPECT_FALSE(evaluation.result({Role::Unknown, 1, 2})->remark.empty());
    EXPECT_TRUE(evaluation.result({Role::Unknown, 1})->result) << "each dilution keeps its own result";
}

TEST(Preparations, TakePartInIncrementalEvaluation) {
    Document document = test::sampleDocument();
    auto command = addPreparations(document.batch(), {wellOf(6, 0), wellOf(6, 1)}, 2, Direction::Across);
    ASSERT_TRUE(command && document.apply(*command));
    Evaluator evaluator;
    evaluator.evaluate(document.batch());
    command = setDilution(document.batch(), {Role::Unknown, 1, 2}, 50);
    ASSERT_TRUE(command && document.apply(*command));
    const Assignment second{Role::Unknown, 1, 2};
    EXPECT_EQ(evaluator.evaluate(document.batch())->analyte().result(second)->result,
              evaluate(document.batch()).analyte().result(second)->result);
}

} // namespace
} // namespace nuvat
