#include "nuvat/batch/evaluation.h"
#include "nuvat/store/batch_file.h"
#include "nuvat/workflow/export.h"
#include "support/reference.h"
#include "support/sample_batch.h"

#include <fstream>
#include <gtest/gtest.h>
#include <sqlite3.h>

namespace nuvat {
namespace {

using test::TemporaryFolder;

/// Runs SQL on a file from outside, as another program would.
void runSql(const std::filesystem::path& path, const std::string& sql) {
    sqlite3* db = nullptr;
    ASSERT_EQ(sqlite3_open(path.c_str(), &db), SQLITE_OK);
    char* error = nullptr;
    ASSERT_EQ(sqlite3_exec(db, sql.c_str(), nullptr, nullptr, &error), SQLITE_OK) << error;
    sqlite3_close(db);
}

std::string query(const std::filesystem::path& path, const std::string& sql) {
    sqlite3* db = nullptr;
    sqlite3_open(path.c_str(), &db);
    std::string out;
    sqlite3_exec(
        db, sql.c_str(),
        [](void* to, int columns, char** values, char**) {
            for (int i = 0; i < columns; ++i) {
                *static_cast<std::string*>(to) +=
                    std::string(i > 0 ? "|" : "") + (values[i] == nullptr ? "" : values[i]);
            }
            *static_cast<std::string*>(to) += "\n";
            return 0;
        },
        &out, nullptr);
    sqlite3_close(db);
    return out;
}

bool sameState(const DocumentState& a, const DocumentState& b) {
    bool same = a.batch == b.batch && a.done == b.done && a.commands.size() == b.commands.size() &&
                a.history.size() == b.history.size();
    for (std::size_t i = 0; same && i < a.history.size(); ++i) {
        same = a.history[i].label == b.history[i].label && a.history[i].kind == b.history[i].kind &&
               a.history[i].timeMillis == b.history[i].timeMillis && a.history[i].reason == b.history[i].reason;
    }
    return same;
}

TEST(BatchFile, ReadsBackWhatItWrote) {
    const TemporaryFolder folder;
    Document document = test::sampleDocument();
    ASSERT_TRUE(document.apply(excludePlaces(document.batch(), {{2, 1}}, "bubble", 42)));
    ASSERT_TRUE(document.apply(setTitle(document.batch(), "Named, \"quoted\" and µ")));
    ASSERT_TRUE(document.undo());
    ASSERT_TRUE(BatchFile::write(folder / "a.nuvat", document.state()));
    const auto opened = BatchFile::open(folder / "a.nuvat");
    ASSERT_TRUE(opened) << opened.error().text();
    EXPECT_TRUE(sameState(opened->state, document.state()));
    EXPECT_EQ(evaluationJson(opened->state.batch, evaluate(opened->state.batch)),
              evaluationJson(document.batch(), evaluate(document.batch())));
}

TEST(BatchFile, KeepsEveryEditWhenItIsMade) {
    const TemporaryFolder folder;
    const auto path = folder / "b.nuvat";
    ASSERT_TRUE(BatchFile::write(path, DocumentState{}));
    Document document(test::sampleDocument().state());
    {
        auto opened = BatchFile::open(path);
        ASSERT_TRUE(opened);
        Document live(std::move(opened->state), [] { return 5; });
        live.setJournal(std::move(opened->file));
        // The sample batch again, command by command, each of which must already be in the file afterwards.
        for (const Command& command : document.commands()) {
            ASSERT_TRUE(live.apply(command));
            const auto seen = BatchFile::open(path);
            ASSERT_TRUE(seen) << seen.error().text();
            EXPECT_TRUE(sameState(seen->state, live.state())) << command.label;
        }
        ASSERT_TRUE(live.undo());
        ASSERT_TRUE(live.undo());
        ASSERT_TRUE(live.redo());
        EXPECT_TRUE(sameState(BatchFile::open(path)->state, live.state()));
    }
    // After closing, undo and redo go on where they were.
    auto again = BatchFile::open(path);
    ASSERT_TRUE(again);
    Document reopened(std::move(again->state));
    reopened.setJournal(std::move(again->file));
    EXPECT_TRUE(reopened.canRedo());
    while (reopened.canRedo()) {
        ASSERT_TRUE(reopened.redo());
    }
    EXPECT_EQ(reopened.batch().places, document.batch().places);
    EXPECT_EQ(reopened.batch().samples, document.batch().samples);
    while (reopened.canUndo()) {
        ASSERT_TRUE(reopened.undo());
    }
    EXPECT_TRUE(reopened.batch().places.empty());
    EXPECT_TRUE(reopened.batch().readings.empty());
}

TEST(BatchFile, ANewEditDropsWhatWasUndone) {
    const TemporaryFolder folder;
    ASSERT_TRUE(BatchFile::write(folder / "c.nuvat", test::sampleDocument().state()));
    auto opened = BatchFile::open(folder / "c.nuvat");
    Document live(std::move(opened->state));
    live.setJournal(std::move(opened->file));
    ASSERT_TRUE(live.undo());
    ASSERT_TRUE(live.undo());
    ASSERT_TRUE(live.apply(setTitle(live.batch(), "Elsewhere")));
    EXPECT_TRUE(sameState(BatchFile::open(folder / "c.nuvat")->state, live.state()));
}

TEST(BatchFile, HasTheMarksOfItsFormat) {
    const TemporaryFolder folder;
    ASSERT_TRUE(BatchFile::write(folder / "d.nuvat", test::sampleDocument().state()));
    EXPECT_EQ(query(folder / "d.nuvat", "PRAGMA application_id; "), "1314215508\n"); // "NUVT"
    EXPECT_EQ(query(folder / "d.nuvat", "PRAGMA user_version"), "1\n");
    EXPECT_EQ(query(folder / "d.nuvat", "PRAGMA integrity_check"), "ok\n");
    // The ready-made view answers a question without knowing the tables.
    EXPECT_EQ(query(folder / "d.nuvat", "SELECT well, role, number, name, dilution FROM place_view WHERE well = 'E3'"),
              "E3|unknown|3|three|5.0\n");
    EXPECT_EQ(query(folder / "d.nuvat", "SELECT nominal FROM place_view WHERE well = 'A1'"), "500.0\n");
    EXPECT_FALSE(std::filesystem::exists(folder / "d.nuvat-journal")); // no sidecars
    EXPECT_FALSE(std::filesystem::exists(folder / "d.nuvat.part"));
}

void expectRefused(const std::filesystem::path& path, const std::string& code) {
    const auto opened = BatchFile::open(path);
    ASSERT_FALSE(opened) << path;
    EXPECT_EQ(opened.error().code, code) << opened.error().text();
    EXPECT_NE(opened.error().message.find(path.string()), std::string::npos);
    EXPECT_FALSE(opened.error().advice.empty());
}

TEST(BatchFile, RefusesWhatIsNoBatch) {
    const TemporaryFolder folder;
    expectRefused(folder / "missing.nuvat", "store.not-found");
    std::ofstream(folder / "empty.nuvat");
    expectRefused(folder / "empty.nuvat", "store.not-a-batch");
    std::ofstream(folder / "text.nuvat") << "Well;Value\nA1;1\n";
    expectRefused(folder / "text.nuvat", "store.not-a-batch");
    runSql(folder / "other.nuvat", "CREATE TABLE t (x); INSERT INTO t VALUES (1)");
    expectRefused(folder / "other.nuvat", "store.not-a-batch");
}

TEST(BatchFile, RefusesANewerVersionAndLeavesItAsItIs) {
    const TemporaryFolder folder;
    ASSERT_TRUE(BatchFile::write(folder / "new.nuvat", test::sampleDocument().state()));
    runSql(folder / "new.nuvat", "PRAGMA user_version = 2");
    const std::string before = test::contentOf(folder / "new.nuvat");
    expectRefused(folder / "new.nuvat", "store.newer-version");
    EXPECT_EQ(test::contentOf(folder / "new.nuvat"), before);
}

TEST(BatchFile, RefusesDamageWithAReason) {
    const TemporaryFolder folder;
    const auto write = [&](const std::string& name, const std::string& sql) {
        EXPECT_TRUE(BatchFile::write(folder / name, test::sampleDocument().state()));
        runSql(folder / name, sql);
        return folder / name;
    };
    expectRefused(write("1.nuvat", "DELETE FROM batch"), "store.damaged");
    expectRefused(write("2.nuvat", "UPDATE method SET model = 'nonsense'"), "store.damaged");
    expectRefused(write("3.nuvat", "UPDATE reading_well SET row = 31 WHERE row = 0 AND column = 0"), "store.damaged");
    expectRefused(write("4.nuvat", "UPDATE command SET changes = '{' WHERE position = 0"), "store.damaged");
    expectRefused(write("5.nuvat", "INSERT INTO place VALUES (99, 0, 'blank', 0)"), "store.damaged");
    expectRefused(write("6.nuvat", "DROP TABLE sample"), "store.damaged");
    // Numbers that no command writes would make the calculation stumble.
    expectRefused(write("7.nuvat", "UPDATE level SET concentration = -1 WHERE number = 1"), "store.damaged");
    expectRefused(write("8.nuvat", "UPDATE sample SET dilution = 9e999"), "store.damaged");
    expectRefused(write("9.nuvat", "UPDATE reading_well SET value = 9e999 WHERE row = 0"), "store.damaged");
    expectRefused(write("10.nuvat", "UPDATE qc SET nominal = 0"), "store.damaged");
    expectRefused(write("11.nuvat", "UPDATE method SET confidence = 1"), "store.damaged");
    expectRefused(write("12.nuvat", "INSERT INTO exclusion VALUES (0, 40, 'x', 1)"), "store.damaged");
}

// Cut anywhere, a batch file is refused or read; it never crashes.
TEST(BatchFile, CutAtManyLengthsNeverCrashes) {
    const TemporaryFolder folder;
    ASSERT_TRUE(BatchFile::write(folder / "whole.nuvat", test::sampleDocument().state()));
    const std::string whole = test::contentOf(folder / "whole.nuvat");
    for (std::size_t length = 0; length < whole.size(); length += 509) {
        std::ofstream(folder / "cut.nuvat", std::ios::binary) << whole.substr(0, length);
        const auto opened = BatchFile::open(folder / "cut.nuvat");
        EXPECT_FALSE(opened && opened->state.batch == test::sampleDocument().batch()) << length;
    }
}

TEST(BatchFile, CannotWriteIsSaidAndLeavesTheOldFile) {
    const TemporaryFolder folder;
    EXPECT_EQ(BatchFile::write(folder / "no-such-folder" / "x.nuvat", DocumentState{}).error().code,
              "store.cannot-write");
    // A command that cannot be recorded leaves the document as it was.
    ASSERT_TRUE(BatchFile::write(folder / "e.nuvat", test::sampleDocument().state()));
    auto opened = BatchFile::open(folder / "e.nuvat");
    Document live(std::move(opened->state));
    live.setJournal(std::move(opened->file));
    runSql(folder / "e.nuvat", "DROP TABLE history");
    const Batch before = live.batch();
    EXPECT_EQ(live.apply(setTitle(live.batch(), "x")).error().code, "store.cannot-write");
    EXPECT_EQ(live.batch(), before);
    EXPECT_EQ(query(folder / "e.nuvat", "SELECT title FROM batch"), "Sample batch\n"); // rolled back as a whole
}

} // namespace
} // namespace nuvat
