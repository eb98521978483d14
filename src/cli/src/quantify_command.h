#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace nuvat {

/// `nuvat-cli quantify`: a batch of peak tables; described in docs/cli.md. @return the exit status
int quantifyCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

} // namespace nuvat
