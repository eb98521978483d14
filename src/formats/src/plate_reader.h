#pragma once

#include "nuvat/formats/plate_file.h"

namespace nuvat {

/// Reads one plate from a table. @param valueColumn of a list with several columns of numbers, the one to take
Result<PlateImport> readOnePlate(const DelimitedTable& table, const std::string& name,
                                 std::optional<std::size_t> valueColumn = std::nullopt);

/// Where something stands: "plate.csv, line 5, cell 3 (well A2)", "plate.xlsx, sheet Data, cell C5 (well A2)".
/// @param column 0: the whole line
std::string placeText(const DelimitedTable& table, const std::string& name, int line, int column = 0,
                      const std::string& well = {});
/// "450 nm" where a text says so ("Absorbance, 450nm"); else empty.
std::string wavelengthIn(std::string_view text);
/// Whether a line is a remark.
bool isComment(const DelimitedRow& row);
/// A row that numbers the columns: 1, 2, 3 … from cell `from`, at least 2 of them, nothing else after them.
struct ColumnHeading {
    std::size_t from = 0;
    int count = 0;
};
std::optional<ColumnHeading> columnHeading(const DelimitedRow& row);
/// Whether a row numbers the columns of a matrix: row letters stand below it.
bool isMatrixHeading(const DelimitedTable& table, std::size_t index);

/// Where matrices begin: indexes of the rows that number their columns.
std::vector<std::size_t> matrixHeadings(const DelimitedTable& table);
/// The first row after a matrix. @param heading its row of column numbers
std::size_t endOfMatrix(const DelimitedTable& table, std::size_t heading);
/// The column in which a list names its wells; nothing when the table is no such list.
std::optional<std::size_t> wellColumnOf(const DelimitedTable& table);
/// Where blanks part the cells, those before 1, 2, 3 … are no cell; the row letters stand below one.
void alignPlateHeadings(DelimitedTable& table);

/// A list of samples without places: a row of headings, names in a column of texts, numbers in one or more others.
struct SampleList {
    std::size_t firstRow = 0; ///< of the samples
    std::optional<std::size_t> names;
    std::vector<std::size_t> values; ///< columns of numbers, without those that count or dilute
};
/// @return nothing when the table is no such list
std::optional<SampleList> sampleListOf(const DelimitedTable& table);
/// One column of it as a run list.
PlateImport readSampleList(const DelimitedTable& table, const std::string& name, const SampleList& list,
                           std::size_t column);
/// Columns of a list of wells that were read: full of numbers, and called something that is no count or dilution.
std::vector<std::size_t> readColumns(const DelimitedTable& table);

} // namespace nuvat
