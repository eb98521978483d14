#include "nuvat/formats/trace_text.h"

#include "nuvat/core/base/text.h"
#include "nuvat/core/base/units.h"
#include "nuvat/core/base/well.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace nuvat {

namespace {

constexpr DelimitedLimits kLimits{
    .mostBytes = 64u << 20, .mostCells = 2'000'000, .purpose = "traces", .advice = "Export fewer runs a file."};
constexpr std::size_t kMostWarnings = 20;
constexpr std::size_t kMostColumns = 2000;

std::size_t filledCells(const DelimitedRow& row) {
    std::size_t count = row.cells.size();
    while (count > 0 && trimmed(row.cells[count - 1]).empty()) {
        --count;
    }
    return count;
}

std::size_t numberCells(const DelimitedRow& row, NumberFormat numbers) {
    return static_cast<std::size_t>(std::ranges::count_if(
        row.cells, [&](const std::string& cell) { return parseCell(cell, numbers).has_value(); }));
}

/// Whether a row is one of numbers: more of them than other texts, or one alone beside empty cells.
bool isNumbers(const DelimitedRow& row, NumberFormat numbers) {
    const std::size_t count = numberCells(row, numbers);
    const auto texts = static_cast<std::size_t>(std::ranges::count_if(
        row.cells, [&](const std::string& cell) { return !trimmed(cell).empty() && !parseCell(cell, numbers); }));
    return (count >= 2 && count > texts) || (count == 1 && texts == 0 && row.cells.size() > 1);
}

bool isRemark(const DelimitedRow& row) {
    const std::string_view first = row.cells.empty() ? std::string_view() : trimmed(row.cells.front());
    return first.starts_with("//") || first.starts_with("#");
}

/// Rows of numbers with the headings above them, by index.
struct Block {
    std::optional<std::size_t> title, heading, units;
    std::size_t from = 0, to = 0; ///< one behind the last row of numbers
};

/// Whether a row of texts names units alone: "min", "(mV)", "[s]".
bool isUnitRow(const DelimitedRow& row) {
    std::size_t known = 0;
    for (const std::string& cell : row.cells) {
        std::string_view text = trimmed(cell);
        const bool isBracketed = text.size() > 2 && ((text.front() == '(' && text.back() == ')') ||
                                                     (text.front() == '[' && text.back() == ']'));
        if (isBracketed || isUnit(text)) {
            ++known;
        } else if (!text.empty()) {
            return false;
        }
    }
    return known > 0;
}

std::string_view withoutBrackets(std::string_view text) {
    text = trimmed(text);
    return text.size() > 2 && (text.front() == '(' || text.front() == '[') ? trimmed(text.substr(1, text.size() - 2))
                                                                           : text;
}

std::vector<Block> blocksOf(const DelimitedTable& table) {
    std::vector<Block> out;
    std::size_t texts = 0; // rows of text since the last block
    bool isInside = false;
    for (std::size_t i = 0; i < table.rows.size(); ++i) {
        const DelimitedRow& row = table.rows[i];
        if (isRemark(row)) {
            texts += isInside ? 0 : 1;
            continue;
        }
        if (!isNumbers(row, table.numbers)) {
            const bool isGap = isInside && numberCells(row, table.numbers) > 0; // "OVER" beside one number
            if (!isGap) {
                isInside = false;
                ++texts;
            } else {
                out.back().to = i + 1;
            }
            continue;
        }
        if (!isInside) {
            out.push_back({std::nullopt, std::nullopt, std::nullopt, i, i});
            std::size_t above = i;
            const auto take = [&](std::optional<std::size_t>& which) {
                which = --above;
                --texts;
            };
            if (texts > 0 && isUnitRow(table.rows[above - 1]) && texts > 1 && filledCells(table.rows[above - 2]) > 1) {
                take(out.back().units);
            }
            if (texts > 0 && filledCells(table.rows[above - 1]) > 1 && !isRemark(table.rows[above - 1])) {
                take(out.back().heading);
            }
            if (texts > 0) {
                take(out.back().title);
            }
            isInside = true;
            texts = 0;
        }
        out.back().to = i + 1;
    }
    return out;
}

AxisName axisName(const DelimitedTable& table, const Block& block, std::size_t column) {
    AxisName out;
    if (block.heading && column < table.rows[*block.heading].cells.size()) {
        const HeadingParts parts = headingParts(table.rows[*block.heading].cells[column]);
        out = {std::string(parts.name), std::string(parts.unit)};
    }
    if (block.units && column < table.rows[*block.units].cells.size()) {
        out.unit = withoutBrackets(table.rows[*block.units].cells[column]);
    }
    if (out.name.empty()) {
        out.name = "column " + std::to_string(column + 1);
    }
    return out;
}

/// A heading without digits at its end: "time 2" pairs with "time 1".
std::string stem(std::string_view name) {
    while (!name.empty() && (std::string_view("0123456789 _.").find(name.back()) != std::string_view::npos)) {
        name.remove_suffix(1);
    }
    return lowerCase(name);
}

class BlockReader {
public:
    BlockReader(const DelimitedTable& table, const Block& block, FileContent& out)
        : m_table(table), m_block(block), m_out(out) {}

    Result<void> read() {
        if (auto even = requireEven(); !even) {
            return even;
        }
        for (std::size_t i = 0; i < m_width; ++i) {
            m_axes.push_back(axisName(m_table, m_block, i));
            m_numbers.push_back(numbersIn(i));
        }
        std::vector<std::size_t> columns;
        for (std::size_t i = 0; i < m_width; ++i) {
            const std::size_t rows = m_block.to - m_block.from;
            if (m_numbers[i] * 2 > rows || (arePairs() && m_numbers[i] > 1)) {
                columns.push_back(i);
            }
        }
        if (columns.size() < 2) {
            return fail("import.no-columns", "There are no two columns of numbers from " + place(m_block.from) + " on.",
                        "Check what parts the columns and the decimal sign.");
        }
        if (arePairs()) {
            for (std::size_t i = 0; i + 1 < m_width; i += 2) {
                add(i, i + 1);
            }
            return {};
        }
        const std::size_t x = xColumn(columns);
        for (const std::size_t column : columns) {
            if (column != x) {
                add(x, column);
            }
        }
        return {};
    }

private:
    std::string place(std::size_t row) const { return "line " + std::to_string(m_table.rows[row].line); }

    /// As many cells in every line; empty ones at the end do not count.
    Result<void> requireEven() {
        m_width = m_block.heading ? filledCells(m_table.rows[*m_block.heading]) : 0;
        for (std::size_t i = m_block.from; i < m_block.to && !m_block.heading; ++i) {
            m_width = std::max(m_width, m_table.rows[i].cells.size());
        }
        if (m_width > kMostColumns) {
            return fail("import.too-many-columns",
                        "From " + place(m_block.from) + " on there are " + std::to_string(m_width) +
                            " columns; traces may have " + std::to_string(kMostColumns) + ".",
                        "Export fewer of them, or check what parts the columns.");
        }
        for (std::size_t i = m_block.from; i < m_block.to; ++i) {
            const DelimitedRow& row = m_table.rows[i];
            if (isRemark(row)) {
                continue;
            }
            const std::size_t filled = filledCells(row);
            if (filled > m_width || row.cells.size() < std::min<std::size_t>(m_width, 2) ||
                (row.cells.size() < m_width && filled == row.cells.size() && m_table.separator != ' ' &&
                 row.cells.size() != commonWidth())) {
                return fail("import.ragged-row",
                            "In " + place(i) + " are " + std::to_string(filled) + " cells where " +
                                std::to_string(m_width) + " were expected.",
                            "Values must not slide into other columns: correct the line.");
            }
        }
        return {};
    }

    /// Cells that most lines have.
    std::size_t commonWidth() {
        if (m_commonWidth == 0) {
            std::vector<std::size_t> widths;
            for (std::size_t i = m_block.from; i < m_block.to; ++i) {
                widths.push_back(m_table.rows[i].cells.size());
            }
            std::ranges::nth_element(widths, widths.begin() + static_cast<std::ptrdiff_t>(widths.size() / 2));
            m_commonWidth = widths[widths.size() / 2];
        }
        return m_commonWidth;
    }

    const std::string* cell(std::size_t row, std::size_t column) const {
        const auto& cells = m_table.rows[row].cells;
        return column < cells.size() && !trimmed(cells[column]).empty() ? &cells[column] : nullptr;
    }

    std::size_t numbersIn(std::size_t column) const {
        std::size_t out = 0;
        for (std::size_t i = m_block.from; i < m_block.to; ++i) {
            const std::string* text = cell(i, column);
            out += text && parseCell(*text, m_table.numbers) ? 1U : 0U;
        }
        return out;
    }

    /// x, y, x, y: every other heading is called as the first, the ones between are not.
    bool arePairs() const {
        if (!m_block.heading || m_width < 4 || m_width % 2 != 0) {
            return false;
        }
        for (std::size_t i = 0; i < m_width; ++i) {
            const bool isAsFirst = stem(m_axes[i].name) == stem(m_axes[0].name) && m_axes[i].unit == m_axes[0].unit;
            if (isAsFirst != (i % 2 == 0)) {
                return false;
            }
        }
        return true;
    }

    /// The first column that goes one way; where none does, the first.
    std::size_t xColumn(const std::vector<std::size_t>& columns) const {
        for (const std::size_t column : columns) {
            std::optional<double> before;
            std::size_t rises = 0, falls = 0;
            for (std::size_t i = m_block.from; i < m_block.to; ++i) {
                const std::string* text = cell(i, column);
                const auto value = text ? parseCell(*text, m_table.numbers) : std::nullopt;
                if (value && before) {
                    rises += *value > *before ? 1U : 0U;
                    falls += *value < *before ? 1U : 0U;
                }
                before = value ? value : before;
            }
            const std::size_t turns = std::min(rises, falls);
            if (turns == 0 && rises + falls + 1 == m_numbers[column]) {
                return column;
            }
        }
        return columns.front();
    }

    void add(std::size_t xColumn, std::size_t yColumn) {
        FileTrace trace;
        trace.xAxis = m_axes[xColumn];
        trace.yAxis = m_axes[yColumn];
        trace.name = m_axes[yColumn].name;
        if (m_block.title) {
            const auto& cells = m_table.rows[*m_block.title].cells;
            trace.place = std::string(trimmed(cells.front()));
        }
        for (std::size_t i = m_block.from; i < m_block.to; ++i) {
            const std::string* xText = cell(i, xColumn);
            const auto x = xText ? parseCell(*xText, m_table.numbers) : std::nullopt;
            if (!x) {
                warn(i, xColumn, xText);
                continue;
            }
            const std::string* yText = cell(i, yColumn);
            const auto y = yText ? parseCell(*yText, m_table.numbers) : std::nullopt;
            if (!y) {
                warn(i, yColumn, yText);
                trace.missing.push_back(trace.y.size());
            }
            trace.x.push_back(*x);
            trace.y.push_back(y.value_or(0));
        }
        m_out.traces.push_back(std::move(trace));
    }

    void warn(std::size_t row, std::size_t column, const std::string* text) {
        if (text && m_out.warnings.size() < kMostWarnings && !isRemark(m_table.rows[row])) {
            m_out.warnings.push_back("In " + place(row) + ", cell " + std::to_string(column + 1) + " stands \"" +
                                     excerpt(trimmed(*text)) + "\", which is no number: the point is missing.");
        }
    }

    const DelimitedTable& m_table;
    const Block& m_block;
    FileContent& m_out;
    std::size_t m_width = 0, m_commonWidth = 0;
    std::vector<AxisName> m_axes;
    std::vector<std::size_t> m_numbers; ///< of each column
};

/// "key: value", "key = value" or two cells.
void addHeader(const DelimitedRow& row, char separator, FileContent& out) {
    std::string text;
    for (std::size_t i = 0; i < filledCells(row); ++i) {
        text += (i > 0 ? std::string(1, separator) : "") + row.cells[i];
    }
    std::string_view line = trimmed(text);
    while (!line.empty() && (line.front() == '#' || line.front() == '/')) {
        line = trimmed(line.substr(1));
    }
    const std::size_t at = line.find_first_of(std::string(":=") + separator);
    if (at != std::string_view::npos && at > 0 && at < 60) {
        out.header.emplace_back(trimmed(line.substr(0, at)), trimmed(line.substr(at + 1)));
        return;
    }
    if (!line.empty()) {
        out.header.emplace_back("line " + std::to_string(row.line), line);
    }
}

} // namespace

Result<FileContent> readTraceText(std::istream& stream, const std::string& name, Progress& progress) {
    const auto table = readDelimited(stream, name, progress, kLimits);
    return table ? readTraceTable(*table, name) : tl::unexpected(table.error());
}

Result<FileContent> readTraceTable(const DelimitedTable& table, const std::string& name) {
    const std::vector<Block> blocks = blocksOf(table);
    if (blocks.empty()) {
        return fail("import.no-columns", name + " holds no two columns of numbers.",
                    "Check what parts the columns and the decimal sign.");
    }
    FileContent out;
    out.format = "text";
    std::size_t row = 0;
    for (const Block& block : blocks) {
        const std::size_t end = block.heading.value_or(block.units.value_or(block.from));
        for (; row < end; ++row) {
            addHeader(table.rows[row], table.separator, out);
        }
        row = block.to;
        if (auto read = BlockReader(table, block, out).read(); !read) {
            return fail(read.error().code, name + ": " + read.error().message, read.error().advice);
        }
    }
    return out;
}

} // namespace nuvat
