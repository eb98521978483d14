#include "nuvat/formats/column_table.h"

#include "cell_scan.h"
#include "large_pages.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "text_input.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <future>
#include <limits>
#include <span>
#include <thread>
#include <utility>

namespace nuvat {

namespace {

constexpr std::size_t kMostColumns = 16'384; // as wide as a spreadsheet
constexpr double kNoNumber = std::numeric_limits<double>::quiet_NaN();

tl::unexpected<Error> empty(const std::string& name) {
    return fail("import.empty", name + " is empty.", "Choose a file with headings and lines of numbers.");
}

/// "are: x, y, \"my label\""
std::string headingsText(const std::vector<std::string>& headings) {
    constexpr std::size_t kMostNamed = 20;
    std::string out = headings.size() == 1 ? "is only: " : "are: ";
    for (std::size_t i = 0; i < std::min(headings.size(), kMostNamed); ++i) {
        out += (i > 0 ? ", " : "") + (headings[i].empty() ? std::string("(no heading)") : excerpt(headings[i]));
    }
    return out + (headings.size() > kMostNamed ? " and " + std::to_string(headings.size() - kMostNamed) + " more" : "");
}

/// What keeps a cell from being read as a number.
std::string whyNoNumber(std::string_view cell, NumberFormat format) {
    const std::string quoted = "\"" + excerpt(cell) + "\"";
    if (cell.empty()) {
        return "the cell is empty.";
    }
    switch (doubtAbout(cell, format)) {
    case NumberDoubt::TooLarge:
        return quoted + " is too large for a number of 64 bits.";
    case NumberDoubt::TooSmall:
        return quoted + " is too small for a number of 64 bits.";
    case NumberDoubt::Thousands:
        return quoted + " may be written with a mark for thousands, or with another decimal sign; both are possible.";
    case NumberDoubt::None:
        break;
    }
    return quoted + " is not a number.";
}

} // namespace

/// What the readers of the parts of one text share.
struct ColumnJob {
    std::string_view text; ///< with a zero behind its end
    std::string name;
    char separator = ',';
    NumberFormat numbers;
    std::size_t width = 1;    ///< columns
    std::size_t lineSize = 1; ///< as a guess
    Progress& progress;
    const DelimitedLimits& limits;
    std::atomic<std::size_t> rows = 0;
    std::atomic<std::size_t> bytes = 0;
    std::atomic<bool> isOver = false;    ///< some part has failed
    std::atomic<bool> isDubious = false; ///< some cell that is not a number could be one, or some, in another notation
};

/// Reads lines [from, to) of a text into a part. Marks (separators, decimal signs, line ends) are found first, some
/// thousand characters at a time, then the cells between them are read: so the processor need not know where one cell
/// ends to begin with the next.
class ColumnReader {
public:
    ColumnReader(ColumnJob& job, std::size_t from, std::size_t to) : m_job(job), m_from(from), m_to(to) {
        constexpr std::size_t kMostInBlock = 1u << 16;
        m_blockRows = std::clamp<std::size_t>(kMostInBlock / job.width, 1, 1024);
        m_block.resize(m_blockRows * job.width);
        m_blockStarts.resize(m_blockRows);
        const std::size_t rows = std::min((to - from) / job.lineSize * 9 / 8, // a guess that no file can drive up
                                          job.limits.mostCells / job.width);
        m_part.columns.resize(job.width);
        for (std::vector<double>& column : m_part.columns) {
            column.reserve(rows);
            preferLargePages(column.data(), rows * sizeof(double));
        }
        m_part.rowStarts.reserve(rows);
        preferLargePages(m_part.rowStarts.data(), rows * sizeof(std::uint32_t));
    }

    /// @param tells whether it is this part that reports progress
    Result<ColumnTable::Part> read(bool tells) {
        const char* const text = m_job.text.data();
        const Marks marks(m_job.separator, m_job.numbers.decimal);
        std::vector<std::uint32_t> places(kStride + 1);
        m_at = startOfRow(text + m_from);
        for (std::size_t from = m_from; from < m_to && !m_job.isOver; from += kStride) {
            const std::size_t to = std::min(from + kStride, m_to);
            std::size_t count = marks.find(text, from, to, places.data());
            if (to == m_job.text.size()) {
                places[count++] = static_cast<std::uint32_t>(to); // the last line need not end
            }
            const std::size_t before = m_rows;
            readCells({places.data(), count});
            const std::size_t rows = m_job.rows += m_rows - before;
            const std::size_t bytes = m_job.bytes += to - from;
            if (m_job.progress.cancelled()) {
                m_job.isOver = true;
                return cancelled(m_job.name);
            }
            if (tells) {
                m_job.progress.report(static_cast<double>(bytes) / static_cast<double>(m_job.text.size()));
            }
            if (rows * m_job.width > m_job.limits.mostCells) {
                m_job.isOver = true;
                return tooLarge(m_job.name, "after " + std::to_string(rows) + " lines", m_job.limits);
            }
        }
        takeBlock();
        return std::move(m_part);
    }

private:
    static constexpr std::size_t kStride = 1u << 14;

    /// Where reading stands.
    struct Cursor {
        const char* row = nullptr;   ///< its begin
        const char* cell = nullptr;  ///< its begin
        const char* point = nullptr; ///< the first decimal sign of the cell, if it has one
        std::size_t slot = 0;        ///< of m_block, for the cell; beyond its end: the cell has no heading
        bool isEmpty = true;         ///< no cell of the row is a number so far
    };
    Cursor startOfRow(const char* at) const { return {.row = at, .cell = at, .slot = m_blockRow}; }

    void readCells(std::span<const std::uint32_t> places) {
        const char* const text = m_job.text.data();
        const char* const eighth = text + std::min(m_job.text.size(), kMostDigits);
        const char separator = m_job.separator;
        const char decimal = m_job.numbers.decimal;
        double* const block = m_block.data();
        const std::size_t slots = m_block.size();
        const std::size_t blockRows = m_blockRows;
        Cursor at = m_at; // in registers
        for (const std::uint32_t place : places) {
            const char* const end = text + place;
            const char mark = *end; // '\0' behind the last character
            if (mark == decimal) {
                at.point = at.point == nullptr ? end : at.point;
                continue;
            }
            if (at.slot < slots) {
                double& value = block[at.slot];
                const char* const point = at.point == nullptr ? end : at.point;
                const bool isPlain = point >= eighth && readPlain(at.cell, point, end, value);
                at.isEmpty = !(isPlain || readOther({at.cell, end}, value)) && at.isEmpty;
            }
            at.slot += blockRows;
            at.cell = end + 1;
            at.point = nullptr;
            if (mark != separator) {
                endRow(at, end);
                at = startOfRow(end + 1);
            }
        }
        m_at = at;
    }

    /// A cell that is not written plainly. @return whether it is a number
    bool readOther(std::string_view cell, double& value) {
        const auto number = parseCell(cell, m_job.numbers);
        value = number.value_or(kNoNumber);
        if (!number && (cell.find_first_of(",;\t") != std::string_view::npos || parseNumber(cell, {.decimal = '.'}))) {
            m_job.isDubious = true;
        }
        return number.has_value();
    }

    void endRow(const Cursor& at, const char* end) {
        const bool mayBeComment = *at.row == '#' || *at.row == '/';
        if ((at.isEmpty && isBlank({at.row, end})) || (mayBeComment && isComment({at.row, end}, m_job.separator))) {
            return;
        }
        if (at.slot > m_block.size() + m_blockRow && !m_part.surplusRow && hasSurplus({at.row, end})) {
            m_part.surplusRow = m_rows;
        }
        for (std::size_t slot = at.slot; slot < m_block.size(); slot += m_blockRows) {
            m_block[slot] = kNoNumber;
        }
        m_blockStarts[m_blockRow] = static_cast<std::uint32_t>(at.row - m_job.text.data());
        ++m_rows;
        if (++m_blockRow == m_blockRows) {
            takeBlock();
        }
    }

    /// Whether a cell beyond the headings holds anything; separators at the end of a line are common.
    bool hasSurplus(std::string_view row) const {
        for (std::size_t k = 0; k < m_job.width; ++k) {
            row.remove_prefix(row.find(m_job.separator) + 1);
        }
        return std::any_of(row.begin(), row.end(), [this](char c) {
            return c != m_job.separator && !isBlank({&c, 1});
        });
    }

    void takeBlock() {
        const std::size_t rows = std::exchange(m_blockRow, 0);
        m_part.rowStarts.insert(m_part.rowStarts.end(), m_blockStarts.data(), m_blockStarts.data() + rows);
        for (std::size_t k = 0; k < m_part.columns.size(); ++k) {
            const double* const from = m_block.data() + k * m_blockRows;
            m_part.columns[k].insert(m_part.columns[k].end(), from, from + rows);
        }
    }

    ColumnJob& m_job;
    std::size_t m_from;
    std::size_t m_to;
    std::size_t m_blockRows = 1; ///< lines that are read before they go to their columns
    std::vector<double> m_block; ///< column after column
    std::vector<std::uint32_t> m_blockStarts;
    std::size_t m_blockRow = 0;
    std::size_t m_rows = 0;
    Cursor m_at;
    ColumnTable::Part m_part;
};

namespace {

/// The lines parted by characters that no cell can hold, without comments. @param numbers those of the lines
std::string joined(std::span<const Line> lines, char separator, std::vector<int>& numbers) {
    std::string out;
    for (const Line& line : lines) {
        if (isComment(line.text, separator)) {
            continue;
        }
        std::string record;
        for (const std::string& cell : cutCells(line.text, separator)) {
            record += cell;
            record += kUnitSeparator;
        }
        record.pop_back();
        if (isBlank(record)) {
            continue;
        }
        std::replace_if(
            record.begin(), record.end(), [](char c) { return c == '\n' || c == '\r'; }, ' ');
        numbers.push_back(line.number);
        out += record + kRecordSeparator;
    }
    return out;
}

} // namespace

Result<ColumnTable> ColumnTable::read(std::istream& stream, const std::string& name, Progress& progress,
                                      const DelimitedLimits& limits, const std::vector<std::string>& wanted) {
    auto bytes = readBytes(stream, name, progress, limits);
    if (!bytes) {
        return tl::unexpected(bytes.error());
    }
    const bool canHaveQuotes = bytes->odd.hasQuotes;
    std::string encoding;
    auto text = decodeText(std::move(*bytes), name, encoding);
    if (!text) {
        return tl::unexpected(text.error());
    }
    ColumnTable table;
    table.m_name = name;
    table.m_text = std::move(*text);
    if (isBlank(table.m_text)) {
        return empty(name);
    }
    const bool hasQuotes = canHaveQuotes && table.m_text.find('"') != std::string::npos;
    if (hasQuotes) {
        if (const auto closed = requireClosedQuotes(table.m_text, name); !closed) {
            return tl::unexpected(closed.error());
        }
    }
    constexpr std::size_t kHeadBytes = 1u << 16;
    const std::vector<Line> shown = hasQuotes ? filledLines(table.m_text) : sample(table.m_text);
    const Notation notation = notationOf(shown);
    const bool isJoined = hasQuotes || notation.separator == ' ';
    const auto use = [&](Notation chosen) {
        return table.use(isJoined ? filledLines(table.m_text) : firstLines(table.m_text, kHeadBytes), chosen, wanted,
                         isJoined);
    };
    if (const auto used = use(notation); !used) {
        return tl::unexpected(used.error());
    }
    auto isDubious = table.readAll(averageSize(shown), progress, limits);
    if (isDubious && *isDubious && !isJoined) { // the sample may have shown too little
        const std::vector<Line> all = cutLines(table.m_text);
        if (const Notation better = notationOf(all); better != notation && better.separator != ' ') {
            if (const auto used = use(better); !used) {
                return tl::unexpected(used.error());
            }
            isDubious = table.readAll(averageSize(all), progress, limits);
        }
    }
    if (!isDubious) {
        return tl::unexpected(isDubious.error());
    }
    if (const auto complete = table.requireHeadings(); !complete) {
        return tl::unexpected(complete.error());
    }
    return table;
}

Result<void> ColumnTable::use(const std::vector<Line>& lines, Notation notation, const std::vector<std::string>& wanted,
                              bool isJoined) {
    m_separator = notation.separator;
    m_numbers.decimal = notation.decimal;
    const TableHead head = findHead(lines, notation.separator, wanted);
    if (head.line == lines.size()) {
        return empty(m_name);
    }
    if (head.headings.size() > kMostColumns) {
        return fail("import.too-large",
                    m_name + " has more than " + std::to_string(kMostColumns) + " headings in " + headPlace() + ".",
                    "Divide it into several files.");
    }
    m_headings = head.headings;
    m_headLine = lines[head.line].number;
    const std::span<const Line> rows = std::span(lines).subspan(head.line + 1);
    if (isJoined) {
        const bool isBlankHead = std::all_of(m_headings.begin(), m_headings.end(),
                                             [](const std::string& heading) { return heading.empty(); });
        m_text = joined(rows, notation.separator, m_lines);
        m_separator = kUnitSeparator;
        return isBlankHead && m_text.empty() ? empty(m_name) : Result<void>{};
    }
    const std::string_view line = lines[head.line].text;
    m_rowsFrom = std::min(static_cast<std::size_t>(line.data() - m_text.data()) + line.size() + 1, m_text.size());
    return {};
}

std::string ColumnTable::headPlace() const {
    return m_headLine == 1 ? "the first line" : lineText(m_headLine);
}

Result<void> ColumnTable::requireHeadings() const {
    for (const Part& part : m_parts) {
        if (!part.surplusRow) {
            continue;
        }
        const std::size_t row = part.firstRow + *part.surplusRow;
        const bool isComma = m_separator == ',';
        return fail("fit.surplus-cell",
                    m_name + ", line " + std::to_string(line(row)) + ", cell " + std::to_string(m_headings.size() + 1) +
                        ": \"" + excerpt(cell(row, m_headings.size())) + "\" stands under no heading; " + headPlace() +
                        " has " + std::to_string(m_headings.size()) + ".",
                    isComma
                        ? "Add the heading or remove the cell. If the comma is the decimal sign, separate the cells "
                          "by semicolons or tabs."
                        : "Add the heading or remove the cell.");
    }
    return {};
}

Result<bool> ColumnTable::readAll(std::size_t lineSize, Progress& progress, const DelimitedLimits& limits) {
    ColumnJob job{.text = m_text,
                  .name = m_name,
                  .separator = m_separator,
                  .numbers = m_numbers,
                  .width = m_headings.size(),
                  .lineSize = lineSize,
                  .progress = progress,
                  .limits = limits};
    constexpr std::size_t kWorthAThread = std::size_t{1} << 20u;
    const std::size_t threads = std::clamp<std::size_t>(std::thread::hardware_concurrency(), 1, 4);
    const std::size_t parts = std::clamp<std::size_t>((m_text.size() - m_rowsFrom) / kWorthAThread, 1, threads);
    std::vector<std::future<Result<Part>>> others;
    std::size_t from = m_rowsFrom;
    for (std::size_t k = 1; k < parts; ++k) {
        const auto middle =
            m_text.cbegin() + static_cast<std::ptrdiff_t>(m_rowsFrom + (m_text.size() - m_rowsFrom) / parts * k);
        const auto end = std::find_if(std::max(middle, m_text.cbegin() + static_cast<std::ptrdiff_t>(from)),
                                      m_text.cend(), isLineEnd);
        const auto to = std::min(static_cast<std::size_t>(end - m_text.cbegin()) + 1, m_text.size());
        others.push_back(std::async([&job, from, to] { return ColumnReader(job, from, to).read(false); }));
        from = to;
    }
    std::vector<Result<Part>> read;
    read.push_back(ColumnReader(job, from, m_text.size()).read(true));
    for (auto other = others.rbegin(); other != others.rend(); ++other) {
        read.push_back(other->get());
    }
    m_parts.clear();
    m_rowCount = 0;
    for (auto part = read.rbegin(); part != read.rend(); ++part) {
        if (!*part) {
            return tl::unexpected(part->error());
        }
        (*part)->firstRow = m_rowCount;
        m_rowCount += (*part)->rowStarts.size();
        m_parts.push_back(std::move(**part));
    }
    return job.isDubious.load();
}

const ColumnTable::Part& ColumnTable::partOf(std::size_t row) const {
    return *std::find_if(m_parts.rbegin(), m_parts.rend(), [row](const Part& part) { return part.firstRow <= row; });
}

std::size_t ColumnTable::startOf(std::size_t row) const {
    const Part& part = partOf(row);
    return part.rowStarts[row - part.firstRow];
}

int ColumnTable::line(std::size_t row) const {
    if (!m_lines.empty()) {
        return m_lines[row];
    }
    return 1 + static_cast<int>(countLineEnds(std::string_view(m_text).substr(0, startOf(row))));
}

Result<std::size_t> ColumnTable::find(std::string_view heading) const {
    const auto found = std::find(m_headings.begin(), m_headings.end(), heading);
    if (found == m_headings.end()) {
        return fail("fit.column-missing",
                    m_name + " has no column \"" + excerpt(heading) + "\" in " + headPlace() + "; there " +
                        headingsText(m_headings) + ".",
                    "Name the columns with their options.");
    }
    if (std::find(found + 1, m_headings.end(), heading) != m_headings.end()) {
        return fail("fit.column-twice",
                    m_name + " has several columns \"" + excerpt(heading) + "\" in " + headPlace() + ".",
                    "Give each column a heading of its own.");
    }
    return static_cast<std::size_t>(found - m_headings.begin());
}

std::string_view ColumnTable::cell(std::size_t row, std::size_t column) const {
    std::string_view rest = std::string_view(m_text).substr(startOf(row));
    rest = rest.substr(0, static_cast<std::size_t>(std::find_if(rest.begin(), rest.end(), isLineEnd) - rest.begin()));
    for (; column > 0; --column) {
        const std::size_t to = rest.find(m_separator);
        if (to == std::string_view::npos) {
            return {};
        }
        rest.remove_prefix(to + 1);
    }
    return trimmed(rest.substr(0, rest.find(m_separator)));
}

Result<double> ColumnTable::number(std::size_t row, std::size_t column) const {
    const Part& part = partOf(row);
    const double value = part.columns[column][row - part.firstRow];
    if (std::isnan(value)) {
        const bool isWordsOnly = std::all_of(part.columns.begin(), part.columns.end(), [&](const auto& values) {
            return std::isnan(values[row - part.firstRow]);
        });
        if (isWordsOnly && part.columns.size() > 1 && !cell(row, column).empty()) {
            return fail("fit.not-a-number",
                        m_name + ", " + lineText(line(row)) + " holds no number in any of its cells (\"" +
                            excerpt(cell(row, column)) + "\"); a second table may begin there.",
                        "Save each table as a file of its own, or correct the line.");
        }
        return fail("fit.not-a-number",
                    m_name + ", line " + std::to_string(line(row)) + ", cell " + std::to_string(column + 1) + ": " +
                        whyNoNumber(cell(row, column), m_numbers),
                    "Correct it, or leave the line out with --include.");
    }
    return value;
}

Result<std::vector<double>> ColumnTable::column(std::size_t column) const {
    std::vector<double> all;
    all.reserve(m_rowCount);
    preferLargePages(all.data(), m_rowCount * sizeof(double));
    for (const Part& part : m_parts) {
        const std::vector<double>& values = part.columns[column];
        const auto bad = std::find_if(values.begin(), values.end(), [](double v) { return std::isnan(v); });
        if (bad != values.end()) {
            return tl::unexpected(
                number(part.firstRow + static_cast<std::size_t>(bad - values.begin()), column).error());
        }
        all.insert(all.end(), values.begin(), values.end());
    }
    return all;
}

} // namespace nuvat
