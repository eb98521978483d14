// Reads OpenDocument spreadsheets (ISO/IEC 26300, part 1, chapters 9 and 19).
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "workbook_parts.h"

#include <algorithm>
#include <set>

namespace nuvat {

namespace {

class ContentPart : public XmlReader {
public:
    explicit ContentPart(Workbook& out) : XmlReader(kWorkbookXml, "content.xml"), m_out(out) {}

private:
    void start(std::string_view name, const XmlAttributes& attributes) override {
        if (m_note > 0 || name == "annotation") {
            ++m_note; // what a note says is no value
        } else if (name == "style") {
            m_style = attribute(attributes, "name");
        } else if (name == "table-properties" && attribute(attributes, "display") == "false") {
            m_hiddenStyles.insert(m_style);
        } else if (name == "table") {
            startTable(attributes);
        } else if (m_tables == 1) {
            startInTable(name, attributes);
        }
    }

    void startTable(const XmlAttributes& attributes) {
        if (++m_tables > 1) {
            return; // a table in a cell
        }
        Sheet& sheet = m_out.sheets.emplace_back();
        sheet.name = attribute(attributes, "name");
        sheet.isHidden = m_hiddenStyles.contains(attribute(attributes, "style-name"));
        m_row = 0;
    }

    void startInTable(std::string_view name, const XmlAttributes& attributes) {
        if (name == "table-row") {
            m_rowRepeats = repeats(attributes, "number-rows-repeated", kMostRows);
            m_rowStart = m_out.sheets.back().cells.size();
            m_column = 0;
        } else if (name == "table-cell" || name == "covered-table-cell") {
            m_isInCell = name == "table-cell"; // what another cell covers is not seen
            m_columnRepeats = repeats(attributes, "number-columns-repeated", kMostColumns);
            m_attributes.clear();
            for (const auto& [key, value] : attributes) {
                m_attributes[std::string(key)] = std::string(value);
            }
            m_text.clear();
            m_paragraphs = 0;
        } else if (m_isInCell && name == "p") {
            m_text += m_paragraphs++ > 0 ? "\n" : "";
            m_isParagraph = true;
        } else if (m_isParagraph && name == "s") {
            m_text.append(static_cast<std::size_t>(repeats(attributes, "c", kMostColumns)), ' ');
        } else if (m_isParagraph && (name == "tab" || name == "line-break")) {
            m_text += name == "tab" ? '\t' : '\n';
        }
    }

    /// How often something is repeated: 1 when nothing is said.
    int repeats(const XmlAttributes& attributes, std::string_view name, int most) {
        const std::string text = attribute(attributes, name);
        if (text.empty()) {
            return 1;
        }
        const auto number = parseNumber(text);
        if (!number || !(*number >= 1) || *number > most || *number != static_cast<int>(*number)) {
            stop({kWorkbookXml, "content.xml repeats something \"" + excerpt(text) + "\" times, which cannot be.",
                  "Save the file again by the program that made it."});
            return 1;
        }
        return static_cast<int>(*number);
    }

    void text(std::string_view text) override {
        if (m_isParagraph && m_note == 0) {
            m_text += text;
        }
    }

    void end(std::string_view name) override {
        if (m_note > 0) {
            --m_note;
        } else if (name == "table") {
            --m_tables;
            if (m_tables == 0) {
                check(SheetDraft(m_out.sheets.back(), m_cells).finish());
            }
        } else if (m_tables != 1) {
            return;
        } else if (name == "p") {
            m_isParagraph = false;
        } else if (name == "table-cell" || name == "covered-table-cell") {
            endCell();
        } else if (name == "table-row") {
            endRow();
        }
    }

    void check(const Result<void>& done) {
        if (!done) {
            stop(done.error());
        }
    }

    std::string value(const std::string& key) const {
        const auto found = m_attributes.find(key);
        return found == m_attributes.end() ? std::string() : found->second;
    }

    void endCell() {
        for (int i = 0; m_isInCell && i < m_columnRepeats && !error(); ++i) {
            const std::size_t before = m_cells;
            check(addCell(m_column + i));
            if (m_cells == before) {
                break; // an empty one is empty however often it is repeated
            }
        }
        m_column += m_columnRepeats;
        m_isInCell = false;
    }

    Result<void> addCell(int column) {
        SheetDraft draft(m_out.sheets.back(), m_cells);
        const std::string type = value("value-type");
        if (value("calcext:value-type") == "error") {
            return draft.add({m_row, column, CellKind::Error, m_text.empty() ? "#VALUE!" : m_text, {}});
        }
        if (type == "float" || type == "percentage" || type == "currency") {
            return draft.addNumber(m_row, column, value("value"));
        }
        if (type == "boolean") {
            return draft.add(
                {m_row, column, CellKind::Boolean, value("boolean-value") == "true" ? "TRUE" : "FALSE", {}});
        }
        if (type == "date" || type == "time") {
            std::string text = value(type == "date" ? "date-value" : "time-value");
            if (type == "time" && !m_text.empty()) {
                text = m_text; // "00:01:30" rather than "PT00H01M30S"
            }
            std::ranges::replace(text, 'T', ' ');
            return draft.add({m_row, column, CellKind::Date, text, {}});
        }
        std::string text = value("string-value");
        text = text.empty() ? m_text : text;
        return text.empty() ? Result<void>() : draft.add({m_row, column, CellKind::Text, std::move(text), {}});
    }

    void endRow() {
        const std::vector<SheetCell>& cells = m_out.sheets.back().cells;
        const std::size_t end = cells.size();
        for (int i = 1; i < m_rowRepeats && end > m_rowStart && !error(); ++i) {
            for (std::size_t k = m_rowStart; k < end && !error(); ++k) {
                SheetCell copy = cells[k];
                copy.row += i;
                check(SheetDraft(m_out.sheets.back(), m_cells).add(std::move(copy)));
            }
        }
        m_row = std::min(m_row + m_rowRepeats, kMostRows); // padding to the end of the sheet goes beyond it
    }

    Workbook& m_out;
    std::size_t m_cells = 0;
    std::string m_style;
    std::set<std::string> m_hiddenStyles;
    int m_note = 0, m_tables = 0;
    int m_row = 0, m_rowRepeats = 1, m_column = 0, m_columnRepeats = 1, m_paragraphs = 0;
    std::size_t m_rowStart = 0;
    bool m_isInCell = false, m_isParagraph = false;
    std::map<std::string, std::string> m_attributes; ///< of the cell
    std::string m_text;
};

} // namespace

Result<Workbook> readOds(const ZipArchive& archive, const std::string& name, Progress& progress) {
    constexpr std::size_t kMostManifest = 10'000'000;
    const std::string manifest = "META-INF/manifest.xml";
    if (const auto read = archive.has(manifest) ? archive.read(manifest, kMostManifest) : Result<std::string>();
        read && read->find("encryption-data") != std::string::npos) {
        return fail("workbook.protected", "The spreadsheet is protected by a password.", "Save it without one.");
    }
    Workbook out;
    out.format = "ODS";
    ContentPart reader(out);
    if (auto read = readPart(archive, "content.xml", reader, progress, name); !read) {
        return tl::unexpected(read.error());
    }
    return out;
}

} // namespace nuvat
