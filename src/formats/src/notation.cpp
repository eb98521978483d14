#include "nuvat/core/base/well.h"
#include "text_input.h"

#include <array>
#include <map>

namespace nuvat {

namespace {

constexpr char kBlanks = ' ';

template<class Take> void forEachOfLine(const Line& line, char separator, const Take& take) {
    if (separator == kBlanks || line.text.find('"') != std::string_view::npos) {
        for (const std::string& cell : cutCells(line.text, separator)) {
            take(std::string_view(cell));
        }
        return;
    }
    forEachCell(line.text, separator, take);
}

/// "5 2" in "1,5 2,5" that is cut at the commas.
bool holdsTwoNumbers(std::string_view cell) {
    const auto isDigit = [](char c) { return c >= '0' && c <= '9'; };
    for (std::size_t at = cell.find(kBlanks); at != std::string_view::npos; at = cell.find(kBlanks, at + 1)) {
        if (at > 0 && at + 1 < cell.size() && isDigit(cell[at - 1]) && isDigit(cell[at + 1])) {
            return true;
        }
    }
    return false;
}

/// How well a notation fits: cells that are numbers count for it, cells that still hold a semicolon, a tab or two
/// numbers count against it ("A1;x;0" and "061" are two pieces of a line that is cut at semicolons).
long fitness(std::span<const Line> lines, Notation notation) {
    const std::string_view strange = notation.separator == ',' ? ";\t" : notation.separator == ';' ? "\t" : ";";
    long score = 0;
    for (const Line& line : lines) {
        if (isComment(line.text, notation.separator)) {
            continue;
        }
        forEachOfLine(line, notation.separator, [&](std::string_view cell) {
            const bool isNumber = parseCell(cell, {notation.decimal}).has_value();
            score += isNumber ? 2 : 0;
            score -=
                !isNumber && (cell.find_first_of(strange) != std::string_view::npos || holdsTwoNumbers(cell)) ? 1 : 0;
        });
    }
    return score;
}

/// The lines that agree on how many cells they have, two or more.
struct Agreement {
    std::size_t cells = 0;
    std::size_t lines = 0;
    std::size_t ofLines = 0; ///< all that are no comment
};

Agreement agreement(std::span<const Line> lines, char separator) {
    std::map<std::size_t, std::size_t> counts;
    Agreement out;
    for (const Line& line : lines) {
        if (!isComment(line.text, separator)) {
            ++counts[cutCells(line.text, separator).size()];
            ++out.ofLines;
        }
    }
    for (const auto& [cells, count] : counts) {
        if (cells > 1 && count > out.lines) {
            out.cells = cells;
            out.lines = count;
        }
    }
    return out;
}

/// Blanks stand between words too: they part cells only where most lines then have the same number of cells and all
/// but the first of them are numbers.
bool canPartCells(std::span<const Line> lines, NumberFormat numbers) {
    const Agreement agreed = agreement(lines, kBlanks);
    // Tabs that part most lines do so on purpose; the blanks beside them are in the words of a heading.
    const Agreement byTab = agreement(lines, '\t');
    if (agreed.lines * 10 < agreed.ofLines * 6 || byTab.lines * 10 >= byTab.ofLines * 6) {
        return false;
    }
    std::size_t all = 0;
    std::size_t good = 0;
    for (const Line& line : lines) {
        const std::vector<std::string> cells = cutCells(line.text, kBlanks);
        for (std::size_t k = 1; k < cells.size() && cells.size() == agreed.cells; ++k) {
            ++all;
            good += parseNumber(cells[k], numbers) ? 1u : 0u;
        }
    }
    const std::size_t headings = agreed.cells - 1; // may stand among the lines
    return good > 0 && good * 10 >= (all - std::min(all - good, headings)) * 9;
}

/// For a table of words alone.
char separatorOfWords(std::span<const Line> lines) {
    char best = ',';
    std::size_t most = 0;
    for (const char separator : {',', ';', '\t'}) {
        const std::size_t count = agreement(lines, separator).lines;
        if (count > most) {
            most = count;
            best = separator;
        }
    }
    return best;
}

bool isRule(std::string_view line) {
    line = trimmed(line);
    return line.size() >= 3 && line.find_first_not_of(line.front()) == std::string_view::npos &&
           std::string_view("-=*_").find(line.front()) != std::string_view::npos;
}

/// Headings of a line; a comment sign before the first is none of it.
std::vector<std::string> headingsOf(std::string_view line, char separator) {
    std::vector<std::string> out;
    if (line = trimmed(line); line.starts_with("# ") || line.starts_with("//")) {
        line = trimmed(line.substr(line.find_first_not_of("#/ ")));
    }
    for (const std::string& cell : cutCells(line, separator)) {
        out.emplace_back(trimmed(cell));
    }
    return out;
}

} // namespace

bool isComment(std::string_view line, char separator) {
    line = trimmed(line);
    if (line.starts_with("//")) {
        return true;
    }
    if (!line.starts_with('#')) {
        return false;
    }
    const bool isHeading = line.size() > 1 && line[1] == separator && separator != kBlanks;
    return !isHeading && (line.size() == 1 || line[1] == ' ' || line[1] == '#' || line[1] == '!' ||
                          line.find(separator) == std::string_view::npos);
}

Notation notationOf(std::span<const Line> lines, const SaidNotation& said) {
    // Ties in the order below. A comma cannot be both, and a cell must be one number as a whole, so "1,234;5,678"
    // counts 2 under (';', ',') and 0 under (';', '.').
    constexpr std::array<Notation, 7> kChoices{
        {{'\t', '.'}, {';', '.'}, {',', '.'}, {'\t', ','}, {';', ','}, {kBlanks, '.'}, {kBlanks, ','}}};
    Notation best;
    long most = 0;
    for (const Notation choice : kChoices) {
        if (said.separator.value_or(choice.separator) != choice.separator ||
            said.decimal.value_or(choice.decimal) != choice.decimal) {
            continue;
        }
        const bool occurs = std::any_of(lines.begin(), lines.end(), [&](const Line& line) {
            return trimmed(line.text).find(choice.separator) != std::string_view::npos;
        });
        const long score = occurs ? fitness(lines, choice) : 0;
        const bool canPart = choice.separator != kBlanks || said.separator || canPartCells(lines, {choice.decimal});
        if (score > most && canPart) {
            most = score;
            best = choice;
        }
    }
    if (most == 0) {
        best.separator = said.separator ? *said.separator : separatorOfWords(lines);
        best.decimal = said.decimal.value_or(best.decimal);
    }
    return best;
}

TableHead findHead(std::span<const Line> lines, char separator, const std::vector<std::string>& wanted) {
    constexpr std::size_t kMostAbove = 500;
    std::size_t at = 0;
    if (!lines.empty() && isRule(lines.front().text)) {
        const auto shown = lines.subspan(1, std::min(lines.size() - 1, kMostAbove));
        const auto end = std::find_if(shown.begin(), shown.end(), [](const Line& line) { return isRule(line.text); });
        at = end == shown.end() ? 1 : static_cast<std::size_t>(end - shown.begin()) + 2;
    }
    while (at < lines.size() && isComment(lines[at].text, separator)) {
        ++at;
    }
    if (at >= lines.size()) {
        return {lines.size(), {}};
    }
    const auto hasAll = [&wanted](const std::vector<std::string>& headings) {
        return std::all_of(wanted.begin(), wanted.end(), [&headings](const std::string& heading) {
            return std::find(headings.begin(), headings.end(), heading) != headings.end();
        });
    };
    TableHead first{at, headingsOf(lines[at].text, separator)};
    if (hasAll(first.headings)) {
        return first;
    }
    for (std::size_t k = 0; k < std::min(lines.size(), kMostAbove); ++k) {
        if (TableHead other{k, headingsOf(lines[k].text, separator)}; hasAll(other.headings)) {
            return other;
        }
    }
    return first;
}

std::vector<Line> filledLines(std::string_view text) {
    std::vector<Line> lines = cutLines(text);
    std::erase_if(lines, [](const Line& line) { return isBlank(line.text); });
    return lines;
}

std::vector<Line> firstLines(std::string_view text, std::size_t bytes) {
    std::vector<Line> lines = filledLines(text.substr(0, bytes));
    if (bytes < text.size() && !lines.empty()) {
        lines.pop_back(); // cut off
    }
    return lines.empty() ? filledLines(text) : lines;
}

std::vector<Line> sample(std::string_view text) {
    constexpr std::size_t kBytes = 1u << 12;
    std::vector<Line> lines = firstLines(text, text.size() <= 2 * kBytes ? text.size() : kBytes);
    if (text.size() > 2 * kBytes) {
        std::vector<Line> tail = filledLines(text.substr(text.size() - kBytes));
        lines.insert(lines.end(), tail.begin() + (tail.empty() ? 0 : 1), tail.end());
    }
    return lines;
}

std::size_t averageSize(const std::vector<Line>& lines) {
    std::size_t all = 0;
    for (const Line& line : lines) {
        all += line.text.size() + 1;
    }
    return all / std::max<std::size_t>(lines.size(), 1) + 1;
}

} // namespace nuvat
