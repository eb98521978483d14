#pragma once

#include "nuvat/core/base/error.h"

#include <optional>
#include <string_view>
#include <vector>

namespace nuvat {

/// Ordinates of a JCAMP-DX table in the making.
struct AsdfOrdinates {
    std::vector<double> values; ///< as written, without factor; 0 where one is missing
    std::vector<std::size_t> missing;
    bool endsInDifference = false; ///< then the next line begins with a copy of the last ordinate
    std::optional<double> last;
    std::size_t failedChecks = 0; ///< copies that are another number
};

/// Adds the ordinates of one line of (X++(Y..Y)) in whatever forms it mixes. @param most more of them are refused: a
/// count of duplicates is one character
/// @return the abscissa the line begins with; jcamp.number, jcamp.points
Result<double> addAsdfLine(std::string_view line, int lineNumber, std::size_t most, AsdfOrdinates& out);

/// Numbers of a line with commas, semicolons or blanks between them. @return jcamp.number
Result<std::vector<std::optional<double>>> affnNumbers(std::string_view line, int lineNumber);

} // namespace nuvat
