#include "nuvat/core/base/number.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

namespace nuvat {

namespace {

constexpr const char* kMinus = "\u2212";

std::string withRealMinus(std::string_view text) {
    std::string out;
    for (const char c : text) {
        if (c == '-') {
            out += kMinus;
        } else {
            out += c;
        }
    }
    return out;
}

std::string toChars(double value, std::chars_format format, int precision) {
    std::array<char, 400> buffer{};
    const auto end = std::to_chars(buffer.data(), buffer.data() + buffer.size(), value, format, precision);
    return {buffer.data(), end.ptr};
}

int exponentOf(double value, int figures) {
    // The exponent after rounding to that many figures: 9.99 with two figures is 1.0e1.
    const std::string text = toChars(value, std::chars_format::scientific, figures - 1);
    const auto at = text.find('e');
    int exponent = 0;
    const char* from = text.data() + at + 1;
    if (*from == '+') {
        ++from;
    }
    std::from_chars(from, text.data() + text.size(), exponent);
    return exponent;
}

} // namespace

std::optional<double> parseNumber(std::string_view text, NumberFormat format) {
    const auto isBlank = [](char c) { return c == ' ' || c == '\t'; };
    while (!text.empty() && isBlank(text.front())) {
        text.remove_prefix(1);
    }
    while (!text.empty() && isBlank(text.back())) {
        text.remove_suffix(1);
    }
    if (text.empty() || text.size() > 64) {
        return std::nullopt;
    }
    std::string plain;
    if (text.starts_with("\u2212")) {
        plain = "-";
        text.remove_prefix(3);
    } else if (text.front() == '+') {
        text.remove_prefix(1);
        if (text.empty() || text.front() == '-' || text.front() == '+') {
            return std::nullopt;
        }
    }
    for (const char c : text) {
        if (c == format.decimal) {
            plain += '.';
        } else if (c == '.' || c == ',') {
            return std::nullopt;
        } else {
            plain += c;
        }
    }
    double value = 0;
    const auto [end, error] = std::from_chars(plain.data(), plain.data() + plain.size(), value);
    if (error != std::errc{} || end != plain.data() + plain.size() || !std::isfinite(value)) {
        return std::nullopt;
    }
    return value;
}

std::optional<double> parseCell(std::string_view text, NumberFormat format) {
    if (const auto value = parseNumber(text, format)) {
        return value;
    }
    const std::size_t begin = text.find_first_of("0123456789");
    if (begin == std::string_view::npos || text.size() > 64) {
        return std::nullopt;
    }
    const auto digitsFrom = [text](std::size_t at) {
        return std::min(text.find_first_not_of("0123456789", at), text.size()) - at;
    };
    std::size_t at = begin + digitsFrom(begin);
    const std::array<std::string_view, 7> marks{
        "'", "\u2019", " ", "\u00a0", "\u2009", "\u202f", format.decimal == ',' ? "." : ","};
    const auto* const found = std::find_if(
        marks.begin(), marks.end(), [&](std::string_view candidate) { return text.substr(at).starts_with(candidate); });
    if (found == marks.end() || at - begin > 3) {
        return std::nullopt;
    }
    const std::string_view mark = *found;
    std::string plain(text.substr(0, at));
    std::size_t groups = 0;
    while (text.substr(at).starts_with(mark) && digitsFrom(at + mark.size()) == 3) {
        plain += text.substr(at + mark.size(), 3);
        at += mark.size() + 3;
        ++groups;
    }
    const std::string_view rest = text.substr(at);
    const bool couldBeDecimal =
        !format.isSaid && (mark == "." || mark == ",") && groups < 2 && !rest.starts_with(format.decimal);
    return groups == 0 || couldBeDecimal ? std::nullopt : parseNumber(plain + std::string(rest), format);
}

NumberDoubt doubtAbout(std::string_view text, NumberFormat format) {
    if (parseNumber(text, format)) {
        return NumberDoubt::None;
    }
    std::string plain(text);
    std::replace(plain.begin(), plain.end(), format.decimal, '.');
    double value = 0;
    const auto [end, error] = std::from_chars(plain.data(), plain.data() + plain.size(), value);
    if (error == std::errc::result_out_of_range && end == plain.data() + plain.size()) {
        const std::size_t exponent = plain.find_first_of("eE");
        return exponent != std::string::npos && exponent + 1 < plain.size() && plain[exponent + 1] == '-'
                   ? NumberDoubt::TooSmall
                   : NumberDoubt::TooLarge;
    }
    // Digits in groups of three after the first, parted by one kind of mark, or a single decimal sign of the other
    // kind.
    constexpr std::array<std::string_view, 6> kMarks{",", ".", " ", "'", "\u2019", "\u00a0"};
    for (const std::string_view mark : kMarks) {
        std::string without(text);
        std::size_t count = 0;
        for (std::size_t at = without.find(mark); at != std::string::npos; at = without.find(mark, at)) {
            without.erase(at, mark.size());
            ++count;
        }
        const bool isGrouped = count > 0 && (parseNumber(without, {'.'}) || parseNumber(without, {','}));
        if (isGrouped) {
            return NumberDoubt::Thousands;
        }
    }
    return NumberDoubt::None;
}

std::optional<double> parseTyped(std::string_view text) {
    const auto value = parseNumber(text);
    return value ? value : parseNumber(text, {','});
}

std::string formatNumber(double value) {
    if (!std::isfinite(value)) {
        return {};
    }
    std::array<char, 64> buffer{};
    const auto end = std::to_chars(buffer.data(), buffer.data() + buffer.size(), value);
    return {buffer.data(), end.ptr};
}

std::string formatFigures(double value, int figures) {
    if (!std::isfinite(value)) {
        return {};
    }
    figures = std::clamp(figures, 1, 17);
    if (value == 0) {
        return toChars(0, std::chars_format::fixed, figures - 1);
    }
    const int exponent = exponentOf(value, figures);
    if (exponent < -4 || exponent > 6) {
        return withRealMinus(toChars(value, std::chars_format::scientific, figures - 1));
    }
    if (figures - 1 - exponent >= 0) {
        return withRealMinus(toChars(value, std::chars_format::fixed, figures - 1 - exponent));
    }
    // More digits before the point than figures: round to tens, hundreds and so on.
    const double unit = std::pow(10.0, exponent - figures + 1);
    return withRealMinus(toChars(std::round(value / unit) * unit, std::chars_format::fixed, 0));
}

std::string formatDecimals(double value, int decimals) {
    if (!std::isfinite(value)) {
        return {};
    }
    std::string text = toChars(value, std::chars_format::fixed, std::clamp(decimals, 0, 17));
    if (text.find_first_not_of("-0.") == std::string::npos && text.front() == '-') {
        text.erase(0, 1); // "-0.00" says nothing that "0.00" does not
    }
    return withRealMinus(text);
}

int figuresForInterval(double value, double halfWidth) {
    if (!(halfWidth > 0) || !std::isfinite(halfWidth) || value == 0 || !std::isfinite(value)) {
        return 4;
    }
    const int figures = exponentOf(value, 2) - exponentOf(halfWidth, 2) + 2;
    return std::clamp(figures, 2, 8);
}

std::string formatPercent(double percent) {
    if (!std::isfinite(percent)) {
        return {};
    }
    return formatDecimals(percent, std::abs(percent) < 99.95 ? 1 : 0) + " %";
}

std::string joinedNumbers(std::span<const double> values) {
    std::string out;
    for (std::size_t i = 0; i < values.size(); ++i) {
        out += (i == 0 ? "" : i + 1 == values.size() ? " and " : ", ") + formatNumber(values[i]);
    }
    return out;
}

} // namespace nuvat
