#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace nuvat {

/// `nuvat-cli solve`: fits a formula to columns of a CSV by non-linear least squares; JSON on `out`.
/// Documented in docs/cli.md. @return exit status as runCommandLine
int solveCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

} // namespace nuvat
