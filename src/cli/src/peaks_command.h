#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace nuvat {

/// nuvat-cli peaks, described in docs/cli.md. @return the exit status
int peaksCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

} // namespace nuvat
