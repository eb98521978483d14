#include "nuvat/store/batch_file.h"

#include "items.h"
#include "measured_store.h"
#include "migrate.h"
#include "nuvat/batch/validate.h"
#include "nuvat/core/base/replacement_file.h"
#include "payload_store.h"
#include "schema_check.h"
#include "seal.h"
#include "store_errors.h"
#include "writer_lock.h"

#include <array>
#include <fstream>
#include <functional>
#include <nlohmann/json.hpp>
#include <span>
#include <unistd.h>

namespace nuvat {

namespace {

constexpr int kApplicationId = 0x4E555654; // "NUVT"
/// Steps of SQLite's machine that reading one batch may take: a hundred times the largest, some seconds.
constexpr std::int64_t kMostWork = 1'000'000'000;

void configure(Database& db) {
    // A rollback journal: one file, no sidecars left behind, works on network drives. FULL: a power cut loses nothing.
    db.execute("PRAGMA journal_mode = DELETE; PRAGMA synchronous = FULL; PRAGMA foreign_keys = ON;");
}

/// The first version whose batches were evaluated by the present rules.
constexpr int kOfPresentRules = 3;

std::filesystem::path journalOf(std::filesystem::path path, const char* ending = "-journal") {
    path += ending;
    return path;
}

/// A journal that is left of the file about to be replaced must not be played back into the new one: it is played back
/// now, into the old one, or thrown away with it.
void settleOldJournal(const std::filesystem::path& path) {
    std::error_code ignored;
    if (std::filesystem::exists(journalOf(path), ignored)) {
        try {
            Database old(path, SQLITE_OPEN_READWRITE);
            old.execute("BEGIN EXCLUSIVE; ROLLBACK");
        } catch (const SqliteError&) { // it is no database any more; it goes all the same
        }
    }
    for (const char* ending : {"-journal", "-wal", "-shm"}) {
        std::filesystem::remove(journalOf(path, ending), ignored);
    }
}

/// Reads all there is. @throws SqliteError, std::runtime_error
DocumentState readState(Database& db, const std::shared_ptr<PayloadSource>& payloads, std::int64_t& firstPosition,
                        std::vector<std::string>& notes) {
    DocumentState state;
    state.batch = readBatch(db, payloads);
    state.history = readHistory(db);
    UndoEntries undo = readUndoEntries(db, payloads);
    state.commands = std::move(undo.commands);
    state.done = undo.done;
    firstPosition = undo.firstPosition;
    if (!undo.lost.empty()) {
        notes.push_back(undo.lost);
    }
    return state;
}

/// Application and version. @return the schema version
Result<int> checkVersion(Database& db, const std::string& name) {
    if (db.pragma("application_id") != kApplicationId) {
        return fail("store.not-a-batch", name + " is an SQLite file, but not a Nuvat batch.",
                    "Choose a file that ends in .nuvat.");
    }
    const int version = db.pragma("user_version");
    if (version > BatchFile::kSchemaVersion) {
        return fail("store.newer-version",
                    name + " was written by a newer Nuvat (schema " + std::to_string(version) +
                        "; this one reads up to " + std::to_string(BatchFile::kSchemaVersion) + ").",
                    "Open it with that version; the file was left as it is.");
    }
    if (version < 1) {
        return damaged(name, "its schema version is " + std::to_string(version) + ", which no Nuvat has written");
    }
    return version;
}

/// The same, and structure and integrity.
Result<int> checkHead(Database& db, const std::string& name) {
    const auto version = checkVersion(db, name);
    if (version) {
        requireOwnSchema(db, *version);
        requireIntegrity(db);
    }
    return version;
}

/// A folder for a copy, removed at the end.
class CopyFolder {
public:
    CopyFolder() {
        std::string name = (std::filesystem::temp_directory_path() / "nuvat-XXXXXX").string();
        if (::mkdtemp(name.data()) == nullptr) {
            throw std::runtime_error("no temporary folder can be made");
        }
        m_path = name;
    }
    ~CopyFolder() {
        std::error_code ignored;
        std::filesystem::remove_all(m_path, ignored);
    }
    CopyFolder(const CopyFolder&) = delete;
    CopyFolder& operator=(const CopyFolder&) = delete;
    const std::filesystem::path& path() const { return m_path; }

private:
    std::filesystem::path m_path;
};

/// The content of a file in memory, where it can be migrated without touching the file. A transaction that a killed
/// process left half done is rolled back in a copy.
void loadIntoMemory(const std::filesystem::path& path, Database& memory) {
    try {
        Database file(path, SQLITE_OPEN_READONLY);
        memory.copyFrom(file);
        return;
    } catch (const SqliteError& e) {
        const bool needsRollback = e.primary() == SQLITE_READONLY || e.primary() == SQLITE_CANTOPEN;
        if (!needsRollback || !std::filesystem::exists(journalOf(path))) {
            throw;
        }
    }
    const CopyFolder folder;
    const auto copy = folder.path() / "batch.nuvat";
    std::filesystem::copy_file(path, copy);
    std::filesystem::copy_file(journalOf(path), journalOf(copy));
    Database file(copy, SQLITE_OPEN_READWRITE);
    memory.copyFrom(file);
}

/// Whether the file ends before the pages that its head counts. Source: the SQLite file format, section 1.3.
bool isCutOff(const std::filesystem::path& path, std::span<const char, 100> head) {
    const auto byte = [&](std::size_t i) { return static_cast<std::uintmax_t>(static_cast<unsigned char>(head[i])); };
    const std::uintmax_t field = byte(16) << 8u | byte(17);
    const std::uintmax_t pageSize = field == 1 ? 65536 : field;
    const std::uintmax_t pages = byte(28) << 24u | byte(29) << 16u | byte(30) << 8u | byte(31);
    std::error_code error;
    const std::uintmax_t size = std::filesystem::file_size(path, error);
    // With a journal beside it the file may be in the middle of growing; SQLite settles that.
    return !error && size < pageSize * pages && !std::filesystem::exists(journalOf(path), error);
}

std::optional<Error> whyNoBatch(const std::filesystem::path& path) {
    std::array<char, 100> magic{};
    std::ifstream stream(path, std::ios::binary);
    if (!stream) {
        return Error{"store.not-found",
                     path.string() + " cannot be opened: there is no such file, or you may not read it.",
                     "Choose another file."};
    }
    stream.read(magic.data(), magic.size());
    if (std::string_view(magic.data(), 16) != std::string_view("SQLite format 3\0", 16)) {
        return Error{"store.not-a-batch", path.string() + " is not a Nuvat batch: it does not begin as one.",
                     "Choose a file that ends in .nuvat; a reading (CSV, TSV) is imported under Data."};
    }
    if (isCutOff(path, magic)) {
        return damaged(path.string(), "it ends before its last page").value();
    }
    return std::nullopt;
}

} // namespace

struct BatchFile::Connection {
    std::filesystem::path path;
    std::unique_ptr<WriterLock> lock;
    std::unique_ptr<Database> database; ///< absent when it is open for reading
    std::string whyReadOnly;            ///< sentence
    std::int64_t firstPosition = 0;     ///< in the table of commands, of the document's first command
    std::int64_t lastLine = 0;          ///< id of the history's last line as this object knows it
    int dataVersion = 0;                ///< of SQLite: moves when another connection writes

    /// Whether no other connection has written since. Asked for inside a transaction.
    bool isAsLeft() const;
    std::int64_t lastLineInFile() const {
        Statement s(*database, "SELECT coalesce(max(id), 0) FROM history");
        return s.step() ? s.integer64(0) : 0;
    }
};

BatchFile::BatchFile(std::unique_ptr<Connection> connection) : m_connection(std::move(connection)) {}
BatchFile::~BatchFile() = default;
const std::filesystem::path& BatchFile::path() const {
    return m_connection->path;
}
bool BatchFile::isReadOnly() const {
    return !m_connection->database;
}

namespace {

/// Whether the payloads of a file can be copied as they are.
bool hasPayloads(const std::filesystem::path& path) {
    if (path.empty() || whyNoBatch(path)) {
        return false;
    }
    try {
        Database db(path, SQLITE_OPEN_READONLY);
        return db.pragma("user_version") == BatchFile::kSchemaVersion;
    } catch (const SqliteError&) {
        return false;
    }
}

} // namespace

Result<void> BatchFile::write(const std::filesystem::path& path, const DocumentState& state,
                              const std::filesystem::path& from) {
    const auto lock = WriterLock::acquire(path);
    if (const auto* held = std::get_if<WriterLock::HeldBy>(&lock)) {
        return fail("store.in-use",
                    path.string() + " is open for editing" + (held->who.empty() ? "" : " by " + held->who) +
                        "; it was left as it is.",
                    "Close it there, or choose another name.");
    }
    auto file = ReplacementFile::beside(path, ReplacementFile::Access::Private);
    if (!file) {
        return fail("store.cannot-write", file.error().message, file.error().advice);
    }
    try {
        Database db(file->path(), SQLITE_OPEN_READWRITE);
        configure(db);
        db.execute("PRAGMA application_id = " + std::to_string(kApplicationId));
        migrate(db, 0);
        const bool copies = hasPayloads(from);
        if (copies) {
            db.attach(from);
        }
        {
            Transaction transaction(db);
            storeState(db, state, copies);
            seal(db);
            transaction.commit();
        }
        if (copies) {
            db.detach();
        }
    } catch (const std::exception& e) {
        std::error_code ignored;
        std::filesystem::remove(journalOf(file->path()), ignored);
        return cannotWrite(path, e.what());
    }
    settleOldJournal(file->target());
    if (auto done = file->commit(); !done) {
        return fail("store.cannot-write", done.error().message, done.error().advice);
    }
    return {};
}

namespace {

/// Whether edits can be written to the file at all: SQLite needs the folder for its journal too.
bool isWritable(const std::filesystem::path& path) {
    const auto folder = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
    return ::access(path.c_str(), W_OK) == 0 && ::access(folder.c_str(), W_OK) == 0;
}

/// Locks the file for editing. @return why it can only be read, as a sentence; empty when the lock was taken
std::string whyNotEditable(const std::filesystem::path& path, std::unique_ptr<WriterLock>& taken) {
    const std::string name = path.string();
    if (!isWritable(path)) {
        return name + " or its folder may not be written, so the batch is open for reading only; save it under another "
                      "name to work on it.";
    }
    auto lock = WriterLock::acquire(path);
    if (auto* held = std::get_if<WriterLock::HeldBy>(&lock)) {
        return name + " is open for editing" + (held->who.empty() ? "" : " by " + held->who) +
               ", so it is open for reading only here; save it under another name to work on it.";
    }
    if (auto* impossible = std::get_if<WriterLock::Impossible>(&lock)) {
        return name + " cannot be locked (" + impossible->why +
               "), so it is open for reading only; save it under another name to work on it.";
    }
    taken = std::move(std::get<std::unique_ptr<WriterLock>>(lock));
    return {};
}

/// Calls read() and turns what it throws into an Error.
template<class T> Result<T> guarded(const std::string& name, const std::function<Result<T>()>& read) {
    try {
        return read();
    } catch (const SqliteError& e) {
        if (e.primary() == SQLITE_BUSY || e.primary() == SQLITE_LOCKED) {
            return fail("store.cannot-read", name + " is being used by another program just now.",
                        "Try again in a moment, or close it there.");
        }
        if (e.primary() == SQLITE_CORRUPT || e.primary() == SQLITE_NOTADB || e.primary() == SQLITE_ERROR) {
            return damaged(name, e.what());
        }
        return fail("store.cannot-read", name + " cannot be read (" + e.what() + "); the file was left as it is.",
                    "Check that the disk has room and that you may read and write there; a copy in another folder "
                    "opens too.");
    } catch (const std::bad_alloc&) {
        return damaged(name, "it asks for more memory than there is");
    } catch (const nlohmann::json::exception&) { // says why in the words of a programmer
        return damaged(name, "an entry of it does not have the form that it should");
    } catch (const std::exception& e) {
        return damaged(name, e.what());
    }
}

} // namespace

Result<BatchFile::Head> BatchFile::head(const std::filesystem::path& path) {
    if (auto why = whyNoBatch(path)) {
        return tl::unexpected(std::move(*why));
    }
    return guarded<Head>(path.string(), [&]() -> Result<Head> {
        // What a killed process left half done is rolled back in a copy.
        const bool isHalfDone = std::filesystem::exists(journalOf(path));
        Database db = isHalfDone ? Database::inMemory() : Database(path, SQLITE_OPEN_READONLY);
        if (isHalfDone) {
            loadIntoMemory(path, db);
        }
        db.limitWork(kMostWork);
        if (const auto version = checkVersion(db, path.string()); !version) {
            return tl::unexpected(version.error());
        }
        Statement batch(db, "SELECT title FROM batch");
        Statement last(db, "SELECT coalesce(max(time_millis), 0) FROM history");
        if (!batch.step() || !last.step()) {
            return damaged(path.string(), "it has no batch");
        }
        return Head{batch.text(0), last.integer64(0)};
    });
}

Result<BatchFile::Opened> BatchFile::open(const std::filesystem::path& path, Access access) {
    const std::string name = path.string();
    if (auto why = whyNoBatch(path)) {
        return tl::unexpected(std::move(*why));
    }
    auto connection = std::make_unique<Connection>();
    connection->path = path;
    Opened opened;
    if (access == Access::Read) {
        connection->whyReadOnly = name + " is open for reading only.";
    } else if (connection->whyReadOnly = whyNotEditable(path, connection->lock); !connection->lock) {
        opened.notes.push_back(connection->whyReadOnly);
    }
    return guarded<Opened>(name, [&]() -> Result<Opened> {
        const auto memory = std::make_shared<Database>(":memory:", SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE);
        Database* db = memory.get();
        if (connection->lock) {
            connection->database = std::make_unique<Database>(path, SQLITE_OPEN_READWRITE);
            db = connection->database.get();
        } else {
            loadIntoMemory(path, *memory);
        }
        db->limitWork(kMostWork);
        const auto version = checkHead(*db, name);
        if (!version) {
            return tl::unexpected(version.error());
        }
        if (connection->database && *version < kSchemaVersion) {
            if (const auto kept = keepCopy(path, *version)) {
                opened.notes.push_back(
                    "This batch was brought to the form of this version of Nuvat; the file as it was is kept as " +
                    copyBeforeMigration(path, *version).string() + ".");
            } else {
                connection->whyReadOnly = name +
                                          " is of an earlier version of Nuvat, and no copy of it could be kept (" +
                                          kept.error().message +
                                          "), so it is open for reading only. Make room, or save "
                                          "it under another name.";
                opened.notes.push_back(connection->whyReadOnly);
                loadIntoMemory(path, *memory);
                db = memory.get();
                connection->database.reset();
                connection->lock.reset();
            }
        }
        configure(*db);
        migrate(*db, *version);
        // What is open for reading only stays in memory, and its payloads with it.
        const auto payloads = std::make_shared<FilePayloads>(
            connection->database ? std::make_shared<Database>(path, SQLITE_OPEN_READONLY) : memory);
        if (*version < kOfPresentRules) {
            opened.notes.push_back(noteOnOlder(name));
        }
        opened.state = readState(*db, payloads, connection->firstPosition, opened.notes);
        opened.measured = readMeasured(*db, opened.state.batch);
        if (!isSealIntact(*db)) { // a next edit would seal what nobody has looked at
            connection->whyReadOnly = noteOnBrokenSeal(name);
            opened.notes.push_back(connection->whyReadOnly);
            connection->database.reset();
            connection->lock.reset();
        }
        memory->limitWork(0); // what comes now is asked for bit by bit
        if (connection->database) {
            db->limitWork(0);
            connection->lastLine = connection->lastLineInFile();
            connection->dataVersion = db->pragma("data_version");
        }
        opened.file.reset(new BatchFile(std::move(connection)));
        return std::move(opened);
    });
}

bool BatchFile::Connection::isAsLeft() const {
    return database->pragma("data_version") == dataVersion && lastLineInFile() == lastLine;
}

void BatchFile::remember(const Batch& batch, const Evaluation& evaluation) {
    Connection& its = *m_connection;
    if (!its.database) {
        return;
    }
    try {
        Transaction transaction(*its.database);
        if (its.isAsLeft() && storeMeasured(*its.database, batch, evaluation.traces)) {
            transaction.commit();
        }
    } catch (const std::exception&) { // a full disk, another program: it is measured again next time, no more
        return;
    }
}

Result<void> BatchFile::record(const Batch&, const Command& command, std::size_t index, const HistoryLine& line) {
    Connection& its = *m_connection;
    if (!its.database) {
        return fail("store.read-only", its.whyReadOnly, "");
    }
    Database& db = *its.database;
    try {
        Transaction transaction(db);
        if (!its.isAsLeft()) {
            return fail(
                "store.changed-elsewhere",
                its.path.string() + " was changed by another program since it was opened; this edit was not made.",
                "Save this batch under another name (Ctrl+S), or open the file again to see what it holds now.");
        }
        const std::int64_t position = its.firstPosition + static_cast<std::int64_t>(index);
        const bool isUndo = line.kind == EventKind::Undone;
        for (const Change& change : command.changes) {
            std::visit([&](const auto& item) { storeItem(db, item.key, isUndo ? item.before : item.after); }, change);
        }
        if (line.kind == EventKind::Done) {
            Statement(db, "DELETE FROM command WHERE position >= ?").bind(position).run();
            storeCommand(db, command, position, true);
            freePayloads(db);
        } else {
            Statement(db, "UPDATE command SET is_done = ? WHERE position = ?").bind(!isUndo, position).run();
        }
        storeLine(db, line);
        seal(db);
        const std::int64_t lastLine = its.lastLineInFile();
        transaction.commit();
        its.lastLine = lastLine;
    } catch (const SqliteError& e) {
        return cannotRecord(its.path, e);
    } catch (const std::exception& e) {
        return cannotWrite(its.path, e.what());
    }
    return {};
}

} // namespace nuvat
