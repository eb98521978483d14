// Rules for replicates, ranges, extrapolation, criteria of one's own, overrides, several analytes.
#include "nuvat/batch/command.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/stats/best_subset.h"
#include "nuvat/core/stats/descriptive.h"
#include "replicate_rules.h"
#include "support/every_command.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <random>

namespace nuvat {
namespace {

using test::placesOf;
using test::sampleDocument;

Batch withValue(Batch batch, Place place, double value) {
    test::setValue(batch, place, value);
    return batch;
}

const CriterionResult& found(const std::vector<CriterionResult>& criteria, const std::string& key) {
    const auto it = std::find_if(criteria.begin(), criteria.end(), [&](const auto& c) { return c.key == key; });
    if (it == criteria.end()) {
        throw std::runtime_error("no criterion " + key);
    }
    return *it;
}

/// The slow, obvious search over all subsets.
double leastSd(const std::vector<double>& values, std::size_t n) {
    double least = 1e300;
    for (unsigned mask = 0; mask < 1u << values.size(); ++mask) {
        std::vector<double> subset;
        for (std::size_t i = 0; i < values.size(); ++i) {
            if ((mask >> i & 1u) != 0) {
                subset.push_back(values[i]);
            }
        }
        if (subset.size() == n) {
            least = std::min(least, *describe(subset).sd);
        }
    }
    return least;
}

TEST(BestSubset, HasTheSmallestSdOfAllSubsets) {
    std::mt19937 random(20261125);
    std::normal_distribution<double> normal(1, 0.1);
    for (int round = 0; round < 200; ++round) {
        std::vector<double> values(3 + random() % 6);
        std::generate(values.begin(), values.end(), [&] { return normal(random); });
        const std::size_t n = 2 + random() % (values.size() - 2);
        std::vector<double> chosen;
        for (const std::size_t i : bestSubset(values, n)) {
            chosen.push_back(values[i]);
        }
        ASSERT_EQ(chosen.size(), n);
        EXPECT_NEAR(*describe(chosen).sd, leastSd(values, n), 1e-12);
    }
}

TEST(BestSubset, TakesTheEarliestPlacesOfATie) {
    EXPECT_EQ(bestSubset(std::vector<double>{0.3, 0.2, 0.1}, 2), (std::vector<std::size_t>{0, 1}));
    EXPECT_EQ(bestSubset(std::vector<double>{0.1, 0.2, 0.3}, 2), (std::vector<std::size_t>{0, 1}));
    EXPECT_EQ(bestSubset(std::vector<double>{5, 5, 5, 5}, 3), (std::vector<std::size_t>{0, 1, 2}));
}

/// The sample batch with a third replicate of U01, far off.
Batch withThirdReplicate() {
    Document document = sampleDocument();
    Batch batch = document.batch();
    batch.places[{2, 4}] = {Role::Unknown, 1};
    const double good = test::valueAt(batch, {2, 2});
    test::editWell(batch, {2, 4}, [good](ReadingWell& well) { well = {good + 0.4, "2", 4, 6}; });
    return withValue(batch, {2, 3}, good + 0.001);
}

TEST(ReplicateRules, SetAsideVisiblyAndOnlyWhenAsked) {
    Batch batch = withThirdReplicate();
    EXPECT_EQ(evaluateAnalyte(batch).result({Role::Unknown, 1})->response.n, 3u);
    batch.method.replicates.keepBest = 2;
    const AnalyteEvaluation best = evaluateAnalyte(batch);
    EXPECT_EQ(best.result({Role::Unknown, 1})->response.n, 2u);
    EXPECT_EQ(best.at({2, 4}).state, ResponseState::SetAside);
    EXPECT_EQ(best.at({2, 4}).why, "Set aside: the best 2 of 3 replicates are kept.");
    EXPECT_TRUE(best.at({2, 4}).value); // it keeps its value
    const Working working = workingOf(batch, best, Assignment{Role::Unknown, 1});
    EXPECT_NE(working.steps[0].lines[2].find("Set aside"), std::string::npos);
    batch.method.replicates = {0, OutlierTest::Dixon, 0.05};
    const AnalyteEvaluation tested = evaluateAnalyte(batch);
    EXPECT_EQ(tested.at({2, 4}).state, ResponseState::SetAside);
    EXPECT_NE(tested.at({2, 4}).why.find("Dixon"), std::string::npos);
    batch.method.replicates = {0, OutlierTest::Grubbs, 0.05};
    EXPECT_EQ(evaluateAnalyte(batch).at({2, 4}).state, ResponseState::SetAside);
    batch.method.replicates.alpha = 1e-9; // too strict for three values
    EXPECT_EQ(evaluateAnalyte(batch).at({2, 4}).state, ResponseState::Used);
}

TEST(Range, ByHandAndByPrecision) {
    Batch batch = sampleDocument().batch();
    batch.method.analyte().range = {RangeBy::Hand, 20, 10.0, 30.0, 1};
    AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    EXPECT_EQ(evaluation.range.lloq, 10.0);
    EXPECT_EQ(evaluation.result({Role::Unknown, 2})->status, ResultStatus::BelowRange); // 9
    EXPECT_EQ(evaluation.result({Role::Unknown, 3})->status, ResultStatus::Reported);   // 16
    EXPECT_EQ(evaluation.result({Role::Unknown, 5})->status, ResultStatus::AboveRange); // 36
    batch.method.analyte().range.uloq.reset();
    EXPECT_FALSE(evaluateAnalyte(batch).problems.empty());
    batch = withValue(sampleDocument().batch(), {3, 0}, 1.0); // some scatter
    batch.method.analyte().range = {RangeBy::Precision, 20, std::nullopt, std::nullopt, 1};
    evaluation = evaluateAnalyte(batch);
    ASSERT_TRUE(evaluation.range.lloq);
    const ReadOff at =
        readOff(evaluation.fit, response(evaluation.fit, *evaluation.range.lloq), readOffOptions(batch, evaluation));
    EXPECT_LE(*at.se / *at.x, 0.2 + 1e-9);
}

TEST(Range, ExtrapolationIsGivenAndMarked) {
    Batch batch = sampleDocument().batch();
    batch.method.analyte().range = {RangeBy::Hand, 20, 10.0, 30.0, 1.3};
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const SampleResult& above = *evaluation.result({Role::Unknown, 5}); // 36 is below 1.3 * 30
    EXPECT_EQ(above.status, ResultStatus::Extrapolated);
    EXPECT_NEAR(*above.result, 36 * 5, 1e-6);
    EXPECT_EQ(statusWord(above), "Extrapolated");
    EXPECT_FALSE(above.remark.empty());
    EXPECT_EQ(evaluation.result({Role::Unknown, 6})->status, ResultStatus::AboveRange);   // 300
    EXPECT_EQ(evaluation.result({Role::Unknown, 2})->status, ResultStatus::Extrapolated); // 9 is above 10 / 1.3
    batch.method.analyte().fit.model = Model::PointToPoint;                               // never extrapolates
    EXPECT_EQ(evaluateAnalyte(batch).result({Role::Unknown, 5})->status, ResultStatus::AboveRange);
}

TEST(EveryModelAndInterval, EvaluatesAndTellsItsWorking) {
    Batch batch = withValue(sampleDocument().batch(), {3, 0}, 1.0);
    for (const Model model :
         {Model::Line, Model::LineThroughOrigin, Model::LineFixedPoint, Model::Quadratic, Model::Cubic, Model::LogLog,
          Model::PointToPoint, Model::Spline, Model::Logistic4, Model::Logistic5}) {
        for (const IntervalMethod interval :
             {IntervalMethod::Propagation, IntervalMethod::LogPropagation, IntervalMethod::Fieller,
              IntervalMethod::Inversion, IntervalMethod::Profile, IntervalMethod::Bootstrap}) {
            SCOPED_TRACE(std::string(name(model)) + " " + std::string(name(interval)));
            batch.method.analyte().fit.model = model;
            batch.method.analyte().interval = interval;
            batch.method.analyte().range = {RangeBy::Hand, 20, 1.0, 600.0, 1};
            const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
            for (const SampleResult& result : evaluation.results) {
                EXPECT_FALSE(resultText(result, evaluation.range).empty());
                EXPECT_FALSE(workingOf(batch, evaluation, result.group).steps.empty());
            }
            for (const int level : PlaceIndex(batch).numbersOf(Role::Standard)) {
                EXPECT_FALSE(workingOf(batch, evaluation, Assignment{Role::Standard, level}).steps.empty());
            }
        }
    }
}

TEST(Interpolations, GiveEveryLevelBackAndHaveNoR2ToFail) {
    // Scatter at the end level: one of its replicates lies beyond the curve.
    Batch batch = withValue(sampleDocument().batch(), {0, 0}, 0.06 + 0.1);
    for (const Model model : {Model::PointToPoint, Model::Spline}) {
        batch.method.analyte().fit.model = model;
        batch.method.analyte().fit.weighting = Weighting::InverseY2; // the curve runs through plain means all the same
        const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
        ASSERT_TRUE(evaluation.fit.isUsable()) << evaluation.fit.message;
        EXPECT_EQ(found(evaluation.criteria, "levels-within").foundText, "14 of 14, 7 of 7 levels");
        EXPECT_EQ(found(evaluation.criteria, "r-squared").outcome, Outcome::NotApplicable);
        EXPECT_EQ(evaluation.range.uloq, 500.0);
    }
    EXPECT_TRUE(evaluateAnalyte(batch).fit.options.isSplineInLogX); // the axis is logarithmic
    batch.method.analyte().isConcentrationLogarithmic = false;
    EXPECT_FALSE(evaluateAnalyte(batch).fit.options.isSplineInLogX);
}

TEST(Averages, OfResponsesIsReadOffOnce) {
    Batch batch = sampleDocument().batch();
    const double y = test::valueAt(batch, {3, 2});
    batch = withValue(batch, {3, 3}, y - 0.2);
    batch.method.analyte().average = AverageOf::Concentrations;
    const double ofConcentrations = *evaluateAnalyte(batch).result({Role::Unknown, 2})->readOff.x;
    batch.method.analyte().average = AverageOf::Responses;
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const SampleResult& sample = *evaluation.result({Role::Unknown, 2});
    EXPECT_NEAR(*sample.readOff.x, *readOff(evaluation.fit, *sample.response.mean).x, 1e-12);
    EXPECT_NE(*sample.readOff.x, ofConcentrations);
}

TEST(DilutionUncertainty, WidensTheIntervalAsAProductDoes) {
    Batch batch = withValue(sampleDocument().batch(), {3, 0}, 1.0);
    const SampleResult plain = *evaluateAnalyte(batch).result({Role::Unknown, 3});
    batch.method.dilutionRelativeSe = 0.05;
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const SampleResult wide = *evaluation.result({Role::Unknown, 3});
    const double t = readOffOptions(batch, evaluation).factor;
    const double half = *plain.high - *plain.result;
    const double share = t * 0.05 * *plain.result;
    EXPECT_NEAR(*wide.high - *wide.result, std::sqrt(half * half + share * share), 1e-9 * half); // GUM 5.1.2
    EXPECT_EQ(*wide.result, *plain.result);
}

TEST(ShippedCriteria, AreThoseOfTheirGuidelines) {
    // ICH M10 (2022), sections 3.2.5.2, 3.3.2, 4.2.4.2, 4.3.2.
    const auto& sets = shippedCriteria();
    ASSERT_EQ(sets.size(), 3u);
    EXPECT_EQ(sets[0].name, "Chromatographic, ICH M10");
    EXPECT_EQ(sets[0].limits.backCalculated, 15);
    EXPECT_EQ(sets[0].limits.backCalculatedAtLowest, 20);
    EXPECT_EQ(sets[0].limits.backCalculatedAtHighest, 15);
    EXPECT_EQ(sets[0].limits.levelsWithin, 75);
    EXPECT_EQ(sets[0].limits.levelsAtLeast, 6);
    EXPECT_EQ(sets[0].limits.qcRecovery, 15);
    EXPECT_NEAR(*sets[0].limits.qcWithin, 66.667, 1e-3);
    EXPECT_EQ(sets[0].limits.qcWithinAtLevel, 50);
    EXPECT_EQ(sets[1].limits, CriteriaLimits{}); // ligand binding is what a new method has
    EXPECT_EQ(sets[1].limits.backCalculatedAtHighest, 25);
    EXPECT_EQ(sets[2].limits.r, 0.995); // common practice
    EXPECT_FALSE(sets[2].limits.backCalculated);
}

TEST(ShippedCriteria, OfTheLineJudgeCorrelationAndBlank) {
    Batch batch = sampleDocument().batch();
    batch.method.limits = shippedCriteria()[2].limits;
    batch.method.analyte().fit.model = Model::Line;
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    EXPECT_EQ(found(evaluation.criteria, "correlation").outcome, Outcome::Fail); // a 4PL is no line
    EXPECT_EQ(evaluation.verdict, Outcome::Fail);
    EXPECT_TRUE(std::none_of(evaluation.criteria.begin(), evaluation.criteria.end(),
                             [](const auto& c) { return c.key == "levels-within" || c.key == "r-squared"; }));
    batch.method.analyte().fit.model = Model::Logistic4;
    // On a falling curve a blank without response reads as the highest concentration.
    EXPECT_EQ(found(evaluateAnalyte(batch).criteria, "blank-below-lloq").outcome, Outcome::NotApplicable);
}

TEST(OwnCriteria, AreEvaluatedInTheirScope) {
    Batch batch = sampleDocument().batch();
    const auto judge = [&](CriterionScope scope, const std::string& quantity, Comparison comparison, double limit,
                           bool asksForReview) {
        batch.method.criteria = {{"mine", scope, quantity, comparison, limit, asksForReview}};
        const Evaluation evaluation = evaluate(batch);
        return std::pair(
            found(scope == CriterionScope::Batch ? evaluation.criteria : evaluation.analyte().criteria, "own-1"),
            evaluation);
    };
    auto [r2, whole] = judge(CriterionScope::Analyte, "1 - r2", Comparison::AtMost, 1e-6, false);
    EXPECT_EQ(r2.outcome, Outcome::Pass);
    auto [level, ofLevel] = judge(CriterionScope::Level, "x", Comparison::AtLeast, 1, false);
    EXPECT_EQ(level.outcome, Outcome::Fail);
    EXPECT_EQ(level.where, "S7 0.6859"); // 500/3^6
    EXPECT_EQ(level.places, (std::vector<Place>{{6, 0}, {6, 1}}));
    EXPECT_EQ(ofLevel.verdict, Outcome::Fail);
    auto [sample, ofSample] = judge(CriterionScope::Sample, "result/dilution", Comparison::AtMost, 20, true);
    EXPECT_EQ(sample.outcome, Outcome::Review);
    EXPECT_TRUE(ofSample.analyte().result({Role::Unknown, 4})->needsReview); // 25
    EXPECT_FALSE(ofSample.analyte().result({Role::Unknown, 3})->needsReview);
    auto [qc, ofQc] = judge(CriterionScope::Qc, "abs(recovery - 100)", Comparison::AtMost, 5, false);
    EXPECT_EQ(qc.outcome, Outcome::Pass);
    auto [all, ofBatch] = judge(CriterionScope::Batch, "reported/samples", Comparison::AtLeast, 1.5, true);
    EXPECT_EQ(all.outcome, Outcome::Review);
    EXPECT_EQ(all.foundText, "1.000"); // all six are reported
    EXPECT_EQ(ofBatch.verdict, Outcome::Review);
    auto [undefined, ofUndefined] = judge(CriterionScope::Analyte, "blank_sd/0", Comparison::AtMost, 1, false);
    EXPECT_EQ(undefined.outcome, Outcome::NotApplicable);
}

TEST(OwnCriteria, ThatCannotBeReadAreRefused) {
    const Batch batch = sampleDocument().batch();
    Method method = batch.method;
    method.criteria = {{"mine", CriterionScope::Level, "abs(eror)", Comparison::AtMost, 1, false}};
    const auto refused = setMethod(batch, method);
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().code, "criterion.formula");
    EXPECT_NE(refused.error().message.find("character 5"), std::string::npos) << refused.error().message;
    method.criteria.front().title.clear();
    EXPECT_EQ(setMethod(batch, method).error().code, "criterion.title");
    method.criteria.clear();
    method.analyte().range.extrapolation = 0.5;
    EXPECT_EQ(setMethod(batch, method).error().code, "method.range");
    method.analytes.clear();
    EXPECT_EQ(setMethod(batch, method).error().code, "method.no-analyte");
}

TEST(Overrides, NeedAReasonAndLetTheVerdictPass) {
    Document document = sampleDocument();
    Batch failing = document.batch();
    failing.qcs[2].nominal = 120;
    ASSERT_TRUE(document.apply(setQc(document.batch(), 2, {"QC hi", 120})));
    AnalyteEvaluation evaluation = evaluateAnalyte(document.batch());
    EXPECT_EQ(evaluation.verdict, Outcome::Fail);
    const CriterionResult within = found(evaluation.criteria, "qc-within");
    EXPECT_EQ(overrideCriterion(document.batch(), 1, within, "  ", 5).error().code, "override.reason");
    ASSERT_TRUE(document.apply(overrideCriterion(document.batch(), 1, within, "wrong lot typed", 5)));
    EXPECT_EQ(document.history().back().reason, "wrong lot typed");
    evaluation = evaluateAnalyte(document.batch());
    EXPECT_EQ(found(evaluation.criteria, "qc-within").outcome, Outcome::Fail); // what was found stays
    EXPECT_EQ(found(evaluation.criteria, "qc-within").overrideReason, "wrong lot typed");
    EXPECT_EQ(evaluation.verdict, Outcome::Review); // the mean of QC hi still asks for a look
    EXPECT_EQ(evaluation.countCriteria(Outcome::Fail), 0u);
    ASSERT_TRUE(document.apply(withdrawOverride(document.batch(), 1, within)));
    EXPECT_EQ(evaluateAnalyte(document.batch()).verdict, Outcome::Fail);
    ASSERT_TRUE(document.undo());
    EXPECT_EQ(evaluateAnalyte(document.batch()).verdict, Outcome::Review);
}

/// The sample batch with a second analyte: other concentrations, other model, another reading.
Batch twoAnalytes() {
    Document document = sampleDocument();
    Reading second = *document.batch().firstReading(1);
    second.slot.channel = "second";
    test::editGrid(second, [](Grid& grid) {
        for (ReadingWell& well : grid.wells) {
            if (well.value) {
                well.value = *well.value / 2;
            }
        }
    });
    EXPECT_TRUE(document.apply(addReading(document.batch(), second)));
    EXPECT_TRUE(document.apply(useReading(document.batch(), 1)));
    Method method = document.batch().method;
    Analyte other = method.analyte();
    other.name = "Ochratoxin A";
    other.unit = "ng/mL";
    other.source.rule = ValueRule{"second"};
    method.analytes.push_back(other);
    EXPECT_TRUE(document.apply(setMethod(document.batch(), method)));
    EXPECT_TRUE(document.apply(setSeries(document.batch(), {50, true, 3, 7}, 2)));
    EXPECT_TRUE(document.apply(setQc(document.batch(), 1, {"", 1.2}, 2)));
    EXPECT_TRUE(document.apply(setQc(document.batch(), 2, {"", 8}, 2)));
    return document.batch();
}

TEST(SeveralAnalytes, HaveEachTheirOwnCurve) {
    const Batch batch = twoAnalytes();
    const Evaluation evaluation = evaluate(batch);
    ASSERT_EQ(evaluation.analytes.size(), 2u);
    const AnalyteEvaluation& first = evaluation.analyte(1);
    const AnalyteEvaluation& second = evaluation.analyte(2);
    EXPECT_NEAR(second.fit.parameter("c") / first.fit.parameter("c"), 0.1, 1e-7);
    EXPECT_NEAR(second.fit.parameter("a") / first.fit.parameter("a"), 0.5, 1e-7);
    EXPECT_NEAR(*second.result({Role::Unknown, 3})->result, 16 * 5 / 10.0, 1e-6);
    EXPECT_EQ(second.result({Role::Qc, 1})->nominal, 1.2);
    EXPECT_EQ(evaluation.verdict, Outcome::Pass);
    Batch failing = batch;
    failing.qcs[{2, 2}].nominal = 20;
    EXPECT_EQ(evaluate(failing).analyte(1).verdict, Outcome::Pass);
    EXPECT_EQ(evaluate(failing).verdict, Outcome::Fail); // one analyte is enough
}

/// Whether two evaluations have the same digits, bit for bit, where it counts.
void expectSame(const Evaluation& a, const Evaluation& b) {
    ASSERT_EQ(a.analytes.size(), b.analytes.size());
    EXPECT_EQ(a.verdict, b.verdict);
    for (std::size_t i = 0; i < a.analytes.size(); ++i) {
        const AnalyteEvaluation& l = a.analytes[i];
        const AnalyteEvaluation& r = b.analytes[i];
        EXPECT_EQ(l.verdict, r.verdict);
        EXPECT_EQ(l.responses, r.responses);
        EXPECT_EQ(l.fit.parameters, r.fit.parameters);
        EXPECT_EQ(l.fit.covariance, r.fit.covariance);
        EXPECT_EQ(l.fit.sse, r.fit.sse);
        EXPECT_EQ(l.range.lloq, r.range.lloq);
        EXPECT_EQ(l.range.uloq, r.range.uloq);
        ASSERT_EQ(l.results.size(), r.results.size());
        for (std::size_t k = 0; k < l.results.size(); ++k) {
            EXPECT_EQ(l.results[k].result, r.results[k].result);
            EXPECT_EQ(l.results[k].readOff.se, r.results[k].readOff.se);
            EXPECT_EQ(l.results[k].low, r.results[k].low);
            EXPECT_EQ(l.results[k].high, r.results[k].high);
            EXPECT_EQ(l.results[k].status, r.results[k].status);
            EXPECT_EQ(l.results[k].remark, r.results[k].remark);
            EXPECT_EQ(l.results[k].needsReview, r.results[k].needsReview);
        }
        ASSERT_EQ(l.criteria.size(), r.criteria.size());
        for (std::size_t k = 0; k < l.criteria.size(); ++k) {
            EXPECT_EQ(l.criteria[k].outcome, r.criteria[k].outcome);
            EXPECT_EQ(l.criteria[k].used, r.criteria[k].used);
            EXPECT_EQ(l.criteria[k].where, r.criteria[k].where);
            EXPECT_EQ(l.criteria[k].overrideReason, r.criteria[k].overrideReason);
        }
    }
}

// An edit computes what depends on it and nothing else, with the digits of an evaluation from nothing.
TEST(Evaluator, ComputesOnlyWhatAnEditTouches) {
    Document document(DocumentState{.batch = twoAnalytes()});
    Evaluator evaluator;
    const auto after = [&](Result<Command> command) {
        EXPECT_TRUE(document.apply(std::move(command)));
        expectSame(*evaluator.evaluate(document.batch()), evaluate(document.batch()));
        return evaluator.work();
    };
    expectSame(*evaluator.evaluate(document.batch()), evaluate(document.batch()));
    EXPECT_EQ(evaluator.work().fits, 2u);
    EXPECT_EQ(evaluator.work().samples, 16u);
    Evaluator::WorkCounts work = after(setTitle(document.batch(), "Another name"));
    EXPECT_EQ(work.fits + work.samples, 0u);
    work = after(setSample(document.batch(), 3, {"three", 10, ""}));
    EXPECT_EQ(work.fits, 0u);
    EXPECT_EQ(work.samples, 2u); // of both analytes
    work = after(excludePlaces(document.batch(), {{2, 2}}, "bubble", 1));
    EXPECT_EQ(work.fits, 0u);
    EXPECT_EQ(work.samples, 2u);
    work = after(excludePlaces(document.batch(), {{2, 0}}, "bubble", 1)); // a standard of both
    EXPECT_EQ(work.fits, 2u);
    EXPECT_EQ(work.samples, 16u);
    Method method = document.batch().method;
    method.analyte(2).fit.weighting = Weighting::InverseY;
    work = after(setMethod(document.batch(), method));
    EXPECT_EQ(work.fits, 1u);
    EXPECT_EQ(work.samples, 8u);
    work = after(setLevel(document.batch(), 3, 5.5, 2));
    EXPECT_EQ(work.fits, 1u);
    method = document.batch().method;
    method.analyte(1).interval = IntervalMethod::Bootstrap;
    work = after(setMethod(document.batch(), method));
    EXPECT_EQ(work.fits, 0u);
    EXPECT_EQ(work.samples, 8u);
    while (document.canUndo()) {
        ASSERT_TRUE(document.undo());
        expectSame(*evaluator.evaluate(document.batch()), evaluate(document.batch()));
    }
}

// What an analyte alone depends on is looked at for each of them: an edit of one leaves the other as it was, and what
// all share is seen by all.
TEST(Evaluator, SeesEveryChangeThatAnAnalyteDependsOn) {
    Document document(DocumentState{.batch = twoAnalytes()});
    Evaluator evaluator;
    (void)evaluator.evaluate(document.batch());
    for (int variant = 0; variant < 3; ++variant) {
        for (const test::KindOfCommand& kind : test::everyCommand(variant)) {
            ASSERT_TRUE(document.apply(kind.make(document.batch()))) << kind.name;
            expectSame(*evaluator.evaluate(document.batch()), evaluate(document.batch()));
            ASSERT_FALSE(HasFailure()) << kind.name;
        }
    }
    Method method = document.batch().method;
    method.limits.levelsAtLeast = 50; // which cannot be met
    ASSERT_TRUE(document.apply(setMethod(document.batch(), method)));
    const auto failing = evaluator.evaluate(document.batch());
    const CriterionResult& levels = found(failing->analyte().criteria, "levels-within");
    ASSERT_EQ(levels.outcome, Outcome::Fail);
    ASSERT_TRUE(document.apply(overrideCriterion(document.batch(), 1, levels, "agreed", 1)));
    expectSame(*evaluator.evaluate(document.batch()), evaluate(document.batch()));
}

// Many random edits, one after the other: incremental equals full, bit for bit.
TEST(Evaluator, AgreesWithFullEvaluationThroughRandomEdits) {
    std::mt19937 random(7);
    Document document(DocumentState{.batch = twoAnalytes()});
    Evaluator evaluator;
    for (int step = 0; step < 150; ++step) {
        const Place place{static_cast<int>(random() % 8), static_cast<int>(random() % 4)};
        Method method = document.batch().method;
        switch (random() % 6) {
        case 0:
            EXPECT_TRUE(document.apply(excludePlaces(document.batch(), {place}, "test", 1)));
            break;
        case 1:
            EXPECT_TRUE(document.apply(restorePlaces(document.batch(), {place})));
            break;
        case 2:
            method.analyte(1 + static_cast<int>(random() % 2)).fit.weighting = static_cast<Weighting>(random() % 6);
            EXPECT_TRUE(document.apply(setMethod(document.batch(), method)));
            break;
        case 3:
            method.analyte(1 + static_cast<int>(random() % 2)).fit.model = static_cast<Model>(random() % 10);
            EXPECT_TRUE(document.apply(setMethod(document.batch(), method)));
            break;
        case 4:
            method.subtractsBlank = !method.subtractsBlank;
            EXPECT_TRUE(document.apply(setMethod(document.batch(), method)));
            break;
        default:
            EXPECT_TRUE(document.undo());
        }
        expectSame(*evaluator.evaluate(document.batch()), evaluate(document.batch()));
        if (HasFailure()) {
            FAIL() << "at step " << step;
        }
    }
}

// ICH M10, 3.3.2: at least two thirds of all QCs and at least half at each level.
TEST(QcWithin, AsksForHalfAtEachLevel) {
    Batch batch = sampleDocument().batch();
    const double good = test::valueAt(batch, {0, 2}); // QC 1
    for (const Place place : {Place{2, 2}, Place{2, 3}, Place{3, 2}, Place{3, 3}}) {
        batch.places[place] = {Role::Qc, 1};
        batch = withValue(batch, place, good);
    }
    batch = withValue(withValue(batch, {1, 2}, good), {1, 3}, good); // QC 2, nominal 80, reads as QC 1
    batch.method.limits.qcWithin = 66.7;
    batch.method.limits.qcWithinAtLevel = 50; // 6 of 8 in all, 0 of 2 at the level
    EXPECT_EQ(found(evaluateAnalyte(batch).criteria, "qc-within").outcome, Outcome::Fail);
    batch.method.limits.qcWithinAtLevel = 0;
    EXPECT_EQ(found(evaluateAnalyte(batch).criteria, "qc-within").outcome, Outcome::Pass);
}

TEST(LevelLimits, AreThoseOfTheirEnd) {
    Batch batch = sampleDocument().batch();
    batch.method.limits.backCalculated = 15;
    batch.method.limits.backCalculatedAtLowest = 40;
    batch.method.limits.backCalculatedAtHighest = 7;
    const auto levels = evaluateAnalyte(batch).levels; // S1 is the highest, S7 the lowest
    ASSERT_EQ(levels.size(), 7u);
    EXPECT_EQ(levels.front().limitPercent, 7);
    EXPECT_EQ(levels[3].limitPercent, 15);
    EXPECT_EQ(levels.back().limitPercent, 40);
}

TEST(PooledCv, LeavesTheBlanksOut) {
    Batch batch = sampleDocument().batch();
    const double blank = test::valueAt(batch, {7, 0});
    batch = withValue(batch, {0, 0}, test::valueAt(batch, {0, 0}) * 1.05); // so that there is a CV
    const auto before = evaluateAnalyte(batch).pooledCvPercent;
    ASSERT_TRUE(before.has_value());
    ASSERT_GT(*before, 0);
    batch = withValue(withValue(batch, {7, 0}, blank + 0.02), {7, 1}, blank - 0.02); // the same mean
    EXPECT_NEAR(*evaluateAnalyte(batch).pooledCvPercent, *before, 1e-9 * *before);
}

TEST(Dilution, OfOneIsExact) {
    Batch batch = sampleDocument().batch();
    batch.samples[1].dilution = 1;
    const AnalyteEvaluation without = evaluateAnalyte(batch);
    batch.method.dilutionRelativeSe = 0.1;
    const AnalyteEvaluation with = evaluateAnalyte(batch);
    EXPECT_EQ(with.result({Role::Unknown, 1})->high, without.result({Role::Unknown, 1})->high);
    EXPECT_GT(*with.result({Role::Unknown, 2})->high, *without.result({Role::Unknown, 2})->high); // diluted five times
}

TEST(Levels, ArePastedAndRenumbered) {
    Batch batch = sampleDocument().batch();
    const auto pasted = pasteLevels(batch, 2, "70\r\n\n12,5\n", 1);
    ASSERT_TRUE(pasted) << pasted.error().text();
    applyChanges(batch, *pasted, false);
    EXPECT_EQ(batch.concentration(2), 70);
    EXPECT_EQ(batch.concentration(3), std::nullopt); // an empty line takes it away
    EXPECT_EQ(batch.concentration(4), 12.5);
    EXPECT_EQ(pasteLevels(batch, 7, "1\n2\n", 1).error().code, "layout.levels-too-many");
    EXPECT_EQ(pasteLevels(batch, 1, "level\n", 1).error().code, "layout.levels-number");
    EXPECT_EQ(pasteLevels(batch, 1, " \n", 1).error().code, "layout.levels-empty");
    EXPECT_EQ(pasteLevels(batch, 1, "-3\n", 1).error().code, "layout.concentration");
    EXPECT_FALSE(hasGapsInStandards(batch));
    const Batch before = batch;
    applyChanges(batch, *assignRole(batch, placesOf(batch, {Role::Standard, 3}), Role::Empty, 1, Direction::Across),
                 false);
    ASSERT_TRUE(hasGapsInStandards(batch));
    const auto renumbered = renumberStandards(batch);
    ASSERT_TRUE(renumbered);
    applyChanges(batch, *renumbered, false);
    EXPECT_FALSE(hasGapsInStandards(batch));
    EXPECT_EQ(placesOf(batch, {Role::Standard, 3}), placesOf(before, {Role::Standard, 4}));
    EXPECT_EQ(batch.concentration(3), before.concentration(4));
    EXPECT_EQ(batch.concentration(6), before.concentration(7));
    applyChanges(batch, *renumbered, true);
    EXPECT_EQ(placesOf(batch, {Role::Standard, 4}), placesOf(before, {Role::Standard, 4}));
    EXPECT_EQ(batch.levels, before.levels);
}

} // namespace
} // namespace nuvat
