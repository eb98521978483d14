// Runs of a list: planned, recorded, repeated, diluted again.
#include "nuvat/batch/document.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/batch/run_commands.h"
#include "nuvat/batch/run_list.h"
#include "nuvat/batch/validate.h"
#include "support/trace_runs.h"

#include <algorithm>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::apply;

PlannedRun standard(double level, const std::string& vial) {
    return {"Standard " + vial, vial, Role::Standard, level, 1, {}};
}

Batch planned() {
    Batch batch;
    apply(batch, planRuns(batch, {{"Blank", "1", Role::Blank, {}, 1, {}},
                                  standard(1, "2"),
                                  standard(2, "3"),
                                  standard(2, "3"),
                                  {"QC low", "4", Role::Qc, 1.5, 1, {}},
                                  {"Mead", "5", Role::Unknown, {}, 4, 10.0}}));
    return batch;
}

TEST(PlanRuns, MakesAListWithItsGroups) {
    const Batch batch = planned();
    EXPECT_EQ(batch.carriers.at(1), (Carrier{CarrierKind::RunList, "", 6, 1}));
    EXPECT_EQ(batch.at({1, 0}), (Assignment{Role::Standard, 1}));
    EXPECT_EQ(batch.at({2, 0}), (Assignment{Role::Standard, 2}));
    EXPECT_EQ(batch.at({3, 0}), batch.at({2, 0}));
    EXPECT_EQ(batch.concentration(2), 2);
    EXPECT_EQ(batch.nominal(1), 1.5);
    EXPECT_EQ(batch.samples.at(1).dilution, 4);
    EXPECT_EQ(batch.runs.at({5, 0}).vial, "5");
    EXPECT_EQ(batch.runs.at({5, 0}).injectedMicrolitres, 10);
    EXPECT_EQ(batch.runs.at({0, 0}).state, RunState::Planned);
    EXPECT_TRUE(validate(batch));
}

TEST(PlanRuns, GoOnTheSameListAndKeepTheNumbers) {
    Batch batch = planned();
    apply(batch, planRuns(batch, {standard(2, "3"), standard(4, "6"), {"mead", "5", Role::Unknown, {}, 1, {}}}));
    EXPECT_EQ(batch.carriers.at(1).rows, 9);
    EXPECT_EQ(batch.at({6, 0}), (Assignment{Role::Standard, 2})); // the level is there
    EXPECT_EQ(batch.at({7, 0}), (Assignment{Role::Standard, 3}));
    EXPECT_EQ(batch.at({8, 0}), (Assignment{Role::Unknown, 1})); // the name is there
    EXPECT_EQ(batch.samples.at(1).dilution, 4);
}

TEST(PlanRuns, RefuseWhatHasNoNameOrDilution) {
    const Batch batch;
    EXPECT_EQ(planRuns(batch, {}).error().code, "runs.none");
    EXPECT_EQ(planRuns(batch, {{" ", "1", Role::Unknown, {}, 1, {}}}).error().code, "runs.name");
    EXPECT_EQ(planRuns(batch, {{"x", "1", Role::Unknown, {}, 0, {}}}).error().code, "layout.dilution");
}

TEST(RunBlocks, StandInTheOrderOfMeasuring) {
    Batch batch = planned();
    ListBlocks blocks;
    blocks.qcEvery = 2;
    blocks.standardInjections = 2;
    for (const char* name : {"a", "b", "c"}) {
        blocks.samples.push_back({name, "", Role::Unknown, {}, 1, {}});
    }
    std::vector<std::string> names, vials;
    for (const PlannedRun& run : runsOfBlocks(batch, blocks)) {
        names.push_back(run.name);
        vials.push_back(run.vial);
    }
    EXPECT_EQ(names, (std::vector<std::string>{"Blank", "Standard 1", "Standard 1", "Standard 2", "Standard 2", "Blank",
                                               "QC low", "a", "b", "QC low", "c", "QC low"}));
    EXPECT_EQ(vials, (std::vector<std::string>{"1", "2", "2", "3", "3", "1", "4", "5", "6", "4", "7", "4"}));
}

TEST(ListProblems, AreSaidInWords) {
    Batch batch = planned();
    EXPECT_TRUE(listProblems(batch, 1).empty());
    batch.runs[{5, 0}].vial = "";
    batch.runs[{4, 0}].name = "Blank";
    batch.levels[{1}].concentration.reset();
    batch.places.erase({0, 0});
    batch.method.plan = StandardPlan{"stock", "mL", {PlanWay::Direct, 1, 10}};
    const auto found = listProblems(batch, 1);
    const auto says = [&](const std::string& part) {
        return std::ranges::any_of(found, [&](const auto& one) { return one.find(part) != std::string::npos; });
    };
    EXPECT_TRUE(says("Run 6 (Mead) has no vial."));
    EXPECT_TRUE(says("Level S1 has no concentration."));
    EXPECT_TRUE(says("No blank is measured before the first standard, run 2."));
    EXPECT_TRUE(says("Level S2, 2, lies above the stock of 1."));
    EXPECT_TRUE(says("The name blank stands for different things"));
}

TEST(RecordRun, KeepsTracesAndTheStateOfTheRun) {
    Batch batch = planned();
    const Place place{1, 0};
    EXPECT_EQ(nextPlanned(batch, 1), Place(0, 0));
    const ImportedRun run = test::runOf("", 2, 1, 3);
    apply(batch, recordRun(batch, place, run, RunState::Done, 1000, 2000));
    EXPECT_EQ(batch.runs.at(place).state, RunState::Done);
    EXPECT_EQ(batch.runs.at(place).injectedMillis, 1000);
    EXPECT_EQ(batch.runs.at(place).vial, "2");
    EXPECT_EQ(batch.info.channel, "detector");
    ASSERT_NE(batch.reading(Slot{1, place, "detector"}), nullptr);
    // Measured again: the other trace counts, the first stays.
    apply(batch, recordRun(batch, place, test::runOf("", 4, 1, 4), RunState::Failed, 3000, 4000));
    EXPECT_EQ(batch.readings.size(), 2u);
    EXPECT_EQ(batch.inUse.at(Slot{1, place, "detector"}), 2);
    EXPECT_EQ(batch.runs.at(place).state, RunState::Failed);
    EXPECT_EQ(recordRun(batch, {77, 0}, run, RunState::Done, 0, 0).error().code, "layout.place");
    EXPECT_EQ(recordRun(batch, place, {}, RunState::Done, 0, 0).error().code, "batch.reading");
}

TEST(RepeatRun, MovesWhatFollowsAndSetsTheFirstAside) {
    Batch batch = planned();
    for (int row = 0; row < 4; ++row) {
        apply(batch, recordRun(batch, {row, 0}, test::runOf("", row, 1, 3), RunState::Done, 1000 + row, 2000));
    }
    apply(batch, excludePlaces(batch, {{3, 0}}, "bubble", 5));
    DocumentState state;
    state.batch = batch;
    Document document(state);
    ASSERT_TRUE(document.apply(repeatRun(document.batch(), {1, 0}, "no peak", 9)));
    const Batch& after = document.batch();
    EXPECT_TRUE(validate(after));
    EXPECT_EQ(after.carriers.at(1).rows, 7);
    EXPECT_EQ(after.runs.at({1, 0}).state, RunState::SetAside);
    EXPECT_EQ(after.exclusion({1, 0})->reason, "no peak");
    EXPECT_EQ(after.runs.at({2, 0}).state, RunState::Planned);
    EXPECT_EQ(after.at({2, 0}), after.at({1, 0}));
    EXPECT_EQ(after.reading(Slot{1, Place{2, 0}, "detector"}), nullptr);
    EXPECT_EQ(after.runs.at({3, 0}).injectedMillis, 1002);
    ASSERT_NE(after.reading(Slot{1, Place{4, 0}, "detector"}), nullptr);
    EXPECT_EQ(after.exclusion({4, 0})->reason, "bubble");
    EXPECT_FALSE(after.isExcluded({3, 0}));
    EXPECT_EQ(nextPlanned(after, 1), Place(2, 0));
    ASSERT_TRUE(document.undo());
    EXPECT_EQ(document.batch(), batch);
}

TEST(PlanDilutedAgain, BringsWhatLiesAboveToTheMiddle) {
    Batch batch = test::traceBatch(); // levels 1 to 8, sample 1 of 3
    apply(batch, importRuns(batch, {test::runOf("strong", 30, 1, 99)}, 1));
    apply(batch, assignRole(batch, {{6, 0}}, Role::Unknown, 1, Direction::Down));
    Method method = batch.method;
    method.analyte().range.by = RangeBy::Levels;
    apply(batch, setMethod(batch, method));
    const Evaluation evaluation = evaluate(batch);
    const SampleResult* strong = evaluation.analyte().result({Role::Unknown, 3});
    ASSERT_NE(strong, nullptr);
    EXPECT_EQ(planDilutedAgain(batch, evaluate(test::traceBatch()), 1).error().code, "runs.none");
    const auto command = planDilutedAgain(batch, evaluation, 1);
    if (strong->status != ResultStatus::AboveRange || !strong->readOff.x) { // a line goes on beyond its standards
        EXPECT_EQ(strong->status, ResultStatus::AboveCurve);
        EXPECT_FALSE(command);
        return;
    }
    ASSERT_TRUE(command) << command.error().text();
    applyChanges(batch, *command, false);
    const Assignment group = batch.at({7, 0});
    EXPECT_EQ(group, (Assignment{Role::Unknown, 3, 2}));
    EXPECT_NEAR(batch.dilution(group), 10, 1e-9); // 30 / 10 = 3, near the middle of 1 to 8
    EXPECT_EQ(batch.runs.at({7, 0}).state, RunState::Planned);
}

} // namespace
} // namespace nuvat
