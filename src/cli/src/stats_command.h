#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace nuvat {

/// `nuvat-cli stats`: descriptive statistics, an outlier test and, with groups, analysis of variance and tests of equal
/// variances; JSON on `out`. Documented in docs/cli.md. @return exit status as runCommandLine
int statsCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

} // namespace nuvat
