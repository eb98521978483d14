#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace nuvat {

/// `nuvat-cli fit`: fits a calibration model to columns of a CSV and reads responses off; JSON on `out`.
/// Documented in docs/cli.md. @return exit status as runCommandLine
int fitCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

} // namespace nuvat
