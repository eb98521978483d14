#include "asdf.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"

#include <string>

namespace nuvat {

namespace {

bool isDigit(char c) {
    return c >= '0' && c <= '9';
}

tl::unexpected<Error> noNumber(std::string_view what, int lineNumber) {
    constexpr std::size_t kShown = 24;
    return fail("jcamp.number",
                "Line " + std::to_string(lineNumber) + " holds \"" + std::string(what.substr(0, kShown)) +
                    "\" where a number should stand.",
                "Export the file again, or correct that line.");
}

/// Words that a decoder would take for digits: every letter is one in the compressed forms.
bool holdsWordForNoNumber(std::string_view line) {
    const std::string lower = lowerCase(line);
    return lower.find("nan") != std::string::npos || lower.find("inf") != std::string::npos;
}

/// What a first character of the compressed forms means.
struct Code {
    enum class Kind { None, Squeezed, Difference, Duplicate } kind = Kind::None;
    int sign = 1;
    char digit = '0';
};

Code codeOf(char c) {
    using Kind = Code::Kind;
    if (c == '@') {
        return {Kind::Squeezed, 1, '0'};
    }
    if (c >= 'A' && c <= 'I') {
        return {Kind::Squeezed, 1, static_cast<char>('1' + (c - 'A'))};
    }
    if (c >= 'a' && c <= 'i') {
        return {Kind::Squeezed, -1, static_cast<char>('1' + (c - 'a'))};
    }
    if (c == '%') {
        return {Kind::Difference, 1, '0'};
    }
    if (c >= 'J' && c <= 'R') {
        return {Kind::Difference, 1, static_cast<char>('1' + (c - 'J'))};
    }
    if (c >= 'j' && c <= 'r') {
        return {Kind::Difference, -1, static_cast<char>('1' + (c - 'j'))};
    }
    if (c >= 'S' && c <= 'Z') {
        return {Kind::Duplicate, 1, static_cast<char>('1' + (c - 'S'))};
    }
    return c == 's' ? Code{Kind::Duplicate, 1, '9'} : Code{};
}

/// Length of a plain number at the beginning: a sign, digits with a point, and an exponent, which has a sign of its own
/// since E alone is a squeezed 5.
std::size_t plainLength(std::string_view s) {
    std::size_t i = !s.empty() && (s[0] == '+' || s[0] == '-') ? 1 : 0;
    while (i < s.size() && (isDigit(s[i]) || s[i] == '.')) {
        ++i;
    }
    if (i + 2 < s.size() && (s[i] == 'E' || s[i] == 'e') && (s[i + 1] == '+' || s[i + 1] == '-') && isDigit(s[i + 2])) {
        i += 2;
        while (i < s.size() && isDigit(s[i])) {
            ++i;
        }
    }
    return i;
}

bool isBetween(char c) {
    return c == ' ' || c == '\t' || c == ',' || c == ';';
}

class LineDecoder {
public:
    LineDecoder(std::string_view line, int number, std::size_t most, AsdfOrdinates& out)
        : m_rest(line), m_line(number), m_most(most), m_out(out) {}

    Result<double> decode() {
        skip();
        const std::size_t length = plainLength(m_rest);
        const auto x = parseNumber(m_rest.substr(0, length));
        if (!x) {
            return noNumber(m_rest, m_line);
        }
        m_rest.remove_prefix(length);
        m_isCheck = m_out.endsInDifference;
        for (skip(); !m_rest.empty(); skip()) {
            if (auto added = addNext(); !added) {
                return tl::unexpected(added.error());
            }
        }
        return *x;
    }

private:
    void skip() {
        while (!m_rest.empty() && isBetween(m_rest.front())) {
            m_rest.remove_prefix(1);
        }
    }

    Result<void> addNext() {
        const char c = m_rest.front();
        if (c == '?') {
            m_rest.remove_prefix(1);
            m_isCheck = false;
            m_out.endsInDifference = false;
            m_lastDifference.reset();
            m_out.last.reset();
            m_out.missing.push_back(m_out.values.size());
            return push(0);
        }
        const Code code = codeOf(c);
        if (code.kind == Code::Kind::None) {
            return addPlain();
        }
        const auto value = codedNumber(code);
        if (!value) {
            return tl::unexpected(value.error());
        }
        switch (code.kind) {
        case Code::Kind::Squeezed:
            return addOrdinate(*value, false);
        case Code::Kind::Difference:
            return addDifference(*value);
        default:
            return addDuplicates(*value);
        }
    }

    Result<void> addPlain() {
        const std::size_t length = plainLength(m_rest);
        const auto value = parseNumber(m_rest.substr(0, length));
        if (!value) {
            return noNumber(m_rest, m_line);
        }
        m_rest.remove_prefix(length);
        return addOrdinate(*value, false);
    }

    /// The digits that follow a code, with the code's own in front.
    Result<double> codedNumber(const Code& code) {
        std::string digits(1, code.digit);
        std::size_t i = 1;
        while (i < m_rest.size() && (isDigit(m_rest[i]) || m_rest[i] == '.')) {
            digits += m_rest[i++];
        }
        const auto value = parseNumber(digits);
        if (!value) {
            return noNumber(m_rest, m_line);
        }
        m_rest.remove_prefix(i);
        return code.sign * *value;
    }

    Result<void> addOrdinate(double value, bool isDifference) {
        const bool isCopy = std::exchange(m_isCheck, false);
        m_out.endsInDifference = isDifference;
        m_out.last = value;
        if (!isDifference) {
            m_lastDifference.reset();
        }
        if (isCopy) {
            m_out.failedChecks += m_out.values.back() == value ? 0u : 1u;
            return {};
        }
        return push(value);
    }

    Result<void> addDifference(double difference) {
        if (!m_out.last) {
            return noNumber("a difference without an ordinate before it", m_line);
        }
        m_lastDifference = difference;
        return addOrdinate(*m_out.last + difference, true);
    }

    /// A count of n repeats what stands before it n - 1 times: the difference, or else the ordinate.
    Result<void> addDuplicates(double count) {
        if (m_out.values.empty() || count < 1 || count > static_cast<double>(m_most)) {
            return noNumber("a count of repetitions", m_line);
        }
        for (double k = 1; k < count; ++k) {
            auto added = m_lastDifference ? addDifference(*m_lastDifference)
                         : m_out.last     ? addOrdinate(*m_out.last, false)
                                          : Result<void>(noNumber("a repetition of a missing value", m_line));
            if (!added) {
                return added;
            }
        }
        return {};
    }

    Result<void> push(double value) {
        if (m_out.values.size() >= m_most) {
            return fail("jcamp.points",
                        "Line " + std::to_string(m_line) + " brings more than " + std::to_string(m_most) +
                            " ordinates, which is more than the file announces or can hold.",
                        "Export the file again.");
        }
        m_out.values.push_back(value);
        return {};
    }

    std::string_view m_rest;
    int m_line;
    std::size_t m_most;
    AsdfOrdinates& m_out;
    bool m_isCheck = false;
    std::optional<double> m_lastDifference;
};

} // namespace

Result<double> addAsdfLine(std::string_view line, int lineNumber, std::size_t most, AsdfOrdinates& out) {
    if (holdsWordForNoNumber(line)) {
        return noNumber(line, lineNumber);
    }
    return LineDecoder(line, lineNumber, most, out).decode();
}

Result<std::vector<std::optional<double>>> affnNumbers(std::string_view line, int lineNumber) {
    std::vector<std::optional<double>> out;
    std::size_t i = 0;
    while (i < line.size()) {
        if (isBetween(line[i])) {
            ++i;
            continue;
        }
        std::size_t end = i;
        while (end < line.size() && !isBetween(line[end])) {
            ++end;
        }
        const std::string_view cell = line.substr(i, end - i);
        const auto value = parseNumber(cell);
        if (!value && cell != "?") {
            return noNumber(cell, lineNumber);
        }
        out.push_back(value);
        i = end;
    }
    return out;
}

} // namespace nuvat
