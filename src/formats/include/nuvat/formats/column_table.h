#pragma once

#include "nuvat/formats/delimited_table.h"

#include <cstdint>
#include <istream>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace nuvat {

struct Line;
struct Notation;

/// Columns of numbers and words under a line of headings, for files of millions of lines: the text is kept as it is and
/// every cell that is a number is read once.
class ColumnTable {
public:
    /// Reads CSV or TSV: encoding, separator and decimal sign are found as readDelimited finds them; empty lines and
    /// comments ("# …", "// …") are left out. Cost: one pass over the text, long ones by up to four threads; 8 bytes
    /// per cell and 4 per line besides it.
    /// @param name what the text is called in sentences; @param limits mostBytes at most 4 GB
    /// @param wanted headings that will be asked for: where the first line does not have them all, the headings are the
    ///        first line that does, and what stands above it is left out
    /// @return the errors of readDelimited, or fit.surplus-cell with line and cell for a line longer than the headings
    static Result<ColumnTable> read(std::istream& stream, const std::string& name, Progress& progress,
                                    const DelimitedLimits& limits, const std::vector<std::string>& wanted = {});

    const std::vector<std::string>& headings() const { return m_headings; }
    std::size_t rowCount() const { return m_rowCount; } ///< without the headings
    int line(std::size_t row) const;                    ///< of the file, 1 for the first
    NumberFormat numbers() const { return m_numbers; }

    /// Index of the column under a heading. @return fit.column-missing
    Result<std::size_t> find(std::string_view heading) const;
    /// The text of a cell without the blanks around it; empty where the line is too short.
    std::string_view cell(std::size_t row, std::size_t column) const;
    /// @return fit.not-a-number with line and cell
    Result<double> number(std::size_t row, std::size_t column) const;
    /// All numbers of a column. @return the first fit.not-a-number
    Result<std::vector<double>> column(std::size_t column) const;

private:
    /// Rows that one thread has read.
    struct Part {
        std::size_t firstRow = 0;
        std::vector<std::uint32_t> rowStarts;     ///< in m_text
        std::vector<std::vector<double>> columns; ///< NaN where the cell is not a number
        std::optional<std::size_t> surplusRow;    ///< the first with a cell that stands under no heading
    };

    /// How the text is cut and where its headings stand. @param lines of its begin, all when its cells are to be joined
    /// anew by characters that text cannot have
    Result<void> use(const std::vector<Line>& lines, Notation notation, const std::vector<std::string>& wanted,
                     bool isJoined);
    /// The rows of m_text in the notation of the table. @param lineSize as a guess
    /// @return whether another notation could fit better
    Result<bool> readAll(std::size_t lineSize, Progress& progress, const DelimitedLimits& limits);
    /// @return fit.surplus-cell
    Result<void> requireHeadings() const;
    std::string headPlace() const; ///< "the first line", "line 11"
    const Part& partOf(std::size_t row) const;
    std::size_t startOf(std::size_t row) const; ///< in m_text

    std::string m_name;
    std::string m_text;
    char m_separator = ',';
    NumberFormat m_numbers;
    std::vector<std::string> m_headings;
    int m_headLine = 1;         ///< of the file
    std::size_t m_rowsFrom = 0; ///< where the line below the headings begins in m_text
    std::vector<int> m_lines;   ///< empty: counted when asked for
    std::vector<Part> m_parts;
    std::size_t m_rowCount = 0;

    friend class ColumnReader;
};

} // namespace nuvat
