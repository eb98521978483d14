#pragma once

#include "nuvat/core/base/error.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/progress.h"

#include <cstddef>
#include <istream>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace nuvat {

/// Bounds a reader keeps, whatever the file says of itself.
struct DelimitedLimits {
    std::size_t mostBytes = 64u << 20;
    std::size_t mostCells = 200'000; ///< far above the largest plate with its headings, far below what fills memory
    const char* purpose = "a plate reading"; ///< what a larger text is too large for
    const char* advice = "The largest plate has 1536 wells; export one plate from the reader as a file of its own.";
};

/// Separator and decimal sign where they are said rather than found.
struct SaidNotation {
    std::optional<char> separator; ///< as in DelimitedTable
    std::optional<char> decimal;
    bool operator==(const SaidNotation&) const = default;
};

/// One line of a text, cut into cells.
struct DelimitedRow {
    int line = 0;                   ///< 1 for the first line of the file
    std::vector<std::string> cells; ///< UTF-8, quotes removed, blanks kept
};

/// A CSV, TSV, pasted block or sheet of a spreadsheet as it stands, before anything is understood of it.
struct DelimitedTable {
    std::string encoding;           ///< "UTF-8", "UTF-8 with BOM", "UTF-16", "Latin-1"; of a sheet "XLSX" or "ODS"
    std::string sheet;              ///< its name, where the table is a sheet; lines are its rows then
    std::string checksum;           ///< FNV-1a 64 of the bytes, 16 hexadecimal digits
    char separator = ',';           ///< ',', ';', tab, or ' ' for runs of blanks
    NumberFormat numbers;           ///< decimal sign found
    std::vector<DelimitedRow> rows; ///< without empty lines
};

/// Reads a delimited text: finds encoding, separator and decimal sign, cuts lines (LF, CRLF or CR alone) into cells.
/// @param name  what the text is called in sentences: a file name or "the pasted block"
/// @return  the table, or import.unreadable, import.empty, import.binary, import.encoding, import.too-large,
///          import.quote-open, import.cancelled
Result<DelimitedTable> readDelimited(std::istream& stream, const std::string& name, Progress& progress,
                                     const DelimitedLimits& limits = {});

/// A text in UTF-8, before it is cut.
struct DecodedText {
    std::string text;
    std::string encoding;
    std::string checksum;
};
/// @return the text, or the errors of readDelimited that come before cutting
Result<DecodedText> readDecoded(std::istream& stream, const std::string& name, Progress& progress,
                                const DelimitedLimits& limits = {});
/// Cuts a text into cells. @return import.quote-open, import.empty, import.too-large
Result<DelimitedTable> cutTable(const DecodedText& text, const std::string& name, const SaidNotation& said = {},
                                const DelimitedLimits& limits = {});

/// A cell as it goes into a CSV: made safe by forSpreadsheet(), and quoted when needed.
std::string csvCell(std::string_view text);

} // namespace nuvat
