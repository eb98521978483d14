// What happens to a batch file that others touch: a journal of a killed process, a second window, a copy over it, bits
// that rot, entries nobody wrote.
#include "nuvat/core/base/replacement_file.h"
#include "nuvat/store/batch_file.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/session.h"
#include "support/reference.h"
#include "support/sample_batch.h"
#include "support/sqlite_file.h"

#include <csignal>
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

namespace nuvat {
namespace {

using test::openDocument;
using test::query;
using test::runSql;
using test::TemporaryFolder;

/// Leaves the file as a process does that is killed in the middle of a transaction: half of it written, the old pages
/// in a journal that SQLite will play back.
void leaveHotJournal(const std::filesystem::path& path) {
    const pid_t child = ::fork();
    if (child == 0) {
        sqlite3* db = nullptr;
        sqlite3_open(path.c_str(), &db);
        sqlite3_exec(
            db,
            "PRAGMA cache_size = 1; BEGIN IMMEDIATE; UPDATE payload SET data = replace(data, '1', '7'); UPDATE command "
            "SET label = label || 'killed in the middle of it', changes = replace(changes, 'a', 'bb'); UPDATE sample "
            "SET name = name || 'killed'",
            nullptr, nullptr, nullptr);
        ::_exit(0);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    std::filesystem::path journal = path;
    journal += "-journal";
    ASSERT_GT(std::filesystem::file_size(journal), 512u);
    ASSERT_EQ(test::contentOf(journal).substr(0, 4), "\xD9\xD5\x05\xF9");
}

/// A disk without room, as far as files of this process go.
class FullDisk {
public:
    explicit FullDisk(std::uintmax_t bytes) : m_handler(std::signal(SIGXFSZ, SIG_IGN)) {
        ::getrlimit(RLIMIT_FSIZE, &m_before);
        const rlimit limit{static_cast<rlim_t>(bytes), m_before.rlim_max};
        ::setrlimit(RLIMIT_FSIZE, &limit);
    }
    ~FullDisk() {
        ::setrlimit(RLIMIT_FSIZE, &m_before);
        std::signal(SIGXFSZ, m_handler);
    }
    FullDisk(const FullDisk&) = delete;
    FullDisk& operator=(const FullDisk&) = delete;

private:
    rlimit m_before{};
    void (*m_handler)(int);
};

TEST(Journals, OfAKilledProcessAreNeverPlayedIntoANewBatch) {
    const TemporaryFolder folder;
    const auto path = folder / "x.nuvat";
    ASSERT_TRUE(BatchFile::write(path, test::sampleDocument().state()));
    leaveHotJournal(path);
    ASSERT_TRUE(demoBatch(path));
    const auto fresh = demoBatch({});
    const auto opened = readBatchFile(path);
    ASSERT_TRUE(opened) << opened.error().text();
    EXPECT_EQ(opened->document->batch(), fresh->document->batch());
    EXPECT_EQ(query(path, "PRAGMA integrity_check"), "ok\n");
    EXPECT_FALSE(std::filesystem::exists(folder / "x.nuvat-journal"));
}

TEST(Journals, OfAKilledProcessAreRolledBackByTheNextOpening) {
    const TemporaryFolder folder;
    const auto path = folder / "x.nuvat";
    const Document document = test::sampleDocument();
    ASSERT_TRUE(BatchFile::write(path, document.state()));
    leaveHotJournal(path);
    const std::string before = test::contentOf(path);
    // Reading it rolls back in a copy and leaves the file alone.
    auto read = BatchFile::open(path, BatchFile::Access::Read);
    ASSERT_TRUE(read) << read.error().text();
    EXPECT_EQ(read->state.batch, document.batch());
    const auto head = BatchFile::head(path);
    ASSERT_TRUE(head) << head.error().text();
    EXPECT_EQ(head->title, document.batch().info.title);
    EXPECT_EQ(test::contentOf(path), before);
    EXPECT_EQ(BatchFile::open(path)->state.batch, document.batch());
}

TEST(Writers, TheSecondOpensForReadingAndSaysWhoHasIt) {
    const TemporaryFolder folder;
    const auto path = folder / "x.nuvat";
    ASSERT_TRUE(BatchFile::write(path, test::sampleDocument().state()));
    {
        Document first = openDocument(path);
        auto second = BatchFile::open(path);
        ASSERT_TRUE(second) << second.error().text();
        EXPECT_TRUE(second->file->isReadOnly());
        ASSERT_EQ(second->notes.size(), 1u);
        EXPECT_NE(second->notes[0].find("open for editing by"), std::string::npos) << second->notes[0];
        EXPECT_NE(second->notes[0].find("process " + std::to_string(::getpid())), std::string::npos);
        Document reader(std::move(second->state));
        reader.setJournal(std::move(second->file));
        const auto refused = reader.apply(setTitle(reader.batch(), "from the second"));
        ASSERT_FALSE(refused);
        EXPECT_EQ(refused.error().code, "store.read-only");
        EXPECT_EQ(reader.batch().info.title, "Sample batch");
        ASSERT_TRUE(first.apply(setTitle(first.batch(), "from the first")));
        // Nor is another batch written over it.
        EXPECT_EQ(BatchFile::write(path, DocumentState{}).error().code, "store.in-use");
    }
    auto again = BatchFile::open(path);
    EXPECT_FALSE(again->file->isReadOnly()); // the lock went with the first
    EXPECT_EQ(again->state.batch.info.title, "from the first");
    again->file.reset();
    int left = 0;
    for ([[maybe_unused]] const auto& entry : std::filesystem::directory_iterator(folder.path())) {
        ++left;
    }
    EXPECT_EQ(left, 1); // no lock file stays
}

TEST(Writers, NoticeAnotherFileInThePlaceOfTheirs) {
    const TemporaryFolder folder;
    const auto path = folder / "x.nuvat";
    ASSERT_TRUE(BatchFile::write(path, test::sampleDocument().state()));
    Document live = openDocument(path);
    ASSERT_TRUE(live.apply(setTitle(live.batch(), "one")));
    Document other = test::sampleDocument();
    ASSERT_TRUE(other.apply(setTitle(other.batch(), "other")));
    ASSERT_TRUE(BatchFile::write(folder / "other.nuvat", other.state()));
    std::filesystem::copy_file(folder / "other.nuvat", path, std::filesystem::copy_options::overwrite_existing);
    const std::string before = test::contentOf(path);
    const auto refused = live.apply(setTitle(live.batch(), "two"));
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().code, "store.changed-elsewhere") << refused.error().text();
    EXPECT_EQ(test::contentOf(path), before);
    EXPECT_EQ(live.batch().info.title, "one"); // and can be saved under another name
    ASSERT_TRUE(BatchFile::write(folder / "saved.nuvat", live.state()));
    EXPECT_EQ(BatchFile::open(folder / "saved.nuvat")->state.batch.info.title, "one");
}

TEST(Writers, SayWhenTheFileWasMovedOrIsBusy) {
    const TemporaryFolder folder;
    const auto path = folder / "x.nuvat";
    ASSERT_TRUE(BatchFile::write(path, test::sampleDocument().state()));
    Document live = openDocument(path);
    sqlite3* other = nullptr;
    ASSERT_EQ(sqlite3_open(path.c_str(), &other), SQLITE_OK);
    ASSERT_EQ(sqlite3_exec(other, "BEGIN IMMEDIATE", nullptr, nullptr, nullptr), SQLITE_OK);
    auto refused = live.apply(setTitle(live.batch(), "one"));
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().code, "store.busy") << refused.error().text();
    sqlite3_exec(other, "ROLLBACK", nullptr, nullptr, nullptr);
    sqlite3_close(other);
    ASSERT_TRUE(live.apply(setTitle(live.batch(), "two"))); // a moment later
    std::filesystem::rename(path, folder / "moved.nuvat");
    refused = live.apply(setTitle(live.batch(), "three"));
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().code, "store.moved") << refused.error().text();
    EXPECT_EQ(query(folder / "moved.nuvat", "SELECT title FROM batch"), "two\n");
}

TEST(Reading, NeverWritesNotEvenAMigration) {
    const TemporaryFolder folder;
    for (const char* fixture :
         {"demo-schema-1.nuvat", "batch-schema-2.nuvat", "batch-schema-3.nuvat", "batch-schema-4.nuvat"}) {
        const auto path = folder / fixture;
        std::filesystem::copy_file(std::filesystem::path(NUVAT_TEST_DIR) / "fixtures" / fixture, path);
        const std::string before = test::contentOf(path);
        const auto opened = readBatchFile(path);
        ASSERT_TRUE(opened) << opened.error().text();
        EXPECT_TRUE(opened->isReadOnly);
        EXPECT_EQ(test::contentOf(path), before) << fixture;
        EXPECT_FALSE(
            std::filesystem::exists(path.string() + ".schema-" +
                                    std::string(fixture).substr(std::string_view(fixture).find_last_of('-') + 1, 1)));
        const auto edited = openBatch(path);
        EXPECT_EQ(opened->document->batch(), edited->document->batch());
        // Where the file as it was is kept; from the third schema on the numbers are the same.
        EXPECT_EQ(edited->notes.size(),
                  std::string_view(fixture) >= "batch-schema-3" && std::string_view(fixture) < "d" ? 1u : 2u);
        EXPECT_EQ(query(path, "PRAGMA user_version"), std::to_string(BatchFile::kSchemaVersion) + "\n");
    }
}

// batch-schema-2.nuvat was written by Nuvat 0.1.0 before schema version 3: two analytes, overrides withdrawn and given
// again, a sample named "restored oak cask", 33 commands of which 32 are done.
TEST(Migration, OfTheSecondSchemaUndoesToTheBeginningAndRedoesToTheEnd) {
    const TemporaryFolder folder;
    const auto path = folder / "old.nuvat";
    std::filesystem::copy_file(std::filesystem::path(NUVAT_TEST_DIR) / "fixtures" / "batch-schema-2.nuvat", path);
    auto opened = BatchFile::open(path);
    ASSERT_TRUE(opened) << opened.error().text();
    const Batch whole = opened->state.batch;
    EXPECT_EQ(whole.method.analytes.size(), 2u);
    EXPECT_EQ(whole.method.analyte().fit.weightFrom, WeightSource::Observed); // a kept method is not revised
    EXPECT_EQ(opened->state.commands.size(), 33u);
    EXPECT_EQ(opened->state.done, 32u);
    std::size_t exclusions = 0;
    std::size_t overrides = 0;
    for (const HistoryLine& line : opened->state.history) {
        exclusions += line.subject == Subject::Exclusion ? 1u : 0u;
        overrides += line.subject == Subject::Override ? 1u : 0u;
        EXPECT_TRUE(line.label.find("oak") == std::string::npos || line.subject == Subject::Edit) << line.label;
    }
    EXPECT_EQ(exclusions, 3u); // excluded, restored, excluded again
    EXPECT_EQ(overrides, 3u);  // given, withdrawn, given again
    Document document(opened->state);
    document.setJournal(std::move(opened->file));
    while (document.canUndo()) {
        ASSERT_TRUE(document.undo());
    }
    EXPECT_TRUE(document.batch().readings.empty());
    EXPECT_TRUE(document.batch().places.empty());
    for (int i = 0; i < 32; ++i) {
        ASSERT_TRUE(document.redo());
    }
    EXPECT_EQ(document.batch(), whole);
    document.setJournal(nullptr);
    EXPECT_EQ(BatchFile::open(path)->state.batch, whole);
}

TEST(Damage, OfAReadingsValuesIsNoticed) {
    const TemporaryFolder folder;
    const auto path = folder / "x.nuvat";
    ASSERT_TRUE(BatchFile::write(path, test::sampleDocument().state()));
    runSql(path, "UPDATE payload SET data = replace(data, '0.06', '0.07')");
    const auto opened = BatchFile::open(path);
    ASSERT_FALSE(opened);
    EXPECT_EQ(opened.error().code, "store.damaged");
    EXPECT_NE(opened.error().message.find("values of the reading sample.csv"), std::string::npos);
}

// What a bit that flipped in a level, a dilution or a setting would do without a word.
TEST(Damage, OfLevelsSamplesAndSettingsIsNoticed) {
    const TemporaryFolder folder;
    for (const char* sql :
         {"UPDATE level SET concentration = 501 WHERE number = 1", "UPDATE sample SET dilution = 4 WHERE number = 2",
          "UPDATE analyte SET weighting = 'none'", "UPDATE place SET number = 2 WHERE row = 0 AND column = 0",
          "DELETE FROM sample WHERE number = 6", "UPDATE seal SET checksum = ''", "DELETE FROM seal"}) {
        const auto path = folder / "x.nuvat";
        ASSERT_TRUE(BatchFile::write(path, test::sampleDocument().state()));
        runSql(path, sql);
        const std::string before = test::contentOf(path);
        const auto opened = openBatch(path);
        ASSERT_TRUE(opened) << opened.error().text();
        EXPECT_TRUE(opened->isReadOnly) << sql;
        ASSERT_FALSE(opened->notes.empty()) << sql;
        EXPECT_NE(opened->notes.front().find("is not as Nuvat left it"), std::string::npos) << opened->notes.front();
        EXPECT_EQ(opened->document->apply(setTitle(opened->document->batch(), "hidden")).error().code,
                  "store.read-only");
        EXPECT_EQ(test::contentOf(path), before);
        // Whoever has looked at it goes on under another name.
        ASSERT_TRUE(saveCopy(*opened, folder / "looked-at.nuvat"));
        EXPECT_TRUE(openBatch(folder / "looked-at.nuvat")->notes.empty());
    }
}

// batch-schema-3.nuvat was written by Nuvat 0.1.0 before schema version 4: one command of every kind, all undone.
TEST(Migration, OfTheThirdSchemaRedoesACommandOfEveryKind) {
    const TemporaryFolder folder;
    const auto path = folder / "old.nuvat";
    std::filesystem::copy_file(std::filesystem::path(NUVAT_TEST_DIR) / "fixtures" / "batch-schema-3.nuvat", path);
    {
        Document document = openDocument(path);
        EXPECT_EQ(document.batch(), test::sampleDocument().batch());
        EXPECT_EQ(document.commands().size(), 33u);
        while (document.canRedo()) {
            ASSERT_TRUE(document.redo());
        }
        EXPECT_EQ(document.batch().info.laboratory, "Lab 0");
        EXPECT_EQ(document.batch().samples.at(2).name, "two 0");
        EXPECT_EQ(document.batch().method.criteria.front().title, "own 0");
    }
    const auto again = BatchFile::open(path);
    EXPECT_TRUE(again->notes.empty()) << again->notes.front();
}

// The file as it was is kept beside the batch, once, and never takes the place of an older copy.
TEST(Migration, KeepsTheFileAsItWas) {
    for (const auto& [fixture, version] :
         {std::pair{"demo-schema-1.nuvat", "1"}, {"batch-schema-2.nuvat", "2"}, {"batch-schema-3.nuvat", "3"}}) {
        const TemporaryFolder folder;
        const auto path = folder / "old.nuvat";
        const auto original = std::filesystem::path(NUVAT_TEST_DIR) / "fixtures" / fixture;
        std::filesystem::copy_file(original, path);
        const auto kept = folder / (std::string("old.nuvat.schema-") + version);
        {
            const auto opened = BatchFile::open(path);
            ASSERT_TRUE(opened) << opened.error().text();
            EXPECT_NE(opened->notes.front().find(kept.string()), std::string::npos) << opened->notes.front();
        }
        EXPECT_EQ(test::contentOf(kept), test::contentOf(original));
        EXPECT_TRUE(BatchFile::open(path)->notes.empty() || std::string(version) != "3");
        std::filesystem::copy_file(original, path, std::filesystem::copy_options::overwrite_existing);
        std::ofstream(kept) << "an older copy";
        EXPECT_TRUE(BatchFile::open(path));
        EXPECT_EQ(test::contentOf(kept), "an older copy");
        EXPECT_FALSE(std::filesystem::exists(folder / (std::string("old.nuvat.schema-") + version + ".schema-1")));
    }
}

// Without room for the copy the file is left alone and can be read.
TEST(Migration, WithoutRoomForTheCopyOnlyReads) {
    const TemporaryFolder folder;
    const auto path = folder / "old.nuvat";
    const auto original = std::filesystem::path(NUVAT_TEST_DIR) / "fixtures" / "batch-schema-3.nuvat";
    std::filesystem::copy_file(original, path);
    {
        const FullDisk full(4096);
        const auto opened = BatchFile::open(path);
        ASSERT_TRUE(opened) << opened.error().text();
        EXPECT_TRUE(opened->file->isReadOnly());
        EXPECT_NE(opened->notes.front().find("no copy of it could be kept"), std::string::npos)
            << opened->notes.front();
        EXPECT_EQ(opened->state.batch, test::sampleDocument().batch());
    }
    EXPECT_EQ(test::contentOf(path), test::contentOf(original));
    EXPECT_FALSE(BatchFile::open(path)->file->isReadOnly()); // with room again it is brought up
}

TEST(Damage, OfUndoEntriesCostsUndoAndNotTheBatch) {
    const TemporaryFolder folder;
    const Document document = test::sampleDocument(); // nine commands
    const auto write = [&](const std::string& sql) {
        EXPECT_TRUE(BatchFile::write(folder / "x.nuvat", document.state()));
        runSql(folder / "x.nuvat", sql);
        auto opened = BatchFile::open(folder / "x.nuvat");
        EXPECT_TRUE(opened) << sql << ": " << (opened ? "" : opened.error().text());
        return opened;
    };
    for (const char* junk : {"{\"a\":[1,2", "[{\"kind\":\"nothing\"}]",
                             "[{\"kind\":\"reading\",\"key\":1,\"before\":null,"
                             "\"after\":{\"source\":\"x\",\"checksum\":\"\",\"understood\":\"\",\"readName\":\"\","
                             "\"takenInMillis\":0,\"rows\":8,\"columns\":12,\"wells\":[]}}]",
                             "17", "null"}) {
        auto opened = write("UPDATE command SET changes = '" + std::string(junk) + "' WHERE position = 3");
        ASSERT_TRUE(opened);
        EXPECT_EQ(opened->state.batch, document.batch()) << junk;
        ASSERT_EQ(opened->notes.size(), 1u) << junk;
        EXPECT_NE(opened->notes[0].find("cannot be undone"), std::string::npos) << opened->notes[0];
        EXPECT_EQ(opened->state.commands.size(), 5u) << junk; // positions 4 to 8
        Document live(std::move(opened->state));
        live.setJournal(std::move(opened->file));
        while (live.canUndo()) {
            ASSERT_TRUE(live.undo());
        }
        ASSERT_TRUE(live.redo());
        ASSERT_TRUE(live.apply(setTitle(live.batch(), "goes on")));
        const Batch batch = live.batch();
        live.setJournal(nullptr);
        EXPECT_EQ(BatchFile::open(folder / "x.nuvat")->state.batch, batch);
    }
    for (const char* sql :
         {"UPDATE command SET position = position + 100", "UPDATE command SET is_done = 0 WHERE position = 2",
          "UPDATE command SET position = -position"}) {
        auto opened = write(sql);
        ASSERT_TRUE(opened);
        EXPECT_EQ(opened->state.batch, document.batch());
        EXPECT_TRUE(opened->state.commands.empty());
        EXPECT_FALSE(opened->notes.empty());
    }
}

TEST(Damage, ByAHostileSchemaIsRefused) {
    const TemporaryFolder folder;
    const auto refused = [&](const std::string& sql) {
        EXPECT_TRUE(BatchFile::write(folder / "x.nuvat", test::sampleDocument().state()));
        runSql(folder / "x.nuvat", sql);
        const auto opened = BatchFile::open(folder / "x.nuvat");
        ASSERT_FALSE(opened) << sql;
        EXPECT_EQ(opened.error().code, "store.damaged") << sql;
    };
    refused("CREATE TRIGGER t AFTER INSERT ON history BEGIN DELETE FROM sample; END");
    refused(
        "DROP TABLE history; CREATE VIEW history AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) "
        "SELECT i AS id, i AS time_millis, 'done' AS kind, 'x' AS label, '' AS reason, 'edit' AS subject FROM n");
    // A payload whose size overflows.
    refused("UPDATE payload SET data = replace(replace(data, '\"rows\":8', '\"rows\":65536'), '\"columns\":12', "
            "'\"columns\":65536')");
    // Text in a column of numbers is not read as 0.
    refused("PRAGMA foreign_keys = OFF; DROP VIEW place_view; ALTER TABLE level RENAME TO old; CREATE TABLE "
            "level AS SELECT * FROM old; DROP TABLE old; UPDATE level SET concentration = 'abc' WHERE number = 1");
    refused("UPDATE analyte SET weighting = 'none', weight_from = 'nonsense'");
}

TEST(ReplacementFiles, KeepModeAndLinksAndLeaveOthersAlone) {
    const TemporaryFolder folder;
    std::ofstream(folder / "keep.csv.part") << "mine";
    std::ofstream(folder / "r.csv") << "old";
    ::chmod((folder / "r.csv").c_str(), 0600);
    ASSERT_TRUE(writeText(folder / "r.csv", "new"));
    struct stat found {};
    ::stat((folder / "r.csv").c_str(), &found);
    EXPECT_EQ(found.st_mode & 0777u, 0600u);
    EXPECT_EQ(test::contentOf(folder / "r.csv"), "new");
    ASSERT_TRUE(writeText(folder / "keep.csv", "new"));
    EXPECT_EQ(test::contentOf(folder / "keep.csv.part"), "mine");
    std::filesystem::create_symlink(folder / "r.csv", folder / "link.csv");
    ASSERT_TRUE(writeText(folder / "link.csv", "through"));
    EXPECT_TRUE(std::filesystem::is_symlink(folder / "link.csv"));
    EXPECT_EQ(test::contentOf(folder / "r.csv"), "through");
    EXPECT_FALSE(writeText(folder.path(), "x")); // a folder
    ASSERT_TRUE(BatchFile::write(folder / "b.nuvat", DocumentState{}));
    ::stat((folder / "b.nuvat").c_str(), &found);
    EXPECT_EQ(found.st_mode & 0777u, 0600u); // for its owner alone
}

TEST(Sessions, ListBatchesThatWereNeverNamed) {
    const TemporaryFolder folder;
    ::setenv("XDG_DATA_HOME", folder.path().c_str(), 1);
    auto first = newBatch([] { return 10; });
    ASSERT_TRUE(first);
    ASSERT_TRUE(first->document->apply(setTitle(first->document->batch(), "Yesterday")));
    auto second = newBatch([] { return 20; });
    ASSERT_TRUE(second->document->apply(setTitle(second->document->batch(), "Today")));
    const auto all = unnamedBatches();
    ASSERT_EQ(all.size(), 2u);
    EXPECT_EQ(all[0].title, "Today");
    EXPECT_EQ(all[1].title, "Yesterday");
    EXPECT_EQ(all[1].path, first->path);
    EXPECT_EQ(all[0].changedMillis, 20);
    ::unsetenv("XDG_DATA_HOME");
}

// An edit that finds no room is refused with a sentence, and the batch is as it was, in memory and in the file; the
// next one that fits is kept.
TEST(FullDisk, AnEditIsKeptWholeOrNotAtAll) {
    const test::TemporaryFolder folder;
    const auto path = folder / "full.nuvat";
    ASSERT_TRUE(BatchFile::write(path, test::sampleDocument().state()));
    Document document = test::openDocument(path);
    const Batch before = document.batch();
    {
        const FullDisk full(std::filesystem::file_size(path));
        const auto kept = document.apply(setSample(document.batch(), 2, {"two", 2, std::string(200'000, 'n')}));
        ASSERT_FALSE(kept);
        EXPECT_EQ(kept.error().code, "store.cannot-write");
        EXPECT_NE(kept.error().text().find("room"), std::string::npos) << kept.error().text();
        EXPECT_EQ(document.batch(), before);
    }
    ASSERT_TRUE(document.apply(setSample(document.batch(), 2, {"two", 2, "note"})));
    const Batch after = document.batch();
    document.setJournal(nullptr);
    EXPECT_EQ(test::openDocument(path).batch(), after);
}

// So is a file that is written anew: what was there stays.
TEST(FullDisk, ASavedCopyIsWholeOrNotThere) {
    const test::TemporaryFolder folder;
    const auto path = folder / "copy.nuvat";
    const auto written = [&] {
        const FullDisk full(8192);
        return BatchFile::write(path, test::sampleDocument().state());
    }();
    ASSERT_FALSE(written);
    EXPECT_FALSE(std::filesystem::exists(path));
    EXPECT_TRUE(std::filesystem::is_empty(folder.path())) << "nothing half-written is left";
}

} // namespace
} // namespace nuvat
