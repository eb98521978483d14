#pragma once

#include "columns.h"
#include "nuvat/workflow/peak_table.h"
#include "options.h"

namespace nuvat {

/// Options that name columns of a table of peaks, with the names that are looked for where they are not given.
const std::vector<std::pair<std::string, std::string>>& peakColumnOptions();
/// The rows of the table of --in. @return peaks.role, peaks.factor with the line, or the errors of readColumns
Result<std::vector<PeakRow>> readPeakRows(const Options& options);

} // namespace nuvat
