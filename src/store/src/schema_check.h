#pragma once

#include "sqlite.h"

namespace nuvat {

/// Nothing but tables stands where the tables of this schema version are, and nothing runs by itself. Further tables
/// that a person added are left alone. @throws std::runtime_error otherwise
void requireOwnSchema(Database& db, int version);

/// SQLite's own check of the whole file. @throws std::runtime_error with its first finding
void requireIntegrity(Database& db);

} // namespace nuvat
