#pragma once

#include "nuvat/core/base/error.h"
#include "nuvat/core/base/progress.h"
#include "nuvat/formats/delimited_table.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace nuvat {

enum class CellKind { Number, Date, Text, Boolean, Error };

/// One cell that holds something.
struct SheetCell {
    int row = 0, column = 0; ///< from 0
    CellKind kind = CellKind::Text;
    std::string text;             ///< a number as it stands in the file, with '.'; a date as "2026-09-14 10:20:00"
    std::optional<double> number; ///< of numbers, and of dates where the file gives them as numbers (days)
};

struct Sheet {
    std::string name;
    bool isHidden = false;
    std::vector<SheetCell> cells; ///< row by row
};

/// A spreadsheet: values alone, without formulas, notes and formats.
struct Workbook {
    std::string format;        ///< "XLSX" or "ODS"
    std::vector<Sheet> sheets; ///< in the order in which the program shows them
};

/// Whether bytes begin like a ZIP archive, which spreadsheets are.
bool looksLikeZip(std::string_view bytes);

/// Reads a spreadsheet: Office Open XML (ECMA-376, ISO/IEC 29500, strict and transitional) or OpenDocument (ISO/IEC
/// 26300). A number is the double that was stored, whatever the cell shows.
/// @return workbook.none for an archive that holds no spreadsheet, workbook.protected, workbook.xml, workbook.cell with
///         sheet and cell where a value cannot be trusted, workbook.too-large, the errors of ZIP archives,
///         import.cancelled
Result<Workbook> readWorkbook(std::string_view bytes, const std::string& name, Progress& progress);

/// A sheet as the readers of text take it: rows that hold something, filled up to the width of the sheet. Where more
/// numbers stand as texts with a decimal comma than as numbers, the comma is the decimal sign of all.
/// @param checksum of the file
DelimitedTable tableOf(const Workbook& workbook, const Sheet& sheet, const std::string& checksum);

/// "B7"
std::string cellName(int row, int column);

} // namespace nuvat
