// The verdict on the whole batch and its sentence: what decides it, what may not be hidden, what no override can
// replace.
#include "nuvat/batch/verdict.h"

#include "nuvat/batch/command.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::sampleDocument;
using test::withMethod;

/// The sample batch without the readings of its standards: nothing can be fitted.
Batch withoutCurve() {
    Batch batch = sampleDocument().batch();
    for (const Place place : test::placesOf(batch, {Role::Standard, 1})) {
        test::setValue(batch, place, std::nullopt);
    }
    for (int level = 1; level <= 7; ++level) {
        batch.levels[level] = {5.0}; // one concentration for all
    }
    return batch;
}

Batch withOverridesOfAll(Batch batch) {
    const Evaluation evaluation = evaluate(batch);
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        for (const CriterionResult& c : analyte.criteria) {
            batch.overrides[{analyte.analyte, c.key}] = {"agreed", 1, c.limitText};
        }
    }
    for (const CriterionResult& c : evaluation.criteria) {
        batch.overrides[{0, c.key}] = {"agreed", 1, c.limitText};
    }
    return batch;
}

Batch withBatchCriterion(const Batch& batch, double limit, bool asksForReview = false) {
    return withMethod(batch, [=](Method& m) {
        m.criteria.push_back(
            {"Enough results", CriterionScope::Batch, "reported", Comparison::AtLeast, limit, asksForReview});
    });
}

TEST(Verdict, WithoutACurveNoOverrideAccepts) {
    const Batch batch = withoutCurve();
    ASSERT_FALSE(evaluateAnalyte(batch).fit.isUsable());
    ASSERT_EQ(evaluate(batch).verdict, Outcome::Fail);
    const Batch overridden = withOverridesOfAll(batch);
    const Evaluation evaluation = evaluate(overridden);
    EXPECT_EQ(evaluation.verdict, Outcome::Fail);
    EXPECT_EQ(evaluation.analyte().verdict, Outcome::Fail);
    EXPECT_NE(verdictSentence(overridden, evaluation).find("no curve for Patulin, which no override can replace"),
              std::string::npos)
        << verdictSentence(overridden, evaluation);
    // Nor does a criterion of the batch that is met.
    const Batch met = withMethod(Batch{}, [](Method& m) {
        m.criteria.push_back({"One analyte", CriterionScope::Batch, "analytes", Comparison::AtLeast, 1, false});
    });
    EXPECT_EQ(evaluate(met).verdict, Outcome::NotApplicable);
}

TEST(Verdict, NamesAFailingCriterionOfTheBatch) {
    const Batch batch = withBatchCriterion(sampleDocument().batch(), 1000);
    const Evaluation evaluation = evaluate(batch);
    EXPECT_EQ(evaluation.analyte().verdict, Outcome::Pass);
    EXPECT_EQ(evaluation.verdict, Outcome::Fail);
    EXPECT_TRUE(
        verdictSentence(batch, evaluation).starts_with("Not accepted: 1 criterion fails (batch, Enough results)"))
        << verdictSentence(batch, evaluation);
}

TEST(Verdict, CountsWhatIsOverridden) {
    const Batch batch = withOverridesOfAll(withBatchCriterion(sampleDocument().batch(), 1000));
    const Evaluation evaluation = evaluate(batch);
    ASSERT_EQ(evaluation.verdict, Outcome::Pass);
    const CriteriaCounts counts = countCriteria(evaluation);
    EXPECT_GE(counts.overridden, 1u);
    EXPECT_EQ(counts.failed + counts.review, 0u);
    const std::string sentence = verdictSentence(batch, evaluation);
    EXPECT_EQ(sentence.find("every criterion"), std::string::npos) << sentence;
    EXPECT_NE(sentence.find(std::to_string(counts.overridden) +
                            (counts.overridden == 1 ? " is overridden" : " are overridden")),
              std::string::npos)
        << sentence;
}

TEST(Verdict, OfABatchWithAnUnjudgedAnalyteIsNotAccepted) {
    Document document = sampleDocument();
    Method method = document.batch().method;
    method.limits.unknownCv.reset();
    Analyte second = method.analyte();
    second.name = "Citrinin";
    second.source.rule = ValueRule{"405 nm"}; // there is none
    method.analytes.push_back(second);
    ASSERT_TRUE(document.apply(setMethod(document.batch(), method)));
    const Evaluation evaluation = evaluate(document.batch());
    EXPECT_EQ(evaluation.analyte(2).verdict, Outcome::NotApplicable);
    EXPECT_NE(evaluation.verdict, Outcome::Pass);
    ASSERT_FALSE(evaluation.analyte(2).problems.empty());
    EXPECT_NE(evaluation.analyte(2).problems[0].message.find("A channel has to be in this batch"), std::string::npos)
        << evaluation.analyte(2).problems[0].message;
}

TEST(Verdict, LevelsWithinOfNothingAskedAreMet) {
    const Batch batch = withMethod(sampleDocument().batch(), [](Method& m) {
        m.limits.levelsWithin = 0;
        m.limits.levelsAtLeast = 0;
    });
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const auto& found = evaluation.criteria.front();
    EXPECT_EQ(found.key, "levels-within");
    EXPECT_EQ(found.outcome, Outcome::Pass);
    EXPECT_TRUE(std::isfinite(found.used));
}

TEST(Verdict, AReadingOfAnotherSizeIsSaid) {
    Batch batch = sampleDocument().batch();
    batch.carriers.at(1).rows = 16;
    batch.carriers.at(1).columns = 24;
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    ASSERT_FALSE(evaluation.problems.empty());
    EXPECT_NE(evaluation.problems[0].message.find("is a plate of 8 × 12 wells, but the layout is for 16 × 24"),
              std::string::npos)
        << evaluation.problems[0].message;
}

TEST(Places, OffThePlateAreNoOthers) {
    const AnalyteEvaluation evaluation = evaluateAnalyte(sampleDocument().batch());
    EXPECT_THROW((void)evaluation.at({0, 12}), std::out_of_range); // not B1
    EXPECT_THROW((void)evaluation.at({-1, 3}), std::out_of_range);
    const auto grid = sampleDocument().batch().readings.at(1)->payload.grid();
    EXPECT_EQ(grid->at(0, 12), nullptr);
    EXPECT_EQ(grid->at(8, 0), nullptr);
    EXPECT_NE(grid->at(7, 11), nullptr);
}

using test::plateOf;

TEST(UseReading, TakesTheSizeAlongOrIsRefused) {
    Document document;
    ASSERT_TRUE(document.apply(addReading(document.batch(), plateOf(8, 12))));
    ASSERT_TRUE(document.apply(addReading(document.batch(), plateOf(16, 24))));
    EXPECT_EQ(document.batch().carriers.at(1).rows, 16);
    ASSERT_TRUE(document.apply(useReading(document.batch(), 1))); // nothing is laid out yet
    EXPECT_EQ(document.batch().carriers.at(1).rows, 8);
    EXPECT_EQ(document.batch().carriers.at(1).columns, 12);
    ASSERT_TRUE(document.apply(assignRole(document.batch(), {{0, 0}}, Role::Blank, 1, Direction::Across)));
    EXPECT_EQ(useReading(document.batch(), 2).error().code, "import.plate-size");
}

TEST(RemoveAnalyte, OfTheFirstKeepsTheNamesOfTheQcs) {
    Document document = sampleDocument();
    Method method = document.batch().method;
    method.analytes.push_back(method.analyte());
    method.analytes.back().name = "Citrinin";
    ASSERT_TRUE(document.apply(setMethod(document.batch(), method)));
    ASSERT_TRUE(document.apply(setQc(document.batch(), 1, {"", 6}, 2)));
    const Batch before = document.batch();
    ASSERT_TRUE(document.apply(removeAnalyte(document.batch(), 1)));
    EXPECT_EQ(document.batch().method.analyte().name, "Citrinin");
    EXPECT_EQ(shortName(document.batch(), {Role::Qc, 1}), "QC lo");
    EXPECT_EQ(shortName(document.batch(), {Role::Qc, 2}), "QC hi"); // which Citrinin had no item for
    EXPECT_EQ(document.batch().nominal(1), 6);
    ASSERT_TRUE(document.undo());
    EXPECT_EQ(document.batch(), before);
}

TEST(RemoveAnalyte, TakesItsOverridesAlongAndMovesThoseOfOthers) {
    Document document = sampleDocument();
    Method method = document.batch().method;
    method.analytes.push_back(method.analyte());
    method.analytes.push_back(method.analyte());
    ASSERT_TRUE(document.apply(setMethod(document.batch(), method)));
    CriterionResult missed;
    missed.key = "r-squared";
    for (int analyte = 1; analyte <= 3; ++analyte) {
        ASSERT_TRUE(document.apply(
            overrideCriterion(document.batch(), analyte, missed, "reason " + std::to_string(analyte), 1)));
    }
    ASSERT_TRUE(document.apply(removeAnalyte(document.batch(), 2)));
    ASSERT_EQ(document.batch().overrides.size(), 2u);
    EXPECT_EQ(document.batch().overrides.at({1, "r-squared"}).reason, "reason 1");
    EXPECT_EQ(document.batch().overrides.at({2, "r-squared"}).reason, "reason 3");
}

TEST(Series, AShorterOneClearsWhatTheLongerOneLeft) {
    Document document = sampleDocument(); // seven levels
    ASSERT_TRUE(document.apply(setLevel(document.batch(), 7, 0)));
    ASSERT_TRUE(document.apply(setSeries(document.batch(), {100, true, 2, 5})));
    EXPECT_EQ(document.batch().concentration(5), 6.25);
    EXPECT_FALSE(document.batch().concentration(6));
    EXPECT_EQ(document.batch().concentration(7), 0); // a zero standard belongs to no series
    const AnalyteEvaluation evaluation = evaluateAnalyte(document.batch());
    EXPECT_TRUE(std::any_of(evaluation.problems.begin(), evaluation.problems.end(), [](const Problem& p) {
        return p.message.find("Level S6 has no concentration") != std::string::npos;
    }));
}

TEST(Subjects, AreTakenFromTheChangesAndNotFromTheWords) {
    Document document = sampleDocument();
    ASSERT_TRUE(document.apply(setSample(document.batch(), 2, {"restored oak cask", 1, ""})));
    EXPECT_EQ(document.history().back().subject, Subject::Edit);
    ASSERT_TRUE(document.apply(excludePlaces(document.batch(), {{2, 2}}, "bubble", 1)));
    EXPECT_EQ(document.history().back().subject, Subject::Exclusion);
    ASSERT_TRUE(document.apply(restorePlaces(document.batch(), {{2, 2}})));
    EXPECT_EQ(document.history().back().subject, Subject::Exclusion);
    CriterionResult missed;
    missed.key = "r-squared";
    ASSERT_TRUE(document.apply(overrideCriterion(document.batch(), 1, missed, "agreed", 1)));
    ASSERT_TRUE(document.apply(withdrawOverride(document.batch(), 1, missed)));
    EXPECT_EQ(document.history().back().subject, Subject::Override);
    for (const Subject subject : {Subject::Edit, Subject::Exclusion, Subject::Override}) {
        EXPECT_EQ(subjectFromName(name(subject)), subject);
    }
}

} // namespace
} // namespace nuvat
