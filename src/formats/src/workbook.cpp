#include "nuvat/formats/workbook.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "text_input.h"
#include "workbook_parts.h"

#include <algorithm>

namespace nuvat {

std::string cellName(int row, int column) {
    std::string letters;
    for (int rest = column + 1; rest > 0; rest = (rest - 1) / 26) {
        letters.insert(letters.begin(), static_cast<char>('A' + (rest - 1) % 26));
    }
    return letters + std::to_string(row + 1);
}

Result<void> SheetDraft::add(SheetCell cell) {
    constexpr std::size_t kMostCells = 1'000'000;
    if (++m_cells > kMostCells) {
        return fail("workbook.too-large", "The spreadsheet has more than a million filled cells.",
                    "Export the readings alone, or as CSV.");
    }
    if (cell.row < 0 || cell.row >= kMostRows || cell.column < 0 || cell.column >= kMostColumns) {
        return fail("workbook.cell", "Sheet " + excerpt(m_sheet.name) + " has a cell outside any sheet.",
                    "Save the file again by the program that made it.");
    }
    m_sheet.cells.push_back(std::move(cell));
    return {};
}

Result<void> SheetDraft::addNumber(int row, int column, std::string_view text) {
    const auto number = parseNumber(text);
    if (!number) {
        return refuse(row, column, "\"" + excerpt(text) + "\" is not a number, though the cell says that it holds one");
    }
    return add({row, column, CellKind::Number, std::string(trimmed(text)), number});
}

tl::unexpected<Error> SheetDraft::refuse(int row, int column, const std::string& why) const {
    return fail("workbook.cell",
                "Sheet " + excerpt(m_sheet.name) + ", cell " + cellName(row, column) + ": " + why + ".",
                "Save the file again by the program that made it.");
}

Result<void> SheetDraft::finish() {
    const auto isBefore = [](const SheetCell& a, const SheetCell& b) {
        return std::pair(a.row, a.column) < std::pair(b.row, b.column);
    };
    auto& cells = m_sheet.cells;
    if (!std::ranges::is_sorted(cells, isBefore)) {
        std::ranges::stable_sort(cells, isBefore);
    }
    const auto twice = std::ranges::adjacent_find(
        cells, [](const SheetCell& a, const SheetCell& b) { return a.row == b.row && a.column == b.column; });
    return twice == cells.end() ? Result<void>() : refuse(twice->row, twice->column, "it is given twice");
}

Result<void> readPart(const ZipArchive& archive, const std::string& entry, XmlReader& reader, Progress& progress,
                      const std::string& name) {
    bool isCancelled = false;
    const auto done = archive.read(entry, [&](std::string_view piece) {
        isCancelled = progress.cancelled();
        return !isCancelled && reader.feed(piece, false);
    });
    if (isCancelled) {
        return cancelled(name);
    }
    if (done && !reader.error()) {
        reader.feed({}, true);
    }
    return reader.error() ? tl::unexpected(*reader.error()) : done;
}

bool looksLikeZip(std::string_view bytes) {
    return bytes.starts_with("PK\x03\x04") || bytes.starts_with("PK\x05\x06");
}

Result<Workbook> readWorkbook(std::string_view bytes, const std::string& name, Progress& progress) {
    const auto named = [&](const Error& error) {
        return tl::unexpected(Error{error.code, name + ": " + error.message, error.advice});
    };
    const auto archive = ZipArchive::open(bytes);
    if (!archive) {
        return named(archive.error());
    }
    constexpr std::size_t kMostName = 200;
    std::string kind;
    if (archive->has("mimetype")) {
        const auto read = archive->read("mimetype", kMostName);
        kind = read ? std::string(trimmed(*read)) : std::string();
    }
    const bool isOds = kind.starts_with("application/vnd.oasis.opendocument.spreadsheet");
    if (!isOds && !archive->has("xl/workbook.xml") && !archive->has("_rels/.rels")) {
        return fail("workbook.none",
                    name + (kind.empty() ? " is a ZIP archive without a spreadsheet in it."
                                         : " is no spreadsheet, but \"" + excerpt(kind) + "\"."),
                    "Choose a spreadsheet (.xlsx, .ods), or unpack the archive and choose a file in it.");
    }
    auto read = isOds ? readOds(*archive, name, progress) : readXlsx(*archive, name, progress);
    if (!read) {
        return read.error().code == "import.cancelled" ? tl::unexpected(read.error()) : named(read.error());
    }
    return read;
}

} // namespace nuvat
