#pragma once

#include "nuvat/core/base/well.h"
#include "nuvat/formats/delimited_table.h"

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace nuvat {

/// One well as the file gave it.
struct PlateCell {
    std::optional<double> value; ///< absent when the well was not read or its text is no number
    std::string text;            ///< as it stands in the file
    int line = 0;                ///< 1-based; 0 when the file has no cell for this well
    int column = 0;              ///< 1-based cell in that line
};

/// A sentence about one cell that the reading can live with.
struct ImportWarning {
    std::string message;
    int line = 0;
    int column = 0;
    int row = -1;         ///< plate row of the well it is about, 0-based; -1 when it is about no well
    int plateColumn = -1; ///< plate column, 0-based
};

/// The text or the sheet that plates stand in, to be shown and to be read again otherwise.
struct PlateFile {
    std::string name;     ///< in sentences: the file's, or "plate.xlsx, sheet Data"
    DecodedText text;     ///< empty of a sheet
    DelimitedTable table; ///< as it was cut
};

/// How a file is to be read where it is not to be as found.
struct PlateCut {
    SaidNotation notation;         ///< of texts
    std::vector<CellBlock> blocks; ///< one or more: each is a plate, one of a single column a list of samples
    bool operator==(const PlateCut&) const = default;
};

/// What was understood of a plate file. Nothing of it is in the batch yet.
struct PlateImport {
    std::string source;     ///< file name, or "pasted block"
    std::string checksum;   ///< of the bytes, 16 hexadecimal digits (FNV-1a 64), to recognise the same file again
    bool isList = false;    ///< a list (well, value) rather than a matrix
    bool isBlock = false;   ///< cells that were marked, without headings
    bool isRunList = false; ///< a list of samples without places: rows are runs, and there is one column
    int rows = 0;
    int columns = 0;
    std::vector<PlateCell> wells;      ///< rows*columns, row by row
    std::vector<std::string> headings; ///< lines above the plate, as found
    std::vector<std::string> names;    ///< of the samples of a run list, one a row
    std::string readName;              ///< what was read, when the heading says so ("450 nm"); else empty
    std::string encoding;              ///< as in DelimitedTable
    std::string sheet;                 ///< of a spreadsheet, where it stands
    char separator = ',';
    char decimal = '.';
    std::vector<ImportWarning> warnings;
    std::shared_ptr<const PlateFile> file; ///< that it stands in
    int headingLine = 0;                   ///< of the column numbers, or of what columns are called; 0: none
    int labelColumn = 0;                   ///< 1-based cell of row letters, wells or names; 0: none
    int nameLine = 0;                      ///< of the read's name, where the file says it; 0: none
    int nameColumn = 0;                    ///< 1-based cell of it
    std::string unit;                      ///< of the values, where the file says one: "AU", "RFU"; else empty
    int unitLine = 0, unitColumn = 0;      ///< the cell that says it; 0: none
    /// One line: "8 × 12 matrix, semicolon, decimal comma, UTF-8, in AU".
    std::string understood() const;
    std::size_t numberCount() const; ///< wells with a value
};

/// Reads one plate from a CSV, TSV or pasted block: a matrix with row letters and column numbers, with or without
/// heading lines above it, or a list of wells with their values. A text in a well ("OVER") makes the well unusable and
/// is reported as a warning with line, cell and well.
/// @return the plate, or an error of readDelimited, or import.no-numbers, import.no-plate, import.ragged-row,
///         import.row-missing, import.two-plates, import.well-twice, import.well-name, import.ambiguous-decimal
Result<PlateImport> readPlate(std::istream& stream, const std::string& name, Progress& progress,
                              const DelimitedLimits& limits = {});

/// Reads everything that a file holds, in its order: one read as readPlate() does; matrices under each other, each with
/// the lines above it; a list of wells with several columns of numbers, one read a column; a list of samples without
/// places (cuvettes, vials) under a row of headings, one read a column.
/// @return one read or more, or the errors of readPlate
Result<std::vector<PlateImport>> readPlates(std::istream& stream, const std::string& name, Progress& progress,
                                            const DelimitedLimits& limits = {}, const PlateCut& cut = {});
/// The same from a table that was cut already.
Result<std::vector<PlateImport>> readPlates(DelimitedTable table, const std::string& name);
/// A text cut anew; a sheet stays as it is. @return the errors of cutTable
Result<std::shared_ptr<const PlateFile>> cutAgain(const std::shared_ptr<const PlateFile>& file,
                                                  const SaidNotation& said);
/// The same once more, with another notation or cells that were marked.
/// @return also import.outside when a block is not in the file
Result<std::vector<PlateImport>> readPlates(const std::shared_ptr<const PlateFile>& file, const PlateCut& cut);
/// The text as it is cut, before a plate is looked for in it. @return the errors of readDelimited
Result<std::shared_ptr<const PlateFile>> plateFileOf(std::istream& stream, const std::string& name, Progress& progress,
                                                     const PlateCut& cut = {}, const DelimitedLimits& limits = {});

} // namespace nuvat
