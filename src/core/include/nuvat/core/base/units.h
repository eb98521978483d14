#pragma once

#include "nuvat/core/base/error.h"

#include <optional>
#include <string_view>

namespace nuvat {

/// Whether a text is a unit that can be converted: A, V, s, min, h, C, Hz, g, mol, M, L, m with SI prefixes, and
/// products and quotients of them ("uA*V/(mV/s)", "mg/L"); "u", U+00B5 and U+03BC are micro.
bool isUnit(std::string_view text);

/// A value in another unit of the same quantity. @param molarMass [g/mol], for between mass and amount of substance
/// @return unit.unknown, unit.different for different quantities, unit.molar-mass where one is needed
/// Method: powers of ten are kept apart as whole numbers, so that decimal prefixes cost no digits.
Result<double> converted(double value, std::string_view from, std::string_view to,
                         std::optional<double> molarMass = std::nullopt);

/// The symbol of a unit that a file writes out: "Seconds" and "second" are "s", "minutes" "min", "Volts" "V"; all else
/// stays.
std::string_view unitSymbol(std::string_view text);

/// Name and unit of a heading: the unit stands in brackets, after a slash or a comma with a blank, or after the last
/// underscore where it is a unit ("time_s", "current / mA", "potential (V)", "signal, mV").
struct HeadingParts {
    std::string_view name;
    std::string_view unit; ///< empty where the heading has none
};
HeadingParts headingParts(std::string_view heading);

} // namespace nuvat
