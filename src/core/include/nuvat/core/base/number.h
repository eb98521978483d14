#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace nuvat {

/// How numbers are written in a text.
struct NumberFormat {
    char decimal = '.';  ///< '.' or ','
    bool isSaid = false; ///< by a person, rather than found: the other sign can only part groups then
};

/// Reads one whole cell as a number: blanks around it are allowed, anything else is not. No locale takes part.
/// @return nothing when the text is not exactly one finite number (so "1.2a", "1,5" under '.', "nan", "" give nothing)
std::optional<double> parseNumber(std::string_view text, NumberFormat format = {});

/// Reads a cell of a file: what parseNumber reads, and digits in groups of three where only that reading is possible.
/// An apostrophe or a blank (also U+00A0, U+2009, U+202F) parts groups whatever else stands there; the decimal sign
/// that is not `format`'s does so with two groups behind the first, or with a decimal sign behind them ("1,234.5", and
/// not "1,234", which could be 1.234, unless the decimal sign was said).
/// @return nothing when it is no number, or not beyond doubt
std::optional<double> parseCell(std::string_view text, NumberFormat format = {});

/// What a text that parseNumber does not read may be all the same.
enum class NumberDoubt {
    None,      ///< no number in any notation
    TooLarge,  ///< a number beyond what a double holds
    TooSmall,  ///< a number other than 0 that a double holds as 0
    Thousands, ///< a number in another notation: "1,234.5", "1 234", "1'234", "1,5" under '.'
};
NumberDoubt doubtAbout(std::string_view text, NumberFormat format = {});

/// Reads a number as a person types it: decimal point or decimal comma, blanks around it.
std::optional<double> parseTyped(std::string_view text);

/// The shortest text that reads back as the same double, with '.', for files. Not-finite values give an empty text.
std::string formatNumber(double value);

/// `value` rounded to `figures` significant figures in plain notation (1e-4 <= |value| < 1e7, otherwise with an
/// exponent), trailing zeros kept, '.' and the real minus sign (U+2212). For people, not for files.
/// @param figures 1 to 17
std::string formatFigures(double value, int figures);

/// `value` with `decimals` digits after the point and the real minus sign. For people, not for files.
std::string formatDecimals(double value, int decimals);

/// How many significant figures of `value` an interval of the half-width `halfWidth` supports: as many as show two
/// figures of the half-width; at least 2, at most 8; 4 when the half-width is not a positive number.
int figuresForInterval(double value, double halfWidth);

/// A percentage with the figures people need: "1.3 %", "102 %"; the real minus sign.
std::string formatPercent(double percent);

/// "0.45, 0.9 and 2": numbers in a sentence.
std::string joinedNumbers(std::span<const double> values);

} // namespace nuvat
