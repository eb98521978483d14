// Internal standards and qualifiers of a batch: what ratios do to curve, results and criteria. The digits are compared
// with a reference in tests/cli/quantify_test.cpp.
#include "nuvat/batch/document.h"
#include "nuvat/batch/internal_standard.h"
#include "nuvat/batch/other_curves.h"
#include "nuvat/batch/result_table.h"
#include "nuvat/batch/validate.h"
#include "nuvat/batch/working.h"
#include "nuvat/workflow/peak_table.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

/// Runs whose areas are exact: 100 per unit of analyte times what was injected, 1000 for the internal standard; each
/// run injects another share, which the ratio takes away. Qualifier 40 % of the quantifier.
std::vector<PeakRow> exactRows() {
    std::vector<PeakRow> rows;
    const auto add = [&](const std::string& name, Role role, const std::string& level, std::optional<double> nominal,
                         double content, double share) {
        PeakRow row;
        row.line = static_cast<int>(rows.size()) + 2;
        row.injection = std::to_string(rows.size() + 1);
        row.name = name;
        row.role = role;
        row.level = level;
        row.analyte = "caffeine";
        row.internalStandard = "theobromine";
        row.nominal = nominal;
        row.internalConcentration = 10;
        row.area = 100 * content * share;
        row.qualifierArea = 40 * content * share;
        row.internalArea = 1000 * share;
        rows.push_back(row);
    };
    int number = 0;
    for (const double level : {1.0, 2.0, 5.0, 10.0, 20.0}) {
        ++number;
        add("S" + std::to_string(number), Role::Standard, std::to_string(number), level, level, 0.9);
        add("S" + std::to_string(number) + "b", Role::Standard, std::to_string(number), level, level, 1.1);
    }
    add("mid", Role::Qc, "mid", 8, 8, 1.05);
    add("tea", Role::Unknown, "tea", {}, 7, 0.7);
    add("cola", Role::Unknown, "cola", {}, 3, 1.2);
    return rows;
}

PeakTableBatch made(const std::vector<PeakRow>& rows, PeakResponse response = PeakResponse::Ratio) {
    PeakTableRules rules;
    rules.response = response;
    auto out = batchOfPeaks(rows, rules);
    EXPECT_TRUE(out) << out.error().text();
    return *out;
}

const CriterionResult* criterion(const AnalyteEvaluation& evaluation, const std::string& key) {
    const auto found = std::ranges::find(evaluation.criteria, key, &CriterionResult::key);
    return found == evaluation.criteria.end() ? nullptr : &*found;
}

TEST(InternalStandard, TakesAwayWhatWasInjected) {
    const PeakTableBatch ratio = made(exactRows());
    const AnalyteEvaluation evaluation = evaluate(ratio.batch).analyte();
    EXPECT_NEAR(*evaluation.result({Role::Unknown, 1})->result, 7, 1e-9);
    EXPECT_NEAR(*evaluation.result({Role::Unknown, 2})->result, 3, 1e-9);
    EXPECT_NEAR(*evaluation.result({Role::Qc, 1})->recoveryPercent, 100, 1e-9);
    const AnalyteEvaluation area = evaluate(made(exactRows(), PeakResponse::Area).batch).analyte();
    EXPECT_GT(std::abs(*area.result({Role::Unknown, 1})->result - 7), 1) << "without it the injection shows";
    const Response& one = evaluation.at(evaluation.result({Role::Unknown, 1})->replicates.front().place);
    EXPECT_DOUBLE_EQ(*one.own, 100 * 7 * 0.7);
    EXPECT_DOUBLE_EQ(*one.internal, 700);
    EXPECT_DOUBLE_EQ(*one.raw, 0.7);
}

TEST(InternalStandard, OfAnotherConcentrationIsTakenIntoAccount) {
    auto rows = exactRows();
    // Half of the internal standard in a sample, a third more in a standard: its area goes with it.
    PeakRow& sample = *std::ranges::find(rows, "tea", &PeakRow::name);
    sample.internalConcentration = 5;
    sample.internalArea = *sample.internalArea / 2;
    PeakRow& standard = *std::ranges::find(rows, "S4", &PeakRow::name);
    standard.internalConcentration = 13;
    standard.internalArea = *standard.internalArea * 1.3;
    const AnalyteEvaluation evaluation = evaluate(made(rows).batch).analyte();
    EXPECT_NEAR(*evaluation.result({Role::Unknown, 1})->result, 7, 1e-9);
    EXPECT_NEAR(*evaluation.result({Role::Unknown, 2})->result, 3, 1e-9);
    EXPECT_LT(evaluation.fit.s, 1e-9);
    for (const LevelValue& level : evaluation.levels) {
        EXPECT_NEAR(*level.errorPercent, 0, 1e-9) << level.number;
    }
    const AnalyteEvaluation blind = evaluate(made(rows, PeakResponse::RatioByConcentration).batch).analyte();
    EXPECT_NEAR(*blind.result({Role::Unknown, 1})->result / 14, 1, 0.1) << "the ratio alone reads twice as much";
}

TEST(InternalStandard, AddedBeforeDilutionCarriesIt) {
    auto rows = exactRows();
    std::ranges::find(rows, "tea", &PeakRow::name)->dilution = 4;
    Batch batch = made(rows).batch;
    EXPECT_NEAR(*evaluate(batch).analyte().result({Role::Unknown, 1})->result, 28, 1e-9);
    batch.method.analyte().internal.isBeforeDilution = true;
    EXPECT_NEAR(*evaluate(batch).analyte().result({Role::Unknown, 1})->result, 7, 1e-9);
}

TEST(InternalStandard, ThatIsMissingOrOddIsSaid) {
    auto rows = exactRows();
    std::ranges::find(rows, "cola", &PeakRow::name)->internalArea.reset();
    PeakRow& tea = *std::ranges::find(rows, "tea", &PeakRow::name);
    tea.internalArea = 400; // of a median of about 1000: below 50 %
    const PeakTableBatch batch = made(rows);
    const AnalyteEvaluation evaluation = evaluate(batch.batch).analyte();
    const SampleResult& without = *evaluation.result({Role::Unknown, 2});
    EXPECT_FALSE(without.result);
    EXPECT_EQ(without.replicates.front().state, ResponseState::Unusable);
    EXPECT_EQ(evaluation.at(without.replicates.front().place).why, "no internal standard was found");
    const CriterionResult* found = criterion(evaluation, "internal-standard");
    ASSERT_NE(found, nullptr);
    EXPECT_EQ(found->outcome, Outcome::Review);
    ASSERT_EQ(found->places.size(), 1u);
    EXPECT_TRUE(evaluation.result({Role::Unknown, 1})->needsReview);
    EXPECT_NE(evaluation.result({Role::Unknown, 1})->remark.find("Internal standard"), std::string::npos);
    // Wider limits let it pass; without limits it is not asked.
    Batch wider = batch.batch;
    wider.method.limits.internalLow = 30;
    EXPECT_EQ(criterion(evaluate(wider).analyte(), "internal-standard")->outcome, Outcome::Pass);
    wider.method.limits.internalHigh.reset();
    EXPECT_EQ(criterion(evaluate(wider).analyte(), "internal-standard"), nullptr);
}

TEST(Qualifier, RatiosAreHeldAgainstTheStandards) {
    auto rows = exactRows();
    PeakRow& tea = *std::ranges::find(rows, "tea", &PeakRow::name);
    tea.qualifierArea = 0.52 * *tea.area; // the standards say 40 %: 30 % more
    Batch batch = made(rows).batch;
    const auto outcomeWith = [&](double tolerance, ToleranceOf of) {
        batch.method.analyte().qualifiers.front().tolerance = tolerance;
        batch.method.analyte().qualifiers.front().toleranceOf = of;
        return criterion(evaluate(batch).analyte(), "qualifier-1")->outcome;
    };
    EXPECT_EQ(outcomeWith(30.001, ToleranceOf::Relative), Outcome::Pass);
    EXPECT_EQ(outcomeWith(29.999, ToleranceOf::Relative), Outcome::Review);
    EXPECT_EQ(outcomeWith(12.001, ToleranceOf::Absolute), Outcome::Pass);
    EXPECT_EQ(outcomeWith(11.999, ToleranceOf::Absolute), Outcome::Review);
    const AnalyteEvaluation evaluation = evaluate(batch).analyte();
    EXPECT_NEAR(evaluation.qualifiers.front().window->reference, 40, 1e-9);
    EXPECT_TRUE(evaluation.result({Role::Unknown, 1})->needsReview);
    EXPECT_FALSE(evaluation.result({Role::Unknown, 2})->needsReview);
    const auto columns = allResultColumns(batch, evaluation);
    const auto column = std::ranges::find(columns, "qualifier-1", &ResultColumn::key);
    ASSERT_NE(column, columns.end());
    EXPECT_NEAR(*column->cell(*evaluation.result({Role::Unknown, 1})).number, 52, 1e-9);
    // A reference that is typed stands in the place of the standards.
    batch.method.analyte().qualifiers.front().reference = 52;
    const AnalyteEvaluation typed = evaluate(batch).analyte();
    EXPECT_FALSE(typed.result({Role::Unknown, 1})->needsReview);
    EXPECT_TRUE(typed.result({Role::Unknown, 2})->needsReview);
}

TEST(InternalStandard, AnEditOfItIsSeenByTheAnalytesThatUseIt) {
    Batch batch = made(exactRows()).batch;
    Evaluator evaluator;
    (void)evaluator.evaluate(batch);
    const auto same = [&] {
        const auto fast = evaluator.evaluate(batch);
        const Evaluation slow = evaluate(batch);
        return fast->analyte().result({Role::Unknown, 1})->result == slow.analyte().result({Role::Unknown, 1})->result;
    };
    batch.runs[{11, 0}].added[2] = 20; // the tea
    EXPECT_TRUE(same());
    EXPECT_NEAR(*evaluate(batch).analyte().result({Role::Unknown, 1})->result, 14, 1e-9);
    batch.method.analyte(2).addedConcentration = 2;
    EXPECT_TRUE(same());
    batch.method.analyte(2).source.rule = ValueRule{"\"theobromine\" * 3"};
    EXPECT_TRUE(same());
    batch.method.analyte(1).internal.analyte = 7; // none such
    EXPECT_TRUE(same());
    EXPECT_EQ(internalOf(batch.method, 1), 0);
}

TEST(InternalStandard, IsFoundAgainWhenAnotherAnalyteGoes) {
    auto rows = exactRows();
    const std::size_t count = rows.size();
    for (std::size_t i = 0; i < count; ++i) { // a second analyte, which stands before the internal standard
        PeakRow other = rows[i];
        other.analyte = "catechin";
        rows.push_back(other);
    }
    Document document(DocumentState{.batch = made(rows).batch}, [] { return std::int64_t{1}; });
    const Batch before = document.batch();
    ASSERT_EQ(internalOf(before.method, 1), 3);
    const auto command = removeAnalyte(before, 2);
    ASSERT_TRUE(command && document.apply(*command));
    EXPECT_EQ(internalOf(document.batch().method, 1), 2);
    EXPECT_EQ(document.batch().runs.at({0, 0}).added, (std::map<int, double>{{2, 10}}));
    EXPECT_NEAR(*evaluate(document.batch()).analyte().result({Role::Unknown, 1})->result, 7, 1e-9);
    ASSERT_TRUE(document.undo());
    EXPECT_EQ(document.batch(), before);
    const auto without = removeAnalyte(before, 3);
    ASSERT_TRUE(without && document.apply(*without));
    EXPECT_EQ(internalOf(document.batch().method, 1), 0);
    EXPECT_TRUE(document.batch().runs.at({0, 0}).added.empty());
}

// An analyte that is read from values, its internal standard from a peak that follows that of a third one.
TEST(InternalStandard, TheRuleOfItIsLookedAtAsTheOwnIs) {
    Batch batch = made(exactRows()).batch;
    batch.method.analyte(2).source.rule = PeakRule{.channel = "signal", .expected = 3, .window = 1, .reference = 3};
    Analyte third;
    third.source.rule = PeakRule{.channel = "signal", .expected = 1, .window = 0.5};
    batch.method.analytes.push_back(third);
    std::vector<double> x, y;
    for (int i = 0; i <= 400; ++i) {
        x.push_back(0.01 * i);
        y.push_back(std::exp(-800 * std::pow(x.back() - 1, 2)) + std::exp(-800 * std::pow(x.back() - 3, 2)));
    }
    for (int row = 0; row < 13; ++row) {
        const Place place{row, 0};
        Trace trace;
        trace.setX(x);
        trace.y = y;
        Reading reading;
        reading.slot = {1, place, "signal"};
        reading.payload = Payload::of(std::move(trace));
        const int number = batch.readings.rbegin()->first + 1;
        batch.inUse[reading.slot] = number;
        batch.readings[number] = reading;
    }
    Evaluator evaluator;
    const auto same = [&] {
        return evaluator.evaluate(batch)->analyte().fit.parameters == evaluate(batch).analyte().fit.parameters;
    };
    EXPECT_TRUE(same());
    EXPECT_TRUE(evaluate(batch).analyte().at({0, 0}).internal.has_value());
    batch.handEdits[{1, Place{4, 0}, "signal"}].list = {
        {PeakEdit{.kind = PeakEditKind::Bounds, .at = 3, .from = 2.99, .to = 3.01}, "", 0}};
    EXPECT_TRUE(same()) << "what is drawn on its trace";
    std::get<PeakRule>(batch.method.analyte(3).source.rule).expected = 1.4;
    EXPECT_TRUE(same()) << "the reference that it follows";
}

TEST(InternalStandard, RunsSayWhatTheyHoldOfIt) {
    Document document(DocumentState{.batch = made(exactRows()).batch}, [] { return std::int64_t{1}; });
    const Batch before = document.batch(); // 10 in all runs, where 1 would be usual
    EXPECT_EQ(addedIn(before, {{10, 0}, {11, 0}}, 2), 10);
    auto command = setAdded(before, {{11, 0}}, 2, 20);
    ASSERT_TRUE(command && document.apply(*command));
    EXPECT_EQ(command->label, "theobromine in run 12 → 20");
    EXPECT_EQ(addedIn(document.batch(), {{10, 0}, {11, 0}}, 2), std::nullopt);
    EXPECT_NEAR(*evaluate(document.batch()).analyte().result({Role::Unknown, 1})->result, 14, 1e-9);
    command = setAdded(document.batch(), {{11, 0}}, 2, {});
    ASSERT_TRUE(command && document.apply(*command));
    EXPECT_EQ(addedIn(document.batch(), {{11, 0}}, 2), 1) << "the usual";
    ASSERT_TRUE(document.undo() && document.undo());
    EXPECT_EQ(document.batch(), before);
    EXPECT_EQ(setAdded(before, {{11, 0}}, 2, -1).error().code, "method.internal-standard");
    EXPECT_EQ(setAdded(before, {{11, 0}}, 1, 5).error().code, "method.internal-standard") << "no usual one is known";
    EXPECT_EQ(setAdded(before, {{99, 0}}, 2, 5).error().code, "layout.place");
    EXPECT_EQ(setAdded(before, {{11, 0}}, 9, 5).error().code, "method.no-analyte");
}

TEST(InternalStandard, WithoutLevelsIsAskedForNoCurve) {
    Batch batch = made(exactRows()).batch;
    Evaluation evaluation = evaluate(batch);
    EXPECT_TRUE(evaluation.analyte(2).isOnlyInternal);
    EXPECT_TRUE(evaluation.analyte(2).results.empty());
    EXPECT_EQ(evaluation.analyte(2).verdict, Outcome::NotApplicable);
    EXPECT_EQ(evaluation.verdict, evaluation.analyte(1).verdict) << "the batch is judged by what it is for";
    // With levels of its own it is an analyte like others.
    batch.levels[LevelKey{1, 2}] = Level{5.0};
    Evaluator evaluator(1);
    (void)evaluator.evaluate(made(exactRows()).batch);
    evaluation = *evaluator.evaluate(batch);
    EXPECT_FALSE(evaluation.analyte(2).isOnlyInternal);
    // And one that no other is divided by.
    batch = made(exactRows()).batch;
    batch.method.analyte(1).internal = {};
    EXPECT_FALSE(evaluator.evaluate(batch)->analyte(2).isOnlyInternal);
}

TEST(Qualifier, ReadsOffOnACurveOfItsOwn) {
    const Batch batch = made(exactRows()).batch;
    const Evaluation evaluation = evaluate(batch);
    const AnalyteEvaluation& caffeine = evaluation.analyte(1);
    const Fit fit = qualifierFit(batch, caffeine, 0);
    ASSERT_TRUE(fit.isUsable());
    EXPECT_NEAR(fit.parameters[1], 0.4 * caffeine.fit.parameters[1], 1e-12) << "40 % of the quantifier";
    EXPECT_NEAR(*readByQualifier(batch, caffeine, 0, {11, 0}), 7, 1e-9);
    const auto others = otherCurves(batch, evaluation, caffeine);
    ASSERT_FALSE(others.empty());
    EXPECT_TRUE(others.front().name.starts_with("qualifier "));
    const Working working = workingOf(batch, caffeine, Place{11, 0});
    EXPECT_TRUE(std::ranges::any_of(working.steps, [](const WorkingStep& step) {
        return step.title.starts_with("Read off by qualifier") && step.lines.front().starts_with("7.000");
    }));
}

TEST(InternalStandard, WhatMakesNoSenseIsRefused) {
    Method method = made(exactRows()).batch.method;
    method.analyte(2).addedConcentration = 0;
    EXPECT_EQ(validate(method).error().code, "method.internal-standard");
    method.analyte(2).addedConcentration = 1;
    method.analyte(1).qualifiers.front().tolerance = -1;
    EXPECT_EQ(validate(method).error().code, "method.qualifier");
    auto rows = exactRows();
    rows.push_back(rows.back());
    EXPECT_EQ(batchOfPeaks(rows, {}).error().code, "peaks.twice");
    rows = exactRows();
    rows[1].nominal = 1.5;
    EXPECT_EQ(batchOfPeaks(rows, {}).error().code, "peaks.nominal");
    EXPECT_EQ(batchOfPeaks({}, {}).error().code, "peaks.empty");
}

} // namespace
} // namespace nuvat
