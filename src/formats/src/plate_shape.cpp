// Where plates stand in a table: rows that number the columns, row letters below them, columns of well names.
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "nuvat/formats/workbook.h"
#include "plate_reader.h"

#include <algorithm>
#include <array>
#include <map>

namespace nuvat {

namespace {

// Smallest first (ANSI/SLAS 4-2004 gives 96, 384 and 1536; the smaller ones are common practice).
constexpr std::array<PlateSize, 7> kUsualPlates{{{2, 3}, {3, 4}, {4, 6}, {6, 8}, {8, 12}, {16, 24}, {32, 48}}};

} // namespace

PlateSize usualPlate(PlateSize needed) {
    const auto* found = std::ranges::find_if(kUsualPlates, [&](const PlateSize& usual) {
        return usual.rows >= needed.rows && usual.columns >= needed.columns;
    });
    return found == kUsualPlates.end() ? needed : *found;
}

bool isUsualPlate(PlateSize size) {
    return std::ranges::any_of(
        kUsualPlates, [&](const PlateSize& usual) { return usual.rows == size.rows && usual.columns == size.columns; });
}

std::string placeText(const DelimitedTable& table, const std::string& name, int line, int column,
                      const std::string& well) {
    std::string place = table.sheet.empty() ? ", line " + std::to_string(line)
                        : column == 0       ? ", row " + std::to_string(line)
                                            : ", cell " + cellName(line - 1, column - 1);
    if (table.sheet.empty() && column > 0) {
        place += ", cell " + std::to_string(column);
    }
    return name + place + (well.empty() ? "" : " (well " + well + ")");
}

std::string wavelengthIn(std::string_view text) {
    for (std::size_t unit = text.find("nm"); unit != std::string_view::npos; unit = text.find("nm", unit + 1)) {
        if (unit + 2 < text.size() && std::isalpha(static_cast<unsigned char>(text[unit + 2])) != 0) {
            continue;
        }
        const std::string_view before = text.substr(0, text.find_last_not_of(' ', unit == 0 ? 0 : unit - 1) + 1);
        std::size_t from = before.size();
        while (from > 0 && std::isdigit(static_cast<unsigned char>(before[from - 1])) != 0) {
            --from;
        }
        if (before.size() - from == 3 || before.size() - from == 4) {
            return std::string(before.substr(from)) + " nm";
        }
    }
    return {};
}

bool isComment(const DelimitedRow& row) {
    const std::string_view first = trimmed(row.cells.front());
    return first.starts_with("//") || first.starts_with('#');
}

std::optional<ColumnHeading> columnHeading(const DelimitedRow& row) {
    for (std::size_t from = 0; from < std::min<std::size_t>(row.cells.size(), 3); ++from) {
        int count = 0;
        std::size_t at = from;
        while (at < row.cells.size() && trimmed(row.cells[at]) == std::to_string(count + 1)) {
            ++count;
            ++at;
        }
        const bool restBlank = std::all_of(row.cells.begin() + static_cast<std::ptrdiff_t>(at), row.cells.end(),
                                           [](const std::string& cell) { return trimmed(cell).empty(); });
        if (count >= 2 && restBlank) {
            return ColumnHeading{from, count};
        }
    }
    return std::nullopt;
}

bool isMatrixHeading(const DelimitedTable& table, std::size_t index) {
    const auto found = columnHeading(table.rows[index]);
    if (!found || found->from == 0) {
        return false;
    }
    const std::size_t column = found->from - 1;
    for (std::size_t i = index + 1; i < table.rows.size(); ++i) {
        if (!isComment(table.rows[i])) {
            return column < table.rows[i].cells.size() && parseRowLetters(table.rows[i].cells[column]);
        }
    }
    return false;
}

void alignPlateHeadings(DelimitedTable& table) {
    if (table.separator != ' ') {
        return;
    }
    for (std::size_t i = 0; i + 1 < table.rows.size(); ++i) {
        std::vector<std::string>& cells = table.rows[i].cells;
        const auto heading = columnHeading(table.rows[i]);
        if (heading && heading->from == 0 && table.rows[i + 1].cells.size() == cells.size() + 1 &&
            parseRowLetters(table.rows[i + 1].cells.front())) {
            cells.insert(cells.begin(), "");
        }
    }
}

std::optional<std::size_t> wellColumnOf(const DelimitedTable& table) {
    std::map<std::size_t, std::size_t> counts;
    for (const DelimitedRow& row : table.rows) {
        for (std::size_t c = 0; c < std::min<std::size_t>(row.cells.size(), 20); ++c) {
            counts[c] += parseWellName(row.cells[c]) ? 1u : 0u;
        }
    }
    for (const auto& [column, count] : counts) {
        if (count >= 2 && count * 2 > table.rows.size() / 2) {
            return column;
        }
    }
    return std::nullopt;
}

std::vector<std::size_t> matrixHeadings(const DelimitedTable& table) {
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i + 1 < table.rows.size(); ++i) {
        if (isMatrixHeading(table, i)) {
            out.push_back(i);
        }
    }
    return out;
}

std::size_t endOfMatrix(const DelimitedTable& table, std::size_t heading) {
    const std::size_t letters = columnHeading(table.rows[heading])->from - 1;
    std::size_t i = heading + 1;
    const auto hasLetter = [letters](const DelimitedRow& row) {
        return letters < row.cells.size() && parseRowLetters(row.cells[letters]).has_value();
    };
    while (i < table.rows.size() && (isComment(table.rows[i]) || hasLetter(table.rows[i]))) {
        ++i;
    }
    return i;
}

} // namespace nuvat
