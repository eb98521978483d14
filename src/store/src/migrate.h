#pragma once

#include "nuvat/core/base/error.h"
#include "sqlite.h"

namespace nuvat {

/// Brings a file of an older version to the present one, or leaves it as it is. @param version 0: an empty file
void migrate(Database& db, int version);

/// Where the file as it was before its first migration is kept: beside it, under a name that is no batch's.
std::filesystem::path copyBeforeMigration(const std::filesystem::path& path, int version);

/// Keeps it; one that is there already is the older and stays. @return the errors of ReplacementFile
Result<void> keepCopy(const std::filesystem::path& path, int version);

} // namespace nuvat
