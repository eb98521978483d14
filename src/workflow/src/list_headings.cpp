#include "list_headings.h"

#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"

#include <algorithm>

namespace nuvat {

namespace {

struct Heading {
    std::string name, unit;
};

/// "Expected time (min)": what stands there, and the unit in brackets or behind a comma.
Heading headingOf(const std::string& cell) {
    const std::string text(trimmed(cell));
    const std::size_t open = text.find_first_of("([,");
    if (open == std::string::npos || open == 0) {
        return {lowerCase(text), ""};
    }
    const std::size_t close = text.find_first_of(")]", open);
    const std::string unit = text.substr(open + 1, close == std::string::npos ? close : close - open - 1);
    return {lowerCase(trimmed(text.substr(0, open))), std::string(trimmed(unit))};
}

int fieldCalled(const std::string& name, std::span<const ListField> fields) {
    for (const ListField& one : fields) {
        if (std::ranges::find(one.names, name) != one.names.end()) {
            return one.field;
        }
    }
    return -1;
}

} // namespace

Result<ListTable> ListTable::read(const std::string& bytes, const std::string& source,
                                  std::span<const ListField> fields, int needed) {
    NoProgress progress;
    ListTable out;
    out.m_file = cellsOfBytes(bytes, source, progress);
    out.m_source = source;
    if (out.m_file == nullptr || out.m_file->table.rows.empty()) {
        return fail("list.empty", source + " holds no list.", "Choose a text or a spreadsheet with headings.");
    }
    for (const std::string& cell : out.m_file->table.rows.front().cells) {
        const Heading heading = headingOf(cell);
        out.m_fields.push_back(fieldCalled(heading.name, fields));
        out.m_units.push_back(heading.unit);
    }
    if (std::ranges::find(out.m_fields, needed) == out.m_fields.end()) {
        return fail("list.no-heading",
                    "The first line of " + source + " has no heading " + fields.front().names.front() + ".",
                    "Write headings above the columns, for example " + fields.front().names.front() + ".");
    }
    return out;
}

std::vector<std::string> ListTable::texts(std::size_t row, int field) const {
    std::vector<std::string> out;
    const auto& cells = m_file->table.rows[row + 1].cells;
    for (std::size_t column = 0; column < m_fields.size() && column < cells.size(); ++column) {
        if (m_fields[column] == field) {
            out.emplace_back(trimmed(cells[column]));
        }
    }
    return out;
}

std::string ListTable::text(std::size_t row, int field) const {
    const auto all = texts(row, field);
    return all.empty() ? std::string() : all.front();
}

Result<std::optional<double>> ListTable::number(std::size_t row, int field) const {
    const std::string cell = text(row, field);
    if (cell.empty()) {
        return std::optional<double>();
    }
    const auto value = parseCell(cell, m_file->table.numbers);
    if (!value) {
        return fail("list.number",
                    "Line " + std::to_string(line(row)) + " of " + m_source + ": " + excerpt(cell) + " is no number.",
                    "Correct it, or leave it empty.");
    }
    return std::optional(*value);
}

std::string ListTable::unit(int field) const {
    const auto found = std::ranges::find(m_fields, field);
    return found == m_fields.end() ? std::string() : m_units[static_cast<std::size_t>(found - m_fields.begin())];
}

} // namespace nuvat
