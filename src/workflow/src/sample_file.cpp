#include "nuvat/workflow/sample_file.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "nuvat/formats/any_file.h"

#include <algorithm>
#include <array>

namespace nuvat {

namespace {

constexpr std::array<std::string_view, 7> kNames{"sample",    "samples", "name",   "sample name",
                                                 "sample id", "id",      "unknown"};
constexpr std::array<std::string_view, 5> kDilutions{"dilution", "dilution factor", "factor", "dil.", "dil"};

std::string cellAt(const DelimitedRow& row, std::size_t column) {
    return column < row.cells.size() ? std::string(trimmed(row.cells[column])) : std::string();
}

template<std::size_t N>
std::optional<std::size_t> columnCalled(const DelimitedRow& row, const std::array<std::string_view, N>& names) {
    for (std::size_t c = 0; c < row.cells.size(); ++c) {
        if (std::ranges::find(names, lowerCase(cellAt(row, c))) != names.end()) {
            return c;
        }
    }
    return std::nullopt;
}

/// A dilution as pasteSampleNames() reads it: with a point, or as parts.
std::string dilutionText(const std::string& cell, const NumberFormat& numbers) {
    const auto number = parseCell(cell, numbers);
    return number ? formatNumber(*number) : cell;
}

std::string linesOf(const PlateFile& file) {
    const auto& rows = file.table.rows;
    const NumberFormat& numbers = file.table.numbers;
    const auto name = columnCalled(rows.front(), kNames);
    auto dilution = columnCalled(rows.front(), kDilutions);
    const std::size_t first = name || dilution ? 1 : 0;
    if (first == 0) {
        const bool isSecondNumber = std::ranges::all_of(
            rows, [&](const DelimitedRow& row) { return parseCell(cellAt(row, 1), numbers).has_value(); });
        if (!isSecondNumber && !file.text.text.empty()) {
            return file.text.text; // names with commas in them, one a line
        }
        dilution = isSecondNumber ? std::optional<std::size_t>(1) : std::nullopt;
    }
    std::string out;
    for (std::size_t r = first; r < rows.size(); ++r) {
        const std::string sample = cellAt(rows[r], name.value_or(0));
        const std::string factor = dilution ? cellAt(rows[r], *dilution) : std::string();
        if (!sample.empty()) {
            out += sample + (factor.empty() ? "" : "\t" + dilutionText(factor, numbers)) + "\n";
        }
    }
    return out;
}

} // namespace

Result<std::string> readSampleNames(const std::filesystem::path& path, Progress& progress) {
    const auto bytes = readFileBytes(path, progress);
    if (!bytes) {
        return tl::unexpected(bytes.error());
    }
    const std::string name = path.filename().string();
    const auto file = cellsOfBytes(*bytes, name, progress);
    const std::string lines = file == nullptr ? std::string() : linesOf(*file);
    if (trimmed(lines).empty()) {
        return fail("samples.none", name + " holds no names of samples.",
                    "Choose a text or a spreadsheet with a column of names.");
    }
    return lines;
}

} // namespace nuvat
