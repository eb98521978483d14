// Files with more than one read: matrices under each other, lists with several columns of numbers, lists of samples.
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "plate_reader.h"

#include <algorithm>
#include <array>
#include <set>

namespace nuvat {

namespace {

std::string lower(std::string_view text) {
    return lowerCase(trimmed(text));
}

/// A heading of a column of numbers that were not read: counted, typed or computed.
bool isNoRead(const std::string& heading) {
    static const std::set<std::string> kOthers{"row",
                                               "column",
                                               "col",
                                               "no",
                                               "no.",
                                               "nr",
                                               "nr.",
                                               "#",
                                               "number",
                                               "index",
                                               "run",
                                               "plate",
                                               "rep",
                                               "replicate",
                                               "position",
                                               "vial",
                                               "dilution",
                                               "factor",
                                               "time",
                                               "id",
                                               "dilution factor",
                                               "concentration",
                                               "conc",
                                               "conc.",
                                               "mean",
                                               "sd",
                                               "cv",
                                               "cv %",
                                               "cv, %"};
    return kOthers.contains(lower(heading));
}

/// A heading of a column that says whose each row is.
bool isNameHeading(const std::string& heading) {
    const std::string name = lower(heading);
    constexpr std::array<std::string_view, 5> kWords{"sample", "name", "cuvette", "vial", "tube"};
    return std::any_of(kWords.begin(), kWords.end(),
                       [&name](std::string_view word) { return name.find(word) != std::string::npos; });
}

std::string cellOf(const DelimitedRow& row, std::size_t column) {
    return column < row.cells.size() ? std::string(trimmed(row.cells[column])) : std::string();
}

/// Columns that hold a number in half of the rows or more, from `first` on.
std::vector<std::size_t> fullColumns(const DelimitedTable& table, std::size_t first) {
    std::size_t width = 0;
    for (std::size_t r = first; r < table.rows.size(); ++r) {
        width = std::max(width, table.rows[r].cells.size());
    }
    std::vector<std::size_t> out;
    for (std::size_t c = 0; c < width; ++c) {
        std::size_t count = 0;
        for (std::size_t r = first; r < table.rows.size(); ++r) {
            count += parseCell(cellOf(table.rows[r], c), table.numbers) ? 1u : 0u;
        }
        if (count * 2 >= table.rows.size() - first) {
            out.push_back(c);
        }
    }
    return out;
}

bool hasNumber(const DelimitedRow& row, const NumberFormat& numbers) {
    return std::any_of(row.cells.begin(), row.cells.end(),
                       [&](const std::string& cell) { return parseCell(cell, numbers).has_value(); });
}

DelimitedTable partOf(const DelimitedTable& table, std::size_t from, std::size_t to) {
    DelimitedTable part = table;
    part.rows = {table.rows.begin() + static_cast<std::ptrdiff_t>(from),
                 table.rows.begin() + static_cast<std::ptrdiff_t>(to)};
    return part;
}

/// Every matrix with the lines above it.
Result<std::vector<PlateImport>> readMatrices(const DelimitedTable& table, const std::string& name,
                                              const std::vector<std::size_t>& headings) {
    std::vector<PlateImport> out;
    std::size_t from = 0;
    for (std::size_t i = 0; i < headings.size(); ++i) {
        const std::size_t to = i + 1 < headings.size() ? endOfMatrix(table, headings[i]) : table.rows.size();
        auto one = readOnePlate(partOf(table, from, to), name);
        if (!one) {
            return tl::unexpected(one.error());
        }
        out.push_back(std::move(*one));
        from = to;
    }
    nameByTimes(out);
    return out;
}

} // namespace

std::optional<SampleList> sampleListOf(const DelimitedTable& table) {
    std::size_t first = 0; // past what stands above: the first row with a number whose followers have one too
    while (first < table.rows.size() && !hasNumber(table.rows[first], table.numbers)) {
        ++first;
    }
    if (first == 0 || table.rows.size() - first < 2) { // without a heading nobody knows what the columns are
        return std::nullopt;
    }
    SampleList list;
    list.firstRow = first;
    const DelimitedRow& heading = table.rows[first - 1];
    for (const std::size_t column : fullColumns(table, first)) {
        if (const std::string title = cellOf(heading, column); !title.empty() && !isNoRead(title)) {
            list.values.push_back(column);
        }
    }
    for (std::size_t c = 0; c < heading.cells.size() && !list.names; ++c) {
        const bool isValue = std::find(list.values.begin(), list.values.end(), c) != list.values.end();
        if (!isValue && isNameHeading(cellOf(heading, c))) {
            list.names = c;
        }
    }
    for (std::size_t c = 0; c < heading.cells.size() && !list.names; ++c) {
        std::size_t texts = 0;
        for (std::size_t r = first; r < table.rows.size(); ++r) {
            const std::string cell = cellOf(table.rows[r], c);
            texts += !cell.empty() && !parseCell(cell, table.numbers) ? 1u : 0u;
        }
        if (texts * 2 > table.rows.size() - first) {
            list.names = c;
        }
    }
    return list.values.empty() || !list.names ? std::nullopt : std::optional(list);
}

PlateImport readSampleList(const DelimitedTable& table, const std::string& name, const SampleList& list,
                           std::size_t column) {
    PlateImport out = importOf(table, name);
    out.isList = true;
    out.isRunList = true;
    out.rows = static_cast<int>(table.rows.size() - list.firstRow);
    out.columns = 1;
    if (list.firstRow > 0) {
        out.readName = cellOf(table.rows[list.firstRow - 1], column);
        out.headingLine = table.rows[list.firstRow - 1].line;
        out.nameLine = out.readName.empty() ? 0 : out.headingLine;
        out.nameColumn = static_cast<int>(column) + 1;
    }
    out.labelColumn = list.names ? static_cast<int>(*list.names) + 1 : 0;
    for (std::size_t r = 0; r < list.firstRow; ++r) {
        std::string line;
        for (const std::string& cell : table.rows[r].cells) {
            const std::string_view text = trimmed(cell);
            line += (line.empty() || text.empty() ? "" : " ") + std::string(text);
        }
        out.headings.push_back(line);
    }
    for (std::size_t r = list.firstRow; r < table.rows.size(); ++r) {
        const DelimitedRow& row = table.rows[r];
        PlateCell cell;
        cell.text = cellOf(row, column);
        cell.line = row.line;
        cell.column = static_cast<int>(column) + 1;
        cell.value = parseCell(cell.text, table.numbers);
        const std::string sample = list.names ? cellOf(row, *list.names) : std::string();
        if (!cell.value && !cell.text.empty()) {
            ImportWarning warning;
            warning.message = placeText(table, name, row.line, cell.column) +
                              (sample.empty() ? "" : " (" + sample + ")") + ": \"" + cell.text +
                              "\" is not a number; the run is unusable.";
            warning.line = row.line;
            warning.column = cell.column;
            warning.row = static_cast<int>(r - list.firstRow);
            warning.plateColumn = 0;
            out.warnings.push_back(warning);
        }
        out.wells.push_back(std::move(cell));
        out.names.push_back(sample);
    }
    return out;
}

std::vector<std::size_t> readColumns(const DelimitedTable& table) {
    std::size_t first = 0;
    while (first < table.rows.size() && !hasNumber(table.rows[first], table.numbers)) {
        ++first;
    }
    if (first == 0) {
        return {};
    }
    std::vector<std::size_t> out;
    for (const std::size_t column : fullColumns(table, first)) {
        if (const std::string title = cellOf(table.rows[first - 1], column); !title.empty() && !isNoRead(title)) {
            out.push_back(column);
        }
    }
    return out;
}

Result<std::vector<PlateImport>> readFound(const DelimitedTable& table, const std::string& name) {
    const auto headings = matrixHeadings(table);
    if (headings.size() > 1) {
        return readMatrices(table, name, headings);
    }
    std::vector<PlateImport> out;
    if (auto timed = headings.empty() ? readTimeTable(table, name) : std::nullopt) {
        return std::move(*timed);
    }
    if (headings.empty()) {
        const auto list = sampleListOf(table);
        const bool isNamed = list && isNameHeading(cellOf(table.rows[list->firstRow - 1], *list->names));
        const bool hasWells = wellColumnOf(table).has_value();
        if (list && (!hasWells || (isNamed && *list->names == wellColumnOf(table)))) {
            for (const std::size_t column : list->values) {
                out.push_back(readSampleList(table, name, *list, column));
            }
            return out;
        }
        const auto columns = hasWells ? readColumns(table) : std::vector<std::size_t>();
        for (const std::size_t column : columns.size() > 1 ? columns : std::vector<std::size_t>()) {
            auto one = readOnePlate(table, name, column);
            if (!one) {
                return tl::unexpected(one.error());
            }
            out.push_back(std::move(*one));
        }
        if (!out.empty()) {
            return out;
        }
    }
    auto one = readOnePlate(table, name);
    if (!one) {
        return tl::unexpected(one.error());
    }
    out.push_back(std::move(*one));
    return out;
}

} // namespace nuvat
