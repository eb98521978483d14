#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace nuvat {

/// `nuvat-cli compare`: ranks models and weightings by how well they give the standards back; JSON on `out`.
/// Documented in docs/cli.md. @return exit status as runCommandLine
int compareCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

} // namespace nuvat
