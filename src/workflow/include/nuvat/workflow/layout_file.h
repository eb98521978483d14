#pragma once

#include "nuvat/batch/command.h"

#include <istream>
#include <string>

namespace nuvat {

/// The layout of a batch as CSV, one place a line: carrier, well, role, number, preparation, name, nominal (one column
/// an analyte where there are several), dilution, volume, mass, added, comment.
std::string layoutCsv(const Batch& batch);

/// Lays a batch out as such a file says: places that it does not name are cleared, levels, QCs and samples that it
/// gives numbers or names take them. Columns may stand in any order, and all but well and role may be missing.
/// Separator, decimal sign and encoding are found.
/// @return the errors of readDelimited; layout-file.columns, layout-file.well, layout-file.role, layout-file.number
/// with the line; layout-file.twice for a well that stands in two lines
Result<Command> readLayoutCsv(const Batch& batch, std::istream& stream, const std::string& name);

} // namespace nuvat
