#pragma once

#include "nuvat/formats/delimited_table.h"
#include "nuvat/formats/file_content.h"

namespace nuvat {

/// Reads traces from columns of numbers: one x and one or several y, or pairs of columns (x, y, x, y); headings with
/// units, a line of units below them; lines above the columns are kept as header; several blocks under each other are
/// several runs, each placed by the line above it. A text among the numbers is a missing point and a warning; lines
/// longer or shorter than the others are refused, because values must not slide.
/// @return the errors of readDelimited, or import.no-columns, import.ragged-row
Result<FileContent> readTraceText(std::istream& stream, const std::string& name, Progress& progress);
/// The same from a table that was cut already.
Result<FileContent> readTraceTable(const DelimitedTable& table, const std::string& name);

} // namespace nuvat
