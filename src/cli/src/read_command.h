#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace nuvat {

/// `nuvat-cli read`: what a file of an instrument holds, as JSON on `out`. Documented in docs/cli.md.
/// @return exit status as runCommandLine; 1 also for a format that is known and not read yet
int readCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

} // namespace nuvat
