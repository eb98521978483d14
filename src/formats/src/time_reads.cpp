// Plates that were read at times: matrices under headings with a time, and tables of time against wells.
#include "nuvat/core/base/duration.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "plate_reader.h"

#include <algorithm>
#include <cctype>

namespace nuvat {

namespace {

bool isDigit(char c) {
    return std::isdigit(static_cast<unsigned char>(c)) != 0;
}
bool isLetter(char c) {
    return std::isalpha(static_cast<unsigned char>(c)) != 0;
}

/// "0:01:30"; "10:32" in a line of text is rather the time of the day.
std::optional<double> threePartClock(std::string_view text) {
    return std::ranges::count(text, ':') == 2 ? parseClock(text) : std::nullopt;
}

std::string secondsText(double seconds) {
    return formatNumber(seconds) + " s";
}

/// Seconds of the last number in a text that stands before a unit of time.
std::optional<double> timeWithin(std::string_view text) {
    std::optional<double> out;
    for (std::size_t at = 0; at < text.size(); ++at) {
        if (!isDigit(text[at]) || (at > 0 && (isLetter(text[at - 1]) || text[at - 1] == ':'))) {
            continue;
        }
        std::size_t end = at;
        while (end < text.size() && (isDigit(text[end]) || text[end] == '.' || text[end] == ',' || text[end] == ':')) {
            ++end;
        }
        const std::string_view number = text.substr(at, end - at);
        if (const auto clock = threePartClock(number)) {
            out = clock;
        } else {
            std::size_t word = end;
            while (word < text.size() && text[word] == ' ') {
                ++word;
            }
            std::size_t stop = word;
            while (stop < text.size() && isLetter(text[stop])) {
                ++stop;
            }
            const auto unit = secondsIn(text.substr(word, stop - word));
            auto value = parseNumber(number);
            value = value ? value : parseNumber(number, {','});
            if (unit && value) {
                out = *value * *unit;
            }
        }
        at = end - 1;
    }
    return out;
}

/// Cells of a heading row: where the times stand, in what unit, and which well each column is.
struct TimeHeading {
    std::size_t row = 0, time = 0;
    double unit = 1;
    std::vector<std::pair<std::size_t, WellPosition>> wells;
};

std::optional<TimeHeading> timeHeading(const DelimitedTable& table, std::size_t row) {
    constexpr std::size_t kLeastWells = 3;
    TimeHeading out{row, 0, 1, {}};
    bool hasTime = false;
    const auto& cells = table.rows[row].cells;
    for (std::size_t c = 0; c < cells.size(); ++c) {
        const std::string cell = lowerCase(trimmed(cells[c]));
        if (const auto well = parseWellName(cells[c])) {
            out.wells.emplace_back(c, *well);
        } else if (!hasTime &&
                   (cell == "t" || cell.starts_with("time") || cell.starts_with("t (") || cell.starts_with("t ["))) {
            hasTime = true;
            out.time = c;
            const auto open = cell.find_first_of("([/");
            const auto close = cell.find_first_of(")]", open == std::string::npos ? 0 : open + 1);
            if (open != std::string::npos) {
                out.unit = secondsIn(cell.substr(open + 1, close - open - 1)).value_or(1);
            }
        }
    }
    return hasTime && out.wells.size() >= kLeastWells ? std::optional(out) : std::nullopt;
}

std::optional<double> timeOf(const DelimitedTable& table, const DelimitedRow& row, const TimeHeading& heading) {
    if (heading.time >= row.cells.size()) {
        return std::nullopt;
    }
    const std::string& cell = row.cells[heading.time];
    if (const auto clock = parseClock(cell)) {
        return clock;
    }
    const auto number = parseCell(cell, table.numbers);
    return number ? std::optional(*number * heading.unit) : parseDuration(cell);
}

PlateImport readRow(const DelimitedTable& table, const std::string& name, const TimeHeading& heading,
                    const DelimitedRow& row, double seconds) {
    PlateImport out = importOf(table, name);
    out.isList = true;
    out.readName = secondsText(seconds);
    out.headingLine = table.rows[heading.row].line;
    out.labelColumn = static_cast<int>(heading.time) + 1;
    out.nameLine = row.line;
    out.nameColumn = out.labelColumn;
    int rows = 0, columns = 0;
    for (const auto& [cell, well] : heading.wells) {
        rows = std::max(rows, well.row + 1);
        columns = std::max(columns, well.column + 1);
    }
    const PlateSize size = usualPlate({rows, columns});
    out.rows = size.rows;
    out.columns = size.columns;
    out.wells.resize(static_cast<std::size_t>(out.rows * out.columns));
    for (const auto& [cell, well] : heading.wells) {
        PlateCell& one = out.wells[static_cast<std::size_t>(well.row * out.columns + well.column)];
        one.text = cell < row.cells.size() ? std::string(trimmed(row.cells[cell])) : std::string();
        one.line = row.line;
        one.column = static_cast<int>(cell) + 1;
        one.value = parseCell(one.text, table.numbers);
        if (!one.value && !one.text.empty()) {
            out.warnings.push_back({placeText(table, name, row.line, one.column, wellName(well.row, well.column)) +
                                        ": \"" + one.text + "\" is not a number; the well is unusable at that time.",
                                    row.line, one.column, well.row, well.column});
        }
    }
    return out;
}

} // namespace

std::string readTimeIn(std::string_view text) {
    const auto seconds = timeWithin(text);
    return seconds ? secondsText(*seconds) : std::string();
}

void nameByTimes(std::vector<PlateImport>& reads) {
    constexpr std::size_t kLeast = 3;
    std::vector<double> times;
    for (const PlateImport& read : reads) {
        // The last line above a matrix that says a time; the first read has the lines of the whole file above it.
        std::optional<double> found;
        for (auto heading = read.headings.rbegin(); heading != read.headings.rend() && !found; ++heading) {
            found = timeWithin(*heading);
        }
        if (!found) {
            return;
        }
        times.push_back(*found);
    }
    if (times.size() < kLeast || std::ranges::adjacent_find(times, std::greater_equal<>()) != times.end()) {
        return;
    }
    if (times.front() > times.back() - times.front()) {
        return; // of the day rather than since a start: plates that were measured one after the other
    }
    for (std::size_t i = 0; i < reads.size(); ++i) {
        reads[i].readName += (reads[i].readName.empty() ? "" : ", ") + secondsText(times[i]);
    }
}

std::optional<std::vector<PlateImport>> readTimeTable(const DelimitedTable& table, const std::string& name) {
    constexpr std::size_t kLookedAt = 200;
    std::optional<TimeHeading> heading;
    for (std::size_t row = 0; row < std::min(table.rows.size(), kLookedAt) && !heading; ++row) {
        heading = timeHeading(table, row);
    }
    if (!heading) {
        return std::nullopt;
    }
    std::vector<PlateImport> out;
    for (std::size_t r = heading->row + 1; r < table.rows.size(); ++r) {
        const DelimitedRow& row = table.rows[r];
        const auto seconds = timeOf(table, row, *heading);
        if (!seconds) {
            break; // what stands below the table
        }
        out.push_back(readRow(table, name, *heading, row, *seconds));
    }
    if (out.size() < 2) {
        return std::nullopt;
    }
    const std::size_t end = heading->row + 1 + out.size();
    if (end < table.rows.size()) {
        ImportWarning warning;
        warning.line = table.rows[end].line;
        warning.message =
            name + ": what stands below the table, from line " + std::to_string(warning.line) + " on, is not imported.";
        out.front().warnings.push_back(warning);
    }
    return out;
}

} // namespace nuvat
