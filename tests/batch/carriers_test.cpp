// Several plates and several reads: rules over channels, blanks of their own plate, one curve for all or one a plate.
#include "nuvat/batch/evaluation.h"
#include "nuvat/batch/value_formula.h"
#include "nuvat/batch/working.h"
#include "stages.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

const std::vector<std::string> kChannels{"450 nm", "620 nm", "A", "450", "ln"};

TEST(ValueFormulas, NameChannelsAsTheyAreCalled) {
    const auto parsed = ValueFormula::parse("450 nm − 620 nm", kChannels);
    ASSERT_TRUE(parsed) << parsed.error().text();
    EXPECT_EQ(parsed->channels(), (std::vector<std::string>{"450 nm", "620 nm"}));
    EXPECT_DOUBLE_EQ(parsed->value({1.25, 0.25}), 1.0);
    EXPECT_DOUBLE_EQ(ValueFormula::parse("450 nm−620 nm", kChannels)->value({1.25, 0.25}), 1.0);
    EXPECT_DOUBLE_EQ(ValueFormula::parse("(620 nm × 2) ÷ 450 nm", kChannels)->value({3, 2}), 3);
    EXPECT_DOUBLE_EQ(ValueFormula::parse("2 * 450 + A", kChannels)->value({7}), 907); // 450 alone is a number
    EXPECT_DOUBLE_EQ(ValueFormula::parse("\"450\" + 1", kChannels)->value({7}), 8);
    EXPECT_DOUBLE_EQ(ValueFormula::parse("log10(450 nm)", kChannels)->value({100}), 2);
    const auto mixed = ValueFormula::parse("\"450 nm\" + 450 nm + \"450 nm\" + 450 nm", kChannels);
    ASSERT_TRUE(mixed) << mixed.error().text();
    EXPECT_DOUBLE_EQ(mixed->value(std::vector<double>(mixed->channels().size(), 2)), 8);
    EXPECT_EQ(channelsIn("450 nm / 450 nm + 620 nm", kChannels), (std::vector<std::string>{"450 nm", "620 nm"}));
}

TEST(ValueFormulas, PointAtTheCharacterThatWasTyped) {
    const auto unknown = ValueFormula::parse("450 nm − 630 nm", kChannels);
    ASSERT_FALSE(unknown);
    const auto broken = ValueFormula::parse("450 nm − ", kChannels);
    ASSERT_FALSE(broken);
    const auto second = ValueFormula::parse("450 nm + nope", kChannels);
    ASSERT_FALSE(second);
    EXPECT_NE(second.error().text().find("10"), std::string::npos) << second.error().text();
}

/// The sample batch with a second plate of the same layout, everything read `offset` higher there, its unknowns going
/// on from U07; and both plates read a second time at 620 nm, a constant 0.25.
Batch twoPlates(double offset) {
    Document document = test::sampleDocument();
    Batch batch = document.batch();
    batch.carriers[2] = Carrier{};
    const auto addRead = [&batch](int key, int carrier, const std::string& channel, auto&& edit) {
        Reading reading = *batch.readings.at(1);
        reading.slot = {carrier, std::nullopt, channel};
        test::editGrid(reading, [&](Grid& grid) {
            for (ReadingWell& well : grid.wells) {
                if (well.value) {
                    edit(*well.value);
                }
            }
        });
        batch.readings[key] = reading;
        batch.inUse[reading.slot] = key;
    };
    addRead(2, 2, "", [offset](double& y) { y += offset; });
    addRead(3, 1, "620 nm", [](double& y) { y = 0.25; });
    addRead(4, 2, "620 nm", [](double& y) { y = 0.25; });
    for (const auto& [place, assignment] : document.batch().places) {
        Assignment moved = assignment;
        moved.number += assignment.role == Role::Unknown ? 6 : 0;
        batch.places[{place.row, place.column, 2}] = moved;
    }
    return batch;
}

TEST(Carriers, SubtractTheBlankOfTheirOwnPlate) {
    const Batch batch = twoPlates(0.5);
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    EXPECT_NEAR(e.blanks.at({2, -1}).subtracted - e.blanks.at({1, -1}).subtracted, 0.5, 1e-12);
    EXPECT_NEAR(*e.at({3, 2, 1}).value, *e.at({3, 2, 2}).value, 1e-12);
    for (int number = 1; number <= 6; ++number) {
        EXPECT_NEAR(*e.result({Role::Unknown, number})->readOff.x, *e.result({Role::Unknown, number + 6})->readOff.x,
                    1e-6);
    }
    // The blanks of one plate alone do not stand in for those of the other.
    Batch without = batch;
    without.places.erase({7, 0, 2});
    without.places.erase({7, 1, 2});
    const AnalyteEvaluation lacking = evaluateAnalyte(without);
    EXPECT_EQ(lacking.blanks.at({2, -1}).subtracted, 0);
    ASSERT_FALSE(lacking.problems.empty());
    EXPECT_NE(lacking.problems[0].message.find("is on Plate 2"), std::string::npos) << lacking.problems[0].message;
}

TEST(Carriers, MakeOneCurveOrOneEach) {
    Batch batch = twoPlates(0);
    // On plate 2 the same readings stand for a tenth of the concentration: only a curve of its own can say so.
    const Evaluation one = evaluate(batch);
    ASSERT_EQ(one.analytes.size(), 1u);
    EXPECT_EQ(one.analyte().group({Role::Standard, 1})->places.size(), 4u);
    batch.method.analyte().source.curve = CurveOf::Carrier;
    const Evaluation each = evaluate(batch);
    ASSERT_EQ(each.analytes.size(), 2u);
    EXPECT_EQ(each.analyte(1, 2).carrier, 2);
    EXPECT_EQ(each.analyte(1, 2).group({Role::Standard, 1})->places.size(), 2u);
    EXPECT_EQ(each.analyte(1, 1).result({Role::Unknown, 7}), nullptr);
    EXPECT_NE(each.analyte(1, 2).result({Role::Unknown, 7}), nullptr);
    EXPECT_EQ(curveName(batch, each.analyte(1, 2)), "Patulin, Plate 2");
    EXPECT_EQ(curveName(batch, one.analyte()), "Patulin");
    // Each is what its plate alone would give.
    const Evaluation alone = evaluate(test::sampleDocument().batch());
    EXPECT_EQ(each.analyte(1, 1).fit.parameters, alone.analyte().fit.parameters);
}

TEST(Carriers, ReadAFormulaOverTheirChannels) {
    Batch batch = twoPlates(0.5);
    batch.readings[1] = [&] {
        Reading named = *batch.readings.at(1);
        named.slot.channel = "450 nm";
        return named;
    }();
    batch.readings[2] = [&] {
        Reading named = *batch.readings.at(2);
        named.slot.channel = "450 nm";
        return named;
    }();
    batch.inUse.erase(Slot{1, std::nullopt, ""});
    batch.inUse.erase(Slot{2, std::nullopt, ""});
    batch.inUse[{1, std::nullopt, "450 nm"}] = 1;
    batch.inUse[{2, std::nullopt, "450 nm"}] = 2;
    batch.info.channel = "450 nm";
    const double plain = *evaluateAnalyte(batch).at({3, 2, 2}).raw;
    batch.method.analyte().source.rule = ValueRule{"450 nm − 620 nm"};
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    EXPECT_TRUE(e.problems.empty()) << e.problems[0].message;
    EXPECT_DOUBLE_EQ(*e.at({3, 2, 2}).raw, plain - 0.25);
    const Working working = workingOf(batch, e, Assignment{Role::Unknown, 8});
    ASSERT_GT(working.steps.size(), 3u);
    EXPECT_EQ(working.steps[0].title, "Read at 450 nm");
    EXPECT_EQ(working.steps[1].title, "Read at 620 nm");
    EXPECT_EQ(working.steps[2].title, "450 nm − 620 nm");
    EXPECT_TRUE(working.steps[2].lines[0].starts_with("Plate 2 · D3  ")) << working.steps[2].lines[0];
    // A plate that lacks one of them is named, and nothing is made up for it.
    batch.inUse.erase(Slot{2, std::nullopt, "620 nm"});
    const AnalyteEvaluation lacking = evaluateAnalyte(batch);
    EXPECT_FALSE(lacking.at({3, 2, 2}).raw);
    EXPECT_EQ(lacking.at({3, 2, 2}).state, ResponseState::NotRead);
    ASSERT_FALSE(lacking.problems.empty());
    EXPECT_NE(lacking.problems[0].message.find("Plate 2 has no reading of 620 nm"), std::string::npos);
}

TEST(Carriers, AFormulaThatGivesNoNumberMarksThePlace) {
    Batch batch = test::sampleDocument().batch();
    Reading named = *batch.readings.at(1);
    named.slot.channel = "450 nm";
    batch.readings.at(1) = named;
    batch.inUse = {{named.slot, 1}};
    batch.method.analyte().source.rule = ValueRule{"ln(450 nm - 0.06)"}; // the blanks give ln(0)
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    EXPECT_EQ(e.at({7, 0}).state, ResponseState::Unusable);
    EXPECT_EQ(e.at({0, 0}).state, ResponseState::Used);
}

TEST(Carriers, NamesSayWhichPlate) {
    Batch batch = twoPlates(0);
    EXPECT_EQ(placeName(batch, {3, 2, 2}), "Plate 2 · D3");
    EXPECT_EQ(placeNames(batch.carriers, {{0, 0}, {0, 1}, {1, 0, 2}, {1, 1, 2}}),
              "Plate 1 · A1 and A2, Plate 2 · B1 and B2");
    EXPECT_EQ(countOfPlaces(batch, {{0, 0}, {0, 1}}), "2 wells");
    batch.carriers.at(2) = {CarrierKind::RunList, "", 96, 1};
    EXPECT_EQ(placeName(batch, {11, 0, 2}), "Run list 2 · run 12");
    EXPECT_EQ(placeTitle(test::sampleDocument().batch(), {1, 6}), "Well B7");
    batch.carriers = {{1, {CarrierKind::RunList, "", 96, 1}}};
    EXPECT_EQ(placeNames(batch.carriers, {{17, 0}, {18, 0}, {19, 0}, {30, 0}}), "runs 18 to 20 and 31");
    // Scattered ones are counted beyond the most, as wells are.
    EXPECT_EQ(placeNames(batch.carriers, {{0, 0}, {2, 0}, {4, 0}, {6, 0}, {8, 0}}, 3), "runs 1, 3, 5 and 2 more");
}

// Numbering goes on over all carriers, and the rest of one is filled as of both.
TEST(Carriers, AreNumberedOn) {
    Batch batch = twoPlates(0);
    const auto command = fillRest(batch, Role::Unknown, 2, Direction::Across);
    ASSERT_TRUE(command);
    applyChanges(batch, *command, false);
    EXPECT_EQ(batch.at({0, 4, 1}).number, 13);
    EXPECT_GT(batch.at({0, 4, 2}).number, batch.at({7, 11, 1}).number);
}

// The share of standards on a plate is what the curve follows of its blank.
TEST(BlankShares, OfOneCarrierCancel) {
    const Batch batch = test::withMethod(twoPlates(0.5), [](Method& m) { m.subtractsBlank = true; });
    AnalyteEvaluation e = evaluateAnalyte(batch);
    e.blanks.at({1, -1}).se = 0.01;
    e.blanks.at({2, -1}).se = 0.02;
    e.blanks.at({1, -1}).description.n = e.blanks.at({2, -1}).description.n = 4;
    e.blanks.at({1, -1}).df = e.blanks.at({2, -1}).df = 3;
    const std::vector<Place> onTwo{{3, 2, 2}, {3, 3, 2}};
    // Half of the standards on each: (1 - 1/2)² 0.02² + (1/2)² 0.01².
    EXPECT_NEAR(blankShare(batch, e, onTwo, 1, 0).se, std::sqrt(0.25 * 4e-4 + 0.25 * 1e-4), 1e-12);
    // Nothing follows it, as on a line through the origin with all standards elsewhere.
    EXPECT_NEAR(blankShare(batch, e, onTwo, 0, 0).se, 0.02, 1e-12);
    const std::vector<Place> onBoth{{3, 2, 1}, {3, 3, 2}};
    EXPECT_NEAR(blankShare(batch, e, onBoth, 1, 0).se, 0, 1e-12);
}

TEST(Anchors, TakePartInTheFitAndAreNotJudged) {
    Batch batch = test::sampleDocument().batch();
    const AnalyteEvaluation before = evaluateAnalyte(batch);
    const auto command = setAnchor(batch, 1, true);
    ASSERT_TRUE(command);
    applyChanges(batch, *command, false);
    const AnalyteEvaluation after = evaluateAnalyte(batch);
    EXPECT_EQ(after.fit.n, before.fit.n);
    EXPECT_EQ(after.fit.parameters, before.fit.parameters);
    EXPECT_EQ(before.range.uloq, 500);
    EXPECT_LT(*after.range.uloq, 200); // S2 is the highest that is judged
    batch.method.analyte().range.by = RangeBy::Levels;
    EXPECT_LT(*evaluateAnalyte(batch).range.uloq, 200);
    const auto moved = setLevel(batch, 1, 600.0);
    ASSERT_TRUE(moved);
    applyChanges(batch, *moved, false);
    EXPECT_TRUE(batch.levels.at(1).isAnchor);
}

// One curve a plate and two analytes are four curves: any number of processors gives the same digits.
TEST(Carriers, AreTheSameOnOneProcessorAndOnMany) {
    Batch batch = twoPlates(0.5);
    batch.method.analytes.push_back(batch.method.analyte());
    batch.method.analyte(2).source.rule = ValueRule{"620 nm"};
    batch.method.analyte(2).source.curve = batch.method.analyte(1).source.curve = CurveOf::Carrier;
    for (int level = 1; level <= 7; ++level) {
        batch.levels[{level, 2}] = {3.0 * level};
    }
    Evaluator one(1);
    Evaluator many(4);
    for (int round = 0; round < 20; ++round) {
        batch.exclusions[{round % 8, round % 4, 1 + round % 2}] = {"x", 1};
        const auto alone = one.evaluate(batch);
        const auto together = many.evaluate(batch);
        ASSERT_EQ(alone->analytes.size(), 4u);
        for (std::size_t i = 0; i < alone->analytes.size(); ++i) {
            EXPECT_EQ(alone->analytes[i]->responses, together->analytes[i]->responses);
            EXPECT_EQ(alone->analytes[i]->fit.parameters, together->analytes[i]->fit.parameters);
            ASSERT_EQ(alone->analytes[i]->results.size(), together->analytes[i]->results.size());
            for (std::size_t k = 0; k < alone->analytes[i]->results.size(); ++k) {
                EXPECT_EQ(alone->analytes[i]->results[k].result, together->analytes[i]->results[k].result);
                EXPECT_EQ(alone->analytes[i]->results[k].high, together->analytes[i]->results[k].high);
            }
        }
        EXPECT_EQ(one.work().samples, many.work().samples);
    }
}

// Every command on carriers, runs and typed values is taken back and done again to the same batch.
TEST(Carriers, CommandsAreUndoneAndRedone) {
    Document document = test::sampleDocument();
    Reading read = *document.batch().firstReading(1);
    read.slot.channel = "620 nm";
    const auto& batch = document.batch();
    std::vector<Batch> states{batch};
    const auto apply = [&](Result<Command> command) {
        ASSERT_TRUE(command) << command.error().text();
        ASSERT_TRUE(document.apply(std::move(command)));
        states.push_back(batch);
    };
    apply(importReadings(batch, {read, *batch.firstReading(1)}, {}));
    EXPECT_EQ(batch.carriers.size(), 2u);
    EXPECT_EQ(batch.info.channel, ""); // it was among them
    apply(addCarrier(batch, Carrier{CarrierKind::RunList, "", 5, 1}));
    apply(renameCarrier(batch, 3, "cuvettes"));
    apply(nameRun(batch, {1, 0, 3}, "Cider"));
    apply(typeValue(batch, {1, 0, 3}, "", "0,5", 7));
    apply(typeValue(batch, {2, 0, 3}, "", "over", 8));
    EXPECT_EQ(evaluateAnalyte(batch).at({1, 0, 3}).raw, 0.5);
    apply(assignRole(batch, {{1, 0, 3}, {2, 0, 3}}, Role::Unknown, 2, Direction::Across));
    EXPECT_EQ(batch.samples.at(batch.at({1, 0, 3}).number).name, "Cider");
    EXPECT_EQ(evaluateAnalyte(batch).at({2, 0, 3}).state, ResponseState::Unusable);
    EXPECT_EQ(removeCarrier(batch, 3).error().code, "batch.carrier"); // a layout does not go silently
    apply(assignRole(batch, {{1, 0, 3}, {2, 0, 3}}, Role::Empty, 2, Direction::Across));
    apply(removeCarrier(batch, 3));
    EXPECT_EQ(typeValue(batch, {0, 0}, "", "1", 7).error().code, "batch.typed");
    for (std::size_t i = states.size() - 1; i-- > 0;) {
        ASSERT_TRUE(document.undo());
        EXPECT_EQ(batch, states[i]) << i;
    }
    for (std::size_t i = 1; i < states.size(); ++i) {
        ASSERT_TRUE(document.redo());
        EXPECT_EQ(batch, states[i]) << i;
    }
}

// Random edits with two plates: what the Evaluator keeps agrees with an evaluation from nothing.
TEST(Carriers, IncrementalEqualsFullWithSeveralPlates) {
    Batch batch = twoPlates(0.5);
    Evaluator evaluator;
    std::uint64_t state = 7;
    const auto random = [&state](std::uint64_t n) {
        state = state * 6364136223846793005u + 1442695040888963407u;
        return static_cast<int>((state >> 33u) % n);
    };
    for (int edit = 0; edit < 2000; ++edit) {
        const Place place{random(8), random(12), 1 + random(2)};
        switch (random(6)) {
        case 0:
            batch.exclusions[place] = {"x", 1};
            break;
        case 1:
            batch.exclusions.erase(place);
            break;
        case 2:
            batch.places[place] = {Role::Unknown, 1 + random(14)};
            break;
        case 3:
            batch.method.analyte().source.curve = random(2) == 0 ? CurveOf::Batch : CurveOf::Carrier;
            break;
        case 4:
            batch.method.analyte().source.rule = ValueRule{random(2) == 0 ? "" : "620 nm"};
            break;
        default:
            batch.places[place] = {Role::Blank, 0};
        }
        const auto kept = evaluator.evaluate(batch);
        const Evaluation full = evaluate(batch);
        ASSERT_EQ(kept->analytes.size(), full.analytes.size()) << edit;
        for (std::size_t i = 0; i < full.analytes.size(); ++i) {
            ASSERT_EQ(kept->analytes[i]->responses, full.analytes[i]->responses) << edit;
            ASSERT_EQ(kept->analytes[i]->fit.parameters, full.analytes[i]->fit.parameters) << edit;
            ASSERT_EQ(kept->analytes[i]->results.size(), full.analytes[i]->results.size()) << edit;
            for (std::size_t k = 0; k < full.analytes[i]->results.size(); ++k) {
                ASSERT_EQ(kept->analytes[i]->results[k].result, full.analytes[i]->results[k].result) << edit;
                ASSERT_EQ(kept->analytes[i]->results[k].low, full.analytes[i]->results[k].low) << edit;
            }
        }
    }
}

} // namespace
} // namespace nuvat
