#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace nuvat {

/// `nuvat-cli plan`: how standards are made from a stock; described in docs/cli.md. @return the exit status
int planCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

} // namespace nuvat
