#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace nuvat {

/// nuvat-cli potency, described in docs/cli.md. @return the exit status
int potencyCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

} // namespace nuvat
