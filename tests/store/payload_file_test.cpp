// Payloads in the file: once, freed when nothing names them, copied inside SQLite.
#include "nuvat/store/batch_file.h"
#include "support/reference.h"
#include "support/sample_batch.h"
#include "support/sqlite_file.h"
#include "support/trace_runs.h"
#include "support/wells.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::query;

const char* const kCount = "SELECT count(*) FROM payload";

TEST(Payloads, AreInTheFileOnceAndFreedWhenNothingNamesThem) {
    const test::TemporaryFolder folder;
    const auto path = folder / "b.nuvat";
    ASSERT_TRUE(BatchFile::write(path, test::sampleDocument().state()));
    EXPECT_EQ(query(path, kCount), "1\n");
    Document document = test::openDocument(path);
    // The same values again, from another file: a second reading, no second payload.
    Reading again = *document.batch().firstReading(1);
    again.source = "again.csv";
    ASSERT_TRUE(document.apply(addReading(document.batch(), again)));
    EXPECT_EQ(query(path, kCount), "1\n");
    Reading other = again;
    test::editGrid(other, [](Grid& grid) { grid.wells[0].value = 9; });
    ASSERT_TRUE(document.apply(addReading(document.batch(), other)));
    EXPECT_EQ(query(path, kCount), "2\n");
    ASSERT_TRUE(document.undo());
    EXPECT_EQ(query(path, kCount), "2\n"); // it can still be redone
    EXPECT_EQ(query(path, "SELECT count(*) FROM reading"), "2\n");
    ASSERT_TRUE(document.apply(setTitle(document.batch(), "another edit"))); // and now it cannot
    EXPECT_EQ(query(path, kCount), "1\n");
    EXPECT_EQ(query(path, "SELECT count(*) FROM reading_well WHERE reading_id = 1"), "96\n");
}

TEST(Payloads, AreReadWhenARedoNeedsThem) {
    const test::TemporaryFolder folder;
    const auto path = folder / "b.nuvat";
    Document made = test::sampleDocument();
    Reading other = *made.batch().firstReading(1);
    other.source = "other.csv";
    test::editGrid(other, [](Grid& grid) { grid.wells[0].value = 9; });
    ASSERT_TRUE(made.apply(addReading(made.batch(), other)));
    const Batch whole = made.batch();
    ASSERT_TRUE(made.undo());
    ASSERT_TRUE(BatchFile::write(path, made.state()));
    Document document = test::openDocument(path);
    ASSERT_TRUE(document.redo());
    EXPECT_EQ(document.batch(), whole);
    EXPECT_EQ(test::valueAt(document.batch(), {0, 0}, 2), 9);
}

TEST(Payloads, OfACopyComeFromTheFileItself) {
    const test::TemporaryFolder folder;
    ASSERT_TRUE(BatchFile::write(folder / "a.nuvat", test::sampleDocument().state()));
    auto opened = BatchFile::open(folder / "a.nuvat");
    ASSERT_TRUE(opened);
    // Copied without memory: a handle that can read nothing is enough.
    DocumentState state = opened->state;
    Reading head = *state.batch.readings.at(1);
    head.payload = Payload::stored(head.payload.id(), nullptr);
    state.batch.readings.at(1) = head;
    for (Command& command : state.commands) {
        for (Change& change : command.changes) {
            if (auto* reading = std::get_if<ReadingChange>(&change); reading != nullptr && reading->after) {
                reading->after->payload = head.payload;
            }
        }
    }
    EXPECT_FALSE(BatchFile::write(folder / "b.nuvat", state));
    ASSERT_TRUE(BatchFile::write(folder / "b.nuvat", state, folder / "a.nuvat"));
    EXPECT_EQ(query(folder / "b.nuvat", "SELECT id, data FROM payload"),
              query(folder / "a.nuvat", "SELECT id, data FROM payload"));
    EXPECT_EQ(BatchFile::open(folder / "b.nuvat")->state.batch, state.batch);
    // What a file holds besides is left there.
    Document other;
    ASSERT_TRUE(BatchFile::write(folder / "c.nuvat", other.state(), folder / "a.nuvat"));
    EXPECT_EQ(query(folder / "c.nuvat", kCount), "0\n");
}

// A reading that nothing is evaluated from may be damaged without taking the batch along.
TEST(Payloads, ThatAreNotInUseAreNotReadAtOpening) {
    const test::TemporaryFolder folder;
    Document made = test::sampleDocument();
    Reading other = *made.batch().firstReading(1);
    other.source = "other.csv";
    test::editGrid(other, [](Grid& grid) { grid.wells[0].value = 9; });
    ASSERT_TRUE(made.apply(addReading(made.batch(), other)));
    ASSERT_TRUE(BatchFile::write(folder / "b.nuvat", made.state()));
    test::runSql(folder / "b.nuvat",
                 "UPDATE payload SET data = '{}' WHERE id = (SELECT payload FROM reading WHERE id = 1)");
    const auto opened = BatchFile::open(folder / "b.nuvat");
    ASSERT_TRUE(opened) << opened.error().text();
    EXPECT_EQ(opened->state.batch.readings.at(1)->payload.grid(), nullptr);
    EXPECT_NE(opened->state.batch.readings.at(2)->payload.grid(), nullptr);
}

TEST(Payloads, TracesRulesAndDrawingsAreKept) {
    const test::TemporaryFolder folder;
    const auto path = folder / "b.nuvat";
    DocumentState state;
    state.batch = test::traceBatch();
    state.batch.info.uid = "0123456789abcdef";
    ASSERT_TRUE(BatchFile::write(path, state));
    EXPECT_EQ(query(path, "SELECT count(*) FROM payload WHERE kind = 'trace'"), "6\n");
    EXPECT_EQ(query(path, "SELECT count(*) FROM reading_well"), "0\n") << "views take grids alone";
    EXPECT_EQ(query(path, "SELECT count(*) FROM place_view"), "0\n");
    Document document = test::openDocument(path);
    EXPECT_EQ(document.batch(), state.batch);
    SignalRule rule;
    rule.peaks.leastHeight = {0.25, false};
    rule.peaks.skim = SkimKind::Exponential;
    rule.peaks.baseline = {BaselineKind::Polynomial, 2, {{0, 30}, {150, 200}}, 1e5, 0.02};
    rule.peaks.deadTime = 12;
    ASSERT_TRUE(document.apply(setSignal(document.batch(), "detector", rule)));
    const Slot slot{1, Place{0, 0}, "detector"};
    const HandEdit edit{{PeakEditKind::Line, 60, 50, 70, 2.1, 2.2}, "shoulder of the solvent", 77};
    ASSERT_TRUE(document.apply(drawOn(document.batch(), {slot}, edit)));
    const Batch whole = document.batch();
    // The same bits, the same rule and the same drawing from the file, and back through undo.
    auto opened = BatchFile::open(path);
    ASSERT_TRUE(opened) << opened.error().text();
    EXPECT_EQ(opened->state.batch, whole);
    EXPECT_EQ(opened->state.batch.method.signal("detector"), rule);
    EXPECT_EQ(opened->state.batch.handEdits.at(slot).list.at(0), edit);
    EXPECT_EQ(*opened->state.batch.reading(slot)->payload.trace(), *whole.reading(slot)->payload.trace());
    Document again(std::move(opened->state));
    ASSERT_TRUE(again.undo());
    EXPECT_TRUE(again.batch().handEdits.empty());
    ASSERT_TRUE(again.undo());
    EXPECT_EQ(again.batch(), state.batch);
    ASSERT_TRUE(again.redo());
    ASSERT_TRUE(again.redo());
    EXPECT_EQ(again.batch(), whole);
}

TEST(Payloads, ADamagedTraceIsNoticedWhereItIs) {
    const test::TemporaryFolder folder;
    DocumentState state;
    state.batch = test::traceBatch();
    const auto path = folder / "b.nuvat";
    ASSERT_TRUE(BatchFile::write(path, state));
    test::runSql(path, "UPDATE payload SET data = substr(data, 1, 900) WHERE id = (SELECT payload FROM reading WHERE "
                       "row = 4)");
    {
        // The batch opens, and its other runs are there; the one says why it has no response.
        const auto opened = BatchFile::open(path);
        ASSERT_TRUE(opened) << opened.error().text();
        const Evaluation evaluation = evaluate(opened->state.batch);
        EXPECT_TRUE(evaluation.analyte(1).fit.isUsable());
        EXPECT_EQ(evaluation.analyte(1).at({4, 0}).state, ResponseState::Unusable);
        EXPECT_EQ(evaluation.analyte(1).at({4, 0}).why, "it cannot be read from the batch file");
    }
    test::runSql(path, "PRAGMA foreign_keys = OFF; DELETE FROM payload WHERE id = (SELECT payload FROM reading WHERE "
                       "row = 4)");
    const auto opened = BatchFile::open(path);
    ASSERT_FALSE(opened);
    EXPECT_NE(opened.error().message.find("values of one of its readings are missing"), std::string::npos)
        << opened.error().message;
}

} // namespace
} // namespace nuvat
