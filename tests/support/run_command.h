#pragma once

#include "nuvat/cli/command_line.h"

#include <sstream>
#include <string>
#include <vector>

namespace nuvat::test {

/// What a call of nuvat-cli left behind.
struct Ran {
    int status;
    std::string out;
    std::string err;
};

inline Ran run(const std::vector<std::string>& arguments) {
    std::ostringstream out;
    std::ostringstream err;
    const int status = runCommandLine(arguments, out, err);
    return {status, out.str(), err.str()};
}

} // namespace nuvat::test
