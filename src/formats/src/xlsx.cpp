// Reads Office Open XML spreadsheets (ECMA-376 part 1, chapter 18).
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "workbook_parts.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <chrono>
#include <cmath>

namespace nuvat {

namespace {

constexpr std::size_t kMostStrings = 1'000'000;

/// One part that points at others.
class Relations : public XmlReader {
public:
    struct Entry {
        std::string id, type, target;
    };
    Relations() : XmlReader(kWorkbookXml, "A list of parts") {}
    std::vector<Entry> entries;

private:
    void start(std::string_view name, const XmlAttributes& attributes) override {
        if (name == "Relationship" && entries.size() < kMostStrings) {
            entries.push_back(
                {attribute(attributes, "Id"), attribute(attributes, "Type"), attribute(attributes, "Target")});
        }
    }
};

class WorkbookPart : public XmlReader {
public:
    struct Entry {
        std::string name, state, id;
    };
    WorkbookPart() : XmlReader(kWorkbookXml, "workbook.xml") {}
    std::vector<Entry> sheets;
    bool isFrom1904 = false;

private:
    void start(std::string_view name, const XmlAttributes& attributes) override {
        if (name == "sheet") {
            sheets.push_back(
                {attribute(attributes, "name"), attribute(attributes, "state"), attribute(attributes, "id")});
        } else if (name == "workbookPr") {
            const std::string flag = attribute(attributes, "date1904");
            isFrom1904 = flag == "1" || flag == "true" || flag == "on";
        }
    }
};

/// "_x000D_" stands for one character (ECMA-376, ST_Xstring).
std::string unescaped(std::string_view text) {
    constexpr std::size_t kSize = 7;
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        unsigned code = 0;
        const std::string_view digits = text.substr(std::min(i + 2, text.size()), 4);
        const bool isEscape =
            text.substr(i, 2) == "_x" && text.size() >= i + kSize && text[i + 6] == '_' &&
            std::from_chars(digits.data(), digits.data() + 4, code, 16).ptr == digits.data() + digits.size();
        if (!isEscape || (code >= 0xD800 && code < 0xE000)) {
            out += text[i];
            continue;
        }
        if (code < 0x80) {
            out += static_cast<char>(code);
        } else if (code < 0x800) {
            out += static_cast<char>(0xC0 | (code >> 6));
            out += static_cast<char>(0x80 | (code & 0x3F));
        } else {
            out += static_cast<char>(0xE0 | (code >> 12));
            out += static_cast<char>(0x80 | ((code >> 6) & 0x3F));
            out += static_cast<char>(0x80 | (code & 0x3F));
        }
        i += kSize - 1;
    }
    return out;
}

/// Text of <t> elements, without that of <rPh>, which says how Japanese is pronounced.
class TextGatherer {
public:
    void start(std::string_view name) {
        m_phonetic += name == "rPh" ? 1 : 0;
        m_isText = name == "t" && m_phonetic == 0;
    }
    void end(std::string_view name) {
        m_phonetic -= name == "rPh" ? 1 : 0;
        m_isText = false;
    }
    void text(std::string_view text) { m_text += m_isText ? text : std::string_view(); }
    std::string take() {
        std::string out = unescaped(m_text);
        m_text.clear();
        return out;
    }

private:
    int m_phonetic = 0;
    bool m_isText = false;
    std::string m_text;
};

class SharedStrings : public XmlReader {
public:
    SharedStrings() : XmlReader(kWorkbookXml, "sharedStrings.xml") {}
    std::vector<std::string> strings;

private:
    void start(std::string_view name, const XmlAttributes&) override { m_gather.start(name); }
    void text(std::string_view text) override { m_gather.text(text); }
    void end(std::string_view name) override {
        m_gather.end(name);
        if (name != "si") {
            return;
        }
        if (strings.size() == kMostStrings) {
            stop(
                {"workbook.too-large", "The spreadsheet has more than a million texts.", "Export the readings alone."});
            return;
        }
        strings.push_back(m_gather.take());
    }
    TextGatherer m_gather;
};

/// Whether a number format shows a date or a time: one of the letters of such formats outside quotation marks and
/// brackets.
bool isDateFormat(std::string_view format) {
    for (std::size_t i = 0; i < format.size() && format[i] != ';'; ++i) {
        const char c = format[i];
        if (c == '"' || c == '[') {
            const std::size_t close = format.find(c == '"' ? '"' : ']', i + 1);
            const std::string inside =
                lowerCase(format.substr(i + 1, close == std::string_view::npos ? 0 : close - i - 1));
            if (c == '[' && !inside.empty() && inside.find_first_not_of(inside.front()) == std::string::npos &&
                std::string_view("hms").find(inside.front()) != std::string_view::npos) {
                return true; // time that has gone by
            }
            i = std::min(close, format.size());
        } else if (c == '\\' || c == '_' || c == '*') {
            ++i; // the next stands for itself
        } else if (std::string_view("yYmMdDhHsS").find(c) != std::string_view::npos) {
            return true;
        }
    }
    return false;
}

/// Which cell formats show dates.
class Styles : public XmlReader {
public:
    Styles() : XmlReader(kWorkbookXml, "styles.xml") {}
    std::vector<bool> isDate; ///< by cell format

private:
    void start(std::string_view name, const XmlAttributes& attributes) override {
        if (name == "numFmt") {
            m_isDate[attribute(attributes, "numFmtId")] = isDateFormat(attribute(attributes, "formatCode"));
        } else if (name == "cellXfs") {
            m_isInFormats = true;
        } else if (name == "xf" && m_isInFormats) {
            isDate.push_back(isDateId(attribute(attributes, "numFmtId")));
        }
    }
    void end(std::string_view name) override { m_isInFormats = m_isInFormats && name != "cellXfs"; }

    /// Formats that every program knows (ECMA-376 part 1, 18.8.30), where the file does not define them anew.
    bool isDateId(const std::string& id) const {
        if (const auto found = m_isDate.find(id); found != m_isDate.end()) {
            return found->second;
        }
        const auto number = parseNumber(id);
        constexpr std::array<std::pair<int, int>, 4> kDates{{{14, 22}, {27, 36}, {45, 47}, {50, 58}}};
        return number && std::ranges::any_of(kDates, [&](const auto& range) {
                   return *number >= range.first && *number <= range.second;
               });
    }

    std::map<std::string, bool> m_isDate;
    bool m_isInFormats = false;
};

std::string twoDigits(long value) {
    return (value < 10 ? "0" : "") + std::to_string(value);
}

/// A day and time as the programs count them: day 60 is 29 February 1900, which never was.
std::string dateText(double days, bool isFrom1904) {
    constexpr double kMostDays = 2'958'466; // the year 10000
    if (!(days >= 0) || days >= kMostDays) {
        return formatNumber(days);
    }
    long seconds = std::lround((days - std::floor(days)) * 86'400);
    long day = static_cast<long>(days) + seconds / 86'400;
    seconds %= 86'400;
    const bool hasDate = day >= 1;
    day += isFrom1904 ? 1462 : day < 60 ? 1 : 0; // counted from 1899-12-30
    const std::chrono::year_month_day on(std::chrono::sys_days(std::chrono::days(day - 25'569))); // 1970-01-01
    const std::string date = std::to_string(static_cast<int>(on.year())) + "-" +
                             twoDigits(static_cast<unsigned>(on.month())) + "-" +
                             twoDigits(static_cast<unsigned>(on.day()));
    const std::string time =
        twoDigits(seconds / 3600) + ":" + twoDigits(seconds / 60 % 60) + ":" + twoDigits(seconds % 60);
    return !hasDate && !isFrom1904 ? time : seconds == 0 ? date : date + " " + time;
}

/// What the cells of sheets refer to.
struct Context {
    std::vector<std::string> strings;
    bool hasStrings = false;
    std::vector<bool> isDate;
    bool isFrom1904 = false;
};

class SheetPart : public XmlReader {
public:
    SheetPart(Sheet& sheet, std::size_t& cells, const Context& context)
        : XmlReader(kWorkbookXml, "Sheet " + excerpt(sheet.name)), m_draft(sheet, cells), m_context(context) {}
    Result<void> finish() { return m_draft.finish(); }

private:
    void start(std::string_view name, const XmlAttributes& attributes) override {
        if (name == "row") {
            const auto number = parseNumber(attribute(attributes, "r"));
            m_row = number && *number >= 1 && *number <= kMostRows ? static_cast<int>(*number) - 1 : m_row + 1;
            m_column = -1;
        } else if (name == "c") {
            startCell(attributes);
        } else if (name == "v") {
            m_isValue = m_isInCell;
        } else if (name == "f") {
            m_isFormula = true;
        } else if (m_isInCell) {
            m_gather.start(name);
        }
    }

    void startCell(const XmlAttributes& attributes) {
        m_isInCell = true;
        m_isFormula = false;
        m_value.clear();
        m_gather.take();
        m_type = attribute(attributes, "t");
        m_style = attribute(attributes, "s");
        ++m_column;
        if (const std::string place = attribute(attributes, "r"); !place.empty()) {
            setPlace(place);
        }
    }

    void setPlace(const std::string& place) {
        std::size_t i = 0;
        long column = 0, row = 0;
        for (; i < place.size() && place[i] >= 'A' && place[i] <= 'Z' && column <= kMostColumns; ++i) {
            column = 26 * column + (place[i] - 'A' + 1);
        }
        const auto rest = std::from_chars(place.data() + i, place.data() + place.size(), row);
        if (column < 1 || column > kMostColumns || rest.ec != std::errc() || rest.ptr != place.data() + place.size() ||
            row < 1 || row > kMostRows) {
            stop({"workbook.cell", "A cell says that it stands at \"" + excerpt(place) + "\", which is no place.",
                  "Save the file again by the program that made it."});
            return;
        }
        m_row = static_cast<int>(row) - 1;
        m_column = static_cast<int>(column) - 1;
    }

    void text(std::string_view text) override {
        if (m_isValue) {
            m_value += text;
        } else if (m_isInCell) {
            m_gather.text(text);
        }
    }

    void end(std::string_view name) override {
        if (name == "v") {
            m_isValue = false;
        } else if (name == "c") {
            m_isInCell = false;
            if (auto added = addCell(); !added) {
                stop(added.error());
            }
        } else if (m_isInCell) {
            m_gather.end(name);
        }
    }

    Result<void> addText(CellKind kind, std::string text) {
        return text.empty() ? Result<void>() : m_draft.add({m_row, m_column, kind, std::move(text), std::nullopt});
    }

    Result<void> addCell() {
        const std::string_view value = trimmed(m_value);
        if (m_type == "inlineStr") {
            return addText(CellKind::Text, m_gather.take());
        }
        if (m_type == "str") {
            return addText(CellKind::Text, unescaped(m_value));
        }
        if (value.empty()) { // of a formula: the program that wrote the file has not worked it out
            return addText(CellKind::Error, m_isFormula ? "no value" : "");
        }
        if (m_type == "s") {
            return addShared(value);
        }
        if (m_type == "b") {
            return addText(CellKind::Boolean, value == "1" || value == "true" ? "TRUE" : "FALSE");
        }
        if (m_type == "e") {
            return addText(CellKind::Error, std::string(value));
        }
        if (m_type == "d") {
            std::string date(value);
            std::ranges::replace(date, 'T', ' ');
            return addText(CellKind::Date, date);
        }
        const auto style = parseNumber(m_style);
        const auto index = style && *style >= 0 && *style < 1e6 ? static_cast<std::size_t>(*style) : 0;
        const auto number = parseNumber(value);
        if (number && !m_style.empty() && index < m_context.isDate.size() && m_context.isDate[index]) {
            return m_draft.add({m_row, m_column, CellKind::Date, dateText(*number, m_context.isFrom1904), number});
        }
        return m_draft.addNumber(m_row, m_column, value);
    }

    Result<void> addShared(std::string_view value) {
        if (!m_context.hasStrings) {
            return m_draft.refuse(m_row, m_column, "it refers to the list of texts, which the file lacks");
        }
        const auto index = parseNumber(value);
        if (!index || *index < 0 || *index >= static_cast<double>(m_context.strings.size())) {
            return m_draft.refuse(m_row, m_column,
                                  "it refers to text " + excerpt(value) + " of " +
                                      std::to_string(m_context.strings.size()));
        }
        return addText(CellKind::Text, m_context.strings[static_cast<std::size_t>(*index)]);
    }

    SheetDraft m_draft;
    const Context& m_context;
    TextGatherer m_gather;
    int m_row = -1, m_column = -1;
    bool m_isInCell = false, m_isValue = false, m_isFormula = false;
    std::string m_type, m_style, m_value;
};

/// A target as an entry of the archive. @param base folder of the part that names it
std::string entryOf(const std::string& base, const std::string& target) {
    std::vector<std::string> parts;
    const std::string whole = target.starts_with('/') ? target.substr(1) : base + target;
    for (std::size_t from = 0; from <= whole.size();) {
        const std::size_t to = std::min(whole.find('/', from), whole.size());
        const std::string part = whole.substr(from, to - from);
        if (part == ".." && !parts.empty()) {
            parts.pop_back();
        } else if (part != ".." && part != "." && !part.empty()) {
            parts.push_back(part);
        }
        from = to + 1;
    }
    std::string out;
    for (const std::string& part : parts) {
        out += (out.empty() ? "" : "/") + part;
    }
    return out;
}

std::string folderOf(const std::string& entry) {
    const std::size_t slash = entry.rfind('/');
    return slash == std::string::npos ? std::string() : entry.substr(0, slash + 1);
}

class XlsxReader {
public:
    XlsxReader(const ZipArchive& archive, const std::string& name, Progress& progress)
        : m_archive(archive), m_name(name), m_progress(progress) {}

    Result<Workbook> read() {
        if (auto begun = findParts(); !begun) {
            return tl::unexpected(begun.error());
        }
        Workbook out;
        out.format = "XLSX";
        std::size_t cells = 0;
        for (const WorkbookPart::Entry& entry : m_workbook.sheets) {
            const auto part = std::ranges::find(m_relations, entry.id, &Relations::Entry::id);
            if (part == m_relations.end()) {
                return fail("workbook.xml", "Sheet " + excerpt(entry.name) + " refers to a part that the file lacks.",
                            "Save the file again by the program that made it.");
            }
            if (!part->type.ends_with("/worksheet")) {
                continue; // a sheet that is one diagram
            }
            Sheet& sheet = out.sheets.emplace_back();
            sheet.name = entry.name;
            sheet.isHidden = !entry.state.empty() && entry.state != "visible";
            SheetPart reader(sheet, cells, m_context);
            if (auto read = readPart(m_archive, entryOf(m_folder, part->target), reader, m_progress, m_name); !read) {
                return tl::unexpected(read.error());
            }
            if (auto done = reader.finish(); !done) {
                return tl::unexpected(done.error());
            }
        }
        return out;
    }

private:
    /// Where the workbook is, what it holds and refers to.
    Result<void> findParts() {
        std::string workbook = "xl/workbook.xml";
        if (m_archive.has("_rels/.rels")) {
            Relations root;
            if (auto read = readPart(m_archive, "_rels/.rels", root, m_progress, m_name); !read) {
                return read;
            }
            for (const Relations::Entry& entry : root.entries) {
                workbook = entry.type.ends_with("/officeDocument") ? entryOf("", entry.target) : workbook;
            }
        }
        if (!m_archive.has(workbook)) {
            return fail("workbook.none", "The archive holds no spreadsheet.", "Choose a spreadsheet (.xlsx, .ods).");
        }
        m_folder = folderOf(workbook);
        if (auto read = readPart(m_archive, workbook, m_workbook, m_progress, m_name); !read) {
            return read;
        }
        Relations relations;
        const std::string list = m_folder + "_rels/" + workbook.substr(m_folder.size()) + ".rels";
        if (auto read = readPart(m_archive, list, relations, m_progress, m_name); !read) {
            return read;
        }
        m_relations = std::move(relations.entries);
        m_context.isFrom1904 = m_workbook.isFrom1904;
        return readShared();
    }

    Result<void> readShared() {
        SharedStrings strings;
        Styles styles;
        for (const Relations::Entry& entry : m_relations) {
            const bool isStrings = entry.type.ends_with("/sharedStrings"), isStyles = entry.type.ends_with("/styles");
            const std::string part = entryOf(m_folder, entry.target);
            if ((!isStrings && !isStyles) || !m_archive.has(part)) {
                continue;
            }
            XmlReader& reader = isStrings ? static_cast<XmlReader&>(strings) : styles;
            if (auto read = readPart(m_archive, part, reader, m_progress, m_name); !read) {
                return read;
            }
            m_context.hasStrings = m_context.hasStrings || isStrings;
        }
        m_context.strings = std::move(strings.strings);
        m_context.isDate = std::move(styles.isDate);
        return {};
    }

    const ZipArchive& m_archive;
    const std::string& m_name;
    Progress& m_progress;
    std::string m_folder;
    WorkbookPart m_workbook;
    std::vector<Relations::Entry> m_relations;
    Context m_context;
};

} // namespace

Result<Workbook> readXlsx(const ZipArchive& archive, const std::string& name, Progress& progress) {
    return XlsxReader(archive, name, progress).read();
}

} // namespace nuvat
