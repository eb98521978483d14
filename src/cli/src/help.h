#pragma once

#include <string>
#include <string_view>

namespace nuvat {

/// One line a command.
std::string overview();
/// What `nuvat-cli COMMAND --help` says: the call, every option, what comes out. Empty for an unknown command.
std::string_view helpOf(std::string_view command);

} // namespace nuvat
