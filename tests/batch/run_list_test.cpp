// A run list before it is measured: its blocks, moving and removing planned runs, what is looked at, how long it takes.
#include "nuvat/batch/run_list.h"

#include "nuvat/batch/document.h"
#include "nuvat/batch/run_commands.h"
#include "support/trace_runs.h"

#include <algorithm>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::apply;

PlannedRun planned(const std::string& name, Role role, std::optional<double> level = {}) {
    return {name, "v " + name, role, level, 1, {}};
}

/// blank, S1, S2, blank, QC, U1, blank, U2: all planned.
Batch list() {
    Batch batch;
    apply(batch, planRuns(batch, {planned("rinse", Role::Blank), planned("low", Role::Standard, 1),
                                  planned("high", Role::Standard, 8), planned("rinse", Role::Blank),
                                  planned("control", Role::Qc, 4), planned("cider", Role::Unknown),
                                  planned("rinse", Role::Blank), planned("perry", Role::Unknown)}));
    return batch;
}

std::string namesOf(const Batch& batch) {
    std::string out;
    for (int row = 0; row < batch.carriers.at(1).rows; ++row) {
        out += (row > 0 ? " " : "") + batch.runs.at({row, 0}).name;
    }
    return out;
}

TEST(RunList, RunsOfOneSortAreABlock) {
    EXPECT_EQ(blocksOf(list(), 1), (std::vector<RunBlock>{{RunBlockKind::Blank, 0, 1},
                                                          {RunBlockKind::Standards, 1, 2},
                                                          {RunBlockKind::Blank, 3, 1},
                                                          {RunBlockKind::Samples, 4, 4}}))
        << "a blank between two samples is theirs";
    EXPECT_TRUE(blocksOf(Batch{}, 1).empty()) << "a plate has none";
    EXPECT_TRUE(blocksOf(list(), 9).empty());
}

TEST(RunList, ABlockMovesWithItsRolesAndComesBack) {
    const Batch before = list();
    Document document({before, {}});
    ASSERT_TRUE(document.apply(moveRuns(document.batch(), 1, 1, 2, 8)));
    EXPECT_EQ(namesOf(document.batch()), "rinse rinse control cider rinse perry low high");
    EXPECT_EQ(document.batch().at({7, 0}), (Assignment{Role::Standard, 2}));
    EXPECT_EQ(document.batch().runs.at({6, 0}).vial, "v low");
    ASSERT_TRUE(document.apply(moveRuns(document.batch(), 1, 6, 2, 1)));
    EXPECT_EQ(document.batch(), before) << "moved up again it is as it was";
    ASSERT_TRUE(document.undo());
    ASSERT_TRUE(document.undo());
    EXPECT_EQ(document.batch(), before);
}

TEST(RunList, ExclusionsGoWithTheirRuns) {
    Batch batch = list();
    batch.exclusions[ExclusionKey{Place{5, 0}, 1}] = {"turbid", 0};
    apply(batch, moveRuns(batch, 1, 5, 1, 8));
    EXPECT_EQ(namesOf(batch), "rinse low high rinse control rinse perry cider");
    EXPECT_TRUE(batch.isExcluded({7, 0}, 1));
    EXPECT_FALSE(batch.isExcluded({5, 0}, 1));
}

TEST(RunList, WhatWasMeasuredStays) {
    Batch batch = list();
    batch.runs.at({2, 0}).state = RunState::Done;
    EXPECT_EQ(moveRuns(batch, 1, 5, 1, 1).error().code, "runs.measured") << "it would pass one that is measured";
    EXPECT_EQ(moveRuns(batch, 1, 2, 1, 6).error().code, "runs.measured");
    EXPECT_TRUE(moveRuns(batch, 1, 5, 1, 4));
    EXPECT_EQ(removeRuns(batch, {{1, 0}}).error().code, "runs.measured") << "one behind it would move up";
    EXPECT_EQ(moveRuns(batch, 1, 4, 2, 5).error().code, "runs.there");
    EXPECT_EQ(moveRuns(batch, 1, 4, 2, 9).error().code, "layout.place");
    EXPECT_EQ(moveRuns(batch, 2, 0, 1, 3).error().code, "batch.carrier");
    EXPECT_EQ(removeRuns(batch, {}).error().code, "runs.none");
}

TEST(RunList, PlannedRunsAreTakenOff) {
    Batch batch = list();
    apply(batch, removeRuns(batch, {{3, 0}, {6, 0}}));
    EXPECT_EQ(namesOf(batch), "rinse low high control cider perry");
    EXPECT_EQ(batch.carriers.at(1).rows, 6);
    EXPECT_EQ(batch.at({5, 0}), (Assignment{Role::Unknown, 2}));
    EXPECT_EQ(batch.at({6, 0}).role, Role::Empty);
}

bool says(const Batch& batch, const std::string& words, bool isGood) {
    const auto checks = listChecks(batch, 1);
    return std::ranges::any_of(checks, [&](const ListCheck& check) {
        return check.isGood == isGood && check.sentence.find(words) != std::string::npos;
    });
}

TEST(RunList, ChecksSayWhatIsGoodAndWhatIsNot) {
    Batch batch = list();
    EXPECT_TRUE(listProblems(batch, 1).empty());
    EXPECT_TRUE(says(batch, "A blank is measured before the first standard.", true));
    EXPECT_TRUE(says(batch, "A blank follows the highest level", true));
    EXPECT_TRUE(says(batch, "6 vials for 8 runs.", true)) << "one vial serves several rows";
    batch.runs.at({5, 0}).vial.clear();
    EXPECT_TRUE(says(batch, "Run 6 (cider) has no vial.", false));
    batch.method.plan = StandardPlan{"stock", "mL", {PlanWay::Direct, 5, 10, 0.1}};
    EXPECT_TRUE(says(batch, "Level S2, 8, lies above the stock of 5.", false));
    batch.levels.erase(1);
    EXPECT_TRUE(says(batch, "Level S1 has no concentration.", false));
    apply(batch, moveRuns(batch, 1, 0, 1, 8));
    EXPECT_TRUE(says(batch, "No blank is measured before the first standard", false));
    EXPECT_TRUE(listChecks(Batch{}, 1).empty());
}

TEST(RunList, TheTimeOfARunIsTheMedianOfThoseMeasured) {
    Batch batch = list();
    EXPECT_FALSE(secondsByRun(batch, 1));
    for (const auto& [row, seconds] : {std::pair(0, 1000), {1, 1300}, {2, 1600}, {3, 2800}}) {
        batch.runs.at({row, 0}).injectedMillis = 1000LL * seconds;
    }
    EXPECT_EQ(secondsByRun(batch, 1), 300) << "one that waited for a person does not count";
    EXPECT_EQ(secondsByRun(test::traceBatch(), 1), 200) << "without times of injection: as long as a trace is";
}

} // namespace
} // namespace nuvat
