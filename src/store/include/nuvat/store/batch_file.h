#pragma once

#include "nuvat/batch/document.h"

#include <filesystem>
#include <memory>
#include <string>

namespace nuvat {

/// The batch file `.nuvat`: SQLite with application_id 0x4E555654 ("NUVT") and user_version = schema version.
/// Belongs to the thread that opened it. A rollback journal guards every transaction, so a crash or a power cut leaves
/// the last complete command.
class BatchFile : public Journal {
public:
    static constexpr int kSchemaVersion = 2;

    /// Makes a new file with this content, beside `path` and then renamed over it, so that an existing file is either
    /// replaced as a whole or left as it is.
    /// @return store.cannot-write
    static Result<void> write(const std::filesystem::path& path, const DocumentState& state);

    struct Opened;
    /// Opens an existing batch file and reads it; one of an older schema is brought to the present one, in one
    /// transaction.
    /// @return store.not-found, store.not-a-batch, store.newer-version, store.damaged, store.cannot-read
    static Result<Opened> open(const std::filesystem::path& path);

    ~BatchFile() override;
    BatchFile(const BatchFile&) = delete;
    BatchFile& operator=(const BatchFile&) = delete;

    const std::filesystem::path& path() const;
    /// One transaction: the command's items, the command itself, the history line. @return store.cannot-write
    Result<void> record(const Batch& batch, const Command& command, std::size_t index,
                        const HistoryLine& line) override;

private:
    struct Connection;
    explicit BatchFile(std::unique_ptr<Connection> connection);
    std::unique_ptr<Connection> m_connection;
};

struct BatchFile::Opened {
    std::unique_ptr<BatchFile> file;
    DocumentState state;
};

} // namespace nuvat
