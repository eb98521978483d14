// Traces in the document: runs taken in, peaks as responses, what is drawn by hand.
#include "nuvat/batch/document.h"
#include "nuvat/batch/validate.h"
#include "respond_traces.h"
#include "support/trace_runs.h"

#include <cmath>
#include <gtest/gtest.h>
#include <numbers>

namespace nuvat {
namespace {

using test::apply;
using test::slotOf;
using test::traceBatch;

double areaOf(double amount) {
    return 10 * amount * 3 * std::sqrt(2 * std::numbers::pi);
}

TEST(Traces, RunsBecomeARunList) {
    const Batch batch = traceBatch();
    ASSERT_TRUE(validate(batch)) << validate(batch).error().message;
    EXPECT_EQ(batch.carriers.at(1).kind, CarrierKind::RunList);
    EXPECT_EQ(batch.carriers.at(1).rows, 6);
    EXPECT_EQ(batch.runs.at({4, 0}).name, "sample 1");
    EXPECT_EQ(batch.runs.at({4, 0}).file, "sample 1.csv");
    EXPECT_TRUE(batch.hasTraces());
    EXPECT_EQ(batch.channels(), (std::vector<std::string>{"detector"}));
    // Further runs go on below, and the list grows.
    Batch more = batch;
    apply(more, importRuns(more, {test::runOf("sample 3", 1, 1, 99)}, 2000));
    EXPECT_EQ(more.carriers.at(1).rows, 7);
    EXPECT_EQ(more.runs.at({6, 0}).name, "sample 3");
    EXPECT_EQ(importRuns(batch, {}, 0).error().code, "batch.reading");
}

TEST(Traces, PeaksAreResponsesAndUnknownsAreReadOff) {
    const Batch batch = traceBatch();
    const Evaluation evaluation = evaluate(batch);
    const AnalyteEvaluation& first = evaluation.analyte(1);
    ASSERT_TRUE(first.fit.isUsable()) << first.fit.message;
    ASSERT_EQ(first.results.size(), 2u);
    for (int run = 1; run <= 4; ++run) {
        const Response& response = first.at({run - 1, 0});
        EXPECT_EQ(response.state, ResponseState::Used);
        EXPECT_NEAR(*response.raw, areaOf(std::pow(2, run - 1)), 1.5);
        EXPECT_NEAR(*response.position, 60, 0.1);
    }
    EXPECT_NEAR(*first.results[0].readOff.x, 3, 0.02);
    EXPECT_NEAR(*first.results[1].readOff.x, 5, 0.02);
    const AnalyteEvaluation& second = evaluation.analyte(2);
    EXPECT_NEAR(*second.results[0].readOff.x, 3, 0.02);
    EXPECT_NEAR(*second.at({0, 0}).raw, 5, 0.05) << "a height";
    // What is not there is not found: never an area of 0.
    EXPECT_EQ(second.at({5, 0}).state, ResponseState::NotFound);
    EXPECT_FALSE(second.at({5, 0}).raw);
    EXPECT_FALSE(second.results[1].result);
    EXPECT_EQ(evaluation.traces.size(), 6u);
    EXPECT_EQ(evaluation.traces.at(slotOf(6))->features.peaks.size(), 1u);
}

TEST(Traces, WindowsIncludeTheirEnds) {
    MeasuredTrace trace;
    for (const double apex : {10.0, 12.0, 20.0}) {
        trace.features.peaks.push_back({});
        trace.features.peaks.back().apex = apex;
    }
    const auto found = [&](const PeakRule& rule, double shift = 1) {
        const auto peaks = peaksFor({1, rule, shift}, trace);
        return peaks.empty() ? -1 : peaks.front()->apex;
    };
    EXPECT_EQ(found({"", 11.5, 1, WindowOf::X}), 12);
    EXPECT_EQ(found({"", 11, 1, WindowOf::X}), 10) << "of two equally near, the first";
    EXPECT_EQ(found({"", 18, 2, WindowOf::X}), 20);
    EXPECT_EQ(found({"", 18, 1.9, WindowOf::X}), -1);
    EXPECT_EQ(found({"", 16, 25, WindowOf::Percent}), 12);
    EXPECT_EQ(found({"", 10, 0.1, WindowOf::X}, 2), 20) << "the reference peak came twice as late";
}

TEST(Traces, OfSeveralPeaksTheRulePicks) {
    Batch batch = traceBatch();
    const auto taken = [&](PeakPick pick, double expected, double window) {
        Method method = batch.method;
        method.analyte(1).source.rule =
            PeakRule{"detector", expected, window, WindowOf::X, 0, PeakQuantity::Area, pick};
        apply(batch, setMethod(batch, method));
        return evaluate(batch).analyte(1).at({0, 0});
    };
    const double first = areaOf(1), second = areaOf(1) / 2 * 4 / 3;
    EXPECT_NEAR(*taken(PeakPick::Nearest, 100, 45).raw, second, 1);
    EXPECT_NEAR(*taken(PeakPick::Largest, 100, 45).raw, first, 1);
    EXPECT_NEAR(*taken(PeakPick::First, 100, 45).raw, first, 1);
    EXPECT_NEAR(*taken(PeakPick::All, 100, 45).raw, first + second, 1.5);
    EXPECT_NEAR(*taken(PeakPick::All, 120, 45).raw, second, 1);
    EXPECT_EQ(taken(PeakPick::All, 160, 10).state, ResponseState::NotFound);
}

TEST(Traces, AWindowIsMeasuredWithoutAPeakWhereTheMethodSaysSo) {
    Batch batch = traceBatch();
    Method method = batch.method;
    std::get<PeakRule>(method.analyte(2).source.rule).quantity = PeakQuantity::Area;
    std::get<PeakRule>(method.analyte(2).source.rule).isWindowTaken = true;
    apply(batch, setMethod(batch, method));
    const Response& taken = evaluate(batch).analyte(2).at({5, 0});
    EXPECT_EQ(taken.state, ResponseState::Used);
    // Six seconds of noise of 0.01 at 30 samples: an area about 0.
    EXPECT_NEAR(*taken.raw, 0, 0.1);
    EXPECT_FALSE(taken.position) << "there is no apex";
}

TEST(Traces, AReferencePeakMovesTheWindow) {
    Batch batch = traceBatch();
    // A run that is 10 % late: both peaks fall out of their windows, the second is found by the first.
    Trace late = test::chromatogram(3, 3, 7);
    std::vector<double> x;
    for (std::size_t i = 0; i < late.size(); ++i) {
        x.push_back(late.xAt(i) * 1.1);
    }
    late.setX(x);
    apply(batch, importRuns(batch, {{"late.csv", "", "late", "text", {{"detector", Payload::of(late)}}}}, 0));
    apply(batch, assignRole(batch, {{6, 0}}, Role::Unknown, 1, Direction::Down));
    EXPECT_EQ(evaluate(batch).analyte(2).at({6, 0}).state, ResponseState::NotFound);
    Method method = batch.method;
    std::get<PeakRule>(method.analyte(1).source.rule).window = 8;
    std::get<PeakRule>(method.analyte(2).source.rule).reference = 1;
    apply(batch, setMethod(batch, method));
    const Evaluation evaluation = evaluate(batch);
    EXPECT_EQ(evaluation.analyte(2).at({6, 0}).state, ResponseState::Used);
    EXPECT_NEAR(*evaluation.analyte(2).at({6, 0}).position, 132, 0.3);
}

TEST(Traces, BandsArePointsMeansDifferencesAndSlopes) {
    Batch batch = traceBatch();
    const auto raw = [&](BandQuantity quantity, double from, double to) {
        Method method = batch.method;
        method.analyte(1).source.rule = BandRule{"detector", from, to, quantity};
        apply(batch, setMethod(batch, method));
        return evaluate(batch).analyte(1).at({0, 0});
    };
    EXPECT_NEAR(*raw(BandQuantity::Value, 60, 60).raw, 2 + 0.18 + 10, 0.05);
    EXPECT_NEAR(*raw(BandQuantity::Difference, 30, 60).raw, 10 + 0.09, 0.06);
    EXPECT_NEAR(*raw(BandQuantity::Mean, 160, 200).raw, 2 + 0.003 * 180, 0.01);
    EXPECT_NEAR(*raw(BandQuantity::Slope, 150, 200).raw, 0.003, 0.0005);
    const Response outside = raw(BandQuantity::Value, 500, 500);
    EXPECT_EQ(outside.state, ResponseState::Unusable);
    EXPECT_EQ(outside.why, "outside the trace");
}

TEST(Traces, ARuleOfAChannelCountsForAllItsRuns) {
    Batch batch = traceBatch();
    SignalRule rule;
    rule.peaks.ignored = {{50, 70}};
    apply(batch, setSignal(batch, "detector", rule));
    Evaluation evaluation = evaluate(batch);
    EXPECT_EQ(evaluation.analyte(1).at({0, 0}).state, ResponseState::NotFound);
    EXPECT_EQ(evaluation.analyte(2).at({0, 0}).state, ResponseState::Used);
    rule.peaks.ignored.clear();
    rule.peaks.leastHeight = {20, false};
    apply(batch, setSignal(batch, "detector", rule));
    evaluation = evaluate(batch);
    EXPECT_EQ(evaluation.analyte(1).at({0, 0}).state, ResponseState::NotFound);
    EXPECT_EQ(evaluation.analyte(1).at({3, 0}).state, ResponseState::Used);
    rule.peaks.leastHeight = {-1, false};
    EXPECT_EQ(setSignal(batch, "detector", rule).error().code, "method.signal");
}

HandEdit drawn(PeakEditKind kind, double at, double from, double to) {
    return {{kind, at, from, to, 0, 0}, "", 5};
}

TEST(Traces, WhatIsDrawnCountsAndSurvives) {
    Batch batch = traceBatch();
    const double before = *evaluate(batch).analyte(1).at({0, 0}).raw;
    apply(batch, drawOn(batch, {slotOf(1)}, drawn(PeakEditKind::Bounds, 60, 58, 62)));
    const double narrow = *evaluate(batch).analyte(1).at({0, 0}).raw;
    EXPECT_LT(narrow, 0.3 * before);
    EXPECT_NEAR(*evaluate(batch).analyte(1).at({1, 0}).raw, areaOf(2), 1.5) << "the other runs are as they were";
    // Changed rules do not drop it; one that has nothing to hold on to is kept and told of.
    SignalRule rule;
    rule.peaks.leastHeight = {9, false};
    apply(batch, setSignal(batch, "detector", rule));
    EXPECT_NEAR(*evaluate(batch).analyte(1).at({0, 0}).raw, narrow, 1e-9);
    rule.peaks.leastHeight = {50, false};
    apply(batch, setSignal(batch, "detector", rule));
    EXPECT_EQ(evaluate(batch).traces.at(slotOf(1))->features.unheld, (std::vector<std::size_t>{0}));
    EXPECT_EQ(batch.handEdits.at(slotOf(1)).list.size(), 1u);
    // Dragged again it is still one decision; taken back, the peak is as it was found.
    apply(batch, setSignal(batch, "detector", SignalRule{}));
    apply(batch, drawOn(batch, {slotOf(1)}, drawn(PeakEditKind::Bounds, 60, 50, 70)));
    EXPECT_EQ(batch.handEdits.at(slotOf(1)).list.size(), 1u);
    apply(batch, withdrawEdit(batch, slotOf(1), 0));
    EXPECT_TRUE(batch.handEdits.empty());
    EXPECT_EQ(*evaluate(batch).analyte(1).at({0, 0}).raw, before);
}

TEST(Traces, EveryKindOfDrawing) {
    Batch batch = traceBatch();
    const auto peaks = [&] { return evaluate(batch).traces.at(slotOf(1))->features.peaks; };
    ASSERT_EQ(peaks().size(), 2u);
    apply(batch, drawOn(batch, {slotOf(1)}, drawn(PeakEditKind::Split, 61, 0, 0)));
    ASSERT_EQ(peaks().size(), 3u);
    EXPECT_EQ(peaks()[0].end, 61);
    EXPECT_EQ(peaks()[0].split, PeakSplit::Drop);
    apply(batch, drawOn(batch, {slotOf(1)}, drawn(PeakEditKind::Join, 0, 55, 65)));
    ASSERT_EQ(peaks().size(), 2u);
    EXPECT_NEAR(peaks()[0].area, areaOf(1), 1.5);
    apply(batch, drawOn(batch, {slotOf(1)}, drawn(PeakEditKind::Remove, 120, 0, 0)));
    ASSERT_EQ(peaks().size(), 1u);
    EXPECT_EQ(evaluate(batch).analyte(2).at({0, 0}).state, ResponseState::NotFound);
    apply(batch, drawOn(batch, {slotOf(1)}, drawn(PeakEditKind::Add, 0, 105, 135)));
    ASSERT_EQ(peaks().size(), 2u);
    EXPECT_EQ(evaluate(batch).analyte(2).at({0, 0}).state, ResponseState::Used);
    HandEdit line = drawn(PeakEditKind::Line, 120, 105, 135);
    line.edit.fromY = line.edit.toY = 1;
    apply(batch, drawOn(batch, {slotOf(1)}, line));
    EXPECT_NEAR(peaks()[1].height, 5 + 2.36 - 1, 0.05);
    EXPECT_EQ(drawOn(batch, {slotOf(1)}, drawn(PeakEditKind::Add, 0, 5, 5)).error().code, "peaks.no-edit");
    EXPECT_EQ(drawOn(batch, {{1, Place{0, 0}, "other"}}, line).error().code, "batch.reading");
    // For all runs at once.
    std::vector<Slot> all;
    for (int run = 1; run <= 6; ++run) {
        all.push_back(slotOf(run));
    }
    apply(batch, drawOn(batch, all, drawn(PeakEditKind::Bounds, 60, 50, 70)));
    EXPECT_EQ(batch.handEdits.size(), 6u);
}

TEST(Traces, AnEditMeasuresOneTraceAndTheDigitsAreTheSame) {
    for (const unsigned processors : {1u, 2u, 5u}) {
        Evaluator evaluator(processors);
        Batch batch = traceBatch();
        const auto before = evaluator.evaluate(batch);
        apply(batch, drawOn(batch, {slotOf(2)}, drawn(PeakEditKind::Bounds, 60, 52, 68)));
        const auto after = evaluator.evaluate(batch);
        int anew = 0;
        for (const auto& [slot, trace] : after->traces) {
            anew += before->traces.at(slot) != trace ? 1 : 0;
        }
        EXPECT_EQ(anew, 1);
        const Evaluation full = evaluate(batch);
        for (int analyte = 1; analyte <= 2; ++analyte) {
            EXPECT_EQ(after->analyte(analyte).responses, full.analyte(analyte).responses);
            EXPECT_EQ(after->analyte(analyte).fit.parameters, full.analyte(analyte).fit.parameters);
        }
    }
}

TEST(Traces, AResponseThatLooksAtOtherAnalytesFollowsThem) {
    Batch batch = traceBatch();
    Method method = batch.method;
    std::get<PeakRule>(method.analyte(1).source.rule).quantity = PeakQuantity::AreaPercent;
    apply(batch, setMethod(batch, method));
    Evaluator evaluator;
    const double before = *evaluator.evaluate(batch)->analyte(1).at({0, 0}).raw;
    std::get<PeakRule>(method.analyte(2).source.rule).factor = 3; // of the other analyte
    apply(batch, setMethod(batch, method));
    EXPECT_LT(*evaluator.evaluate(batch)->analyte(1).at({0, 0}).raw, 0.8 * before);
    EXPECT_EQ(evaluator.evaluate(batch)->analyte(1).responses, evaluate(batch).analyte(1).responses);
    // A window that follows a reference peak, which then is another one.
    std::get<PeakRule>(method.analyte(2).source.rule).reference = 1;
    apply(batch, setMethod(batch, method));
    (void)evaluator.evaluate(batch);
    auto& reference = std::get<PeakRule>(method.analyte(1).source.rule);
    reference.expected = 120;
    apply(batch, setMethod(batch, method));
    EXPECT_EQ(evaluator.evaluate(batch)->analyte(2).responses, evaluate(batch).analyte(2).responses);
}

TEST(Traces, OneAndTwoThreadsGiveEqualBits) {
    const Batch batch = traceBatch();
    Evaluator one(1), two(2);
    const auto a = one.evaluate(batch), b = two.evaluate(batch);
    for (int analyte = 1; analyte <= 2; ++analyte) {
        const AnalyteEvaluation& first = a->analyte(analyte);
        const AnalyteEvaluation& second = b->analyte(analyte);
        EXPECT_EQ(first.responses, second.responses);
        EXPECT_EQ(first.fit.parameters, second.fit.parameters);
        for (std::size_t i = 0; i < first.results.size(); ++i) {
            EXPECT_EQ(first.results[i].result, second.results[i].result);
            EXPECT_EQ(first.results[i].low, second.results[i].low);
        }
    }
}

TEST(Traces, WhatIsDrawnStaysWhenARunIsReadAgain) {
    Batch batch = traceBatch();
    const Slot slot = slotOf(2);
    apply(batch, drawOn(batch, {slot}, {{PeakEditKind::Bounds, 60, 52, 66, 0, 0}, "the tail", 5}));
    const double drawn = *evaluate(batch).analyte(1).at(*slot.place).raw;
    Reading again = *batch.readings.at(batch.inUse.at(slot));
    again.payload = Payload::of(test::chromatogram(2.5, 2, 123));
    const int before = batch.inUse.at(slot), key = batch.readings.rbegin()->first + 1;
    Command command;
    command.changes.emplace_back(ReadingChange{key, std::nullopt, again});
    command.changes.emplace_back(InUseChange{slot, InUse{before}, InUse{key}});
    applyChanges(batch, command, false);
    ASSERT_TRUE(validate(batch));
    const Evaluation evaluation = evaluate(batch);
    ASSERT_EQ(batch.handEdits.count(slot), 1u);
    EXPECT_NEAR(evaluation.analyte(1).at(*slot.place).stretch->to, 66, 1e-9);
    EXPECT_NEAR(*evaluation.analyte(1).at(*slot.place).raw / drawn, 2.5 / 2, 0.01);
}

TEST(Traces, ExclusionsHoldForTraces) {
    Batch batch = traceBatch();
    apply(batch, excludePlaces(batch, {{3, 0}}, "air bubble", 5));
    const Evaluation evaluation = evaluate(batch);
    EXPECT_EQ(evaluation.analyte(1).at({3, 0}).state, ResponseState::Excluded);
    EXPECT_TRUE(evaluation.analyte(1).at({3, 0}).raw);
}

TEST(Traces, OfAChannelThatIsNotThere) {
    Batch batch = traceBatch();
    Method method = batch.method;
    std::get<PeakRule>(method.analyte(1).source.rule).channel = "fluorescence";
    apply(batch, setMethod(batch, method));
    const Evaluation evaluation = evaluate(batch);
    EXPECT_EQ(evaluation.analyte(1).at({0, 0}).state, ResponseState::NotRead);
    ASSERT_FALSE(evaluation.analyte(1).problems.empty());
    EXPECT_NE(evaluation.analyte(1).problems[0].message.find("fluorescence"), std::string::npos);
}

TEST(TracePayload, KeepsEqualStepsAsTwoNumbers) {
    Trace trace;
    trace.y = {1, 2, 3};
    trace.setX({0, 0.5, 1});
    EXPECT_TRUE(trace.x.empty());
    EXPECT_EQ(trace.xAt(2), 1);
    trace.setX({0, 0.5, 1.5});
    EXPECT_EQ(trace.x.size(), 3u);
    trace.missing = {1};
    EXPECT_EQ(trace.points().first, (std::vector<double>{0, 1.5}));
    EXPECT_NE(identityOf(trace), identityOf(Trace{}));
    Trace other = trace;
    other.yUnit = "mV";
    EXPECT_NE(identityOf(trace), identityOf(other));
    EXPECT_TRUE(validate(trace, "a"));
    trace.x = {0, 2, 1};
    EXPECT_FALSE(validate(trace, "a"));
}

TEST(Traces, PeaksBecomeAnalytes) {
    Batch batch;
    apply(batch, importRuns(batch, {test::runOf("level", 1, 1, 5)}, 0));
    const Evaluation before = evaluate(batch);
    const auto& peaks = before.traces.begin()->second->features.peaks;
    ASSERT_EQ(peaks.size(), 2u);
    apply(batch, takePeaks(batch, "detector", peaks));
    ASSERT_TRUE(validate(batch));
    ASSERT_EQ(batch.method.analytes.size(), 2u) << "the one that a new batch begins with is replaced";
    const auto& rule = std::get<PeakRule>(batch.method.analyte(2).source.rule);
    EXPECT_NEAR(rule.expected, 120, 0.2);
    EXPECT_NEAR(rule.window, peaks[1].width50.value(), 0.1);
    EXPECT_EQ(batch.method.analyte(1).fit.model, Model::Line);
    EXPECT_EQ(takePeaks(batch, "detector", peaks).error().code, "peaks.no-edit");
    Method method = batch.method;
    method.analyte(1).name = "Ethanol";
    method.analyte(1).unit = "g/L";
    method.analytes.pop_back();
    apply(batch, setMethod(batch, method));
    apply(batch, takePeaks(batch, "detector", peaks));
    EXPECT_EQ(batch.method.analytes.size(), 2u);
    EXPECT_EQ(batch.method.analyte(1).name, "Ethanol");
    EXPECT_EQ(batch.method.analyte(2).unit, "g/L") << "on the terms of the first";
}

// Content and limits are those of standardAddition, which tests/reference/standard_addition_test.cpp proves.
TEST(Traces, StandardAdditionReadsEachSampleOffItsOwnLine) {
    Batch batch = traceBatch();
    std::vector<ImportedRun> runs;
    for (const double amount : {4.0, 6.0, 10.0}) {
        runs.push_back(test::runOf("sample 1 + " + std::to_string(amount - 3), amount, 1, 50));
    }
    apply(batch, importRuns(batch, runs, 0));
    apply(batch, assignRole(batch, {{0, 0}, {1, 0}, {2, 0}, {3, 0}}, Role::Empty, 1, Direction::Down));
    for (int step = 1; step <= 3; ++step) {
        Command command;
        command.changes.push_back(PlaceChange{{5 + step, 0}, std::nullopt, Assignment{Role::Addition, 1, step}});
        applyChanges(batch, command, false);
    }
    for (const auto& [level, added] : {std::pair(1, 1.0), std::pair(2, 3.0), std::pair(3, 7.0)}) {
        apply(batch, setLevel(batch, level, added, 1));
    }
    Method method = batch.method;
    method.analyte(1).source.curve = CurveOf::Sample;
    apply(batch, setMethod(batch, method));
    const AnalyteEvaluation got = evaluate(batch).analyte(1);
    ASSERT_EQ(got.additions.size(), 2u);
    EXPECT_EQ(got.additions[0].added, (std::vector<double>{0, 1, 3, 7}));
    ASSERT_EQ(got.results.size(), 2u);
    const SampleResult& first = got.results[0];
    EXPECT_EQ(first.status, ResultStatus::Reported);
    EXPECT_NEAR(*first.result, 3, 0.03);
    EXPECT_LT(*first.low, *first.result);
    EXPECT_GT(*first.high, *first.result);
    const auto expected = standardAddition(got.additions[0].added, got.additions[0].response, 0.95);
    EXPECT_EQ(*first.result, expected->content);
    EXPECT_EQ(*first.high, expected->fiellerLimits->second);
    EXPECT_TRUE(got.fit.isUsable());
    EXPECT_NEAR(response(got.fit, 0), expected->a, 1e-9);
    EXPECT_EQ(got.results[1].status, ResultStatus::NotDefined) << "sample 2 has no additions";
    EXPECT_FALSE(got.results[1].remark.empty());
    // What has no concentration is named and left out.
    apply(batch, setLevel(batch, 2, std::nullopt, 1));
    const AnalyteEvaluation less = evaluate(batch).analyte(1);
    EXPECT_EQ(less.additions[0].added, (std::vector<double>{0, 1, 7}));
    ASSERT_FALSE(less.problems.empty());
    EXPECT_NE(less.problems[0].message.find("Addition 2 has no concentration"), std::string::npos);
    Evaluator evaluator;
    EXPECT_EQ(*evaluator.evaluate(batch)->analyte(1).results[0].result, *less.results[0].result);
}

// Area normalisation: 100 A f over the sum of all A f.
TEST(Traces, SharesOfTheAreaAreResultsWithoutACurve) {
    Batch batch = traceBatch();
    Method method = batch.method;
    for (int number : {1, 2}) {
        Analyte& analyte = method.analyte(number);
        std::get<PeakRule>(analyte.source.rule).quantity = PeakQuantity::AreaPercent;
        std::get<PeakRule>(analyte.source.rule).factor = number;
        analyte.source.curve = CurveOf::None;
        analyte.unit = "%";
    }
    apply(batch, setMethod(batch, method));
    const Evaluation got = evaluate(batch);
    const SampleResult& first = got.analyte(1).results.at(0);
    // Of sample 1 both peaks have 3 units; their areas are as 10 * 3 to 5 * 4, and the second counts twice.
    EXPECT_EQ(first.status, ResultStatus::Reported);
    EXPECT_NEAR(*first.result, 100 * 30.0 / (30 + 40), 0.2);
    EXPECT_NEAR(*first.result + *got.analyte(2).results.at(0).result, 100, 1e-9);
    EXPECT_NEAR(*got.analyte(1).results.at(1).result, 100, 1e-9) << "what is not found is left out of the sum";
    method.analyte(1).source.rule = PeakRule{.channel = "detector", .window = 0};
    EXPECT_EQ(setMethod(batch, method).error().code, "method.response");
}

TEST(Traces, PeaksAreJudgedByCriteriaOfTheLaboratory) {
    Batch batch = traceBatch();
    apply(batch, importRuns(batch, {test::runOf("blank", 0, 0, 77)}, 0));
    apply(batch, assignRole(batch, {{6, 0}}, Role::Blank, 1, Direction::Down));
    Method method = batch.method;
    const auto add = [&](const char* title, const char* quantity, Comparison comparison, double limit) {
        method.criteria.push_back({.title = title,
                                   .scope = CriterionScope::Peak,
                                   .quantity = quantity,
                                   .comparison = comparison,
                                   .limit = limit});
    };
    add("Time", "abs(shift)", Comparison::AtMost, 0.5);
    add("Tailing", "tailing", Comparison::AtMost, 1.2);
    add("Plates", "plates", Comparison::AtLeast, 1e6);
    add("Resolution", "resolution", Comparison::AtLeast, 1.5);
    add("Signal to noise", "snr", Comparison::AtLeast, 10);
    apply(batch, setMethod(batch, method));
    const Evaluation evaluation = evaluate(batch);
    const AnalyteEvaluation& second = evaluation.analyte(2);
    const auto outcome = [&](const char* key) {
        const auto found = std::find_if(second.criteria.begin(), second.criteria.end(),
                                        [&](const CriterionResult& one) { return one.key == key; });
        return found == second.criteria.end() ? Outcome::NotApplicable : found->outcome;
    };
    EXPECT_EQ(outcome("own-1"), Outcome::Pass);
    EXPECT_EQ(outcome("own-2"), Outcome::Pass) << "Gaussian peaks tail by 1";
    EXPECT_NE(outcome("own-3"), Outcome::Pass) << "5.54 (120/9.4)^2 are 900 plates";
    EXPECT_EQ(outcome("own-4"), Outcome::Pass) << "1.18 * 60/(7.1 + 9.4) is 4.3";
    EXPECT_EQ(outcome("own-5"), Outcome::Pass);
    const auto plates = std::find_if(second.criteria.begin(), second.criteria.end(),
                                     [](const CriterionResult& one) { return one.key == "own-3"; });
    EXPECT_EQ(plates->places.size(), 5u) << "one in every run that has the peak, the blank has none";
}

} // namespace
} // namespace nuvat
