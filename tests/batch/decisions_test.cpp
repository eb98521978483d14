// Decision limits, classes, derived values, spikes and least dilutions of a batch.
#include "nuvat/batch/derived_value.h"
#include "nuvat/batch/result_table.h"
#include "nuvat/batch/validate.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/stats/decision.h"
#include "nuvat/workflow/export.h"
#include "support/sample_batch.h"

#include <algorithm>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace nuvat {
namespace {

const CriterionResult* criterion(const AnalyteEvaluation& evaluation, const std::string& key) {
    const auto found = std::ranges::find(evaluation.criteria, key, &CriterionResult::key);
    return found == evaluation.criteria.end() ? nullptr : &*found;
}

Batch withLimits(std::vector<double> limits, DecisionBy by = DecisionBy::Interval) {
    // The replicates of the sample batch agree exactly; a dilution that is uncertain gives intervals a width.
    return test::withMethod(test::sampleDocument().batch(), [&](Method& m) {
        m.dilutionRelativeSe = 0.02;
        m.analyte().decisions = {by, limits, std::vector<std::string>(limits.size() + 1)};
    });
}

TEST(Decisions, PartResultsByTheirIntervals) {
    const Batch plain = withLimits({});
    EXPECT_TRUE(evaluateAnalyte(plain).decisions.empty());
    const SampleResult first = *evaluateAnalyte(plain).result({Role::Unknown, 1});
    ASSERT_TRUE(first.result && first.low && first.high);
    ASSERT_LT(*first.low, *first.result);

    // A limit inside the interval leaves the sample open, one just beside it does not; the ends count as inside.
    const auto classesAt = [&](double limit, DecisionBy by = DecisionBy::Interval) {
        const AnalyteEvaluation e = evaluateAnalyte(withLimits({limit}, by));
        const SampleDecision* decision = e.decisionOf({Role::Unknown, 1});
        return decision == nullptr ? std::pair<std::size_t, std::size_t>{9, 9}
                                   : std::pair(decision->lowest, decision->highest);
    };
    using Classes = std::pair<std::size_t, std::size_t>;
    const double beside = (*first.high - *first.low) * 0.01;
    EXPECT_EQ(classesAt(*first.result), Classes(0, 1));
    EXPECT_EQ(classesAt(*first.high), Classes(0, 1));
    EXPECT_EQ(classesAt(*first.low), Classes(0, 1));
    EXPECT_EQ(classesAt(*first.high + beside), Classes(0, 0));
    EXPECT_EQ(classesAt(*first.low - beside), Classes(1, 1));
    // By its value alone, one that is equal to the limit is below it.
    EXPECT_EQ(classesAt(*first.result, DecisionBy::Value), Classes(0, 0));
    EXPECT_EQ(classesAt(*first.result - beside, DecisionBy::Value), Classes(1, 1));
}

// Source of the rule: JCGM 106:2012, 8.3; the one-sided limit lies inside the two-sided interval of the same
// confidence.
TEST(Decisions, AreGuardedOnOneSide) {
    const SampleResult first = *evaluateAnalyte(withLimits({})).result({Role::Unknown, 1});
    const Decision reference = decide({*first.result, first.se, first.df}, std::vector<double>{*first.low}, 0.95);
    ASSERT_TRUE(reference.limits[0].isAbove);
    const auto classAt = [&](double limit, DecisionBy by) {
        return evaluateAnalyte(withLimits({limit}, by)).decisionOf({Role::Unknown, 1})->lowest;
    };
    // Just above the limit: not shown to be above, and not shown to be below.
    const double near = *first.result - 0.2 * first.se;
    EXPECT_EQ(classAt(near, DecisionBy::ShownAbove), 0u);
    EXPECT_EQ(classAt(near, DecisionBy::ShownBelow), 1u);
    EXPECT_EQ(classAt(*first.low, DecisionBy::ShownAbove), 1u);
    EXPECT_EQ(classAt(*first.high, DecisionBy::ShownBelow), 0u);
}

TEST(Decisions, OfOneBeyondTheRangeFollowFromTheInequality) {
    Batch batch = withLimits({5, 1000});
    batch.samples[1].dilution = 1;
    batch = test::withMethod(batch, [](Method& m) { m.analyte().range = {RangeBy::Hand, 20, 0.9, 1.0, 1}; });
    AnalyteEvaluation e = evaluateAnalyte(batch);
    const SampleResult& above = *e.result({Role::Unknown, 1});
    ASSERT_TRUE(above.status == ResultStatus::AboveRange) << name(above.status);
    // More than 1.0 times 1: it may be in any class.
    EXPECT_EQ(e.decisionOf({Role::Unknown, 1})->lowest, 0u);
    EXPECT_EQ(e.decisionOf({Role::Unknown, 1})->highest, 2u);
    EXPECT_FALSE(e.decisionOf({Role::Unknown, 1})->value);
    batch = test::withMethod(batch, [](Method& m) {
        m.analyte().decisions = {DecisionBy::Interval, {0.5, 0.8}, {"mild", "even", "bold"}};
    });
    e = evaluateAnalyte(batch);
    EXPECT_TRUE(e.decisionOf({Role::Unknown, 1})->isDecided());
    EXPECT_EQ(decisionText(batch.method.analyte().decisions, *e.decisionOf({Role::Unknown, 1})), "bold");
}

TEST(Decisions, AreCountedAndAskForReview) {
    const SampleResult first = *evaluateAnalyte(withLimits({})).result({Role::Unknown, 1});
    Batch batch = withLimits({*first.result});
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    const auto counts = countClasses(batch.method.analyte().decisions, e.decisions);
    ASSERT_EQ(counts.size(), 3u);
    EXPECT_EQ(counts[0] + counts[1] + counts[2], e.decisions.size());
    EXPECT_EQ(counts[2], 1u);
    const CriterionResult* clear = criterion(e, "decisions");
    ASSERT_NE(clear, nullptr);
    EXPECT_EQ(clear->outcome, Outcome::Review);
    EXPECT_EQ(clear->places, test::placesOf(batch, {Role::Unknown, 1}));
    EXPECT_NE(clear->where.find("U01 spans"), std::string::npos) << clear->where;
    EXPECT_TRUE(e.result({Role::Unknown, 1})->needsReview);
    EXPECT_EQ(criterion(evaluateAnalyte(withLimits({})), "decisions"), nullptr);
}

// A sample whose first dilution is beyond the range is decided by the next, with the interval of that one.
TEST(Decisions, HaveTheIntervalOfTheDilutionThatDecides) {
    Batch batch = withLimits({50});
    for (const Place place : test::placesOf(batch, {Role::Unknown, 2})) {
        batch.places[place] = {Role::Unknown, 1, 2};
    }
    batch.preparations[{1, 2}] = {7};
    batch = test::withMethod(batch, [&](Method& m) { // the first reads 2 mg/L or so, the second more
        const double first = *evaluateAnalyte(batch).result({Role::Unknown, 1})->readOff.x;
        const double second = *evaluateAnalyte(batch).result({Role::Unknown, 1, 2})->readOff.x;
        m.analyte().range = {RangeBy::Hand, 20, first < second ? (first + second) / 2 : 0.01,
                             first < second ? 500 : (first + second) / 2, 1};
    });
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    const SampleResult &one = *e.result({Role::Unknown, 1}), &two = *e.result({Role::Unknown, 1, 2});
    ASSERT_FALSE(one.result);
    ASSERT_TRUE(two.result && two.low);
    const SampleDecision& decision = *e.decisionOf({Role::Unknown, 1});
    EXPECT_EQ(decision.value, two.result);
    EXPECT_EQ(decision.low, two.low);
    EXPECT_EQ(decision.high, two.high);
}

TEST(Decisions, StandInTheWorking) {
    const SampleResult first = *evaluateAnalyte(withLimits({})).result({Role::Unknown, 1});
    const Batch batch = withLimits({*first.result});
    const Working working = workingOf(batch, evaluateAnalyte(batch), Assignment{Role::Unknown, 1});
    const auto found = std::ranges::find_if(
        working.steps, [](const WorkingStep& step) { return step.title.starts_with("Decision limits "); });
    ASSERT_NE(found, working.steps.end());
    ASSERT_EQ(found->lines.size(), 2u);
    EXPECT_TRUE(found->lines[0].ends_with("with probability 0.500")) << found->lines[0];
    EXPECT_TRUE(found->lines[1].starts_with("spans ")) << found->lines[1];
}

TEST(Decisions, NameTheirClasses) {
    DecisionRule rule{DecisionBy::Interval, {0.45, 0.9}, {"mild", "", "bold"}};
    EXPECT_EQ(className(rule, 0), "mild");
    EXPECT_EQ(className(rule, 1), "0.45 to 0.9");
    EXPECT_EQ(className(rule, 2), "bold");
    SampleDecision open;
    open.lowest = 0;
    open.highest = 2;
    EXPECT_EQ(decisionText(rule, open), "spans 0.45 and 0.9");
    Method method;
    method.analyte().decisions = {DecisionBy::Interval, {2, 1}, {"", "", ""}};
    EXPECT_EQ(validate(method).error().code, "method.decisions");
    method.analyte().decisions = {DecisionBy::Interval, {1, 2}, {"low", "high"}};
    EXPECT_EQ(validate(method).error().code, "method.decisions");
    method.analyte().decisions = {DecisionBy::Interval, {1, 2}, {"", "", ""}};
    EXPECT_TRUE(validate(method));
}

TEST(Decisions, StandInFiles) {
    const Batch batch = withLimits({50});
    const auto json = nlohmann::json::parse(evaluationJson(batch, evaluate(batch)));
    const auto& decisions = json.at("decisions");
    EXPECT_EQ(decisions.at("by"), "interval");
    EXPECT_EQ(decisions.at("samples").size(), 6u);
    std::size_t counted = decisions.at("notDecided");
    for (const auto& one : decisions.at("classes")) {
        counted += one.at("count").get<std::size_t>();
    }
    EXPECT_EQ(counted, 6u);
    const std::string csv = resultsCsv(batch, evaluate(batch));
    EXPECT_NE(csv.find("remark,Class\n"), std::string::npos) << csv;
    EXPECT_NE(csv.find(",up to 50\n"), std::string::npos) << csv;
}

TEST(DerivedValues, FollowFromResultVolumeAndMass) {
    Batch batch = test::withMethod(test::sampleDocument().batch(), [](Method& m) {
        m.dilutionRelativeSe = 0.02;
        m.analyte().derived = {{"Content", "µg/g", "result * volume / mass"}, {"Ratio", "", "100 / result"}};
    });
    batch.samples[1].volume = 0.05;
    batch.samples[1].mass = 2.5;
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    const SampleResult& one = *e.result({Role::Unknown, 1});
    ASSERT_EQ(one.derived.size(), 2u);
    EXPECT_NEAR(*one.derived[0].value, *one.result * 0.05 / 2.5, 1e-12);
    EXPECT_NEAR(*one.derived[0].low, *one.low * 0.05 / 2.5, 1e-12);
    EXPECT_NEAR(*one.derived[1].low, 100 / *one.high, 1e-12) << "a formula that falls turns its interval around";
    EXPECT_LT(*one.derived[1].low, *one.derived[1].high);
    const SampleResult& two = *e.result({Role::Unknown, 2});
    EXPECT_FALSE(two.derived[0].value) << "without volume and mass there is no content";
    EXPECT_TRUE(two.derived[1].value);
    Method wrong = batch.method;
    wrong.analyte().derived[0].formula = "result * weight";
    EXPECT_EQ(validate(wrong).error().code, "formula.unknown-name");
    wrong.analyte().derived[0] = {"", "", "result"};
    EXPECT_EQ(validate(wrong).error().code, "method.derived");
}

// Recovery of a spike: 100 (found − unspiked) ÷ added; common practice, as in ICH M10 (2022), 3.2.9 for dilutions.
TEST(Spikes, AreHeldAgainstTheirSample) {
    Document document = test::sampleDocument();
    const std::vector<Place> six = test::placesOf(document.batch(), {Role::Unknown, 6});
    Batch batch = document.batch();
    for (const Place place : six) {
        batch.places[place] = {Role::Spike, 1};
    }
    const AnalyteEvaluation without = evaluateAnalyte(batch);
    EXPECT_FALSE(without.result({Role::Spike, 1})->recoveryPercent) << "nothing says what was added";
    batch.samples[1].added = 10;
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    const double unspiked = *e.result({Role::Unknown, 1})->result, found = *e.result({Role::Spike, 1})->result;
    EXPECT_NEAR(*e.result({Role::Spike, 1})->recoveryPercent, 100 * (found - unspiked) / 10, 1e-9);
}

TEST(LeastDilution, NamesSamplesThatAreDilutedLess) {
    const auto problems = [](double least) {
        const Batch batch =
            test::withMethod(test::sampleDocument().batch(), [&](Method& m) { m.leastDilution = least; });
        const AnalyteEvaluation e = evaluateAnalyte(batch);
        EXPECT_NEAR(*e.result({Role::Unknown, 1})->result,
                    *evaluateAnalyte(test::sampleDocument().batch()).result({Role::Unknown, 1})->result, 1e-12)
            << "it is never applied besides the dilution that was typed";
        return e.problems;
    };
    EXPECT_TRUE(problems(5).empty()) << "the samples are diluted × 5";
    ASSERT_EQ(problems(10).size(), 6u);
    EXPECT_NE(problems(10)[0].message.find("U01 is diluted × 5"), std::string::npos) << problems(10)[0].message;
}

TEST(ResultColumns, AreChosenAndOrderedByTheMethod) {
    Batch batch = test::sampleDocument().batch();
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    EXPECT_EQ(resultColumnKeys(batch, e), (std::vector<std::string>{"place", "sample", "response", "read-off", "cv",
                                                                    "dilution", "result", "interval", "status"}));
    batch.method.resultColumns = {"result", "place", "note", "gone"};
    batch.samples[1].note = "cloudy";
    const auto columns = resultColumns(batch, e);
    ASSERT_EQ(columns.size(), 3u);
    EXPECT_EQ(columns[0].title, "Result, µg/L");
    const SampleResult& one = *e.result({Role::Unknown, 1});
    EXPECT_EQ(columns[0].cell(one).number, one.result);
    EXPECT_EQ(columns[2].cell(one).text, "cloudy");
    const std::string csv = resultsCsv(batch, e);
    EXPECT_TRUE(csv.starts_with("\"Result, µg/L\",Place,Note\n")) << csv;
    EXPECT_NE(csv.find(",U01,cloudy\n"), std::string::npos) << csv;
}

// What the batch says is what the core says of the raw readings, tests/reference/planning_test.cpp.
TEST(PercentOfControls, IsOfTheNegativeControlsWithTheirCommonBlank) {
    Document document = test::sampleDocument();
    EXPECT_FALSE(evaluate(document.batch()).analyte().result({Role::Unknown, 1})->ofControl);
    for (const ResultColumn& column : allResultColumns(document.batch(), evaluate(document.batch()).analyte())) {
        EXPECT_NE(column.key, "of-control");
    }
    const std::vector<Place> controls{{7, 2}, {7, 3}};
    const auto command = assignRole(document.batch(), controls, Role::NegativeControl, 2, Direction::Across);
    ASSERT_TRUE(command && document.apply(*command));
    const auto readings = [](const AnalyteEvaluation& evaluation, const std::vector<Place>& places) {
        std::vector<double> out;
        for (const Place place : places) {
            out.push_back(*evaluation.at(place).raw);
        }
        return out;
    };
    const auto checkBy = [&](Weighting weighting, VarianceGrowth growth) {
        const Batch batch =
            test::withMethod(document.batch(), [&](Method& m) { m.analyte().fit.weighting = weighting; });
        const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
        std::vector<std::vector<double>> samples;
        std::vector<const SampleResult*> results;
        for (const SampleResult& result : evaluation.results) {
            if (result.group.role != Role::NegativeControl) {
                samples.push_back(readings(evaluation, test::placesOf(batch, result.group)));
                results.push_back(&result);
            }
        }
        const auto want = percentOfControl(readings(evaluation, controls),
                                           readings(evaluation, test::placesOf(batch, {Role::Blank, 0})), samples,
                                           batch.method.confidence, growth);
        for (std::size_t i = 0; i < results.size(); ++i) {
            ASSERT_TRUE(results[i]->ofControl) << i;
            EXPECT_EQ(results[i]->ofControl->percent, want->samples[i].percent);
            EXPECT_EQ(results[i]->ofControl->se, want->samples[i].se);
        }
        EXPECT_FALSE(evaluation.result({Role::NegativeControl, 1})->ofControl) << "the control is its own measure";
    };
    checkBy(Weighting::None, VarianceGrowth::Constant);
    checkBy(Weighting::InverseY2, VarianceGrowth::WithMeanSquare);
    const AnalyteEvaluation evaluation = evaluateAnalyte(document.batch());
    const auto columns = allResultColumns(document.batch(), evaluation);
    const SampleResult& first = *evaluation.result({Role::Unknown, 1});
    const auto cell = [&](const char* key) { return std::ranges::find(columns, key, &ResultColumn::key)->cell(first); };
    EXPECT_EQ(cell("of-control").number, first.ofControl->percent);
    EXPECT_NEAR(*cell("of-control").number + *cell("inhibition").number, 100, 1e-9);
}

} // namespace
} // namespace nuvat
