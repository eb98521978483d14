#pragma once

#include "nuvat/core/base/error.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/progress.h"
#include "nuvat/formats/delimited_table.h"

#include <algorithm>
#include <istream>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace nuvat {

// What every reader of delimited text begins with. `name` is what the text is called in sentences.

/// Whether bytes are anything but plain ASCII without quotation marks.
struct Oddities {
    bool hasControls = false;
    bool hasHighBytes = false;
    bool hasQuotes = false;
};
struct RawBytes {
    std::string bytes;
    Oddities odd;
};
/// The bytes of a stream within limits. @return import.unreadable, import.too-large, import.cancelled
Result<RawBytes> readBytes(std::istream& stream, const std::string& name, Progress& progress,
                           const DelimitedLimits& limits);
/// Bytes as UTF-8. @param encoding set to what it was; @return import.binary, import.encoding
Result<std::string> decodeText(RawBytes raw, const std::string& name, std::string& encoding);
/// A quotation mark opens a quoted cell only where a cell begins: in `12"` it is the sign of an inch.
/// @return import.quote-open when one is opened and not closed
Result<void> requireClosedQuotes(std::string_view text, const std::string& name);
/// import.too-large. @param where "by line 7"
tl::unexpected<Error> tooLarge(const std::string& name, const std::string& where, const DelimitedLimits& limits);
/// import.cancelled
tl::unexpected<Error> cancelled(const std::string& name);

struct Line {
    int number = 0; ///< in the file, 1 for the first
    std::string_view text;
};
/// Lines end with LF, CRLF or CR alone, but not between quotation marks.
std::vector<Line> cutLines(std::string_view text);
/// Cells without their quotation marks. A blank as separator stands for any run of blanks, those around the line left
/// out.
std::vector<std::string> cutCells(std::string_view line, char separator);
/// Hands every cell of a line without quotation marks to `take`.
template<class Take> void forEachCell(std::string_view line, char separator, const Take& take) {
    for (std::size_t from = 0; from <= line.size();) {
        const std::size_t to = std::min(line.find(separator, from), line.size());
        take(line.substr(from, to - from));
        from = to + 1;
    }
}
bool isBlank(std::string_view text);
std::string lineText(int line);
int lineAt(std::string_view bytes, std::size_t at);
std::size_t countLineEnds(std::string_view text); ///< LF, CRLF or CR alone

std::vector<Line> filledLines(std::string_view text); ///< without empty ones
/// The lines that begin in the first bytes of a text, or all of it when they are too long for that.
std::vector<Line> firstLines(std::string_view text, std::size_t bytes);
/// Some lines of the head and some of the tail: enough to see how a long table is written.
std::vector<Line> sample(std::string_view text);
std::size_t averageSize(const std::vector<Line>& lines); ///< with the end of the line

/// How cells are parted and numbers written.
struct Notation {
    char separator = ',';
    char decimal = '.';
    bool operator==(const Notation&) const = default;
};
/// The notation under which the most cells are numbers, among those that agree with what is said.
Notation notationOf(std::span<const Line> lines, const SaidNotation& said = {});
/// "// …", "# …" and a line of one cell that begins with #; not "#1,0.5" and not the heading "#,name".
bool isComment(std::string_view line, char separator);

/// Where the headings stand.
struct TableHead {
    std::size_t line = 0; ///< index of its line; the count of lines when there is none
    std::vector<std::string> headings;
};
/// The first line that is no comment and stands in no block of remarks between two lines of dashes; where that one
/// lacks a heading that is wanted, the first that has all of them ("# x, y" too).
/// @param lines that are not blank
TableHead findHead(std::span<const Line> lines, char separator, const std::vector<std::string>& wanted);

} // namespace nuvat
