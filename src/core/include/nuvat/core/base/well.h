#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace nuvat {

/// Row and column of a well, 0-based.
struct WellPosition {
    int row = 0;
    int column = 0;
    auto operator<=>(const WellPosition&) const = default;
};

/// A rectangle of cells in a text or in a sheet of a spreadsheet.
struct CellBlock {
    std::string sheet; ///< empty: the file has none
    int line = 0;      ///< 1-based, of its first cell
    int column = 0;    ///< 1-based
    int rows = 0;
    int columns = 0;
    bool operator==(const CellBlock&) const = default;
};

/// Name of a well: "A1" for row 0, column 0; "AA1" from row 26.
std::string wellName(int row, int column);

/// Letters of a plate row: "A" for 0, "Z" for 25, "AA" for 26.
std::string rowLetters(int row);

/// Row of its letters, upper or lower case, blanks around allowed; nothing for anything else.
std::optional<int> parseRowLetters(std::string_view text);

/// Position of a well name such as "A1", "a1" or " A01", at most 32 rows and 48 columns.
std::optional<WellPosition> parseWellName(std::string_view text);

/// The text without blanks, tabs and line ends around it.
std::string_view trimmed(std::string_view text);

} // namespace nuvat
