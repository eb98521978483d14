#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace nuvat {

/// `nuvat-cli detect`: limits of detection and quantitation by every method that the data allow; JSON on `out`.
/// Documented in docs/cli.md. @return exit status as runCommandLine
int detectCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

} // namespace nuvat
