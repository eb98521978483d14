#include "nuvat/core/base/well.h"

#include <cctype>

namespace nuvat {

std::string_view trimmed(std::string_view text) {
    const auto from = text.find_first_not_of(" \t\r\n");
    if (from == std::string_view::npos) {
        return {};
    }
    return text.substr(from, text.find_last_not_of(" \t\r\n") - from + 1);
}

std::optional<int> parseRowLetters(std::string_view text) {
    text = trimmed(text);
    if (text.empty() || text.size() > 2) {
        return std::nullopt;
    }
    int row = 0;
    for (const char c : text) {
        if (std::isalpha(static_cast<unsigned char>(c)) == 0) {
            return std::nullopt;
        }
        row = row * 26 + (std::toupper(static_cast<unsigned char>(c)) - 'A' + 1);
    }
    return row - 1;
}

std::string wellName(int row, int column) {
    return rowLetters(row) + std::to_string(column + 1);
}

std::string rowLetters(int row) {
    std::string letters;
    for (int r = row; r >= 0; r = r / 26 - 1) {
        letters.insert(letters.begin(), static_cast<char>('A' + r % 26));
    }
    return letters;
}

std::optional<WellPosition> parseWellName(std::string_view text) {
    text = trimmed(text);
    std::size_t letters = 0;
    while (letters < text.size() && std::isalpha(static_cast<unsigned char>(text[letters])) != 0) {
        ++letters;
    }
    const std::string_view digits = text.substr(letters);
    const auto row = parseRowLetters(text.substr(0, letters));
    if (!row || *row > 31 || digits.empty() || digits.size() > 2) {
        return std::nullopt;
    }
    int column = 0;
    for (const char c : digits) {
        if (std::isdigit(static_cast<unsigned char>(c)) == 0) {
            return std::nullopt;
        }
        column = column * 10 + (c - '0');
    }
    if (column < 1 || column > 48) {
        return std::nullopt;
    }
    return WellPosition{*row, column - 1};
}

} // namespace nuvat
