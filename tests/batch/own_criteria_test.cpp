// Every variable that a criterion of one's own may name, against the number of the evaluation it stands for; what
// becomes of overrides when criteria change.
#include "nuvat/batch/command.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::sampleDocument;
using test::withMethod;

/// The sample batch with a little scatter, so that no number is trivial.
Batch scattered() {
    Batch batch = sampleDocument().batch();
    int step = 0;
    test::editGrid(batch, [&step](Grid& grid) {
        for (ReadingWell& well : grid.wells) {
            if (well.value) {
                *well.value *= 1 + 0.01 * ((step * 7) % 5 - 2) / 2.0;
            }
            ++step;
        }
    });
    return batch;
}

Batch withCriterion(const Batch& batch, CriterionScope scope, const std::string& quantity, Comparison comparison,
                    double limit, bool asksForReview = false) {
    return withMethod(batch, [&](Method& method) {
        method.criteria.push_back({"Own", scope, quantity, comparison, limit, asksForReview});
    });
}

const CriterionResult& own(const AnalyteEvaluation& evaluation) {
    const auto it = std::find_if(evaluation.criteria.begin(), evaluation.criteria.end(),
                                 [](const CriterionResult& c) { return c.key.starts_with("own-"); });
    if (it == evaluation.criteria.end()) {
        throw std::runtime_error("no own criterion");
    }
    return *it;
}

/// The criterion "variable at most value" just passes and "at most a little less" just fails: so the variable is value.
void expectVariable(const Batch& batch, CriterionScope scope, const std::string& variable, double value) {
    ASSERT_TRUE(std::isfinite(value)) << variable;
    const double margin = 1e-9 * (1 + std::abs(value));
    const AnalyteEvaluation met =
        evaluateAnalyte(withCriterion(batch, scope, variable, Comparison::AtMost, value + margin));
    EXPECT_EQ(own(met).outcome, Outcome::Pass) << variable << " " << value << " " << own(met).where;
    const AnalyteEvaluation missed =
        evaluateAnalyte(withCriterion(batch, scope, variable, Comparison::AtMost, value - margin));
    EXPECT_EQ(own(missed).outcome, Outcome::Fail) << variable << " " << value;
}

using Pick = std::function<std::optional<double>(const SampleResult&)>;

/// Largest value over the samples of a role: what "at most" is about.
double largest(const AnalyteEvaluation& evaluation, Role role, const Pick& pick) {
    double most = -1e300;
    for (const SampleResult& result : evaluation.results) {
        if (result.group.role == role) {
            most = std::max(most, pick(result).value_or(-1e300));
        }
    }
    return most;
}

TEST(OwnCriteriaVariables, OfAnAnalyteAreThoseOfItsEvaluation) {
    const Batch batch = scattered();
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    const auto expect = [&](const std::string& variable, double value) {
        expectVariable(batch, CriterionScope::Analyte, variable, value);
    };
    std::size_t within = 0;
    double worst = 0;
    for (const LevelValue& level : e.levels) {
        within += level.isWithin ? 1u : 0u;
        worst = std::max(worst, std::abs(*level.errorPercent));
    }
    expect("r2", *e.fit.rSquared);
    expect("s", e.fit.s);
    expect("n", static_cast<double>(e.fit.n));
    expect("levels", static_cast<double>(e.levels.size()));
    expect("levels_within", static_cast<double>(within));
    expect("worst_error", worst);
    expect("lloq", *e.range.lloq);
    expect("uloq", *e.range.uloq);
    expect("blank_mean", *e.blank.description.mean);
    expect("blank_sd", *e.blank.description.sd);
    expect("blank_cv", *e.blank.description.cvPercent);
    expect("pooled_cv", *e.pooledCvPercent);
    expect("response_low", response(e.fit, e.fit.lowestX));
    expect("response_high", response(e.fit, e.fit.highestX));
    const Batch line = withMethod(batch, [](Method& method) { method.analyte().fit.model = Model::Line; });
    expectVariable(line, CriterionScope::Analyte, "r", *evaluateAnalyte(line).fit.r);
}

TEST(OwnCriteriaVariables, OfALevelAreThoseOfTheLevel) {
    const Batch batch = scattered();
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    const auto expect = [&](const std::string& variable, const std::function<double(const LevelValue&)>& pick) {
        double most = -1e300;
        for (const LevelValue& level : e.levels) {
            most = std::max(most, pick(level));
        }
        expectVariable(batch, CriterionScope::Level, variable, most);
    };
    expect("x", [](const LevelValue& level) { return *level.x; });
    expect("n", [](const LevelValue& level) { return static_cast<double>(level.response.n); });
    expect("mean", [](const LevelValue& level) { return *level.response.mean; });
    expect("sd", [](const LevelValue& level) { return *level.response.sd; });
    expect("cv", [](const LevelValue& level) { return *level.response.cvPercent; });
    expect("back", [](const LevelValue& level) { return *level.backCalculated; });
    expect("error", [](const LevelValue& level) { return *level.errorPercent; });
    expect("abs(error)", [](const LevelValue& level) { return std::abs(*level.errorPercent); });
}

TEST(OwnCriteriaVariables, OfASampleAndAQcAreThoseOfTheirResult) {
    const Batch batch = scattered();
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    const auto expect = [&](CriterionScope scope, const std::string& variable, const Pick& pick) {
        const Role role = scope == CriterionScope::Qc ? Role::Qc : Role::Unknown;
        expectVariable(batch, scope, variable, largest(e, role, pick));
    };
    for (const CriterionScope scope : {CriterionScope::Sample, CriterionScope::Qc}) {
        expect(scope, "n", [](const SampleResult& r) { return std::optional(static_cast<double>(r.response.n)); });
        expect(scope, "mean", [](const SampleResult& r) { return r.response.mean; });
        expect(scope, "cv", [](const SampleResult& r) { return r.concentration.cvPercent; });
        expect(scope, "x", [](const SampleResult& r) { return r.readOff.x; });
        expect(scope, "se", [](const SampleResult& r) { return r.readOff.se; });
    }
    expect(CriterionScope::Sample, "result", [](const SampleResult& r) { return r.result; });
    expect(CriterionScope::Sample, "dilution", [](const SampleResult& r) { return std::optional(r.dilution); });
    expect(CriterionScope::Sample, "interval",
           [](const SampleResult& r) { return std::optional(50 * (*r.readOff.high - *r.readOff.low) / *r.readOff.x); });
    expect(CriterionScope::Qc, "nominal", [](const SampleResult& r) { return r.nominal; });
    expect(CriterionScope::Qc, "recovery", [](const SampleResult& r) { return r.recoveryPercent; });
}

TEST(OwnCriteriaVariables, OfTheBatchCountItsAnalytesAndResults) {
    const Batch batch = scattered();
    for (const auto& [variable, value] :
         {std::pair{"analytes", 1.0}, {"accepted", 1.0}, {"failed", 0.0}, {"samples", 6.0}, {"reported", 6.0}}) {
        const Evaluation met =
            evaluate(withCriterion(batch, CriterionScope::Batch, variable, Comparison::AtLeast, value));
        ASSERT_EQ(met.criteria.size(), 1u);
        EXPECT_EQ(met.criteria.front().outcome, Outcome::Pass) << variable << " " << met.criteria.front().foundText;
        const Evaluation missed =
            evaluate(withCriterion(batch, CriterionScope::Batch, variable, Comparison::AtLeast, value + 0.5));
        EXPECT_EQ(missed.criteria.front().outcome, Outcome::Fail) << variable;
        EXPECT_EQ(missed.verdict, Outcome::Fail);
    }
}

TEST(OwnCriteriaVariables, AreEachExplainedOnce) {
    for (const CriterionScope scope : {CriterionScope::Batch, CriterionScope::Analyte, CriterionScope::Level,
                                       CriterionScope::Sample, CriterionScope::Qc}) {
        std::vector<std::string_view> names;
        for (const CriterionVariable& variable : criterionVariables(scope)) {
            EXPECT_FALSE(std::string_view(variable.meaning).empty());
            EXPECT_EQ(std::count(names.begin(), names.end(), std::string_view(variable.name)), 0) << variable.name;
            names.emplace_back(variable.name);
        }
        EXPECT_GE(names.size(), 5u);
    }
}

TEST(OwnCriteria, OfALevelNameWhatMissesAndItsPlaces) {
    const Batch batch = withCriterion(scattered(), CriterionScope::Level, "x", Comparison::AtLeast, 2);
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    const CriterionResult& result = own(evaluation);
    EXPECT_EQ(result.outcome, Outcome::Fail);
    EXPECT_TRUE(result.isFloor);
    EXPECT_NE(result.where.find("S7 0.6859"), std::string::npos) << result.where; // 500/3^6
    EXPECT_EQ(result.places.size(), 2u);
    EXPECT_EQ(result.limitText, "x at least 2");
    EXPECT_EQ(evaluation.verdict, Outcome::Fail);
}

TEST(OwnCriteria, OfASampleThatAsksForReviewMarksTheSample) {
    const Batch batch =
        withCriterion(scattered(), CriterionScope::Sample, "result", Comparison::AtMost, 100, /*asksForReview=*/true);
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    EXPECT_EQ(own(evaluation).outcome, Outcome::Review);
    std::size_t marked = 0;
    for (const SampleResult& result : evaluation.results) {
        const bool isAbove = result.group.role == Role::Unknown && result.result.value_or(0) > 100;
        EXPECT_EQ(result.needsReview, isAbove) << shortName(batch, result.group);
        marked += isAbove ? 1u : 0u;
        if (isAbove) {
            EXPECT_TRUE(result.remark.starts_with("Own: ")) << result.remark;
            EXPECT_TRUE(result.remark.ends_with("is not at most 100.")) << result.remark;
        }
    }
    EXPECT_GT(marked, 0u);
}

TEST(OwnCriteria, OfWhatIsNotDefinedAreNotApplicable) {
    const Batch batch = withCriterion(scattered(), CriterionScope::Analyte, "r", Comparison::AtLeast, 0.99);
    EXPECT_EQ(own(evaluateAnalyte(batch)).outcome, Outcome::NotApplicable); // a 4PL has no r
    const Batch divided = withCriterion(scattered(), CriterionScope::Analyte, "1/(n-n)", Comparison::AtMost, 1);
    EXPECT_EQ(own(evaluateAnalyte(divided)).outcome, Outcome::NotApplicable);
}

/// A document with three failing criteria of its own, the middle one overridden.
Document withOverride() {
    Document document = sampleDocument();
    Method method = document.batch().method;
    for (const char* title : {"First", "Second", "Third"}) {
        method.criteria.push_back({title, CriterionScope::Analyte, "n", Comparison::AtMost,
                                   static_cast<double>(method.criteria.size()), false});
    }
    EXPECT_TRUE(document.apply(setMethod(document.batch(), method)));
    const AnalyteEvaluation evaluation = evaluateAnalyte(document.batch());
    const auto second = std::find_if(evaluation.criteria.begin(), evaluation.criteria.end(),
                                     [](const CriterionResult& c) { return c.title == "Second"; });
    EXPECT_TRUE(document.apply(overrideCriterion(document.batch(), 1, *second, "agreed", 5)));
    return document;
}

std::vector<std::string> overridden(const Batch& batch) {
    std::vector<std::string> titles;
    for (const CriterionResult& criterion : evaluateAnalyte(batch).criteria) {
        if (criterion.isOverridden()) {
            titles.push_back(criterion.title);
        }
    }
    return titles;
}

TEST(Overrides, FollowTheirCriterionWhenOthersGoOrMove) {
    Document document = withOverride();
    EXPECT_EQ(overridden(document.batch()), std::vector<std::string>{"Second"});
    Method method = document.batch().method;
    method.criteria.erase(method.criteria.begin());
    ASSERT_TRUE(document.apply(setMethod(document.batch(), method)));
    EXPECT_EQ(overridden(document.batch()), std::vector<std::string>{"Second"});
    std::swap(method.criteria[0], method.criteria[1]);
    ASSERT_TRUE(document.apply(setMethod(document.batch(), method)));
    EXPECT_EQ(overridden(document.batch()), std::vector<std::string>{"Second"});
    const Batch moved = document.batch();
    ASSERT_TRUE(document.undo());
    ASSERT_TRUE(document.undo());
    EXPECT_EQ(overridden(document.batch()), std::vector<std::string>{"Second"});
    ASSERT_TRUE(document.redo());
    ASSERT_TRUE(document.redo());
    EXPECT_EQ(document.batch(), moved);
}

// The decision is not dropped, but it was about another limit: the criterion counts again and says so.
TEST(Overrides, AreLookedAtAgainWhenTheirCriterionChanges) {
    Document document = withOverride();
    const Batch before = document.batch();
    Method method = before.method;
    const std::string reason = before.overrides.begin()->second.reason;
    method.criteria[1].limit = 1.5;
    ASSERT_TRUE(document.apply(setMethod(document.batch(), method)));
    EXPECT_TRUE(overridden(document.batch()).empty());
    EXPECT_EQ(document.batch().overrides.size(), 1u);
    const AnalyteEvaluation evaluation = evaluateAnalyte(document.batch());
    const auto found = std::find_if(evaluation.criteria.begin(), evaluation.criteria.end(),
                                    [](const auto& c) { return c.key == ownCriterionKey(1); });
    ASSERT_NE(found, evaluation.criteria.end());
    EXPECT_EQ(found->outcome, Outcome::Fail);
    EXPECT_NE(found->where.find("It was overridden (" + reason + ")"), std::string::npos) << found->where;
    ASSERT_TRUE(document.undo()); // with the limit it was given for, it stands again
    EXPECT_EQ(document.batch(), before);
    EXPECT_EQ(overridden(document.batch()).size(), 1u);
    method.criteria[1].limit = before.method.criteria[1].limit;
    method.criteria[1].title = "Renamed";
    ASSERT_TRUE(document.apply(setMethod(document.batch(), method)));
    EXPECT_EQ(overridden(document.batch()), std::vector<std::string>{"Renamed"});
}

TEST(Working, NamesALimitOnlyWhereTheCriteriaHaveOne) {
    const Batch batch = scattered();
    const auto lineOf = [](const Batch& of) {
        const Working working = workingOf(of, evaluateAnalyte(of), Assignment{Role::Standard, 1});
        return working.steps.back().lines.front();
    };
    EXPECT_NE(lineOf(batch).find("within ±25 %"), std::string::npos) << lineOf(batch); // an end
    const Batch without = withMethod(batch, [](Method& method) { method.limits.backCalculated.reset(); });
    EXPECT_EQ(lineOf(without).find("±"), std::string::npos) << lineOf(without);
    for (const LevelValue& level : evaluateAnalyte(without).levels) {
        EXPECT_EQ(level.limitPercent, 0);
        EXPECT_TRUE(level.isWithin);
    }
}

// What a person sees while typing is what the criterion then judges, place by place.
TEST(OwnCriteria, ShowTheirValuesBeforeTheyAreTheMethods) {
    const Document document = test::sampleDocument();
    const Evaluation evaluation = evaluate(document.batch());
    const AnalyteEvaluation& analyte = evaluation.analyte();
    const Criterion errors{"", CriterionScope::Level, "abs(error)", Comparison::AtMost, 1e-9, false};
    const auto levels = criterionValues(document.batch(), evaluation, 1, errors);
    ASSERT_TRUE(levels);
    ASSERT_EQ(levels->size(), analyte.levels.size());
    for (std::size_t i = 0; i < levels->size(); ++i) {
        EXPECT_EQ((*levels)[i].name, "S" + std::to_string(analyte.levels[i].number));
        EXPECT_EQ((*levels)[i].value, std::abs(*analyte.levels[i].errorPercent));
        EXPECT_EQ((*levels)[i].isMet, std::abs(*analyte.levels[i].errorPercent) <= 1e-9);
    }
    const auto qcs = criterionValues(document.batch(), evaluation, 1,
                                     {"", CriterionScope::Qc, "recovery", Comparison::AtLeast, 99.9, false});
    ASSERT_EQ(qcs->size(), 2u);
    EXPECT_NEAR(*qcs->front().value, 100, 0.01);
    const auto whole = criterionValues(document.batch(), evaluation, 1,
                                       {"", CriterionScope::Batch, "samples", Comparison::AtLeast, 7, false});
    ASSERT_EQ(whole->size(), 1u);
    EXPECT_EQ(whole->front().value, 6);
    EXPECT_FALSE(whole->front().isMet);
    EXPECT_EQ(criterionValues(document.batch(), evaluation, 1, {"", CriterionScope::Qc, "recovry"}).error().code,
              "formula.unknown-name");
}

} // namespace
} // namespace nuvat
