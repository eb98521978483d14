#include "nuvat/formats/column_table.h"

#include "nuvat/core/base/well.h"
#include "text_input.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstring>
#include <limits>

namespace nuvat {

namespace {

constexpr std::ptrdiff_t kMostColumns = 16'384; // as wide as a spreadsheet
constexpr double kNoNumber = std::numeric_limits<double>::quiet_NaN();
// Where quotation marks hold separators or line ends, cells and lines are parted anew by characters that text cannot
// have.
constexpr char kUnitSeparator = '\x1f';
constexpr char kRecordSeparator = '\x1e';

bool isLineEnd(char c) {
    return c == '\n' || c == '\r' || c == kRecordSeparator;
}

constexpr std::array<std::uint64_t, 9> kWholePowers{1,       10,        100,        1'000,      10'000,
                                                    100'000, 1'000'000, 10'000'000, 100'000'000};
constexpr std::array<double, 23> kExactPowers{1e0,  1e1,  1e2,  1e3,  1e4,  1e5,  1e6,  1e7,  1e8,  1e9,  1e10, 1e11,
                                              1e12, 1e13, 1e14, 1e15, 1e16, 1e17, 1e18, 1e19, 1e20, 1e21, 1e22};

/// Up to eight digits from `at` on, all at once. @return how many there are; digits has them appended
/// Source: D. Lemire, "Number parsing at a gigabyte per second", Software: Practice and Experience 51 (2021), for the
/// sum of eight digits; the place of the first other character by the carry into each byte's highest bit.
[[gnu::always_inline]] inline std::size_t readDigits(const char* at, std::uint64_t& digits) {
    std::uint64_t eight = 0;
    std::memcpy(&eight, at, sizeof eight);
    eight ^= 0x3030303030303030u;
    const std::uint64_t others = ((eight + 0x7676767676767676u) | eight) & 0x8080808080808080u;
    const auto count = static_cast<std::size_t>(std::countr_zero(others)) / 8; // 8 when there is no other
    if (count == 0) {
        return 0;
    }
    eight <<= 64 - 8 * count;
    eight = eight * 10 + (eight >> 8u);
    eight = (((eight & 0x000000FF000000FFu) * 0x000F424000000064u) +
             (((eight >> 16u) & 0x000000FF000000FFu) * 0x0000271000000001u)) >>
            32u;
    digits = digits * kWholePowers[count] + eight;
    return count;
}

/// All digits from `at` on. @return how many there are; digits has them appended, if they are fewer than 20
[[gnu::always_inline]] inline std::size_t readDigits(const char* at, const char* end, std::uint64_t& digits) {
    std::size_t count = 0;
    if constexpr (std::endian::native == std::endian::little) {
        while (end - at >= 8) {
            const std::size_t more = readDigits(at, digits);
            count += more;
            at += more;
            if (more < 8) {
                return count;
            }
        }
    }
    for (; at != end && static_cast<unsigned char>(*at - '0') < 10; ++at, ++count) {
        digits = digits * 10 + static_cast<std::uint64_t>(*at - '0');
    }
    return count;
}

/// A plain decimal number from `at` on when it is exact in a double: digits up to 2^53 and a power of ten up to 22 are
/// (W. D. Clinger, "How to read floating point numbers accurately", PLDI 1990). @return its end, or nullptr
const char* readPlain(const char* at, const char* end, char decimal, double& value) {
    const bool isNegative = at != end && *at == '-';
    at += isNegative ? 1 : 0;
    std::uint64_t digits = 0;
    std::size_t count = readDigits(at, end, digits);
    at += count;
    std::ptrdiff_t exponent = 0;
    if (at != end && *at == decimal) {
        const std::size_t places = readDigits(++at, end, digits);
        at += places;
        count += places;
        exponent = -static_cast<std::ptrdiff_t>(places);
    }
    if (count == 0 || count > 19) {
        return nullptr;
    }
    if (at != end && (*at == 'e' || *at == 'E')) {
        ++at;
        const bool isDown = at != end && *at == '-';
        at += at != end && (*at == '-' || *at == '+') ? 1 : 0;
        std::uint64_t power = 0;
        const std::size_t length = readDigits(at, end, power);
        if (length == 0 || length > 3) {
            return nullptr;
        }
        at += length;
        exponent += (isDown ? -1 : 1) * static_cast<std::ptrdiff_t>(power);
    }
    if (digits > (std::uint64_t{1} << 53u) || exponent < -22 || exponent > 22) {
        return nullptr;
    }
    const auto whole = static_cast<double>(static_cast<std::int64_t>(digits));
    value = exponent < 0 ? whole / kExactPowers[static_cast<std::size_t>(-exponent)]
                         : whole * kExactPowers[static_cast<std::size_t>(exponent)];
    value = isNegative ? -value : value;
    return at;
}

} // namespace

/// Fills a ColumnTable.
class ColumnReader {
public:
    ColumnReader(ColumnTable& table, std::size_t expectedRows, Progress& progress, const DelimitedLimits& limits)
        : m_table(table), m_expectedRows(expectedRows), m_progress(progress), m_limits(limits) {}

    /// Headings and rows of m_text under the notation that the table has.
    Result<void> readAll() {
        const std::string& text = m_table.m_text;
        m_hasWords = false;
        m_table.m_rowStarts.clear();
        const char* const begin = text.data();
        const char* const end = begin + text.size();
        const char* at = begin;
        bool isFirst = true;
        std::size_t row = 0;
        while (at != end) {
            const char* const start = at;
            if (isLineEnd(*at)) {
                ++at;
                continue;
            }
            if (isFirst) {
                const char* const stop = std::find_if(at, end, isLineEnd);
                if (!isBlank({at, static_cast<std::size_t>(stop - at)})) {
                    const std::string_view line(at, static_cast<std::size_t>(stop - at));
                    if (std::count(line.begin(), line.end(), m_table.m_separator) >= kMostColumns) {
                        return fail("import.too-large",
                                    m_table.m_name + " has more than " + std::to_string(kMostColumns) +
                                        " headings in its first line.",
                                    "Divide it into several files.");
                    }
                    setHeadings(line);
                    isFirst = false;
                }
                at = stop;
                continue;
            }
            bool isEmpty = true;
            at = readRow(at, end, m_block.data() + row % m_blockRows, isEmpty);
            if (isEmpty && isBlank({start, static_cast<std::size_t>(at - start)})) {
                continue;
            }
            m_table.m_rowStarts.push_back(static_cast<std::uint32_t>(start - begin));
            if (++row % m_blockRows != 0) {
                continue;
            }
            takeBlock(m_blockRows);
            if (m_progress.cancelled()) {
                return cancelled(m_table.m_name);
            }
            m_progress.report(static_cast<double>(at - begin) / static_cast<double>(text.size()));
            if (row * m_table.m_headings.size() > m_limits.mostCells) {
                return tooLarge(m_table.m_name, "after " + std::to_string(row) + " lines", m_limits);
            }
        }
        takeBlock(row % m_blockRows);
        return {};
    }

    bool hasWords() const { return m_hasWords; } ///< some cell is not a number

private:
    void setHeadings(std::string_view line) {
        m_table.m_headings.clear();
        forEachCell(line, m_table.m_separator,
                    [&](std::string_view cell) { m_table.m_headings.emplace_back(trimmed(cell)); });
        const std::size_t width = m_table.m_headings.size();
        const std::size_t rows =
            std::min(m_expectedRows, m_limits.mostCells / width); // a guess that no file can drive up
        m_table.m_columns.assign(width, {});
        for (std::vector<double>& column : m_table.m_columns) {
            column.reserve(rows);
        }
        m_table.m_rowStarts.reserve(rows);
        constexpr std::size_t kMostInBlock = 1u << 16;
        m_blockRows = std::clamp<std::size_t>(kMostInBlock / width, 1, 1024);
        m_block.resize(m_blockRows * width);
    }

    /// Reads one line into the block. @return where it ends; isEmpty: no cell holds a number
    const char* readRow(const char* at, const char* end, double* block, bool& isEmpty) {
        const char separator = m_table.m_separator;
        const char decimal = m_table.m_numbers.decimal;
        for (std::size_t left = m_table.m_headings.size(); left > 0; --left, block += m_blockRows) {
            const char* const after = readPlain(at, end, decimal, *block);
            if (after != nullptr && (after == end || *after == separator || isLineEnd(*after))) {
                at = after;
                isEmpty = false;
            } else {
                const char* const from = at;
                while (at != end && *at != separator && !isLineEnd(*at)) {
                    ++at;
                }
                const auto number = parseNumber({from, static_cast<std::size_t>(at - from)}, m_table.m_numbers);
                *block = number.value_or(kNoNumber);
                isEmpty = isEmpty && !number;
                m_hasWords = m_hasWords || !number;
            }
            at += at != end && *at == separator ? 1 : 0;
        }
        while (at != end && !isLineEnd(*at)) { // cells without a heading
            ++at;
        }
        return at;
    }

    void takeBlock(std::size_t rows) {
        for (std::size_t k = 0; k < m_table.m_columns.size(); ++k) {
            const double* const from = m_block.data() + k * m_blockRows;
            m_table.m_columns[k].insert(m_table.m_columns[k].end(), from, from + rows);
        }
    }

    ColumnTable& m_table;
    std::size_t m_expectedRows;
    std::size_t m_blockRows = 1; ///< lines that are read before they go to their columns
    std::vector<double> m_block; ///< column after column
    Progress& m_progress;
    const DelimitedLimits& m_limits;
    bool m_hasWords = false;
};

namespace {

/// Some lines of the head and some of the tail: enough to see how a long table is written.
std::vector<Line> sample(std::string_view text) {
    constexpr std::size_t kBytes = 1u << 14;
    if (text.size() <= 2 * kBytes) {
        return cutLines(text);
    }
    std::vector<Line> lines = cutLines(text.substr(0, kBytes));
    lines.pop_back(); // cut off
    std::vector<Line> tail = cutLines(text.substr(text.size() - kBytes));
    lines.insert(lines.end(), tail.begin() + 1, tail.end());
    return lines;
}

/// The lines parted by characters that no cell can hold. @param numbers the lines that are not blank but the first
std::string joined(const std::vector<Line>& lines, char separator, std::vector<int>& numbers) {
    std::string out;
    for (const Line& line : lines) {
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
        if (!out.empty()) {
            numbers.push_back(line.number);
        }
        out += record + kRecordSeparator;
    }
    return out;
}

} // namespace

Result<ColumnTable> ColumnTable::read(std::istream& stream, const std::string& name, Progress& progress,
                                      const DelimitedLimits& limits) {
    auto bytes = readBytes(stream, name, progress, limits);
    if (!bytes) {
        return tl::unexpected(bytes.error());
    }
    std::string encoding;
    auto text = decodeText(std::move(*bytes), name, encoding);
    if (!text) {
        return tl::unexpected(text.error());
    }
    ColumnTable table;
    table.m_name = name;
    table.m_text = std::move(*text);
    if (isBlank(table.m_text)) {
        return fail("import.empty", name + " is empty.", "Choose a file with headings and lines of numbers.");
    }
    const bool hasQuotes = table.m_text.find('"') != std::string::npos;
    if (const auto closed = requireClosedQuotes(table.m_text, name); !closed) {
        return tl::unexpected(closed.error());
    }
    const auto filled = [](std::vector<Line> lines) {
        std::erase_if(lines, [](const Line& line) { return isBlank(line.text); });
        return lines;
    };
    std::vector<Line> lines = filled(hasQuotes ? cutLines(table.m_text) : sample(table.m_text));
    if (lines.empty()) { // lines longer than the sample
        lines = filled(cutLines(table.m_text));
    }
    const Notation notation = notationOf(lines);
    const auto take = [&](Notation chosen) {
        table.m_separator = hasQuotes ? kUnitSeparator : chosen.separator;
        table.m_numbers.decimal = chosen.decimal;
    };
    take(notation);
    if (hasQuotes) {
        table.m_text = joined(lines, notation.separator, table.m_lines);
    }
    std::size_t sampled = 0;
    for (const Line& line : lines) {
        sampled += line.text.size() + 1;
    }
    const std::size_t expectedRows = table.m_text.size() / (sampled / lines.size()) * 9 / 8;
    ColumnReader reader(table, expectedRows, progress, limits);
    if (const auto done = reader.readAll(); !done) {
        return tl::unexpected(done.error());
    }
    if (reader.hasWords() && !hasQuotes) { // the sample may have shown too little
        const std::vector<Line> all = cutLines(table.m_text);
        if (const Notation better = notationOf(all); better != notation) {
            take(better);
            if (const auto done = reader.readAll(); !done) {
                return tl::unexpected(done.error());
            }
        }
    }
    return table;
}

int ColumnTable::line(std::size_t row) const {
    if (!m_lines.empty()) {
        return m_lines[row];
    }
    const std::string_view before = std::string_view(m_text).substr(0, m_rowStarts[row]);
    int count = 1;
    for (std::size_t i = 0; i < before.size(); ++i) {
        const bool isPair = before[i] == '\r' && i + 1 < before.size() && before[i + 1] == '\n';
        count += (before[i] == '\n' || before[i] == '\r') && !isPair ? 1 : 0;
    }
    return count;
}

Result<std::size_t> ColumnTable::find(std::string_view heading) const {
    const auto found = std::find(m_headings.begin(), m_headings.end(), heading);
    if (found == m_headings.end()) {
        return fail("fit.column-missing", m_name + " has no column \"" + std::string(heading) + "\" in its first line.",
                    "Name the columns with their options.");
    }
    return static_cast<std::size_t>(found - m_headings.begin());
}

std::string_view ColumnTable::cell(std::size_t row, std::size_t column) const {
    std::string_view rest = std::string_view(m_text).substr(m_rowStarts[row]);
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
    const double value = m_columns[column][row];
    if (std::isnan(value)) {
        return fail("fit.not-a-number",
                    m_name + ", line " + std::to_string(line(row)) + ", cell " + std::to_string(column + 1) + ": \"" +
                        std::string(cell(row, column)) + "\" is not a number.",
                    "Correct it, or leave the line out with --include.");
    }
    return value;
}

Result<std::vector<double>> ColumnTable::column(std::size_t column) const {
    const std::vector<double>& values = m_columns[column];
    const auto bad = std::find_if(values.begin(), values.end(), [](double v) { return std::isnan(v); });
    if (bad != values.end()) {
        return tl::unexpected(number(static_cast<std::size_t>(bad - values.begin()), column).error());
    }
    return values;
}

} // namespace nuvat
