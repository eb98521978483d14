#include "nuvat/formats/jcamp.h"

#include "asdf.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <map>

namespace nuvat {

namespace {

constexpr std::size_t kFewPoints = 1'000'000;   // may be there whatever a file announces
constexpr std::size_t kMostPoints = 20'000'000; // of one table; beyond it a file is damaged
constexpr std::size_t kShownOfText = 200;       // of a label's text

/// ##LABEL= text, with the lines below it up to the next label.
struct Record {
    std::string label;   ///< as labels are compared: capitals, without blanks and - / _
    std::string written; ///< as it stands in the file
    std::string text;    ///< behind the sign of equality, without comments
    int line = 0;
    std::vector<std::pair<int, std::string_view>> lines; ///< below it, without comments
};

std::string compared(std::string_view label) {
    std::string out = upperCase(label);
    std::erase_if(out, [](char c) { return c == ' ' || c == '\t' || c == '-' || c == '/' || c == '_'; });
    return out;
}

std::string_view withoutComment(std::string_view line) {
    return trimmed(line.substr(0, line.find("$$")));
}

/// Takes the next line off the text, whatever ends it.
std::string_view nextLine(std::string_view& text) {
    const std::size_t end = text.find_first_of("\r\n");
    const std::string_view line = text.substr(0, end);
    if (end == std::string_view::npos) {
        text = {};
    } else {
        const bool isPair = text[end] == '\r' && end + 1 < text.size() && text[end + 1] == '\n';
        text.remove_prefix(end + (isPair ? 2 : 1));
    }
    return line;
}

std::vector<Record> recordsOf(std::string_view text) {
    std::vector<Record> records;
    for (int number = 1; !text.empty(); ++number) {
        const std::string_view whole = nextLine(text);
        const std::string_view line = withoutComment(whole);
        const std::size_t equals = line.find('=');
        if (line.starts_with("##") && equals != std::string_view::npos) {
            const std::string_view label = trimmed(line.substr(2, equals - 2));
            records.push_back(
                {compared(label), std::string(label), std::string(trimmed(line.substr(equals + 1))), number, {}});
        } else if (!records.empty() && !line.empty()) {
            records.back().lines.emplace_back(number, line);
        }
    }
    return records;
}

std::vector<std::string> listOf(const std::string& text) {
    std::vector<std::string> out;
    std::size_t from = 0;
    while (from <= text.size()) {
        const std::size_t comma = std::min(text.find(',', from), text.size());
        out.emplace_back(trimmed(std::string_view(text).substr(from, comma - from)));
        from = comma + 1;
    }
    return out;
}

/// The labels of a block, and what a table needs of them.
class Block {
public:
    void set(const Record& record) { m_labels[record.label] = record; }
    void startPage(const Record& page) {
        m_labels.erase("NPOINTS");
        set(page);
    }
    std::string text(const std::string& label) const {
        const auto found = m_labels.find(label);
        return found == m_labels.end() ? std::string() : found->second.text;
    }
    bool has(const std::string& label) const { return m_labels.contains(label); }

    /// A number of a label; absent when the label is. @return jcamp.number
    Result<std::optional<double>> number(const std::string& label) const {
        const auto found = m_labels.find(label);
        if (found == m_labels.end() || found->second.text.empty()) {
            return std::optional<double>();
        }
        return asNumber(found->second, found->second.text);
    }
    /// The same of one of a list, by the symbols of NTUPLES.
    Result<std::optional<double>> number(const std::string& label, std::size_t index) const {
        const auto found = m_labels.find(label);
        const auto parts = found == m_labels.end() ? std::vector<std::string>() : listOf(found->second.text);
        if (index >= parts.size() || parts[index].empty()) {
            return std::optional<double>();
        }
        return asNumber(found->second, parts[index]);
    }

private:
    static Result<std::optional<double>> asNumber(const Record& record, const std::string& text) {
        const auto value = parseNumber(trimmed(text));
        if (!value) {
            return fail("jcamp.number",
                        "Line " + std::to_string(record.line) + ": " + record.written + " is \"" +
                            text.substr(0, kShownOfText) + "\", which is no number with a decimal point.",
                        "Correct it in the file, or export it again.");
        }
        return std::optional(*value);
    }
    std::map<std::string, Record> m_labels;
};

/// What a table is made of, wherever the file says it.
struct Scale {
    std::optional<double> firstX, lastX, deltaX, firstY, points;
    double xFactor = 1, yFactor = 1;
    AxisName x, y;
};

Result<Scale> scaleOf(const Block& block) {
    Scale out;
    for (const auto& [target, label] :
         std::initializer_list<std::pair<std::optional<double>*, const char*>>{{&out.firstX, "FIRSTX"},
                                                                               {&out.lastX, "LASTX"},
                                                                               {&out.deltaX, "DELTAX"},
                                                                               {&out.firstY, "FIRSTY"},
                                                                               {&out.points, "NPOINTS"}}) {
        auto value = block.number(label);
        if (!value) {
            return tl::unexpected(value.error());
        }
        *target = *value;
    }
    const auto xFactor = block.number("XFACTOR");
    const auto yFactor = block.number("YFACTOR");
    if (!xFactor || !yFactor) {
        return tl::unexpected(!xFactor ? xFactor.error() : yFactor.error());
    }
    out.xFactor = xFactor->value_or(1);
    out.yFactor = yFactor->value_or(1);
    out.x = {block.text("XLABEL"), block.text("XUNITS")};
    out.y = {block.text("YLABEL"), block.text("YUNITS")};
    return out;
}

/// Where a symbol stands in the lists of NTUPLES.
std::optional<std::size_t> indexOf(const Block& block, char symbol) {
    const auto symbols = listOf(block.text("SYMBOL"));
    for (std::size_t i = 0; i < symbols.size(); ++i) {
        if (upperCase(symbols[i]) == std::string(1, symbol)) {
            return i;
        }
    }
    return std::nullopt;
}

/// The same for a page of NTUPLES, whose form names its symbols: (X++(R..R)), (XY..XY).
Result<Scale> scaleOfPage(const Block& block, const Record& table) {
    std::string letters;
    for (const char c : table.text.substr(0, table.text.find(".."))) {
        if (std::isalpha(static_cast<unsigned char>(c))) {
            letters += c;
        }
    }
    letters = upperCase(letters);
    const auto x = letters.size() >= 2 ? indexOf(block, letters[0]) : std::nullopt;
    const auto y = letters.size() >= 2 ? indexOf(block, letters[1]) : std::nullopt;
    if (!x || !y) {
        return fail("jcamp.symbols",
                    "Line " + std::to_string(table.line) + ": the table " + table.text.substr(0, kShownOfText) +
                        " names variables that ##SYMBOL does not list.",
                    "Export the file again; a file of NTUPLES needs ##SYMBOL.");
    }
    Scale out;
    const auto take = [&](const char* label, std::size_t index, std::optional<double>& target) -> Result<void> {
        auto value = block.number(label, index);
        if (!value) {
            return tl::unexpected(value.error());
        }
        target = *value;
        return {};
    };
    std::optional<double> xFactor, yFactor;
    for (const auto& taken :
         {take("FIRST", *x, out.firstX), take("LAST", *x, out.lastX), take("FIRST", *y, out.firstY),
          take("VARDIM", *x, out.points), take("FACTOR", *x, xFactor), take("FACTOR", *y, yFactor)}) {
        if (!taken) {
            return tl::unexpected(taken.error());
        }
    }
    if (const auto ofPage = block.number("NPOINTS"); ofPage && *ofPage) {
        out.points = *ofPage;
    }
    out.xFactor = xFactor.value_or(1);
    out.yFactor = yFactor.value_or(1);
    const auto names = listOf(block.text("VARNAME"));
    const auto units = listOf(block.text("UNITS"));
    const auto at = [](const std::vector<std::string>& list, std::size_t i) {
        return i < list.size() ? list[i] : std::string();
    };
    out.x = {at(names, *x), at(units, *x)};
    out.y = {at(names, *y), at(units, *y)};
    return out;
}

std::string whereText(const Record& table) {
    return "The table in line " + std::to_string(table.line);
}

/// Fewer or more points than announced: the file is cut, or damaged.
Result<void> checkCount(const Record& table, const Scale& scale, std::size_t found) {
    if (scale.points && *scale.points != static_cast<double>(found)) {
        return fail("jcamp.points",
                    whereText(table) + " announces " + formatNumber(*scale.points) + " points and holds " +
                        std::to_string(found) + ".",
                    "The file may have been cut; export it again.");
    }
    return {};
}

/// The abscissas of (X++(Y..Y)): evenly from first to last. The step is divided last, so that both ends are met.
Result<void> spreadX(const Record& table, const Scale& scale, std::optional<double> firstOfTable, FileTrace& out) {
    const std::size_t n = out.y.size();
    const auto first = scale.firstX   ? scale.firstX
                       : firstOfTable ? std::optional(*firstOfTable * scale.xFactor)
                                      : std::nullopt;
    const bool hasStep = scale.lastX || scale.deltaX;
    const double span = static_cast<double>(n) - 1;
    const auto last = scale.lastX        ? scale.lastX
                      : first && hasStep ? std::optional(*first + *scale.deltaX * span)
                                         : first;
    if (n > 1 && (!first || !hasStep || *first == *last)) {
        return fail(
            "jcamp.range",
            whereText(table) + " has " + std::to_string(n) +
                " points, but the file does not say from where to where: FIRSTX and LASTX are missing or equal.",
            "Export the file again.");
    }
    for (std::size_t i = 0; i < n; ++i) {
        out.x.push_back(i + 1 == n && n > 1
                            ? *last
                            : first.value_or(0) + (n > 1 ? (*last - *first) * static_cast<double>(i) / span : 0));
    }
    return {};
}

/// One abscissa a line, and how many ordinates came before it.
struct LineStart {
    double x;
    std::size_t at;
    bool isCopy; ///< its first ordinate repeats the one before
};

void warnOfChecks(const Record& table, const Scale& scale, const AsdfOrdinates& read,
                  const std::vector<LineStart>& starts, const FileTrace& trace, std::vector<std::string>& warnings) {
    if (read.failedChecks > 0) {
        warnings.push_back(whereText(table) + ": " + std::to_string(read.failedChecks) +
                           " of its checks of ordinates are another number than the ordinate they repeat.");
    }
    const double step = trace.x.size() > 1 ? std::abs(trace.x[1] - trace.x[0]) : 0;
    const auto isOff = [&](const LineStart& start) {
        const auto deviation = [&](std::size_t at) {
            return at < trace.x.size() ? std::abs(trace.x[at] - start.x * scale.xFactor) : step;
        };
        const double one = deviation(start.at);
        return std::min(one, start.isCopy && start.at > 0 ? deviation(start.at - 1) : one) > 0.75 * step;
    };
    if (const auto off = std::count_if(starts.begin(), starts.end(), isOff); off > 0 && step > 0) {
        warnings.push_back(whereText(table) + ": " + std::to_string(off) +
                           " of its lines begin at another x than FIRSTX and LASTX give them; those two hold.");
    }
    constexpr double kAlike = 1e-6;
    if (scale.firstY && !trace.y.empty() &&
        std::abs(*scale.firstY - trace.y.front()) > std::abs(scale.yFactor) + kAlike * std::abs(*scale.firstY)) {
        warnings.push_back(whereText(table) + " begins with " + formatNumber(trace.y.front()) + ", but FIRSTY is " +
                           formatNumber(*scale.firstY) + ".");
    }
}

Result<void> readOrdinates(const Record& table, const Scale& scale, FileTrace& out,
                           std::vector<std::string>& warnings) {
    AsdfOrdinates read;
    std::vector<LineStart> starts;
    const double announced = scale.points.value_or(0);
    const auto most = announced > static_cast<double>(kFewPoints)
                          ? static_cast<std::size_t>(std::min(announced, static_cast<double>(kMostPoints)))
                          : kFewPoints;
    for (const auto& [number, line] : table.lines) {
        const LineStart start{0, read.values.size(), read.endsInDifference};
        const auto x = addAsdfLine(line, number, most, read);
        if (!x) {
            return tl::unexpected(x.error());
        }
        starts.push_back({*x, start.at, start.isCopy});
    }
    if (auto counted = checkCount(table, scale, read.values.size()); !counted) {
        return counted;
    }
    for (const double value : read.values) {
        out.y.push_back(value * scale.yFactor);
    }
    out.missing = read.missing;
    auto spread = spreadX(table, scale, starts.empty() ? std::nullopt : std::optional(starts.front().x), out);
    if (spread) {
        warnOfChecks(table, scale, read, starts, out, warnings);
    }
    return spread;
}

Result<void> readPairs(const Record& table, const Scale& scale, FileTrace& out, std::vector<std::string>& warnings) {
    std::vector<std::optional<double>> all;
    for (const auto& [number, line] : table.lines) {
        const auto numbers = affnNumbers(line, number);
        if (!numbers) {
            return tl::unexpected(numbers.error());
        }
        all.insert(all.end(), numbers->begin(), numbers->end());
    }
    if (all.size() % 2 != 0) {
        return fail("jcamp.pairs",
                    whereText(table) + " is made of pairs, but holds " + std::to_string(all.size()) +
                        " numbers, one too few or too many.",
                    "The file may have been cut; export it again.");
    }
    for (std::size_t i = 0; i < all.size(); i += 2) {
        if (!all[i]) {
            return fail("jcamp.pairs", whereText(table) + " holds a pair without its x.", "Export the file again.");
        }
        if (!all[i + 1]) {
            out.missing.push_back(out.y.size());
        }
        out.x.push_back(*all[i] * scale.xFactor);
        out.y.push_back(all[i + 1].value_or(0) * scale.yFactor);
    }
    auto counted = checkCount(table, scale, out.x.size());
    if (!counted && out.isTable) { // rows of a table are often counted wrong, and each stands by itself
        warnings.push_back(counted.error().message);
        return {};
    }
    return counted;
}

bool isTable(const Record& record) {
    return record.label == "XYDATA" || record.label == "XYPOINTS" || record.label == "PEAKTABLE" ||
           record.label == "DATATABLE";
}

/// Reads a table with what its block says of it.
Result<FileTrace> traceOf(const Block& block, const Record& table, std::vector<std::string>& warnings) {
    const bool isOfPage = table.label == "DATATABLE";
    const auto scale = isOfPage ? scaleOfPage(block, table) : scaleOf(block);
    if (!scale) {
        return tl::unexpected(scale.error());
    }
    FileTrace out;
    out.name = block.text("TITLE").substr(0, kShownOfText);
    out.place = isOfPage ? block.text("PAGE") : std::string();
    out.isTable = table.label == "PEAKTABLE";
    out.xAxis = scale->x;
    out.yAxis = scale->y;
    const std::string form = compared(table.text);
    const bool isEven = form.find("++") != std::string::npos;
    if (!isEven && form.find("..") == std::string::npos) {
        return fail("jcamp.form",
                    whereText(table) + " has the form \"" + table.text.substr(0, kShownOfText) +
                        "\", which is not one that is known.",
                    "Export the file as XYDATA.");
    }
    const auto read = isEven ? readOrdinates(table, *scale, out, warnings) : readPairs(table, *scale, out, warnings);
    if (!read) {
        return tl::unexpected(read.error());
    }
    return out;
}

std::string shortened(const std::string& text) {
    return text.size() <= kShownOfText ? text : text.substr(0, kShownOfText) + "…";
}

} // namespace

bool looksLikeJcamp(std::string_view text) {
    constexpr std::size_t kHead = 4096; // blank lines and comments may come first
    std::string_view head = text.substr(0, kHead);
    while (!head.empty()) {
        const std::string_view line = withoutComment(nextLine(head));
        if (!line.empty()) {
            return line.starts_with("##") && compared(line.substr(2, line.find('=') - 2)) == "TITLE";
        }
    }
    return false;
}

Result<FileContent> readJcamp(std::string_view text) {
    if (!looksLikeJcamp(text)) {
        return fail("jcamp.no-title", "It is no JCAMP-DX file: it does not begin with ##TITLE.",
                    "Choose a file that was exported as JCAMP-DX.");
    }
    FileContent out;
    out.format = "JCAMP-DX";
    std::vector<Block> blocks;
    for (const Record& record : recordsOf(text)) {
        if (record.label == "TITLE") {
            blocks.emplace_back().set(record);
        } else if (record.label == "END") {
            if (!blocks.empty()) {
                blocks.pop_back(); // one too many does no harm
            }
            continue;
        } else if (blocks.empty()) {
            continue;
        }
        if (isTable(record)) {
            auto trace = traceOf(blocks.back(), record, out.warnings);
            if (!trace) {
                return tl::unexpected(trace.error());
            }
            out.traces.push_back(std::move(*trace));
            continue;
        }
        if (record.label == "PAGE") {
            blocks.back().startPage(record);
        } else {
            blocks.back().set(record);
        }
        out.header.emplace_back(record.written, shortened(record.text));
    }
    if (out.traces.empty()) {
        return fail("jcamp.no-data", "The file holds labels but no table of data.", "Export the file as XYDATA.");
    }
    if (!blocks.empty()) {
        out.warnings.emplace_back("The file does not end with ##END; it may have been cut.");
    }
    return out;
}

} // namespace nuvat
