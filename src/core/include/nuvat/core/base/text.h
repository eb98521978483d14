#pragma once

#include <string>
#include <string_view>

namespace nuvat {

/// ASCII letters in one case; all else stays.
std::string lowerCase(std::string_view text);
std::string upperCase(std::string_view text);

/// A text from a file as part of a sentence: at most `most` bytes (whole characters, then …), and nothing in it that
/// could steer a terminal or turn the line around: control characters and directional marks become '?'.
std::string excerpt(std::string_view text, std::size_t most = 60);

/// A whole message for a terminal: the same characters replaced, its line ends kept, nothing cut off.
std::string forTerminal(std::string_view text);

/// A text as it may go into a cell of a spreadsheet, by file or clipboard: with a leading apostrophe when it would be
/// run as a formula (it begins, after blanks, with =, +, - or @ and is no number or percentage), and with a blank for
/// every control character but tab and line end.
std::string forSpreadsheet(std::string_view text);

/// A text as part of the name of a file: ASCII letters in lower case, digits, '_' and '.' as they are, one hyphen for
/// each stretch of others, bytes beyond ASCII as they are; no hyphen or '.' at its ends. May be empty.
std::string asFileName(std::string_view text);

} // namespace nuvat
