#pragma once

#include "options.h"

#include "nuvat/formats/file_content.h"

#include <set>

namespace nuvat {

/// A trace that a command works on, x as it stands in the file.
struct TraceInput {
    std::string channel;
    AxisName xAxis, yAxis;
    std::vector<double> x, y; ///< without missing points
    /// What --from and --to refer to, where x is a formula: the first column named in it.
    std::vector<double> at;
};

/// --in, --channel, --x and --y.
const std::set<std::string>& traceOptions();
/// Reads the trace these options name: the channel of a file of traces, or columns of a text, each of which may be a
/// formula of headings.
/// @return the errors of readAnyFile and ColumnTable, peaks.no-trace, or a wrong call
Result<TraceInput> readTrace(const Options& options);
/// A column, or a formula of columns, of another file: "FILE" or "FILE:COLUMN".
Result<TraceInput> readTraceOf(const std::string& path, const std::string& x, const std::string& y);

/// "a:b" in either order. @return a wrong call
Result<std::pair<double, double>> readStretch(const std::string& option, const std::string& text);

} // namespace nuvat
