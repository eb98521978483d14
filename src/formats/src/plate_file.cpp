#include "nuvat/formats/plate_file.h"

#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "plate_reader.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <map>

namespace nuvat {

namespace {

class PlateReader {
public:
    PlateReader(const DelimitedTable& table, std::string name, std::optional<std::size_t> ofValues)
        : m_table(table), m_name(std::move(name)), m_valueColumn(ofValues), m_import(importOf(table, m_name)) {}

    /// Cells that were marked; the lines above them may say what was read.
    Result<PlateImport> readMarked(const CellBlock& block) {
        std::vector<const DelimitedRow*> rows(static_cast<std::size_t>(block.rows), nullptr);
        for (const DelimitedRow& row : m_table.rows) {
            if (row.line < block.line) {
                addHeading(row);
            } else if (row.line < block.line + block.rows) {
                rows[static_cast<std::size_t>(row.line - block.line)] = &row;
            }
        }
        m_import.isBlock = true;
        readCells(rows, static_cast<std::size_t>(block.column) - 1, block.columns);
        if (m_import.numberCount() == 0) {
            return fail("import.no-numbers",
                        "None of the marked cells in " + m_name + " (from line " + std::to_string(block.line) +
                            ") holds a number.",
                        "Mark the cells of the wells.");
        }
        findReadName();
        return std::move(m_import);
    }

    Result<PlateImport> read() {
        std::size_t heading = 0;
        while (heading < m_table.rows.size() && !isMatrixHeading(m_table, heading)) {
            ++heading;
        }
        std::optional<Error> error;
        if (heading < m_table.rows.size()) {
            error = readMatrix(heading);
        } else if (const auto wells = wellColumnOf(m_table)) {
            error = readList(*wells);
        } else if (isBareBlock()) {
            readBareBlock();
        } else if (!anyNumber()) {
            error = Error{"import.no-numbers", m_name + " holds no numbers in its " + linesText() + ".",
                          "Choose a file with a plate matrix or a list of wells and values."};
        } else {
            error = Error{"import.no-plate",
                          "No plate was found in " + m_name + " (" + linesText() +
                              "): neither a row of column numbers 1, 2, 3 … with row letters below it nor a list of "
                              "wells such as A1.",
                          "Export the plate as a matrix or as a list of wells and values."};
        }
        if (error) {
            return tl::unexpected(*error);
        }
        if (m_import.numberCount() == 0) {
            return fail("import.no-numbers",
                        "None of the wells in " + m_name + " (from line " + std::to_string(m_firstLine) +
                            ") holds a number.",
                        "Check that the reader had finished when the file was exported.");
        }
        warnOfUnusualSize();
        warnOfDoubtfulDecimal();
        findReadName();
        return std::move(m_import);
    }

private:
    std::string linesText() const {
        return std::to_string(m_table.rows.size()) + (m_table.rows.size() == 1 ? " line" : " lines");
    }

    bool anyNumber() const {
        for (const DelimitedRow& row : m_table.rows) {
            for (const std::string& cell : row.cells) {
                if (parseCell(cell, m_table.numbers)) {
                    return true;
                }
            }
        }
        return false;
    }

    void setWell(int row, int column, const std::string& text, int line, std::size_t cell) {
        PlateCell& well = m_import.wells[static_cast<std::size_t>(row * m_import.columns + column)];
        well.text = std::string(trimmed(text));
        well.line = line;
        well.column = static_cast<int>(cell) + 1;
        well.value = parseCell(text, m_table.numbers);
        if (!well.value && !well.text.empty()) {
            warnOfText(well, row, column);
        }
    }

    void warnOfText(const PlateCell& well, int row, int column) {
        const std::string upper = upperCase(well.text);
        const bool saturated = upper.starts_with("OVER") || upper.starts_with("OVRFLW") || upper.starts_with("SAT") ||
                               upper.starts_with('>') || upper.starts_with("***") || upper.starts_with("###");
        ImportWarning warning;
        warning.message = placeText(m_table, m_name, well.line, well.column, wellName(row, column)) + ": \"" +
                          well.text +
                          (saturated ? "\" is not a number, the detector was saturated; the well is unusable."
                                     : "\" is not a number; the well is unusable.");
        warning.line = well.line;
        warning.column = well.column;
        warning.row = row;
        warning.plateColumn = column;
        m_import.warnings.push_back(warning);
    }

    std::optional<Error> readMatrix(std::size_t headingIndex) {
        const DelimitedRow& headingRow = m_table.rows[headingIndex];
        const ColumnHeading heading = *columnHeading(headingRow);
        m_firstLine = headingRow.line;
        m_import.columns = heading.count;
        m_import.headingLine = m_firstLine;
        m_import.labelColumn = static_cast<int>(heading.from);
        for (std::size_t i = 0; i < headingIndex; ++i) {
            addHeading(m_table.rows[i]);
        }
        std::size_t at = headingIndex + 1;
        std::map<int, int> lineOfRow;
        for (; at < m_table.rows.size(); ++at) {
            const DelimitedRow& row = m_table.rows[at];
            if (isComment(row)) {
                addHeading(row);
                continue;
            }
            const auto letter =
                heading.from - 1 < row.cells.size() ? parseRowLetters(row.cells[heading.from - 1]) : std::nullopt;
            if (!letter) {
                break;
            }
            const std::string rowName = std::string(trimmed(row.cells[heading.from - 1]));
            if (lineOfRow.contains(*letter)) {
                if (*letter == 0) {
                    return twoPlates(row.line);
                }
                return Error{"import.row-twice",
                             "Row " + rowName + " of the plate is given twice in " + m_name + ", on line " +
                                 std::to_string(lineOfRow[*letter]) + " and line " + std::to_string(row.line) + ".",
                             "Remove one of them and open the file again."};
            }
            if (*letter != static_cast<int>(lineOfRow.size())) {
                return Error{"import.row-missing",
                             placeText(m_table, m_name, row.line) + ": row " + rowName + " follows, but row " +
                                 rowLetters(static_cast<int>(lineOfRow.size())) + " is missing.",
                             "Export the whole plate, or enter the missing row, and open the file again."};
            }
            lineOfRow[*letter] = row.line;
            if (auto error = checkLength(row, heading, rowName)) {
                return error;
            }
            m_import.rows = *letter + 1;
            m_import.wells.resize(static_cast<std::size_t>(m_import.rows * m_import.columns));
            for (int c = 0; c < m_import.columns; ++c) {
                const std::size_t cell = heading.from + static_cast<std::size_t>(c);
                setWell(*letter, c, row.cells[cell], row.line, cell);
            }
        }
        return checkRest(at);
    }

    std::optional<Error> checkLength(const DelimitedRow& row, const ColumnHeading& heading,
                                     const std::string& rowName) const {
        std::size_t present = row.cells.size();
        const std::size_t wanted = heading.from + static_cast<std::size_t>(heading.count);
        while (present > wanted && trimmed(row.cells[present - 1]).empty()) {
            --present;
        }
        if (present == wanted) {
            return std::nullopt;
        }
        const std::size_t cells = present > heading.from ? present - heading.from : 0;
        return Error{"import.ragged-row",
                     placeText(m_table, m_name, row.line) + ": row " + rowName + " has " + std::to_string(cells) +
                         (cells == 1 ? " cell" : " cells") + " where the heading on line " +
                         std::to_string(m_firstLine) + " has " + std::to_string(heading.count) +
                         " columns, so it is not clear which well each belongs to.",
                     "Complete the row (an empty cell for a well that was not read) and open the file again."};
    }

    Error twoPlates(int line) const {
        return Error{"import.two-plates",
                     m_name + " holds two plates: the first begins on line " + std::to_string(m_firstLine) +
                         ", the second on line " + std::to_string(line) + ".",
                     "Save each plate as a file of its own, or copy the one you want and paste it."};
    }

    /// What stands below the plate: a second plate is refused, other lines are left out and said so.
    std::optional<Error> checkRest(std::size_t from) {
        for (std::size_t i = from; i + 1 < m_table.rows.size(); ++i) {
            if (isMatrixHeading(m_table, i)) {
                return twoPlates(m_table.rows[i].line);
            }
        }
        if (from < m_table.rows.size()) {
            ImportWarning warning;
            warning.line = m_table.rows[from].line;
            warning.message = m_name + ": what stands below the plate, from line " + std::to_string(warning.line) +
                              " on, is not imported.";
            m_import.warnings.push_back(warning);
        }
        return std::nullopt;
    }

    void addHeading(const DelimitedRow& row) {
        std::string text;
        for (const std::string& cell : row.cells) {
            if (!trimmed(cell).empty()) {
                text += (text.empty() ? "" : " ") + std::string(trimmed(cell));
            }
        }
        if (!text.empty()) {
            m_import.headings.push_back(text);
            m_headingRows.push_back(&row);
        }
    }

    /// One or two letters and digits, whether or not a plate has such a well.
    static bool looksLikeWell(std::string_view cell) {
        const auto digits = cell.find_first_of("0123456789");
        const bool isNumbered = digits == 1 || digits == 2;
        return isNumbered && cell.find_first_not_of("0123456789", digits) == std::string_view::npos &&
               std::all_of(cell.begin(), cell.begin() + static_cast<std::ptrdiff_t>(digits),
                           [](char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0; });
    }

    std::optional<Error> readList(std::size_t wells) {
        m_import.isList = true;
        std::vector<const DelimitedRow*> rows;
        const DelimitedRow* headingRow = nullptr;
        for (const DelimitedRow& row : m_table.rows) {
            if (wells < row.cells.size() && parseWellName(row.cells[wells])) {
                rows.push_back(&row);
            } else if (rows.empty()) {
                addHeading(row);
                headingRow = &row;
            } else if (!isComment(row)) {
                const std::string cell = wells < row.cells.size() ? std::string(trimmed(row.cells[wells])) : "";
                return Error{"import.well-name",
                             placeText(m_table, m_name, row.line, static_cast<int>(wells) + 1) + ": \"" + cell +
                                 "\" is not the name of a well such as A1.",
                             "Correct or remove the line and open the file again."};
            }
        }
        m_firstLine = rows.front()->line;
        // A list of samples p0, p1, p2 … is none of wells, though p1 and p2 are names of some.
        for (const DelimitedRow& row : m_table.rows) {
            if (row.line < m_firstLine && row.cells.size() == rows.front()->cells.size() &&
                looksLikeWell(trimmed(row.cells[wells]))) {
                return Error{
                    "import.well-name",
                    placeText(m_table, m_name, row.line, static_cast<int>(wells) + 1) + ": \"" +
                        std::string(trimmed(row.cells[wells])) + "\" is not the name of a well such as A1.",
                    "If the list is one of samples, not of wells, name them by their wells and open it again."};
            }
        }
        const std::size_t values = valueColumn(rows, wells, headingRow);
        m_import.headingLine = headingRow == nullptr ? 0 : headingRow->line;
        m_import.labelColumn = static_cast<int>(wells) + 1;
        PlateSize size{0, 0};
        for (const DelimitedRow* row : rows) {
            const WellPosition well = *parseWellName(row->cells[wells]);
            size.rows = std::max(size.rows, well.row + 1);
            size.columns = std::max(size.columns, well.column + 1);
        }
        size = usualPlate(size);
        m_import.rows = size.rows;
        m_import.columns = size.columns;
        m_import.wells.resize(static_cast<std::size_t>(size.rows * size.columns));
        for (const DelimitedRow* row : rows) {
            const WellPosition well = *parseWellName(row->cells[wells]);
            const PlateCell& there = m_import.wells[static_cast<std::size_t>(well.row * size.columns + well.column)];
            const std::string nameOfWell = wellName(well.row, well.column);
            if (there.line > 0) {
                if (there.line == m_firstLine) {
                    return twoPlates(row->line);
                }
                return Error{"import.well-twice",
                             "Well " + nameOfWell + " is given twice in " + m_name + ", on line " +
                                 std::to_string(there.line) + " and line " + std::to_string(row->line) + ".",
                             "Remove one of them and open the file again."};
            }
            if (values >= row->cells.size()) {
                return Error{"import.ragged-row",
                             placeText(m_table, m_name, row->line) + ": the line of well " + nameOfWell + " has " +
                                 std::to_string(row->cells.size()) + " cells, its value was expected in cell " +
                                 std::to_string(values + 1) + ".",
                             "Complete the line and open the file again."};
            }
            if (auto error = checkSurplus(*row, headingRow)) {
                return error;
            }
            setWell(well.row, well.column, row->cells[values], row->line, values);
        }
        return std::nullopt;
    }

    /// A cell under no heading: the comma may be the decimal sign as well as the separator, and then every number is
    /// cut in two.
    std::optional<Error> checkSurplus(const DelimitedRow& row, const DelimitedRow* headingRow) const {
        if (headingRow == nullptr || headingRow->cells.size() < 2) {
            return std::nullopt;
        }
        for (std::size_t c = headingRow->cells.size(); c < row.cells.size(); ++c) {
            if (!trimmed(row.cells[c]).empty()) {
                return Error{"import.surplus-cell",
                             placeText(m_table, m_name, row.line, static_cast<int>(c) + 1) + ": \"" +
                                 excerpt(row.cells[c]) + "\" stands under no heading; the heading on line " +
                                 std::to_string(headingRow->line) + " has " + std::to_string(headingRow->cells.size()) +
                                 " cells.",
                             m_table.separator == ','
                                 ? "If the comma is the decimal sign, export the list with semicolons or tabs."
                                 : "Add the heading or remove the cell and open the file again."};
            }
        }
        return std::nullopt;
    }

    std::size_t valueColumn(const std::vector<const DelimitedRow*>& rows, std::size_t wells,
                            const DelimitedRow* headingRow) {
        if (m_valueColumn) {
            if (headingRow != nullptr && *m_valueColumn < headingRow->cells.size()) {
                m_import.readName = std::string(trimmed(headingRow->cells[*m_valueColumn]));
                m_import.nameLine = headingRow->line;
                m_import.nameColumn = static_cast<int>(*m_valueColumn) + 1;
            }
            return *m_valueColumn;
        }
        std::map<std::size_t, std::size_t> numbers;
        for (const DelimitedRow* row : rows) {
            for (std::size_t c = 0; c < row->cells.size(); ++c) {
                if (c != wells && parseCell(row->cells[c], m_table.numbers)) {
                    ++numbers[c];
                }
            }
        }
        std::size_t best = wells + 1;
        std::size_t most = 0;
        std::size_t full = 0;
        for (const auto& [column, count] : numbers) {
            full += count * 10 >= rows.size() * 9 ? 1u : 0u;
            if (count > most) {
                most = count;
                best = column;
            }
        }
        if (full > 1) {
            ImportWarning warning;
            warning.line = rows.front()->line;
            warning.column = static_cast<int>(best) + 1;
            const bool named =
                headingRow != nullptr && best < headingRow->cells.size() && !trimmed(headingRow->cells[best]).empty();
            warning.message = m_name + " has several columns of numbers; the values were taken from column " +
                              std::to_string(best + 1) +
                              (named ? " (\"" + std::string(trimmed(headingRow->cells[best])) + "\")" : "") + ".";
            m_import.warnings.push_back(warning);
        }
        return best;
    }

    /// A pasted block of numbers without headings that has the shape of a usual plate.
    bool isBareBlock() const {
        const auto rows = static_cast<int>(m_table.rows.size());
        const auto columns = static_cast<int>(m_table.rows.front().cells.size());
        return isUsualPlate({rows, columns}) && anyNumber() &&
               std::all_of(m_table.rows.begin(), m_table.rows.end(),
                           [&](const auto& row) { return static_cast<int>(row.cells.size()) == columns; });
    }

    void readBareBlock() {
        std::vector<const DelimitedRow*> rows;
        for (const DelimitedRow& row : m_table.rows) {
            rows.push_back(&row);
        }
        m_firstLine = rows.front()->line;
        readCells(rows, 0, static_cast<int>(rows.front()->cells.size()));
    }

    /// @param rows null where the file has an empty line
    void readCells(const std::vector<const DelimitedRow*>& rows, std::size_t from, int columns) {
        m_import.rows = static_cast<int>(rows.size());
        m_import.columns = columns;
        m_import.wells.resize(rows.size() * static_cast<std::size_t>(columns));
        for (int r = 0; r < m_import.rows; ++r) {
            const DelimitedRow* row = rows[static_cast<std::size_t>(r)];
            for (int c = 0; row != nullptr && c < columns; ++c) {
                if (const std::size_t cell = from + static_cast<std::size_t>(c); cell < row->cells.size()) {
                    setWell(r, c, row->cells[cell], row->line, cell);
                }
            }
        }
    }

    void warnOfUnusualSize() {
        if (!isUsualPlate({m_import.rows, m_import.columns})) {
            ImportWarning warning;
            warning.line = m_firstLine;
            warning.message = m_name + " gives a plate of " + std::to_string(m_import.rows) + " rows and " +
                              std::to_string(m_import.columns) + " columns, which is no usual plate.";
            m_import.warnings.push_back(warning);
        }
    }

    /// "1,234" with a decimal comma could also be one thousand two hundred thirty-four; say so when every value is.
    void warnOfDoubtfulDecimal() {
        if (m_table.numbers.decimal != ',' || m_table.numbers.isSaid) {
            return;
        }
        bool any = false;
        for (const PlateCell& well : m_import.wells) {
            if (!well.value) {
                continue;
            }
            const auto comma = well.text.find(',');
            if (comma == std::string::npos || well.text.size() - comma != 4 || well.text.front() == '0' || comma > 3) {
                return;
            }
            any = true;
        }
        if (any) {
            ImportWarning warning;
            warning.line = m_firstLine;
            const auto example = std::find_if(m_import.wells.begin(), m_import.wells.end(),
                                              [](const PlateCell& well) { return well.value.has_value(); });
            warning.message =
                m_name + ": the comma in numbers such as " + example->text +
                " was taken as the decimal sign; if it marks thousands, choose the point as the decimal sign.";
            m_import.warnings.push_back(warning);
        }
    }

    void findReadName() {
        if (!m_import.readName.empty()) {
            return;
        }
        for (std::size_t i = 0; i < m_import.headings.size(); ++i) {
            if (m_import.readName = wavelengthIn(m_import.headings[i]); !m_import.readName.empty()) {
                m_import.nameLine = m_headingRows[i]->line;
                m_import.nameColumn = cellOfName(*m_headingRows[i]);
                return;
            }
        }
        m_import.readName = wavelengthIn(m_table.sheet);
    }

    static int cellOfName(const DelimitedRow& row) {
        const auto found =
            std::ranges::find_if(row.cells, [](const auto& cell) { return !wavelengthIn(cell).empty(); });
        return found == row.cells.end() ? 1 : static_cast<int>(found - row.cells.begin()) + 1;
    }

    const DelimitedTable& m_table;
    std::vector<const DelimitedRow*> m_headingRows; ///< of the headings
    std::string m_name;
    std::optional<std::size_t> m_valueColumn; ///< chosen by the caller
    PlateImport m_import;
    int m_firstLine = 1;
};

} // namespace

Result<PlateImport> readBlock(const DelimitedTable& table, const std::string& name, const CellBlock& block) {
    return PlateReader(table, name, std::nullopt).readMarked(block);
}

Result<PlateImport> readOnePlate(const DelimitedTable& table, const std::string& name,
                                 std::optional<std::size_t> valueColumn) {
    return PlateReader(table, name, valueColumn).read();
}

} // namespace nuvat
