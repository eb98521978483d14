#pragma once

#include "nuvat/batch/document.h"
#include "sqlite.h"

#include <mutex>
#include <set>

namespace nuvat {

/// A grid as the text that a batch file keeps of it.
std::string gridText(const Grid& grid);
/// @throws std::exception when the text is none
Grid gridFromText(const std::string& text);

/// A trace as the bytes that a batch file keeps of it, see migrations/0008.sql.
std::string traceBytes(const Trace& trace);
/// @throws std::exception when the bytes are none
Trace traceFromBytes(std::string_view bytes);

/// Payloads of a batch file, read on first use by a connection of their own. Any thread.
class FilePayloads : public PayloadSource {
public:
    /// @param database used by nobody else while a payload is read
    explicit FilePayloads(std::shared_ptr<Database> database) : m_database(std::move(database)) {}
    PayloadData load(const PayloadId& id) override;

private:
    std::mutex m_mutex;
    std::shared_ptr<Database> m_database;
};

/// Writes a payload unless it is there. @throws std::runtime_error when its data cannot be read
void storePayload(Database& db, const Payload& payload);
/// Payloads that a command names, before or after.
std::vector<Payload> payloadsOf(const Command& command);
/// Frees what neither a reading nor an undo entry names.
void freePayloads(Database& db);

} // namespace nuvat
