// Standards that bracket samples: which runs share a curve, and that each curve is that of its runs alone.
#include "nuvat/batch/brackets.h"

#include "nuvat/batch/document.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/batch/layout_checks.h"
#include "nuvat/batch/other_curves.h"
#include "nuvat/workflow/peak_table.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

/// A run list from letters: s standard, u unknown, q QC, b blank, - nothing.
Batch listOf(const std::string& letters) {
    Batch batch;
    batch.carriers = {{1, Carrier{CarrierKind::RunList, "", static_cast<int>(letters.size()), 1}}};
    for (std::size_t i = 0; i < letters.size(); ++i) {
        const Place place{static_cast<int>(i), 0};
        switch (letters[i]) {
        case 's':
            batch.places[place] = {Role::Standard, 1};
            break;
        case 'u':
            batch.places[place] = {Role::Unknown, static_cast<int>(i) + 1};
            break;
        case 'q':
            batch.places[place] = {Role::Qc, 1};
            break;
        case 'b':
            batch.places[place] = {Role::Blank, 0};
            break;
        default:
            break;
        }
    }
    return batch;
}

TEST(Brackets, SamplesHaveTheStandardsOnBothSides) {
    const auto found = bracketsOf(listOf("bssquuqssbquuuss"), 1);
    ASSERT_EQ(found.size(), 2u);
    EXPECT_EQ(found[0], (Bracket{1, 1, 0, 8, 0, 8}));
    EXPECT_EQ(found[1], (Bracket{1, 2, 6, 15, 9, 15}));
    EXPECT_TRUE(found[0].holds({6, 0}, Role::Qc)) << "a control before the standards is of the samples before it";
    EXPECT_FALSE(found[1].holds({6, 0}, Role::Qc));
    EXPECT_TRUE(found[1].holds({7, 0}, Role::Standard));
    EXPECT_TRUE(found[0].holds({7, 0}, Role::Standard)) << "standards between two stretches are of both";
    EXPECT_TRUE(found[1].holds({10, 0}, Role::Qc));
    EXPECT_FALSE(found[1].holds({10, 0, 2}, Role::Qc)) << "on another list";
}

TEST(Brackets, EndsWithoutStandardsGoToWhatThereIs) {
    EXPECT_EQ(bracketsOf(listOf("uussuu"), 1), (std::vector{Bracket{1, 1, 0, 3, 0, 3}, Bracket{1, 2, 2, 5, 4, 5}}));
    EXPECT_EQ(bracketsOf(listOf("ssuuqb"), 1), (std::vector{Bracket{1, 1, 0, 5, 0, 5}}));
    EXPECT_TRUE(bracketsOf(listOf("ssqq"), 1).empty()) << "nothing to read off";
    EXPECT_TRUE(bracketsOf(Batch{}, 1).empty()) << "a plate";
    EXPECT_TRUE(bracketsOf(listOf("su"), 7).empty());
}

/// Areas 100 per unit of content, of which two in a hundred go from run to run.
std::vector<PeakRow> driftingRows(std::size_t from, std::size_t to) {
    struct Content {
        Role role;
        const char* name;
        double value;
    };
    const std::vector<Content> sequence{
        {Role::Standard, "1", 1},    {Role::Standard, "2", 4},   {Role::Standard, "3", 16}, {Role::Unknown, "cider", 3},
        {Role::Unknown, "perry", 9}, {Role::Standard, "1", 1},   {Role::Standard, "2", 4},  {Role::Standard, "3", 16},
        {Role::Unknown, "mead", 6},  {Role::Unknown, "must", 2}, {Role::Standard, "1", 1},  {Role::Standard, "2", 4},
        {Role::Standard, "3", 16}};
    std::vector<PeakRow> rows;
    for (std::size_t i = from; i < to; ++i) {
        PeakRow row;
        row.line = static_cast<int>(rows.size()) + 2;
        row.injection = std::to_string(i + 1);
        row.name = std::string(sequence[i].name) + " run " + std::to_string(i + 1);
        row.role = sequence[i].role;
        row.level = sequence[i].name;
        row.analyte = "sorbic acid";
        row.nominal = row.role == Role::Standard ? std::optional(sequence[i].value) : std::nullopt;
        row.area = 100 * sequence[i].value * (1 - 0.02 * static_cast<double>(i));
        rows.push_back(row);
    }
    return rows;
}

Batch drifting(std::size_t from, std::size_t to) {
    PeakTableRules rules;
    rules.response = PeakResponse::Area;
    auto made = batchOfPeaks(driftingRows(from, to), rules);
    EXPECT_TRUE(made) << made.error().text();
    return made->batch;
}

Batch bracketed() {
    Batch batch = drifting(0, 13);
    batch.method.analyte().source.curve = CurveOf::Bracket;
    return batch;
}

double found(const AnalyteEvaluation& evaluation, std::size_t index) {
    return evaluation.results.at(index).readOff.x.value();
}

TEST(Brackets, EachCurveIsThatOfItsRunsAlone) {
    const Evaluation whole = evaluate(bracketed());
    ASSERT_EQ(whole.analytes.size(), 2u);
    const std::array<std::pair<std::size_t, std::size_t>, 2> runs{{{0, 8}, {5, 13}}};
    for (std::size_t i = 0; i < runs.size(); ++i) {
        const AnalyteEvaluation& part = whole.analytes[i];
        const Evaluation alone = evaluate(drifting(runs[i].first, runs[i].second));
        const AnalyteEvaluation& other = alone.analytes.front();
        EXPECT_EQ(part.bracket, static_cast<int>(i) + 1);
        EXPECT_EQ(part.fit.parameters, other.fit.parameters);
        ASSERT_EQ(part.results.size(), 2u);
        for (std::size_t k = 0; k < 2; ++k) {
            EXPECT_EQ(found(part, k), found(other, k));
            EXPECT_EQ(part.results[k].low, other.results[k].low);
        }
    }
}

TEST(Brackets, TakeOutWhatDriftsFromSetToSet) {
    Batch batch = bracketed();
    const Evaluation byBracket = evaluate(batch);
    batch.method.analyte().source.curve = CurveOf::Batch;
    const Evaluation together = evaluate(batch);
    const std::array<double, 4> truth{3, 9, 6, 2};
    double worstOfBrackets = 0, worstTogether = 0;
    for (std::size_t i = 0; i < truth.size(); ++i) {
        const AnalyteEvaluation& part = byBracket.analytes[i / 2];
        worstOfBrackets = std::max(worstOfBrackets, std::abs(found(part, i % 2) / truth[i] - 1));
        worstTogether = std::max(worstTogether, std::abs(found(together.analytes.front(), i) / truth[i] - 1));
    }
    EXPECT_LT(worstOfBrackets, 0.035);
    EXPECT_GT(worstTogether, 1.8 * worstOfBrackets);
}

TEST(Brackets, ARunLeadsToItsCurve) {
    const Batch batch = bracketed();
    const Evaluation evaluation = evaluate(batch);
    EXPECT_EQ(evaluation.at(1, {4, 0}).bracket, 1);
    EXPECT_EQ(evaluation.at(1, {8, 0}).bracket, 2);
    EXPECT_EQ(evaluation.analyte(1, 1, 2).bracket, 2);
    EXPECT_EQ(curveName(batch, evaluation.analyte(1, 1, 2)), "sorbic acid, bracket 2");
    const auto others = otherCurves(batch, evaluation, evaluation.analyte(1, 1, 2));
    ASSERT_EQ(others.size(), 1u);
    EXPECT_EQ(others.front().name, "bracket 1");
}

TEST(Brackets, AnEditGivesTheSameAsAllAnew) {
    Batch batch = bracketed();
    Evaluator evaluator(1);
    const auto before = evaluator.evaluate(batch);
    batch.exclusions[ExclusionKey{Place{1, 0}}] = {"spilt", 0};
    const auto after = evaluator.evaluate(batch);
    const Evaluation anew = evaluate(batch);
    for (std::size_t i = 0; i < 2; ++i) {
        EXPECT_EQ(after->analytes[i]->fit.parameters, anew.analytes[i]->fit.parameters);
        EXPECT_EQ(found(after->analytes[i], 0), found(anew.analytes[i], 0));
    }
    EXPECT_NE(after->analytes[0]->fit.parameters, before->analytes[0]->fit.parameters);
    EXPECT_EQ(after->analytes[1]->fit.parameters, before->analytes[1]->fit.parameters) << "the other set is its own";
}

TEST(Brackets, TheLayoutSaysWhereStandardsAreMissing) {
    Batch batch = bracketed();
    const auto outcome = [&] {
        for (const LayoutCheck& check : layoutChecks(batch, PlaceIndex(batch), 1)) {
            if (check.title == "Standards in each bracket") {
                return check.outcome;
            }
        }
        return Outcome::NotApplicable;
    };
    EXPECT_EQ(outcome(), Outcome::Pass);
    for (int row = 0; row < 8; ++row) {
        if (row != 5 && batch.places.at({row, 0}).role == Role::Standard) {
            batch.places.erase({row, 0});
        }
    }
    EXPECT_EQ(outcome(), Outcome::Fail);
}

} // namespace
} // namespace nuvat
