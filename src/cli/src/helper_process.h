#pragma once

#include "nuvat/core/base/error.h"

#include <string>
#include <vector>

namespace nuvat {

/// Runs one of the programs that stand beside this one and waits for it: nuvat-pdf, nuvat-measure. Only these load Qt,
/// which takes longer than evaluating a batch. Their sentences go to standard output and error.
/// @param what for a sentence: "The report", "The list"
/// @return its exit status; cli.no-helper when it is not there, cannot be started or was ended
Result<int> runBeside(const std::string& program, const std::vector<std::string>& arguments, const std::string& what);

} // namespace nuvat
