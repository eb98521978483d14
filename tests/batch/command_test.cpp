#include "nuvat/batch/document.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

std::vector<Place> row(int r, int from, int to) {
    std::vector<Place> places;
    for (int c = from; c <= to; ++c) {
        places.push_back({r, c});
    }
    return places;
}

TEST(AssignRole, CountsUpEveryNReplicatesAcross) {
    Batch batch;
    std::vector<Place> places = row(0, 0, 3);
    const auto second = row(1, 0, 3);
    places.insert(places.end(), second.begin(), second.end());
    const auto command = assignRole(batch, places, Role::Unknown, 2, Direction::Across);
    ASSERT_TRUE(command);
    applyChanges(batch, *command, false);
    EXPECT_EQ(batch.at({0, 0}), (Assignment{Role::Unknown, 1}));
    EXPECT_EQ(batch.at({0, 1}), (Assignment{Role::Unknown, 1}));
    EXPECT_EQ(batch.at({0, 2}), (Assignment{Role::Unknown, 2}));
    EXPECT_EQ(batch.at({1, 0}), (Assignment{Role::Unknown, 3}));
    EXPECT_EQ(batch.samples.size(), 4u);
}

TEST(AssignRole, CountsDownColumns) {
    Batch batch;
    const auto command = assignRole(batch, {{0, 0}, {1, 0}, {2, 0}, {3, 0}, {0, 1}, {1, 1}, {2, 1}, {3, 1}},
                                    Role::Standard, 2, Direction::Down);
    ASSERT_TRUE(command);
    applyChanges(batch, *command, false);
    EXPECT_EQ(batch.at({1, 0}).number, 1);
    EXPECT_EQ(batch.at({2, 0}).number, 2);
    EXPECT_EQ(batch.at({0, 1}).number, 3);
}

TEST(AssignRole, GoesOnFromWhatIsThere) {
    Document document = test::sampleDocument();
    ASSERT_TRUE(document.apply(assignRole(document.batch(), row(0, 4, 7), Role::Unknown, 2, Direction::Across)));
    EXPECT_EQ(document.batch().at({0, 4}).number, 7);
    EXPECT_EQ(document.batch().at({0, 7}).number, 8);
    EXPECT_EQ(document.batch().samples.at(7).dilution, 1);
}

TEST(AssignRole, ClearingKeepsNamesAndExclusions) {
    Document document = test::sampleDocument();
    ASSERT_TRUE(document.apply(excludePlaces(document.batch(), {{2, 2}}, "bubble", 1)));
    ASSERT_TRUE(document.apply(assignRole(document.batch(), {{2, 2}, {2, 3}}, Role::Empty, 1, Direction::Across)));
    EXPECT_EQ(document.batch().at({2, 2}).role, Role::Empty);
    EXPECT_EQ(document.batch().exclusions.at({2, 2}).reason, "bubble"); // clearing withdraws no decision
    EXPECT_EQ(document.batch().samples.at(1).name, "one");
    ASSERT_TRUE(document.apply(assignRole(document.batch(), {{2, 2}}, Role::Unknown, 1, Direction::Across)));
    EXPECT_EQ(evaluateAnalyte(document.batch()).at({2, 2}).state, ResponseState::Excluded);
}

TEST(AssignRole, RefusesWhatMakesNoSense) {
    const Batch batch;
    EXPECT_EQ(assignRole(batch, {{0, 0}}, Role::Standard, 0, Direction::Across).error().code, "layout.replicates");
    EXPECT_EQ(assignRole(batch, {{8, 0}}, Role::Standard, 1, Direction::Across).error().code, "layout.place");
}

TEST(FillRest, TakesAllEmptyPlacesOnce) {
    Document document = test::sampleDocument();
    ASSERT_TRUE(document.apply(fillRest(document.batch(), Role::Unknown, 2, Direction::Across)));
    EXPECT_EQ(document.batch().places.size(), 96u);
    EXPECT_EQ(PlaceIndex(document.batch()).numbersOf(Role::Unknown).size(), 6u + 32u);
    EXPECT_EQ(fillRest(document.batch(), Role::Unknown, 2, Direction::Across).error().code, "layout.nothing-left");
}

TEST(Series, AreDividedOrMultiplied) {
    EXPECT_EQ(*seriesConcentrations({100, true, 2, 3}), (std::vector<double>{100, 50, 25}));
    EXPECT_EQ(*seriesConcentrations({0.5, false, 2, 3}), (std::vector<double>{0.5, 1, 2}));
    // 0.5 where "divided by 2" is meant would make rising levels silently: it is refused instead.
    EXPECT_EQ(seriesConcentrations({100, true, 0.5, 3}).error().code, "series.factor");
    EXPECT_EQ(seriesConcentrations({0, true, 2, 3}).error().code, "series.first");
    EXPECT_EQ(seriesConcentrations({100, true, 2, 0}).error().code, "series.levels");
}

TEST(PasteSampleNames, TakesNamesAndDilutionsFromThePlaceOn) {
    Document document = test::sampleDocument();
    ASSERT_TRUE(document.apply(pasteSampleNames(document.batch(), 3, "red\r\nblue\t2,5\r\n\r\n")));
    EXPECT_EQ(document.batch().samples.at(3).name, "red");
    EXPECT_EQ(document.batch().samples.at(3).dilution, 5); // left as it was
    EXPECT_EQ(document.batch().samples.at(4).name, "blue");
    EXPECT_EQ(document.batch().samples.at(4).dilution, 2.5);
    EXPECT_EQ(pasteSampleNames(document.batch(), 5, "a\nb\nc\n").error().code, "layout.names-too-many");
    EXPECT_EQ(pasteSampleNames(document.batch(), 1, "a\tmany\n").error().code, "layout.dilution");
    EXPECT_EQ(pasteSampleNames(document.batch(), 1, "\n\n").error().code, "layout.names-empty");
}

TEST(Samples, NeedADilutionAboveZero) {
    const Document document = test::sampleDocument();
    EXPECT_EQ(setSample(document.batch(), 1, {"one", 0, ""}).error().code, "layout.dilution");
    EXPECT_EQ(setSample(document.batch(), 1, {"one", -2, ""}).error().code, "layout.dilution");
    EXPECT_TRUE(setSample(document.batch(), 1, {"one", 0.1, ""})); // pre-concentrated is allowed
    EXPECT_EQ(setLevel(document.batch(), 1, -1).error().code, "layout.concentration");
    EXPECT_EQ(setQc(document.batch(), 1, {"QC", 0}).error().code, "layout.concentration");
}

TEST(Exclusions, NeedAReason) {
    Document document = test::sampleDocument();
    EXPECT_EQ(excludePlaces(document.batch(), {{0, 0}}, "  ", 5).error().code, "exclusion.reason");
    ASSERT_TRUE(document.apply(excludePlaces(document.batch(), {{0, 0}}, " bubble ", 5)));
    EXPECT_EQ(document.batch().exclusions.at({0, 0}).reason, "bubble");
    EXPECT_EQ(document.history().back().reason, "bubble");
    EXPECT_EQ(document.history().back().label, "A1 (S1) excluded");
    ASSERT_TRUE(document.apply(restorePlaces(document.batch(), {{0, 0}})));
    EXPECT_TRUE(document.batch().exclusions.empty());
}

TEST(Readings, OfAnotherSizeAreRefusedOnceThereIsALayout) {
    const Reading small = test::plateOf(4, 6, "small.csv");
    Document empty;
    ASSERT_TRUE(empty.apply(addReading(empty.batch(), small)));
    EXPECT_EQ(empty.batch().carriers.at(1).rows, 4);
    const Document document = test::sampleDocument();
    EXPECT_EQ(addReading(document.batch(), small).error().code, "import.plate-size");
    EXPECT_EQ(useReading(document.batch(), 9).error().code, "batch.reading");
}

TEST(Readings, TheSecondIsUsedAndTheFirstStays) {
    Document document = test::sampleDocument();
    Reading second = *document.batch().firstReading(1);
    second.source = "again.csv";
    ASSERT_TRUE(document.apply(addReading(document.batch(), second)));
    EXPECT_EQ(document.batch().firstReading(1)->source, "again.csv");
    ASSERT_TRUE(document.apply(useReading(document.batch(), 1)));
    EXPECT_EQ(document.batch().firstReading(1)->source, "sample.csv");
    EXPECT_EQ(document.batch().readings.size(), 2u);
}

TEST(Method, ChangesSayWhatChanged) {
    const Document document = test::sampleDocument();
    Method method = document.batch().method;
    method.analyte().fit.weighting = Weighting::None;
    EXPECT_EQ(setMethod(document.batch(), method)->label, "Weighting 1/y² → none");
    method = document.batch().method;
    method.confidence = 0.99;
    EXPECT_EQ(setMethod(document.batch(), method)->label, "Confidence → 99 %");
    method = document.batch().method;
    method.analyte().fit.model = Model::Line;
    EXPECT_EQ(setMethod(document.batch(), method)->label, "Model 4PL logistic → Line");
    EXPECT_TRUE(setMethod(document.batch(), document.batch().method)->changes.empty());
    EXPECT_EQ(setTitle(document.batch(), " ").error().code, "batch.title");
}

/// Every kind of command on the sample batch.
std::vector<Command> everyCommand(const Batch& batch) {
    Method method = batch.method;
    method.analyte().fit.weighting = Weighting::InverseX;
    method.reportBlocks = {"heading", "results"};
    std::vector<Result<Command>> results{
        assignRole(batch, {{0, 5}, {0, 6}}, Role::Standard, 1, Direction::Down),
        assignRole(batch, {{0, 0}, {7, 0}}, Role::Empty, 1, Direction::Across),
        fillRest(batch, Role::Blank, 1, Direction::Across),
        setSeries(batch, {1, false, 10, 9}),
        setLevel(batch, 3, std::nullopt),
        setQc(batch, 1, {"low", 10}),
        setSample(batch, 2, {"renamed", 7, "a note\nof two lines"}),
        pasteSampleNames(batch, 1, "x\ny"),
        excludePlaces(batch, {{0, 0}, {3, 1}}, "why", 77),
        setMethod(batch, method),
        setTitle(batch, "Another title"),
        addReading(batch, *batch.firstReading(1)),
    };
    std::vector<Command> commands;
    for (auto& result : results) {
        EXPECT_TRUE(result);
        commands.push_back(*result);
    }
    return commands;
}

TEST(EveryCommand, IsUndoneAndRedoneExactly) {
    Document document = test::sampleDocument();
    for (const Command& command : everyCommand(document.batch())) {
        const Batch before = document.batch();
        ASSERT_TRUE(document.apply(command));
        const Batch after = document.batch();
        EXPECT_NE(after, before) << command.label;
        ASSERT_TRUE(document.undo());
        EXPECT_EQ(document.batch(), before) << command.label;
        ASSERT_TRUE(document.redo());
        EXPECT_EQ(document.batch(), after) << command.label;
        ASSERT_TRUE(document.undo());
    }
}

TEST(Document, KeepsAHistoryThatOnlyGrows) {
    std::int64_t now = 100;
    Document document = test::sampleDocument([&now] { return now++; });
    const std::size_t before = document.history().size();
    ASSERT_TRUE(document.apply(setTitle(document.batch(), "First")));
    ASSERT_TRUE(document.undo());
    ASSERT_TRUE(document.apply(setTitle(document.batch(), "Second")));
    ASSERT_EQ(document.history().size(), before + 3);
    EXPECT_EQ(document.history()[before + 1].kind, EventKind::Undone);
    EXPECT_FALSE(document.canRedo()); // the way to "First" is gone, its line in the history is not
    EXPECT_EQ(document.history()[before].label, "Batch named First");
    EXPECT_LT(document.history()[before].timeMillis, document.history()[before + 2].timeMillis);
}

TEST(Document, IsAsBeforeWhenTheJournalFails) {
    class Full : public Journal {
        Result<void> record(const Batch&, const Command&, std::size_t, const HistoryLine&) override {
            return fail("store.cannot-write", "The disk is full.");
        }
    };
    Document document = test::sampleDocument();
    const Batch before = document.batch();
    const auto lines = document.history().size();
    document.setJournal(std::make_unique<Full>());
    int changes = 0;
    document.onChanged([&] { ++changes; });
    EXPECT_EQ(document.apply(setTitle(document.batch(), "New")).error().code, "store.cannot-write");
    EXPECT_EQ(document.undo().error().code, "store.cannot-write");
    EXPECT_EQ(document.batch(), before);
    EXPECT_EQ(document.history().size(), lines);
    EXPECT_EQ(changes, 0);
}

TEST(Document, NothingToDoLeavesNoTrace) {
    Document document = test::sampleDocument();
    const auto lines = document.history().size();
    ASSERT_TRUE(document.apply(setMethod(document.batch(), document.batch().method)));
    EXPECT_EQ(document.history().size(), lines);
    Document empty;
    ASSERT_TRUE(empty.undo());
    ASSERT_TRUE(empty.redo());
    EXPECT_TRUE(empty.history().empty());
}

} // namespace
} // namespace nuvat
