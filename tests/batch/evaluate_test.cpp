#include "nuvat/batch/curve_shape.h"
#include "nuvat/batch/document.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/batch/working.h"
#include "nuvat/workflow/export.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::sampleDocument;
using test::withMethod;

const CriterionResult& criterion(const AnalyteEvaluation& evaluation, const std::string& key) {
    const auto found = std::find_if(evaluation.criteria.begin(), evaluation.criteria.end(),
                                    [&](const auto& c) { return c.key == key; });
    EXPECT_NE(found, evaluation.criteria.end()) << key;
    return *found;
}

/// The batch with another raw value in a well.
Batch withReading(Batch batch, Place place, std::optional<double> value, const std::string& text = "x") {
    test::editWell(batch, place, [&](ReadingWell& well) {
        well.value = value;
        well.text = text;
    });
    return batch;
}

Batch excluded(Batch batch, Place place) {
    batch.exclusions[place] = {"test", 1};
    return batch;
}

TEST(Evaluate, FindsTheTruthOfNoiseFreeReadings) {
    const Document document = sampleDocument();
    const AnalyteEvaluation evaluation = evaluateAnalyte(document.batch());
    ASSERT_TRUE(evaluation.fit.isUsable()) << evaluation.fit.message;
    EXPECT_NEAR(evaluation.blank.subtracted, 0.06, 1e-15);
    EXPECT_NEAR(evaluation.fit.parameters[2], 20, 1e-8);
    EXPECT_EQ(evaluation.range.lloq, evaluation.levels.back().x);
    EXPECT_EQ(evaluation.range.uloq, 500);
    const auto truth = test::sampleTruth();
    for (std::size_t i = 0; i < truth.size(); ++i) {
        const SampleResult* result = evaluation.result({Role::Unknown, static_cast<int>(i) + 1});
        ASSERT_NE(result, nullptr);
        EXPECT_EQ(result->status, ResultStatus::Reported);
        EXPECT_NEAR(*result->result, 5 * truth[i], 1e-6 * truth[i]);
    }
    EXPECT_EQ(evaluation.verdict, Outcome::Pass);
    EXPECT_TRUE(evaluation.problems.empty());
    EXPECT_NEAR(*evaluation.result({Role::Qc, 1})->recoveryPercent, 100, 1e-6);
}

TEST(Evaluate, IsDeterministic) {
    const Document document = sampleDocument();
    EXPECT_EQ(evaluationJson(document.batch(), evaluate(document.batch())),
              evaluationJson(document.batch(), evaluate(document.batch())));
}

TEST(Evaluate, OfAnEmptyBatchHasNoNumbersAndNoComplaint) {
    const AnalyteEvaluation evaluation = evaluateAnalyte(Batch{});
    EXPECT_EQ(evaluation.responses.size(), 96u);
    EXPECT_FALSE(evaluation.fit.isUsable());
    EXPECT_TRUE(evaluation.results.empty());
    EXPECT_EQ(evaluation.verdict, Outcome::NotApplicable);
    EXPECT_TRUE(evaluation.problems.empty());
}

TEST(Evaluate, TheBlankIsTheMeanOfIncludedBlanks) {
    Batch batch = withReading(sampleDocument().batch(), {7, 1}, 0.10);
    EXPECT_NEAR(evaluateAnalyte(batch).blank.subtracted, 0.08, 1e-15);
    EXPECT_NEAR(*evaluateAnalyte(batch).blank.se, 0.02, 1e-12); // SD 0.0283 over the root of 2
    batch = excluded(batch, {7, 1});
    EXPECT_NEAR(evaluateAnalyte(batch).blank.subtracted, 0.06, 1e-15);
    EXPECT_FALSE(evaluateAnalyte(batch).blank.se); // one blank has no SD
    const Batch off = withMethod(batch, [](Method& m) { m.subtractsBlank = false; });
    EXPECT_EQ(evaluateAnalyte(off).blank.subtracted, 0);
    EXPECT_EQ(evaluateAnalyte(off).at({0, 0}).value, evaluateAnalyte(off).at({0, 0}).raw);
}

// A blank that standards and samples share cancels where the curve has a free end; a line through the origin has none.
TEST(Evaluate, TheBlankWidensTheIntervalOnlyWhereItDoesNotCancel) {
    Batch batch = withReading(withReading(sampleDocument().batch(), {7, 0}, 0.05), {7, 1}, 0.07);
    EXPECT_EQ(evaluateAnalyte(batch).result({Role::Unknown, 3})->readOff.seBlank, 0); // a 4PL
    batch.method.analyte().fit.heldD = 0.07; // an end that does not follow the blank
    EXPECT_GT(evaluateAnalyte(batch).result({Role::Unknown, 3})->readOff.seBlank, 0);
    for (int column = 0; column < 4; ++column) { // an exact line through the origin above the blank
        for (int row = 0; row < 8; ++row) {
            const Assignment group = batch.at({row, column});
            const double x = group.role == Role::Standard ? *batch.concentration(group.number)
                             : group.role == Role::Qc
                                 ? *batch.nominal(group.number)
                                 : test::sampleTruth()[static_cast<std::size_t>(row - (row > 1 ? 2 : 0))];
            if (group.role != Role::Blank) {
                batch = withReading(batch, {row, column}, 0.06 + 0.002 * x);
            }
        }
    }
    batch.method.analyte().fit = {.model = Model::LineThroughOrigin, .weighting = Weighting::InverseX2};
    const Batch without = withMethod(batch, [](Method& m) { m.blankEntersInterval = false; });
    const auto width = [](const AnalyteEvaluation& e) {
        const SampleResult* r = e.result({Role::Unknown, 3});
        return *r->high - *r->low;
    };
    EXPECT_GT(width(evaluateAnalyte(batch)), 10 * width(evaluateAnalyte(without)));
}

TEST(Evaluate, SaysWhenNoBlankIsUsable) {
    const Batch batch = excluded(excluded(sampleDocument().batch(), {7, 0}), {7, 1});
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    EXPECT_EQ(evaluation.blank.subtracted, 0);
    ASSERT_EQ(evaluation.problems.size(), 1u);
    EXPECT_NE(evaluation.problems[0].message.find("no usable blank"), std::string::npos);
}

TEST(Evaluate, AnExcludedStandardLeavesTheFitAndStaysVisible) {
    const Batch wrong = withReading(sampleDocument().batch(), {2, 1}, 1.5);
    const AnalyteEvaluation with = evaluateAnalyte(wrong);
    const AnalyteEvaluation without = evaluateAnalyte(excluded(wrong, {2, 1}));
    EXPECT_EQ(with.fit.n, 14u);
    EXPECT_EQ(without.fit.n, 13u);
    EXPECT_GT(std::abs(with.fit.parameters[2] - 20), 0.5);
    EXPECT_NEAR(without.fit.parameters[2], 20, 1e-7);
    ASSERT_EQ(without.standards.size(), 14u);
    const auto out = std::find_if(without.standards.begin(), without.standards.end(), [](const auto& s) {
        return s.place == Place{2, 1};
    });
    EXPECT_FALSE(out->isUsed);
    EXPECT_TRUE(out->errorPercent); // still shown with how far off it is
    EXPECT_FALSE(out->normalisedWeight);
}

TEST(Evaluate, AMissingConcentrationIsSaidWithItsPlaces) {
    Batch batch = sampleDocument().batch();
    batch.levels[4].concentration.reset();
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    EXPECT_TRUE(evaluation.fit.isUsable()); // the other levels still make a curve
    EXPECT_EQ(evaluation.fit.n, 12u);
    ASSERT_EQ(evaluation.problems.size(), 1u);
    EXPECT_NE(evaluation.problems[0].message.find("S4 has no concentration"), std::string::npos);
    EXPECT_EQ(evaluation.problems[0].places, (std::vector<Place>{{3, 0}, {3, 1}}));
}

TEST(Evaluate, AnUnusableReplicateLeavesOneAndAsksForReview) {
    const Batch batch = withReading(sampleDocument().batch(), {4, 3}, std::nullopt, "OVER");
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const SampleResult* result = evaluation.result({Role::Unknown, 3});
    EXPECT_EQ(result->response.n, 1u);
    EXPECT_TRUE(result->needsReview);
    EXPECT_FALSE(result->concentration.sd); // not defined, not zero
    EXPECT_EQ(result->remark, "From 1 of 2 replicates.");
    EXPECT_EQ(criterion(evaluation, "replicates").outcome, Outcome::Review);
    EXPECT_EQ(criterion(evaluation, "replicates").places, (std::vector<Place>{{4, 3}}));
    EXPECT_EQ(evaluation.at({4, 3}).state, ResponseState::Unusable);
}

TEST(Evaluate, OutsideTheRangeThereIsNoNumber) {
    Batch batch = sampleDocument().batch();
    for (int column = 2; column < 4; ++column) {
        batch = withReading(batch, {2, column}, 0.06 + 2.299); // nearly nothing
        batch = withReading(batch, {3, column}, 0.06 + 0.08);  // above 500
        batch = withReading(batch, {4, column}, 0.06 + 2.5);   // beyond the curve, low side
        batch = withReading(batch, {5, column}, 0.06 + 0.01);  // beyond the curve, high side
    }
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const std::array<ResultStatus, 4> wanted{ResultStatus::BelowRange, ResultStatus::AboveRange,
                                             ResultStatus::BelowCurve, ResultStatus::AboveCurve};
    for (int i = 0; i < 4; ++i) {
        const SampleResult* result = evaluation.result({Role::Unknown, i + 1});
        EXPECT_EQ(result->status, wanted[static_cast<std::size_t>(i)]) << i;
        EXPECT_FALSE(result->result || result->low || result->high);
    }
    EXPECT_EQ(resultText(*evaluation.result({Role::Unknown, 1}), evaluation.range), "< LLOQ (3.43)"); // 0.686 × 5
    EXPECT_EQ(resultText(*evaluation.result({Role::Unknown, 2}), evaluation.range), "> ULOQ (2500)");
    EXPECT_EQ(statusWord(*evaluation.result({Role::Unknown, 4})), "Above");
}

TEST(Evaluate, AFailingLevelNarrowsTheRange) {
    Batch batch = sampleDocument().batch();
    for (int column = 0; column < 2; ++column) {
        batch = withReading(batch, {6, column}, 0.06 + 2.29); // S7 reads far too low
    }
    batch.method.analyte().fit.weighting = Weighting::InverseY2;
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const auto lowest =
        std::find_if(evaluation.levels.begin(), evaluation.levels.end(), [](const auto& l) { return l.number == 7; });
    EXPECT_FALSE(lowest->isWithin);
    EXPECT_NEAR(*evaluation.range.lloq, 500 / std::pow(3.0, 5), 1e-9);
    EXPECT_EQ(criterion(evaluation, "levels-within").foundText, "12 of 14, 6 of 7 levels");
    EXPECT_EQ(criterion(evaluation, "levels-within").outcome, Outcome::Pass); // 12 of 14 is above 75 %
    EXPECT_EQ(criterion(evaluation, "worst-level").outcome, Outcome::Review);
    EXPECT_EQ(criterion(evaluation, "worst-level").places, (std::vector<Place>{{6, 0}, {6, 1}}));
}

TEST(Criteria, AQcThatIsNotFoundAgainFailsTheBatch) {
    Batch batch = sampleDocument().batch();
    batch.qcs[2].nominal = 120; // it reads 80
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    EXPECT_EQ(criterion(evaluation, "qc-2").outcome, Outcome::Review);    // its mean; the replicates decide
    EXPECT_EQ(criterion(evaluation, "qc-within").outcome, Outcome::Fail); // half of all, none of QC hi
    EXPECT_EQ(criterion(evaluation, "qc-within").foundText, "2 of 4");
    EXPECT_EQ(criterion(evaluation, "qc-1").outcome, Outcome::Pass);
    EXPECT_EQ(evaluation.verdict, Outcome::Fail);
    batch.method.limits.qcRecovery = 40;
    EXPECT_EQ(evaluateAnalyte(batch).verdict, Outcome::Pass);
}

TEST(Criteria, AReplicateCvAboveItsLimitAsksForReview) {
    const Batch batch = withReading(sampleDocument().batch(), {4, 2}, 0.06 + 1.6); // U03, far from its twin
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    EXPECT_EQ(criterion(evaluation, "unknown-cv").outcome, Outcome::Review);
    EXPECT_EQ(criterion(evaluation, "unknown-cv").where, "U03 three");
    EXPECT_TRUE(evaluation.result({Role::Unknown, 3})->needsReview);
    EXPECT_EQ(statusWord(*evaluation.result({Role::Unknown, 3})), "Review");
    EXPECT_EQ(evaluation.verdict, Outcome::Review);
}

TEST(Criteria, NoCurveIsAFailureNotASilence) {
    Batch batch = sampleDocument().batch();
    for (int level = 4; level <= 7; ++level) {
        batch.levels[level].concentration.reset();
    }
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    EXPECT_EQ(evaluation.fit.status, FitStatus::NotEnoughData);
    EXPECT_EQ(criterion(evaluation, "r-squared").outcome, Outcome::Fail);
    EXPECT_EQ(evaluation.verdict, Outcome::Fail);
    EXPECT_EQ(evaluation.result({Role::Unknown, 1})->status, ResultStatus::NotDefined);
    EXPECT_FALSE(evaluation.result({Role::Unknown, 1})->result);
    EXPECT_EQ(evaluation.result({Role::Unknown, 1})->remark, "There is no curve to read it off.");
}

TEST(Criteria, WithoutStandardsThereIsNoVerdict) {
    Batch batch = sampleDocument().batch();
    std::erase_if(batch.places, [](const auto& entry) { return entry.second.role == Role::Standard; });
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    EXPECT_EQ(criterion(evaluation, "replicates").outcome, Outcome::Pass);
    EXPECT_EQ(evaluation.verdict, Outcome::NotApplicable); // not "accepted"
}

TEST(Working, ListsEachStepFromTheReadingToTheResult) {
    const Document document = sampleDocument();
    const AnalyteEvaluation evaluation = evaluateAnalyte(document.batch());
    const Working working = workingOf(document.batch(), evaluation, Assignment{Role::Unknown, 3});
    EXPECT_EQ(working.title, "U03");
    EXPECT_EQ(working.subtitle, "three · wells E3 and E4");
    std::string all;
    for (const WorkingStep& step : working.steps) {
        all += step.title + ": ";
        for (const std::string& line : step.lines) {
            all += line + "; ";
        }
    }
    for (const char* part : {"Blank, mean of H1 and H2", "\u2212 0.06000", "x = c·((a \u2212 y)/(y \u2212 d))^(1/b)",
                             "Mean response 1.321, read off", "16.00", "95 % interval", "Dilution × 5", "80.00"}) {
        EXPECT_NE(all.find(part), std::string::npos) << part << " in " << all;
    }
    EXPECT_FALSE(working.checks.empty());
}

TEST(Working, OfAWellBeginsInTheFile) {
    Batch batch = withReading(sampleDocument().batch(), {4, 3}, std::nullopt, "OVER");
    const Working working = workingOf(batch, evaluateAnalyte(batch), Place{4, 3});
    EXPECT_EQ(working.steps.front().title, "In sample.csv, line 6, cell 5");
    EXPECT_EQ(working.steps.front().lines.front(), "\"OVER\"");
    EXPECT_NE(working.steps[1].lines[1].find("unusable"), std::string::npos);
    const Working empty = workingOf(batch, evaluateAnalyte(batch), Place{0, 11});
    EXPECT_EQ(empty.subtitle, "empty");
}

TEST(Working, OfAStandardShowsItsWeightAndItsError) {
    const Batch batch = excluded(
        withMethod(sampleDocument().batch(), [](Method& m) { m.analyte().fit.weighting = Weighting::InverseY2; }),
        {2, 1});
    const Working working = workingOf(batch, evaluateAnalyte(batch), Assignment{Role::Standard, 3});
    std::string all;
    for (const WorkingStep& step : working.steps) {
        all += step.title + "; ";
        for (const std::string& line : step.lines) {
            all += line + "; ";
        }
    }
    for (const char* part :
         {"C2  ", "excluded: test", "Weight in the fit (mean 1), 1/y²", "not in the fit", "within ±20 %"}) {
        EXPECT_NE(all.find(part), std::string::npos) << part << " in " << all;
    }
}

TEST(CurveShape, KeepsToTheAxisTheMethodAsksFor) {
    const Batch batch = sampleDocument().batch();
    const CurveShape logarithmic = curveShape(batch, evaluateAnalyte(batch), 50);
    EXPECT_TRUE(logarithmic.isLogarithmic);
    EXPECT_EQ(logarithmic.x.size(), 50u);
    EXPECT_GT(logarithmic.xLow, 0);
    EXPECT_FALSE(logarithmic.zeroX);
    for (std::size_t i = 0; i < 50; ++i) {
        EXPECT_LE(logarithmic.low[i], logarithmic.y[i]);
        EXPECT_GE(logarithmic.high[i], logarithmic.y[i]);
    }
    const Batch linear = withMethod(batch, [](Method& m) { m.analyte().isConcentrationLogarithmic = false; });
    EXPECT_FALSE(curveShape(linear, evaluateAnalyte(linear), 50).isLogarithmic);
    Batch zero = batch;
    zero.levels[7].concentration = 0;
    const CurveShape withZero = curveShape(zero, evaluateAnalyte(zero), 50);
    ASSERT_TRUE(withZero.zeroX); // a zero standard has a place of its own on a logarithmic axis
    EXPECT_EQ(withZero.drawn(0), *withZero.zeroX);
}

TEST(Ticks, AreRound) {
    EXPECT_EQ(roundTicks(0, 2.5, 5), (std::vector<double>{0, 0.5, 1, 1.5, 2, 2.5}));
    EXPECT_EQ(logTicks(0.3, 500), (std::vector<double>{1, 10, 100}));
    EXPECT_EQ(logTicks(2, 60).size(), 5u); // 2 5 10 20 50
    EXPECT_TRUE(logTicks(0, 10).empty());
    EXPECT_TRUE(roundTicks(3, 3, 5).empty());
}

} // namespace
} // namespace nuvat
