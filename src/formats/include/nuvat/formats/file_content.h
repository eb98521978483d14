#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace nuvat {

/// What a column of numbers is called and measured in, as the file says it.
struct AxisName {
    std::string name;
    std::string unit;
};

/// A trace, or a table of peaks, as it stands in a file: pairs in the order of the file.
struct FileTrace {
    std::string name;
    std::string place;    ///< where it was taken, in the file's own words: a page, a run; may be empty
    bool isTable = false; ///< rows that stand by themselves, such as peaks, rather than points of a curve
    AxisName xAxis, yAxis;
    std::vector<double> x;
    std::vector<double> y;
    std::vector<std::size_t> missing; ///< points whose y the file leaves open, ascending; y is 0 there
};

/// What a file of traces holds.
struct FileContent {
    std::string format; ///< "JCAMP-DX"
    std::vector<FileTrace> traces;
    std::vector<std::pair<std::string, std::string>> header; ///< the file's own keys and texts, in its order
    std::vector<std::string> warnings;                       ///< sentences about what can be lived with
};

} // namespace nuvat
