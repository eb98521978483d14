#pragma once

#include "sqlite.h"

namespace nuvat {

/// Rewrites the undo entries of an older file as the present version writes them. An entry that is no JSON, or not what
/// its version wrote, is left as it is: reading it says so.
/// @param version schema version that the file had
void upgradeCommands(Database& db, int version);

} // namespace nuvat
