// In what the values of a plate are: said beside "unit" among the lines above it, or in brackets in a heading.
#include "nuvat/core/base/text.h"
#include "plate_reader.h"

#include <algorithm>
#include <array>

namespace nuvat {

namespace {

constexpr std::size_t kLongest = 12; // bytes; what is longer is a sentence

bool isUnitWord(std::string_view cell) {
    static constexpr std::array<std::string_view, 8> kWords{"unit",  "units",  "einheit", "einheiten",
                                                            "unité", "unités", "unidad",  "unità"};
    std::string word = lowerCase(trimmed(cell));
    if (!word.empty() && word.back() == ':') {
        word.pop_back();
    }
    return std::ranges::find(kWords, trimmed(word)) != kWords.end();
}

/// In round brackets stands many a thing besides a unit; these are what readers give values in. Source: common
/// practice.
bool isKnownUnit(std::string_view text) {
    static constexpr std::array<std::string_view, 16> kKnown{"AU",  "mAU", "A",  "mA", "µA", "nA",     "V",   "mV",
                                                             "RFU", "RLU", "FU", "LU", "OD", "counts", "cps", "%"};
    return std::ranges::find(kKnown, text) != kKnown.end();
}

std::string unitInBrackets(std::string_view heading) {
    const std::string_view words = trimmed(heading);
    if (words.empty() || (words.back() != ']' && words.back() != ')')) {
        return {};
    }
    const bool isSquare = words.back() == ']';
    const auto open = words.rfind(isSquare ? '[' : '(');
    if (open == std::string_view::npos) {
        return {};
    }
    const std::string_view inside = trimmed(words.substr(open + 1, words.size() - open - 2));
    const bool isPlain = !inside.empty() && inside.size() <= kLongest &&
                         std::ranges::none_of(inside, [](char c) { return c >= '0' && c <= '9'; });
    return isPlain && (isSquare || isKnownUnit(inside)) ? std::string(inside) : std::string();
}

/// "Unit, AU" and "Unit: AU", in a line of its own.
SaidUnit besideTheWord(const DelimitedRow& row) {
    for (std::size_t i = 0; i < row.cells.size(); ++i) {
        const std::string_view cell = trimmed(row.cells[i]);
        const auto colon = cell.find(':');
        if (colon != std::string_view::npos && colon + 1 < cell.size() && isUnitWord(cell.substr(0, colon))) {
            return {std::string(trimmed(cell.substr(colon + 1))), row.line, static_cast<int>(i) + 1};
        }
        if (isUnitWord(cell) && i + 1 < row.cells.size() && !trimmed(row.cells[i + 1]).empty()) {
            return {std::string(trimmed(row.cells[i + 1])), row.line, static_cast<int>(i) + 2};
        }
    }
    return {};
}

bool isShort(const SaidUnit& said) {
    return !said.unit.empty() && said.unit.size() <= kLongest;
}

} // namespace

std::vector<SaidUnit> unitsIn(const DelimitedTable& table) {
    std::vector<SaidUnit> out;
    for (const DelimitedRow& row : table.rows) {
        if (SaidUnit said = besideTheWord(row); isShort(said)) {
            out.push_back(std::move(said));
        }
    }
    return out;
}

void setUnit(const DelimitedTable& table, const std::vector<SaidUnit>& said, PlateImport& plate) {
    const auto firstWell = std::ranges::find_if(plate.wells, [](const PlateCell& well) { return well.line > 0; });
    if (firstWell == plate.wells.end()) {
        return;
    }
    SaidUnit found;
    const auto below = std::ranges::lower_bound(said, firstWell->line, {}, &SaidUnit::line);
    if (below != said.begin()) {
        found = *std::prev(below); // the one nearest above the plate
    }
    const auto lookAt = [&](int line, int column) {
        const auto row = std::ranges::lower_bound(table.rows, line, {}, &DelimitedRow::line);
        const auto at = static_cast<std::size_t>(column) - 1;
        const bool isCell = column > 0 && line >= found.line && line < firstWell->line && row != table.rows.end() &&
                            row->line == line && at < row->cells.size();
        if (std::string unit = isCell ? unitInBrackets(row->cells[at]) : std::string(); !unit.empty()) {
            found = {std::move(unit), line, column};
        }
    };
    lookAt(plate.nameLine, plate.nameColumn);
    if (plate.isList) {
        lookAt(plate.headingLine, firstWell->column);
    }
    plate.unit = found.unit;
    plate.unitLine = found.line;
    plate.unitColumn = found.column;
}

} // namespace nuvat
