// The words and numbers people read.
#include "nuvat/batch/working.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

TEST(Words, ValuesCarryTheFiguresOfTheirInterval) {
    EXPECT_EQ(valueText(33.412, 31.6, 35.3), "33.4");     // half-width 1.85: one decimal
    EXPECT_EQ(valueText(33.412, 33.39, 33.43), "33.412"); // half-width 0.02: three decimals
    EXPECT_EQ(valueText(33.412, 31.6, 35.3, 5), "167");   // diluted: the same number of figures
    EXPECT_EQ(intervalText(33.412, 31.62, 35.31), "31.6 to 35.3");
    EXPECT_EQ(intervalText(33.412, 31.62, 35.31, 5), "158 to 177");
    EXPECT_EQ(intervalText(0.3, -0.5, 1.1), "\u22120.50 to 1.10"); // the real minus sign, no fewer than two figures
    EXPECT_EQ(intervalText(5, 5, 5), "");                          // no interval, no words
    const std::optional<double> none;
    EXPECT_EQ(valueText(33.412, 31.6, none), "33.41"); // a limit is missing: four figures, no interval
    EXPECT_EQ(intervalText(33.412, 31.6, none), "");
}

TEST(Words, ResultsOutsideTheRangeAreNeverNumbers) {
    SampleResult result;
    result.dilution = 5;
    const Range range{2.0, 100.0};
    const Range none;
    result.status = ResultStatus::BelowRange;
    EXPECT_EQ(resultText(result, range), "< LLOQ (10.0)");
    result.status = ResultStatus::AboveRange;
    EXPECT_EQ(resultText(result, range), "> ULOQ (500)");
    result.status = ResultStatus::BelowCurve;
    EXPECT_EQ(resultText(result, range), "< LLOQ (10.0)");
    EXPECT_EQ(resultText(result, none), "below the curve");
    result.status = ResultStatus::AboveCurve;
    EXPECT_EQ(resultText(result, none), "above the curve");
    result.status = ResultStatus::NotDefined;
    EXPECT_EQ(resultText(result, range), "not defined");
    EXPECT_EQ(statusWord(result), "No result");
    EXPECT_EQ(statusOutcome(result), Outcome::Fail);
    result.group = {Role::Unknown, 1};
    result.replicates.resize(2);
    for (ReplicateResult& replicate : result.replicates) {
        replicate.state = ResponseState::NotFound;
    }
    EXPECT_EQ(resultText(result, range), "not found");
    EXPECT_EQ(statusOutcome(result), Outcome::Pass) << "nothing of it in a sample is an answer";
    result.group = {Role::Qc, 1};
    EXPECT_EQ(statusOutcome(result), Outcome::Fail) << "of a QC it is none";
    result.replicates.back().state = ResponseState::Unusable;
    EXPECT_EQ(resultText(result, range), "not defined") << "one of them may have it";
    for (ReplicateResult& replicate : result.replicates) {
        replicate.state = ResponseState::NotRead;
    }
    EXPECT_EQ(statusWord(result), "Not read");
    EXPECT_EQ(statusOutcome(result), Outcome::NotApplicable);
}

TEST(Words, StatusAsksForReviewOnlyWhereThereIsANumber) {
    SampleResult result;
    result.status = ResultStatus::Reported;
    EXPECT_EQ(statusWord(result), "Pass");
    result.needsReview = true;
    EXPECT_EQ(statusWord(result), "Review");
    result.status = ResultStatus::AboveRange;
    EXPECT_EQ(statusWord(result), "Above");
    result.status = ResultStatus::Extrapolated;
    EXPECT_EQ(statusWord(result), "Review");
    result.needsReview = false;
    EXPECT_EQ(statusWord(result), "Extrapolated");
}

TEST(Words, EveryModelAndWeightingHasItsOwn) {
    std::vector<std::string> titles;
    for (const Model model :
         {Model::Line, Model::LineThroughOrigin, Model::LineFixedPoint, Model::Quadratic, Model::Cubic, Model::LogLog,
          Model::PointToPoint, Model::Spline, Model::Logistic4, Model::Logistic5}) {
        titles.push_back(modelTitle(model));
        EXPECT_FALSE(modelFormula(model).empty());
        EXPECT_FALSE(inverseFormula(model).empty());
        EXPECT_EQ(modelFromName(name(model)), model);
        for (std::size_t i = 0; i < parameterCount(model); ++i) {
            EXPECT_FALSE(parameterTitle(model, i).empty());
        }
    }
    for (const Weighting weighting : {Weighting::None, Weighting::InverseX, Weighting::InverseX2, Weighting::InverseY,
                                      Weighting::InverseY2, Weighting::InverseS2}) {
        titles.push_back(weightingTitle(weighting));
        EXPECT_EQ(weightingFromName(name(weighting)), weighting);
    }
    for (const IntervalMethod method :
         {IntervalMethod::Propagation, IntervalMethod::LogPropagation, IntervalMethod::Fieller,
          IntervalMethod::Inversion, IntervalMethod::Profile, IntervalMethod::Bootstrap}) {
        titles.push_back(intervalTitle(method));
    }
    std::sort(titles.begin(), titles.end());
    EXPECT_EQ(std::unique(titles.begin(), titles.end()), titles.end());
    EXPECT_FALSE(modelFromName("6pl"));
    EXPECT_FALSE(weightingFromName("1/z"));
}

TEST(Words, PlacesHaveShortNames) {
    Batch batch;
    EXPECT_EQ(shortName(batch, {Role::Standard, 3}), "S3");
    EXPECT_EQ(shortName(batch, {Role::Unknown, 7}), "U07");
    EXPECT_EQ(shortName(batch, {Role::Unknown, 112}), "U112");
    EXPECT_EQ(shortName(batch, {Role::Qc, 2}), "QC 2");
    EXPECT_EQ(shortName(batch, {Role::Blank, 0}), "Blank");
    batch.qcs[2].name = "QC hi";
    batch.samples[7].name = "Quince mix";
    EXPECT_EQ(shortName(batch, {Role::Qc, 2}), "QC hi");
    EXPECT_EQ(fullName(batch, {Role::Unknown, 7}), "Quince mix");
    EXPECT_EQ(fullName(batch, {Role::Unknown, 8}), "U08");
}

TEST(Working, OfABlankGivesWhatIsSubtracted) {
    const Document document = test::sampleDocument();
    const Working working = workingOf(document.batch(), evaluateAnalyte(document.batch()), Assignment{Role::Blank, 0});
    EXPECT_EQ(working.title, "Blank");
    EXPECT_EQ(working.steps.back().title, "Mean of the blanks");
    EXPECT_EQ(working.steps.back().lines.front(), "0.06000");
}

TEST(Working, OfAQcEndsInItsRecovery) {
    const Document document = test::sampleDocument();
    const Working working = workingOf(document.batch(), evaluateAnalyte(document.batch()), Assignment{Role::Qc, 2});
    EXPECT_EQ(working.steps.back().title, "Recovery");
    EXPECT_EQ(working.steps.back().lines.front(), "100 % of 80.0 µg/L");
    ASSERT_FALSE(working.checks.empty());
    EXPECT_EQ(working.checks.front().outcome, Outcome::Pass);
}

TEST(Working, WithoutAReadingSaysWhatToDo) {
    Batch batch = test::sampleDocument().batch();
    batch.readings.clear();
    batch.inUse.clear();
    const Working working = workingOf(batch, evaluateAnalyte(batch), Assignment{Role::Unknown, 1});
    ASSERT_EQ(working.steps.size(), 1u);
    EXPECT_EQ(working.steps[0].lines[0], "Import a reading under Data.");
}

// A file with decimal commas must not bring a second decimal sign into the panel.
TEST(Working, ShowsReadingsWithOneDecimalSign) {
    Batch batch = test::sampleDocument().batch();
    test::editWell(batch, {2, 2}, [](ReadingWell& well) { // C3, U01
        well.text = "0,190";
        well.value = 0.19;
    });
    const Working working = workingOf(batch, evaluateAnalyte(batch), {Role::Unknown, 1});
    ASSERT_FALSE(working.steps.empty());
    EXPECT_EQ(working.steps.front().lines.front(), "C3  0.190");
}

} // namespace
} // namespace nuvat
