#include "nuvat/formats/workbook.h"

#include "nuvat/core/base/number.h"

#include <algorithm>

namespace nuvat {

namespace {

char decimalOf(const Sheet& sheet) {
    const auto isNumber = [](const SheetCell& cell) { return cell.kind == CellKind::Number; };
    const auto hasComma = [](const SheetCell& cell) {
        return cell.kind == CellKind::Text && cell.text.find(',') != std::string::npos &&
               parseNumber(cell.text, {','}) && !parseCell(cell.text);
    };
    const auto numbers = std::ranges::count_if(sheet.cells, isNumber);
    const auto withComma = std::ranges::count_if(sheet.cells, hasComma);
    return withComma > numbers ? ',' : '.';
}

} // namespace

DelimitedTable tableOf(const Workbook& workbook, const Sheet& sheet, const std::string& checksum) {
    constexpr std::size_t kMostFilled = 4'000'000; // cells that filling up may make
    DelimitedTable out;
    out.encoding = workbook.format;
    out.sheet = sheet.name;
    out.checksum = checksum;
    out.separator = '\t';
    out.numbers.decimal = decimalOf(sheet);
    std::size_t width = 0;
    for (const SheetCell& cell : sheet.cells) {
        if (out.rows.empty() || out.rows.back().line != cell.row + 1) {
            out.rows.push_back({cell.row + 1, {}});
        }
        std::vector<std::string>& cells = out.rows.back().cells;
        cells.resize(static_cast<std::size_t>(cell.column));
        std::string text = cell.text;
        if (cell.kind == CellKind::Number && out.numbers.decimal == ',') {
            std::ranges::replace(text, '.', ',');
        }
        cells.push_back(std::move(text));
        width = std::max(width, cells.size());
    }
    if (width * out.rows.size() <= kMostFilled) {
        for (DelimitedRow& row : out.rows) {
            row.cells.resize(width);
        }
    }
    return out;
}

} // namespace nuvat
