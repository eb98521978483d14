#pragma once

#include "nuvat/formats/plate_file.h"

namespace nuvat {

/// Rows and columns of a plate.
struct PlateSize {
    int rows = 0;
    int columns = 0;
};
/// The smallest usual plate that holds so many rows and columns; those where there is none.
PlateSize usualPlate(PlateSize needed);
bool isUsualPlate(PlateSize size);
/// An import of a table of which nothing is understood yet.
PlateImport importOf(const DelimitedTable& table, const std::string& name);
/// Reads one plate from a table. @param valueColumn of a list with several columns of numbers, the one to take
Result<PlateImport> readOnePlate(const DelimitedTable& table, const std::string& name,
                                 std::optional<std::size_t> valueColumn = std::nullopt);

/// Reads what a table holds by itself: matrices, a list of wells, a list of samples.
Result<std::vector<PlateImport>> readFound(const DelimitedTable& table, const std::string& name);
/// Reads marked cells as a plate.
Result<PlateImport> readBlock(const DelimitedTable& table, const std::string& name, const CellBlock& block);

/// Where something stands: "plate.csv, line 5, cell 3 (well A2)", "plate.xlsx, sheet Data, cell C5 (well A2)".
/// @param column 0: the whole line
std::string placeText(const DelimitedTable& table, const std::string& name, int line, int column = 0,
                      const std::string& well = {});
/// "450 nm" where a text says so ("Absorbance, 450nm"); else empty.
std::string wavelengthIn(std::string_view text);
/// "60 s" where a text says when something was read ("Cycle 3 (60 s)", "Time: 00:01:00"); else empty.
std::string readTimeIn(std::string_view text);
/// Calls reads by their times where each of three or more says one above it, and they rise from a start.
void nameByTimes(std::vector<PlateImport>& reads);
/// A table with a column of times and wells in the others, one read a row; nothing when the table is no such one.
std::optional<std::vector<PlateImport>> readTimeTable(const DelimitedTable& table, const std::string& name);
/// A unit, and the cell that says it.
struct SaidUnit {
    std::string unit;
    int line = 0, column = 0;
};
/// What a table says beside words for "unit", from its first line on.
std::vector<SaidUnit> unitsIn(const DelimitedTable& table);
/// Sets in what the values of a plate are, where the lines above them say so. @param said by the table
void setUnit(const DelimitedTable& table, const std::vector<SaidUnit>& said, PlateImport& plate);
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
