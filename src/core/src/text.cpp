#include "nuvat/core/base/text.h"

#include "nuvat/core/base/number.h"

#include <cctype>

namespace nuvat {

namespace {

/// Bytes of a directional mark or a control character of Unicode at the begin of the text; 0 when there is none.
std::size_t steeringBytes(std::string_view text) {
    const auto byte = [&](std::size_t i) { return i < text.size() ? static_cast<unsigned char>(text[i]) : 0u; };
    if (byte(0) < 0x20 || byte(0) == 0x7F) {
        return 1;
    }
    if (byte(0) == 0xC2 && byte(1) >= 0x80 && byte(1) < 0xA0) { // U+0080 to U+009F
        return 2;
    }
    const bool isEmbedding = byte(0) == 0xE2 && byte(1) == 0x80 &&
                             (byte(2) == 0x8E || byte(2) == 0x8F || (byte(2) >= 0xAA && byte(2) <= 0xAE));
    const bool isIsolate = byte(0) == 0xE2 && byte(1) == 0x81 && byte(2) >= 0xA6 && byte(2) <= 0xA9;
    return isEmbedding || isIsolate ? 3 : 0;
}

std::string replaced(std::string_view text, bool keepsLines) {
    std::string out;
    for (std::size_t i = 0; i < text.size();) {
        const std::size_t steers = keepsLines && text[i] == '\n' ? 0 : steeringBytes(text.substr(i));
        out += steers > 0 ? '?' : text[i];
        i += steers > 0 ? steers : 1;
    }
    return out;
}

} // namespace

std::string excerpt(std::string_view text, std::size_t most) {
    bool isCut = false;
    if (text.size() > most) {
        isCut = true;
        while (most > 0 && (static_cast<unsigned char>(text[most]) & 0xC0u) == 0x80u) {
            --most;
        }
        text = text.substr(0, most);
    }
    return replaced(text, false) + (isCut ? "…" : "");
}

std::string forTerminal(std::string_view text) {
    return replaced(text, true);
}

namespace {

/// What spreadsheets skip before they look for a formula: blanks, also those that do not break, and line ends.
std::string_view withoutLeadingBlanks(std::string_view text) {
    constexpr std::string_view kBlanks[]{" ", "\t", "\r", "\n", "\xC2\xA0", "\xE2\x80\xAF", "\xEF\xBB\xBF"};
    for (bool again = true; again;) {
        again = false;
        for (const std::string_view blank : kBlanks) {
            if (text.starts_with(blank)) {
                text.remove_prefix(blank.size());
                again = true;
            }
        }
    }
    return text;
}

bool wouldBeRun(std::string_view text) {
    text = withoutLeadingBlanks(text);
    if (text.empty() || std::string_view("=+-@").find(text.front()) == std::string_view::npos) {
        return false;
    }
    if (text.front() == '=' || text.front() == '@') {
        return true;
    }
    const bool isPercentage = text.find_first_not_of("0123456789.,% \xC2\xA0", 1) == std::string_view::npos;
    return !isPercentage && !parseNumber(text);
}

} // namespace

namespace {
std::string withCase(std::string_view text, char first, char last, int by) {
    std::string out(text);
    for (char& c : out) {
        c = c >= first && c <= last ? static_cast<char>(c + by) : c;
    }
    return out;
}
} // namespace

std::string lowerCase(std::string_view text) {
    return withCase(text, 'A', 'Z', 'a' - 'A');
}
std::string upperCase(std::string_view text) {
    return withCase(text, 'a', 'z', 'A' - 'a');
}

std::string forSpreadsheet(std::string_view text) {
    std::string out = wouldBeRun(text) ? "'" : "";
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        const bool isControl = (byte < 0x20 && c != '\t' && c != '\n' && c != '\r') || byte == 0x7F;
        out += isControl ? ' ' : c;
    }
    return out;
}

std::string asFileName(std::string_view text) {
    std::string out;
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        if (byte >= 0x80 || std::isalnum(byte) != 0 || c == '_' || (c == '.' && !out.empty())) {
            out += byte < 0x80 ? static_cast<char>(std::tolower(byte)) : c;
        } else if (!out.empty() && out.back() != '-' && out.back() != '_') {
            out += '-';
        }
    }
    while (!out.empty() && (out.back() == '-' || out.back() == '.')) {
        out.pop_back();
    }
    return out;
}

} // namespace nuvat
