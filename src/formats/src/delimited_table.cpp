#include "nuvat/formats/delimited_table.h"

#include <algorithm>
#include <array>
#include <cstdint>
#include <optional>

namespace nuvat {

namespace {

constexpr std::string_view kBom = "\xEF\xBB\xBF";

std::string lineText(int line) {
    return "line " + std::to_string(line);
}

int lineAt(std::string_view bytes, std::size_t at) {
    return 1 + static_cast<int>(std::count(bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(at), '\n'));
}

/// Offset of the first byte that is not valid UTF-8, or nothing.
std::optional<std::size_t> firstNotUtf8(std::string_view text) {
    for (std::size_t i = 0; i < text.size();) {
        const auto c = static_cast<unsigned char>(text[i]);
        std::size_t more = 0;
        unsigned long code = 0;
        if (c < 0x80) {
            ++i;
            continue;
        }
        if (c >= 0xC2 && c <= 0xDF) {
            more = 1;
            code = c & 0x1Fu;
        } else if (c >= 0xE0 && c <= 0xEF) {
            more = 2;
            code = c & 0x0Fu;
        } else if (c >= 0xF0 && c <= 0xF4) {
            more = 3;
            code = c & 0x07u;
        } else {
            return i;
        }
        if (i + more >= text.size()) {
            return i;
        }
        for (std::size_t k = 1; k <= more; ++k) {
            const auto next = static_cast<unsigned char>(text[i + k]);
            if ((next & 0xC0u) != 0x80u) {
                return i;
            }
            code = (code << 6u) | (next & 0x3Fu);
        }
        if ((more == 2 && code < 0x800) || (more == 3 && (code < 0x10000 || code > 0x10FFFF)) ||
            (code >= 0xD800 && code <= 0xDFFF)) {
            return i;
        }
        i += more + 1;
    }
    return std::nullopt;
}

void appendUtf8(std::string& out, unsigned long code) {
    const auto put = [&out](unsigned long byte) { out += static_cast<char>(static_cast<unsigned char>(byte)); };
    if (code < 0x80) {
        put(code);
    } else if (code < 0x800) {
        put(0xC0u | (code >> 6u));
        put(0x80u | (code & 0x3Fu));
    } else if (code < 0x10000) {
        put(0xE0u | (code >> 12u));
        put(0x80u | ((code >> 6u) & 0x3Fu));
        put(0x80u | (code & 0x3Fu));
    } else {
        put(0xF0u | (code >> 18u));
        put(0x80u | ((code >> 12u) & 0x3Fu));
        put(0x80u | ((code >> 6u) & 0x3Fu));
        put(0x80u | (code & 0x3Fu));
    }
}

std::optional<std::string> fromUtf16(std::string_view bytes, bool bigEndian) {
    std::string out;
    const auto unit = [&](std::size_t i) {
        const auto first = static_cast<unsigned char>(bytes[i]);
        const auto second = static_cast<unsigned char>(bytes[i + 1]);
        return bigEndian ? (static_cast<unsigned long>(first) << 8u) | second
                         : (static_cast<unsigned long>(second) << 8u) | first;
    };
    for (std::size_t i = 0; i + 1 < bytes.size(); i += 2) {
        unsigned long code = unit(i);
        if (code >= 0xD800 && code <= 0xDBFF) {
            if (i + 3 >= bytes.size()) {
                return std::nullopt;
            }
            const unsigned long low = unit(i + 2);
            if (low < 0xDC00 || low > 0xDFFF) {
                return std::nullopt;
            }
            code = 0x10000 + ((code - 0xD800) << 10u) + (low - 0xDC00);
            i += 2;
        } else if (code >= 0xDC00 && code <= 0xDFFF) {
            return std::nullopt;
        }
        appendUtf8(out, code);
    }
    return out;
}

/// Latin-1 only where it is plausible: printable bytes above 0xA0 among ordinary text.
std::optional<std::string> fromLatin1(std::string_view bytes) {
    std::string out;
    std::size_t high = 0;
    for (const char c : bytes) {
        const auto byte = static_cast<unsigned char>(c);
        if (byte >= 0x80 && byte < 0xA0) {
            return std::nullopt;
        }
        high += byte >= 0x80 ? 1u : 0u;
        appendUtf8(out, byte);
    }
    if (high * 5 > bytes.size()) {
        return std::nullopt; // mostly high bytes: some other alphabet, not Latin-1
    }
    return out;
}

Result<std::string> readBytes(std::istream& stream, const std::string& name, Progress& progress,
                              const DelimitedLimits& limits) {
    std::string bytes;
    std::array<char, 1u << 16> chunk{};
    std::size_t separators = 0;
    while (stream) {
        stream.read(chunk.data(), static_cast<std::streamsize>(chunk.size()));
        const auto got = static_cast<std::size_t>(stream.gcount());
        if (progress.cancelled()) {
            return fail("import.cancelled", "Reading " + name + " was cancelled; nothing was taken in.");
        }
        bytes.append(chunk.data(), got);
        for (std::size_t i = 0; i < got; ++i) {
            separators += (chunk[i] == ',' || chunk[i] == ';' || chunk[i] == '\t' || chunk[i] == '\n') ? 1u : 0u;
        }
        if (separators > 2 * limits.mostCells || bytes.size() > limits.mostBytes) {
            return fail("import.too-large",
                        name + " is too large for a plate reading: by " + lineText(lineAt(bytes, bytes.size())) +
                            " it holds more than " + std::to_string(limits.mostCells) +
                            " cells, and the largest plate has 1536 wells.",
                        "Export one plate from the reader as a file of its own.");
        }
        progress.report(static_cast<double>(bytes.size()) / static_cast<double>(limits.mostBytes));
    }
    if (stream.bad()) {
        return fail("import.unreadable",
                    name + " could not be read to its end (" + std::to_string(bytes.size()) + " bytes were read).",
                    "Check that the disk or the network drive is still there and open it again.");
    }
    return bytes;
}

Result<std::string> decode(std::string bytes, const std::string& name, std::string& encoding) {
    if (bytes.starts_with("\xFF\xFE") || bytes.starts_with("\xFE\xFF")) {
        encoding = "UTF-16";
        if (auto text = fromUtf16(std::string_view(bytes).substr(2), bytes.front() == '\xFE')) {
            return std::move(*text);
        }
        return fail("import.encoding", name + " begins like UTF-16 but is not valid UTF-16.",
                    "Save it as UTF-8 and open it again.");
    }
    const std::size_t zero = bytes.find('\0');
    if (zero != std::string::npos) {
        const auto zeros = static_cast<std::size_t>(std::count(bytes.begin(), bytes.end(), '\0'));
        if (zeros * 5 > bytes.size() * 2 && zeros * 2 <= bytes.size() + 2 && bytes.size() % 2 == 0) {
            encoding = "UTF-16";
            if (auto text = fromUtf16(bytes, zero == 0); text && text->find('\0') == std::string::npos) {
                return std::move(*text);
            }
        }
        return fail("import.binary",
                    name + " is not a text file: byte " + std::to_string(zero + 1) + " on " +
                        lineText(lineAt(bytes, zero)) + " is zero.",
                    "Export the reading from the instrument as CSV or TSV.");
    }
    encoding = "UTF-8";
    if (bytes.starts_with(kBom)) {
        encoding = "UTF-8 with BOM";
        bytes.erase(0, kBom.size());
    }
    const auto bad = firstNotUtf8(bytes);
    const auto isControl = [](char c) {
        const auto byte = static_cast<unsigned char>(c);
        return byte < 0x20 && c != '\n' && c != '\r' && c != '\t' && c != '\f' && c != '\x1a';
    };
    const auto control = static_cast<std::size_t>(std::find_if(bytes.begin(), bytes.end(), isControl) - bytes.begin());
    if (control < bytes.size()) {
        return fail("import.binary",
                    name + " is not a text file: byte " + std::to_string(control + 1) + " on " +
                        lineText(lineAt(bytes, control)) + " is a control character.",
                    "Export the reading from the instrument as CSV or TSV.");
    }
    if (!bad) {
        return bytes;
    }
    encoding = "Latin-1";
    if (auto text = fromLatin1(bytes)) {
        return std::move(*text);
    }
    return fail("import.encoding",
                "The characters of " + name +
                    " are in an encoding Nuvat does not know; the first that is neither "
                    "UTF-8 nor Latin-1 text is on " +
                    lineText(lineAt(bytes, *bad)) + ".",
                "Save the file as UTF-8 and open it again.");
}

std::string fnv1a(std::string_view bytes) {
    std::uint64_t hash = 14695981039346656037u;
    for (const char c : bytes) {
        hash = (hash ^ static_cast<unsigned char>(c)) * 1099511628211u;
    }
    constexpr std::string_view kDigits = "0123456789abcdef";
    std::string text(16, '0');
    for (std::size_t i = 0; i < 16; ++i) {
        text[15 - i] = kDigits[(hash >> (4 * i)) & 0xFu];
    }
    return text;
}

struct Line {
    int number;
    std::string_view text;
};

std::vector<Line> cutLines(std::string_view text) {
    std::vector<Line> lines;
    int number = 1;
    bool inQuotes = false;
    std::size_t from = 0;
    int began = 1;
    for (std::size_t i = 0; i <= text.size(); ++i) {
        const bool atEnd = i == text.size();
        const char c = atEnd ? '\n' : text[i];
        if (c == '"' && !atEnd) {
            inQuotes = !inQuotes;
        }
        if (c != '\n' && c != '\r') {
            continue;
        }
        const bool pair = c == '\r' && i + 1 < text.size() && text[i + 1] == '\n';
        if (!inQuotes || atEnd) {
            lines.push_back({began, text.substr(from, i - from)});
            from = i + (pair ? 2 : 1);
            began = number + 1;
        }
        ++number;
        i += pair ? 1 : 0;
    }
    return lines;
}

std::vector<std::string> cutCells(std::string_view line, char separator) {
    std::vector<std::string> cells(1);
    bool inQuotes = false;
    for (std::size_t i = 0; i < line.size(); ++i) {
        const char c = line[i];
        if (c == '"') {
            if (inQuotes && i + 1 < line.size() && line[i + 1] == '"') {
                cells.back() += '"';
                ++i;
            } else {
                inQuotes = !inQuotes;
            }
        } else if (c == separator && !inQuotes) {
            cells.emplace_back();
        } else {
            cells.back() += c;
        }
    }
    return cells;
}

bool isBlank(std::string_view text) {
    return text.find_first_not_of(" \t\r\n\f\x1a") == std::string_view::npos;
}

/// How well a separator and a decimal sign fit: cells that are numbers count for them, cells that still hold a
/// semicolon or a tab count against them ("A1;x;0" and "061" are two pieces of a line that is cut at semicolons).
long fitness(const std::vector<Line>& lines, char separator, NumberFormat format) {
    long score = 0;
    for (const Line& line : lines) {
        for (const std::string& cell : cutCells(line.text, separator)) {
            score += parseNumber(cell, format) ? 2 : 0;
            score -= cell.find_first_of(separator == ','   ? ";\t"
                                        : separator == ';' ? "\t"
                                                           : ";") != std::string::npos
                         ? 1
                         : 0;
        }
    }
    return score;
}

} // namespace

Result<DelimitedTable> readDelimited(std::istream& stream, const std::string& name, Progress& progress,
                                     const DelimitedLimits& limits) {
    auto bytes = readBytes(stream, name, progress, limits);
    if (!bytes) {
        return tl::unexpected(bytes.error());
    }
    DelimitedTable table;
    table.checksum = fnv1a(*bytes);
    auto text = decode(std::move(*bytes), name, table.encoding);
    if (!text) {
        return tl::unexpected(text.error());
    }
    if (std::count(text->begin(), text->end(), '"') % 2 != 0) {
        const std::size_t last = text->rfind('"');
        return fail("import.quote-open",
                    "A quotation mark is opened and not closed in " + name + "; the last one is on " +
                        lineText(lineAt(*text, last)) + ".",
                    "Close it or remove it and open the file again.");
    }
    std::vector<Line> lines = cutLines(*text);
    std::erase_if(lines, [](const Line& line) { return isBlank(line.text); });
    if (lines.empty()) {
        return fail("import.empty", name + " is empty.", "Choose a file with a plate matrix or a list of wells.");
    }
    // The separator and decimal sign that fit best; ties in the order below. A comma cannot be
    // both, and a cell must be one number as a whole, so "1,234;5,678" counts 2 under (';', ',') and 0 under (';',
    // '.').
    struct Choice {
        char separator;
        char decimal;
    };
    constexpr std::array<Choice, 5> kChoices{{{'\t', '.'}, {';', '.'}, {',', '.'}, {'\t', ','}, {';', ','}}};
    long most = 0;
    for (const Choice choice : kChoices) {
        const bool occurs = std::any_of(lines.begin(), lines.end(), [&](const Line& line) {
            return line.text.find(choice.separator) != std::string_view::npos;
        });
        if (!occurs) {
            continue;
        }
        const long score = fitness(lines, choice.separator, {choice.decimal});
        if (score > most) {
            most = score;
            table.separator = choice.separator;
            table.numbers.decimal = choice.decimal;
        }
    }
    std::size_t cells = 0;
    for (const Line& line : lines) {
        table.rows.push_back({line.number, cutCells(line.text, table.separator)});
        cells += table.rows.back().cells.size();
        if (cells > limits.mostCells) {
            return fail("import.too-large",
                        name + " is too large for a plate reading: on " + lineText(line.number) + " it passes " +
                            std::to_string(limits.mostCells) + " cells, and the largest plate has 1536 wells.",
                        "Export one plate from the reader as a file of its own.");
        }
    }
    return table;
}

std::string csvCell(std::string_view text) {
    std::string out;
    if (!text.empty() &&
        (text.front() == '=' || text.front() == '+' || text.front() == '-' || text.front() == '@' ||
         text.front() == '\t' || text.front() == '\r') &&
        !parseNumber(text)) {
        out = "'";
    }
    out += text;
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
