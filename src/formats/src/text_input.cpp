#include "text_input.h"

#include "large_pages.h"
#include "nuvat/core/base/well.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cstring>
#include <memory>
#include <optional>

namespace nuvat {

namespace {

constexpr std::string_view kBom = "\xEF\xBB\xBF";

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

/// Whether some character of several bytes stands in a text.
bool hasUtf8Sequence(std::string_view text) {
    for (std::size_t i = 0; i < text.size(); ++i) {
        const auto c = static_cast<unsigned char>(text[i]);
        const std::size_t size = c >= 0xF0 && c <= 0xF4   ? 4
                                 : c >= 0xE0 && c <= 0xEF ? 3
                                 : c >= 0xC2 && c <= 0xDF ? 2
                                                          : 0;
        if (size > 0 && i + size <= text.size() && !firstNotUtf8(text.substr(i, size))) {
            return true;
        }
    }
    return false;
}

bool isControl(char c) {
    const auto byte = static_cast<unsigned char>(c);
    return byte < 0x20 && c != '\n' && c != '\r' && c != '\t' && c != '\f' && c != '\x1a';
}

/// Looks for more of them, sixteen bytes at a time.
void addOddities(std::string_view text, Oddities& out) {
    using Bytes [[gnu::vector_size(16)]] = unsigned char;
    Bytes controls{};
    Bytes high{};
    Bytes quotes{};
    std::size_t at = 0;
    for (; at + sizeof(Bytes) <= text.size(); at += sizeof(Bytes)) {
        Bytes bytes;
        std::memcpy(&bytes, text.data() + at, sizeof bytes);
        controls |= std::bit_cast<Bytes>((bytes < 0x20) & (bytes != '\n') & (bytes != '\r') & (bytes != '\t') &
                                         (bytes != '\f') & (bytes != 0x1a));
        high |= bytes;
        quotes |= std::bit_cast<Bytes>(bytes == '"');
    }
    for (std::size_t i = 0; i < sizeof(Bytes); ++i) {
        out.hasControls = out.hasControls || controls[i] != 0;
        out.hasHighBytes = out.hasHighBytes || high[i] >= 0x80;
        out.hasQuotes = out.hasQuotes || quotes[i] != 0;
    }
    for (; at < text.size(); ++at) {
        out.hasControls = out.hasControls || isControl(text[at]);
        out.hasHighBytes = out.hasHighBytes || static_cast<unsigned char>(text[at]) >= 0x80;
        out.hasQuotes = out.hasQuotes || text[at] == '"';
    }
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

/// Index behind the quotation mark that closes the one at `open`; nothing when none does. Two of them in a row, and one
/// behind a backslash with more of the cell after it, are part of the text.
std::optional<std::size_t> behindQuotes(std::string_view text, std::size_t open) {
    for (std::size_t i = open + 1; i < text.size(); ++i) {
        const bool isLast =
            i + 2 >= text.size() || std::string_view(",;\t\r\n").find(text[i + 2]) != std::string_view::npos;
        if (text[i] == '\\' && i + 1 < text.size() && text[i + 1] == '"' && !isLast) {
            ++i;
        } else if (text[i] == '"') {
            if (i + 1 >= text.size() || text[i + 1] != '"') {
                return i + 1;
            }
            ++i;
        }
    }
    return std::nullopt;
}

/// What stands between quotation marks, as it is meant.
std::string unquoted(std::string_view text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const bool isMarked = i + 1 < text.size() && text[i + 1] == '"' && (text[i] == '"' || text[i] == '\\');
        i += isMarked ? 1 : 0;
        out += text[i];
    }
    return out;
}

/// Whether a cell begins at `at`, blanks before it left out.
bool isCellStart(std::string_view text, std::size_t at) {
    const std::size_t before = at == 0 ? std::string_view::npos : text.find_last_not_of(' ', at - 1);
    return before == std::string_view::npos ||
           std::string_view(",;\t\r\n").find(text[before]) != std::string_view::npos;
}

} // namespace

std::size_t countLineEnds(std::string_view text) {
    std::size_t count = 0;
    for (std::size_t i = 0; i < text.size(); ++i) {
        count += text[i] == '\n' || (text[i] == '\r' && !text.substr(i).starts_with("\r\n")) ? 1u : 0u;
    }
    return count;
}

std::string lineText(int line) {
    return "line " + std::to_string(line);
}

int lineAt(std::string_view bytes, std::size_t at) {
    return 1 + static_cast<int>(std::count(bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(at), '\n'));
}

Result<RawBytes> readBytes(std::istream& stream, const std::string& name, Progress& progress,
                           const DelimitedLimits& limits) {
    RawBytes out;
    std::string& bytes = out.bytes;
    if (const auto begin = stream.tellg(); stream.seekg(0, std::ios::end)) { // a guess that spares copies
        const std::streamoff size = stream.tellg() - begin;
        bytes.reserve(size > 0 ? std::min(static_cast<std::size_t>(size), limits.mostBytes) : 0);
        preferLargePages(bytes.data(), bytes.capacity());
        stream.seekg(begin);
    }
    stream.clear(stream.rdstate() & std::ios::badbit);
    const auto chunk = std::make_unique<std::array<char, 1u << 17>>();
    const auto isSeparator = [](char c) { return c == ',' || c == ';' || c == '\t' || c == '\n'; };
    std::size_t separators = 0;
    std::size_t counted = 0;
    while (stream) {
        stream.read(chunk->data(), static_cast<std::streamsize>(chunk->size()));
        const std::string_view read(chunk->data(), static_cast<std::size_t>(stream.gcount()));
        bytes += read;
        addOddities(read, out.odd); // while it is in the cache
        if (progress.cancelled()) {
            return cancelled(name);
        }
        if (bytes.size() > 2 * limits.mostCells) { // fewer bytes hold no more cells
            separators += static_cast<std::size_t>(
                std::count_if(bytes.begin() + static_cast<std::ptrdiff_t>(counted), bytes.end(), isSeparator));
            counted = bytes.size();
        }
        if (separators > 2 * limits.mostCells || bytes.size() > limits.mostBytes) {
            return tooLarge(name, "by " + lineText(lineAt(bytes, bytes.size())), limits);
        }
        progress.report(static_cast<double>(bytes.size()) / static_cast<double>(limits.mostBytes));
    }
    if (stream.bad()) {
        return fail("import.unreadable",
                    name + " could not be read to its end (" + std::to_string(bytes.size()) + " bytes were read).",
                    "Check that the disk or the network drive is still there and open it again.");
    }
    return out;
}

Result<std::string> decodeText(RawBytes raw, const std::string& name, std::string& encoding) {
    std::string& bytes = raw.bytes;
    const Oddities& odd = raw.odd;
    if (bytes.starts_with("\xFF\xFE") || bytes.starts_with("\xFE\xFF")) {
        encoding = "UTF-16";
        if (bytes.size() % 2 != 0) {
            return fail("import.encoding",
                        name + " is UTF-16 with half a character at its end; the file may have been cut off.",
                        "Export it again, or save it as UTF-8, and open it again.");
        }
        if (auto text = fromUtf16(std::string_view(bytes).substr(2), bytes.front() == '\xFE')) {
            return std::move(*text);
        }
        return fail("import.encoding", name + " begins like UTF-16 but is not valid UTF-16.",
                    "Save it as UTF-8 and open it again.");
    }
    const std::size_t zero = odd.hasControls ? bytes.find('\0') : std::string::npos;
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
    if (const std::size_t second = odd.hasHighBytes ? bytes.find(kBom) : std::string::npos;
        second != std::string::npos && second > 0 && (bytes[second - 1] == '\n' || bytes[second - 1] == '\r')) {
        return fail("import.glued",
                    name + " is two files in one: on " + lineText(lineAt(bytes, second)) + " another one begins.",
                    "Open them one by one.");
    }
    const auto control =
        odd.hasControls ? static_cast<std::size_t>(std::find_if(bytes.begin(), bytes.end(), isControl) - bytes.begin())
                        : bytes.size();
    if (control < bytes.size()) {
        return fail("import.binary",
                    name + " is not a text file: byte " + std::to_string(control + 1) + " on " +
                        lineText(lineAt(bytes, control)) + " is a control character.",
                    "Export the reading from the instrument as CSV or TSV.");
    }
    const auto bad = odd.hasHighBytes ? firstNotUtf8(bytes) : std::nullopt;
    if (!bad) {
        return std::move(bytes);
    }
    if (hasUtf8Sequence(bytes)) {
        return fail("import.encoding",
                    name + " mixes two encodings: it is written in UTF-8, but " + lineText(lineAt(bytes, *bad)) +
                        " holds a character that is not.",
                    "Save the file as UTF-8 and open it again.");
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

Result<void> requireClosedQuotes(std::string_view text, const std::string& name) {
    for (std::size_t at = text.find('"'); at != std::string_view::npos; at = text.find('"', at)) {
        if (!isCellStart(text, at)) {
            ++at;
            continue;
        }
        const auto end = behindQuotes(text, at);
        if (!end) {
            return fail("import.quote-open",
                        "A quotation mark is opened and not closed in " + name + ", on " + lineText(lineAt(text, at)) +
                            ".",
                        "Close it or remove it and open the file again.");
        }
        at = *end;
    }
    return {};
}

tl::unexpected<Error> tooLarge(const std::string& name, const std::string& where, const DelimitedLimits& limits) {
    return fail("import.too-large",
                name + " is too large for " + limits.purpose + ": " + where + " it passes " +
                    std::to_string(limits.mostCells) + " cells or " + std::to_string(limits.mostBytes >> 20u) + " MB.",
                limits.advice);
}

tl::unexpected<Error> cancelled(const std::string& name) {
    return fail("import.cancelled", "Reading " + name + " was cancelled; nothing was imported.");
}

std::vector<Line> cutLines(std::string_view text) {
    std::vector<Line> lines;
    int number = 1;
    std::size_t from = 0;
    int began = 1;
    for (std::size_t i = 0; i <= text.size(); ++i) {
        const bool atEnd = i == text.size();
        if (!atEnd && text[i] == '"' && isCellStart(text, i)) {
            const std::size_t end = behindQuotes(text, i).value_or(i + 1);
            number += static_cast<int>(countLineEnds(text.substr(i, end - i)));
            i = end - 1;
            continue;
        }
        if (!atEnd && text[i] != '\n' && text[i] != '\r') {
            continue;
        }
        const bool isPair = text.substr(std::min(i, text.size())).starts_with("\r\n");
        lines.push_back({began, text.substr(from, i - from)});
        from = i + (isPair ? 2 : 1);
        began = ++number;
        i += isPair ? 1 : 0;
    }
    return lines;
}

std::vector<std::string> cutCells(std::string_view line, char separator) {
    constexpr char kBlanks = ' ';
    if (separator == kBlanks) {
        line = trimmed(line);
    }
    std::vector<std::string> cells(1);
    const auto isSeparator = [separator](char c) { return c == separator || (separator == kBlanks && c == '\t'); };
    for (std::size_t i = 0; i < line.size(); ++i) {
        const bool begins = isBlank(cells.back());
        if (line[i] == '"' && begins) {
            const std::size_t end = behindQuotes(line, i).value_or(line.size() + 1);
            cells.back() += unquoted(line.substr(i + 1, end - i - 2));
            i = end - 1;
        } else if (!isSeparator(line[i])) {
            cells.back() += line[i];
        } else if (separator != kBlanks || !begins) {
            cells.emplace_back();
        }
    }
    return cells;
}

bool isBlank(std::string_view text) {
    return text.find_first_not_of(" \t\r\n\f\x1a") == std::string_view::npos;
}

} // namespace nuvat
