#pragma once

#include "sqlite.h"

#include <string>

namespace nuvat {

// Bits that rot in a level, a dilution or a setting would change results without a word: SQLite looks at its structure
// only. A checksum over the rows as they stand in the file notices them; the wells of a reading have one of their own.

/// Stores the checksum of what the file holds now.
void seal(Database& db);
/// Whether the file holds what was sealed.
bool isSealIntact(Database& db);

} // namespace nuvat
