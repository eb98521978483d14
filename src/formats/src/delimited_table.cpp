#include "nuvat/formats/delimited_table.h"

#include "nuvat/core/base/checksum.h"
#include "nuvat/core/base/text.h"
#include "text_input.h"

#include <algorithm>

namespace nuvat {

Result<DecodedText> readDecoded(std::istream& stream, const std::string& name, Progress& progress,
                                const DelimitedLimits& limits) {
    auto bytes = readBytes(stream, name, progress, limits);
    if (!bytes) {
        return tl::unexpected(bytes.error());
    }
    DecodedText out;
    out.checksum = fnv1a(bytes->bytes);
    auto text = decodeText(std::move(*bytes), name, out.encoding);
    if (!text) {
        return tl::unexpected(text.error());
    }
    out.text = std::move(*text);
    return out;
}

Result<DelimitedTable> cutTable(const DecodedText& text, const std::string& name, const SaidNotation& said,
                                const DelimitedLimits& limits) {
    if (const auto closed = requireClosedQuotes(text.text, name); !closed) {
        return tl::unexpected(closed.error());
    }
    std::vector<Line> lines = cutLines(text.text);
    std::erase_if(lines, [](const Line& line) { return isBlank(line.text); });
    if (lines.empty()) {
        return fail("import.empty", name + " is empty.", "Choose a file with a plate matrix or a list of wells.");
    }
    const Notation notation = notationOf(lines, said);
    DelimitedTable table;
    table.encoding = text.encoding;
    table.checksum = text.checksum;
    table.separator = notation.separator;
    table.numbers = {notation.decimal, said.decimal.has_value()};
    std::size_t cells = 0;
    for (const Line& line : lines) {
        table.rows.push_back({line.number, cutCells(line.text, table.separator)});
        cells += table.rows.back().cells.size();
        if (cells > limits.mostCells) {
            return tooLarge(name, "on " + lineText(line.number), limits);
        }
    }
    return table;
}

Result<DelimitedTable> readDelimited(std::istream& stream, const std::string& name, Progress& progress,
                                     const DelimitedLimits& limits) {
    const auto text = readDecoded(stream, name, progress, limits);
    return text ? cutTable(*text, name, {}, limits) : tl::unexpected(text.error());
}

std::string csvCell(std::string_view text) {
    const std::string out = forSpreadsheet(text);
    if (out.find_first_of(",\";\n\r\t") == std::string::npos) {
        return out;
    }
    std::string quoted = "\"";
    for (const char c : out) {
        quoted += c;
        if (c == '"') {
            quoted += c;
        }
    }
    return quoted + '"';
}

} // namespace nuvat
