#pragma once

#include "sqlite.h"

#include <functional>
#include <nlohmann/json_fwd.hpp>

namespace nuvat {

// What SQL alone cannot bring up. An undo entry that is no JSON, or not what its version wrote, is left as it is:
// reading it says so.

/// To version 5: until then the batch had the size of its one plate.
void moveSizesToCarriers(Database& db);
/// To version 6: wells become payloads, the reading in use a channel in use, readings of analytes channels. Readings
/// that had the same name and were read by different analytes get names of their own.
/// @throws std::runtime_error when values are not those that were imported
void moveWellsToPayloads(Database& db);
/// To version 7: lists of limits, ranges and the like become fields with names, the formula of a response a rule, and
/// what an older version did not know takes the value that it went by.
void nameEveryField(Database& db);

/// To version 8: methods have rules of signals.
void addSignalRules(Database& db);

/// To version 9: analytes may have a solution that is added to samples.
void addAdditionStandard(Database& db);

/// To version 10: decisions and what came with them.
void addDecisions(Database& db);
/// To version 11: how figures are drawn.
void addFigures(Database& db);
/// To version 12: internal standards and qualifiers.
void addInternalStandards(Database& db);
/// To version 13: suitability, how lists are measured and prepared for.
void addRunLists(Database& db);

/// Calls `change` with the changes of every undo entry that is JSON, and keeps what it makes of them.
void rewriteCommands(Database& db, const std::function<void(std::int64_t position, nlohmann::json& changes)>& change);

} // namespace nuvat
