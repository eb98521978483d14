#pragma once

#include "nuvat/batch/document.h"
#include "table_items.h"

namespace nuvat {

/// Writes one item, or deletes it when it is absent: a row, unless it has more than that.
template<class Key, class T> void storeItem(Database& db, const Key& key, const std::optional<T>& value) {
    storeRow(db, key, value);
}
void storeItem(Database& db, WholeBatch key, const std::optional<Method>& value);
void storeItem(Database& db, int key, const std::optional<Reading>& value);

void storeCommand(Database& db, const Command& command, std::int64_t position, bool isDone);
void storeLine(Database& db, const HistoryLine& line);
/// Everything, into empty tables. @param hasSource whether a batch file is attached whose payloads are copied inside
/// SQLite; the others come from memory
void storeState(Database& db, const DocumentState& state, bool hasSource);

/// Reads the batch. @throws std::runtime_error with what is wrong with it, in words for a person
/// @param payloads where their data is read from later
Batch readBatch(Database& db, const std::shared_ptr<PayloadSource>& payloads);
/// The same for the history.
std::vector<HistoryLine> readHistory(Database& db);

/// Undo entries that could be read.
struct UndoEntries {
    std::vector<Command> commands;
    std::size_t done = 0;
    std::int64_t firstPosition = 0; ///< of commands.front() in the file; entries before it cannot be read
    std::string lost;               ///< a sentence about those that could not be read; empty when all could
};
/// Never fails: an undo entry that cannot be read costs the way back past it, not the batch.
UndoEntries readUndoEntries(Database& db, const std::shared_ptr<PayloadSource>& payloads);

} // namespace nuvat
