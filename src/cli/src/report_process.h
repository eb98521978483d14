#pragma once

#include "nuvat/core/base/error.h"

#include <filesystem>

namespace nuvat {

/// Writes the report of a batch file by `nuvat-pdf`, which stands beside this program: only reports need Qt, and
/// loading it takes longer than evaluating a batch. The sentences of that program go to standard error.
/// @return its exit status, 0 or 1; cli.no-report when it is not there or cannot be started
Result<int> writeReportOf(const std::filesystem::path& batch, const std::filesystem::path& pdf);

} // namespace nuvat
