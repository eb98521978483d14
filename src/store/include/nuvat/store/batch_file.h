#pragma once

#include "nuvat/batch/document.h"
#include "nuvat/batch/evaluation.h"

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

namespace nuvat {

/// The batch file `.nuvat`: SQLite with application_id 0x4E555654 ("NUVT") and user_version = schema version.
/// Belongs to the thread that opened it. A rollback journal guards every transaction, so a crash or a power cut leaves
/// the last complete command. While it is open for editing, a lock beside it keeps every other Nuvat from writing.
class BatchFile : public Journal {
public:
    static constexpr int kSchemaVersion = 13;

    /// Makes a new file with this content, beside `path` and then renamed over it, so that an existing file is either
    /// replaced as a whole or left as it is. A journal that a killed process left of the old file goes with it. Only
    /// its owner may read a new file.
    /// @return store.cannot-write, store.in-use when somebody has it open for editing
    /// @param from the batch's present file, if it has one: what its readings hold is copied inside SQLite, and never
    /// comes into memory
    static Result<void> write(const std::filesystem::path& path, const DocumentState& state,
                              const std::filesystem::path& from = {});

    enum class Access {
        Edit, ///< to write edits where that is possible, else to read
        Read, ///< nothing is written, not even a migration of an older schema
    };
    struct Opened;
    /// Opens an existing batch file and reads it; one of an older schema is brought to the present one, in one
    /// transaction. What can be read is read, see Opened::notes.
    /// @return store.not-found, store.not-a-batch, store.newer-version, store.damaged, store.cannot-read
    static Result<Opened> open(const std::filesystem::path& path, Access access = Access::Edit);

    /// What a list of files says of one.
    struct Head {
        std::string title;
        std::int64_t changedMillis = 0; ///< of the last edit; 0: none
    };
    /// Reads no more of a file than that; its structure and integrity are looked at when it is opened.
    /// @return the errors of open()
    static Result<Head> head(const std::filesystem::path& path);

    ~BatchFile() override;
    BatchFile(const BatchFile&) = delete;
    BatchFile& operator=(const BatchFile&) = delete;

    const std::filesystem::path& path() const;
    bool isReadOnly() const;
    /// One transaction: the command's items, the command itself, the history line.
    /// @return store.cannot-write, store.busy, store.read-only, store.changed-elsewhere when the file is no longer as
    ///         this object left it; the file then is as it was
    Result<void> record(const Batch& batch, const Command& command, std::size_t index,
                        const HistoryLine& line) override;
    /// Remembers what was measured on traces, where the file can be written and is as this object left it.
    void remember(const Batch& batch, const Evaluation& evaluation) override;

private:
    struct Connection;
    explicit BatchFile(std::unique_ptr<Connection> connection);
    std::unique_ptr<Connection> m_connection;
};

struct BatchFile::Opened {
    std::unique_ptr<BatchFile> file;
    DocumentState state;
    MeasuredTraces measured;        ///< what the file remembers of its traces; Evaluator::know() takes it
    std::vector<std::string> notes; ///< sentences a person has to know: read-only and why, what could not be read
};

} // namespace nuvat
