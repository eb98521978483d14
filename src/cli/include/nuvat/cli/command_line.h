#pragma once

#include <ostream>
#include <string>
#include <vector>

namespace nuvat {

/// Runs `nuvat-cli` with these arguments (without the program's name). Results go to `out`, sentences to `err`.
/// @return exit status: 0 done, 1 the data do not allow it, 2 wrong call
int runCommandLine(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

} // namespace nuvat
