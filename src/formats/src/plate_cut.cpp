// Files of plates as a whole: cut, read as found or as said, and kept beside what was read of them.
#include "nuvat/core/base/text.h"
#include "plate_reader.h"

#include <algorithm>

namespace nuvat {

namespace {

constexpr int kMostRows = 32; // of a plate of 1536 wells
constexpr int kMostColumns = 48;

std::string blockText(const CellBlock& block) {
    return "line " + std::to_string(block.line) + " to " + std::to_string(block.line + block.rows - 1) + ", cell " +
           std::to_string(block.column) + " to " + std::to_string(block.column + block.columns - 1);
}

/// One column of cells with the names beside it.
Result<PlateImport> readMarkedList(const PlateFile& file, const CellBlock& block) {
    DelimitedTable part = file.table;
    std::erase_if(part.rows, [&](const DelimitedRow& row) { return row.line >= block.line + block.rows; });
    const auto first = std::ranges::find_if(part.rows, [&](const auto& row) { return row.line >= block.line; });
    SampleList list{static_cast<std::size_t>(first - part.rows.begin()), std::nullopt, {}};
    if (block.column > 1) {
        list.names = static_cast<std::size_t>(block.column) - 2;
    }
    PlateImport out = readSampleList(part, file.name, list, static_cast<std::size_t>(block.column) - 1);
    if (out.numberCount() == 0) {
        return fail("import.no-numbers",
                    "None of the marked cells in " + file.name + " (" + blockText(block) + ") holds a number.",
                    "Mark the cells of the readings.");
    }
    out.isBlock = true;
    return out;
}

Result<PlateImport> readMarked(const PlateFile& file, const CellBlock& block) {
    const auto& rows = file.table.rows;
    const bool isThere = block.line >= 1 && block.column >= 1 && block.rows >= 1 && block.columns >= 1 &&
                         std::ranges::any_of(rows, [&](const DelimitedRow& row) {
                             return row.line >= block.line && row.line < block.line + block.rows &&
                                    row.cells.size() >= static_cast<std::size_t>(block.column);
                         });
    if (!isThere) {
        return fail("import.outside", file.name + " has no cells in " + blockText(block) + ".",
                    "Mark cells that the file has, or read it as it is found.");
    }
    if (block.columns == 1) {
        return readMarkedList(file, block);
    }
    if (block.rows > kMostRows || block.columns > kMostColumns) {
        return fail("import.too-large",
                    "The marked cells (" + blockText(block) + ") are more than the largest plate has, 32 × 48.",
                    "Mark the wells of one plate.");
    }
    return readBlock(file.table, file.name, block);
}

} // namespace

PlateImport importOf(const DelimitedTable& table, const std::string& name) {
    PlateImport out;
    out.source = name;
    out.checksum = table.checksum;
    out.encoding = table.encoding;
    out.sheet = table.sheet;
    out.separator = table.separator;
    out.decimal = table.numbers.decimal;
    return out;
}

Result<std::shared_ptr<const PlateFile>> plateFileOf(std::istream& stream, const std::string& name, Progress& progress,
                                                     const PlateCut& cut, const DelimitedLimits& limits) {
    auto text = readDecoded(stream, name, progress, limits);
    if (!text) {
        return tl::unexpected(text.error());
    }
    auto table = cutTable(*text, name, cut.notation, limits);
    if (!table) {
        return tl::unexpected(table.error());
    }
    alignPlateHeadings(*table);
    return std::make_shared<const PlateFile>(PlateFile{name, std::move(*text), std::move(*table)});
}

Result<std::shared_ptr<const PlateFile>> cutAgain(const std::shared_ptr<const PlateFile>& file,
                                                  const SaidNotation& said) {
    if (file->text.text.empty()) {
        return file;
    }
    auto table = cutTable(file->text, file->name, said);
    if (!table) {
        return tl::unexpected(table.error());
    }
    alignPlateHeadings(*table);
    return std::make_shared<const PlateFile>(PlateFile{file->name, file->text, std::move(*table)});
}

Result<std::vector<PlateImport>> readPlates(const std::shared_ptr<const PlateFile>& given, const PlateCut& cut) {
    std::shared_ptr<const PlateFile> file = given;
    if (cut.notation != SaidNotation{}) {
        auto again = cutAgain(given, cut.notation);
        if (!again) {
            return tl::unexpected(again.error());
        }
        file = std::move(*again);
    }
    std::vector<PlateImport> out;
    for (const CellBlock& block : cut.blocks) {
        if (block.sheet != file->table.sheet) {
            continue;
        }
        auto one = readMarked(*file, block);
        if (!one) {
            return tl::unexpected(one.error());
        }
        out.push_back(std::move(*one));
    }
    if (out.empty()) {
        auto found = readFound(file->table, file->name);
        if (!found) {
            return tl::unexpected(found.error());
        }
        out = std::move(*found);
    }
    const std::vector<SaidUnit> units = unitsIn(file->table);
    for (PlateImport& one : out) {
        one.file = file;
        setUnit(file->table, units, one);
    }
    return out;
}

Result<std::vector<PlateImport>> readPlates(std::istream& stream, const std::string& name, Progress& progress,
                                            const DelimitedLimits& limits, const PlateCut& cut) {
    const auto file = plateFileOf(stream, name, progress, cut, limits);
    return file ? readPlates(*file, PlateCut{{}, cut.blocks}) : tl::unexpected(file.error());
}

Result<std::vector<PlateImport>> readPlates(DelimitedTable table, const std::string& name) {
    alignPlateHeadings(table);
    return readPlates(std::make_shared<const PlateFile>(PlateFile{name, {}, std::move(table)}), {});
}

std::string PlateImport::understood() const {
    const std::string shape = isRunList ? "list of " + std::to_string(rows) + " samples"
                                        : std::to_string(rows) + " × " + std::to_string(columns) +
                                              (isList    ? " plate from a list of wells"
                                               : isBlock ? " cells as marked"
                                                         : " matrix");
    const std::string tail = ", " + encoding + (unit.empty() ? "" : ", in " + unit);
    if (!sheet.empty()) {
        return shape + ", sheet " + sheet + tail;
    }
    const std::string cut = separator == '\t'  ? "tab"
                            : separator == ';' ? "semicolon"
                            : separator == ' ' ? "blank"
                                               : "comma";
    return shape + ", " + cut + "-separated, decimal " + (decimal == ',' ? "comma" : "point") + tail;
}

std::size_t PlateImport::numberCount() const {
    return static_cast<std::size_t>(
        std::count_if(wells.begin(), wells.end(), [](const PlateCell& well) { return well.value.has_value(); }));
}

Result<PlateImport> readPlate(std::istream& stream, const std::string& name, Progress& progress,
                              const DelimitedLimits& limits) {
    auto table = readDelimited(stream, name, progress, limits);
    if (!table) {
        return tl::unexpected(table.error());
    }
    alignPlateHeadings(*table);
    return readOnePlate(*table, name);
}

} // namespace nuvat
