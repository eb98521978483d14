#pragma once

#include "nuvat/core/base/error.h"
#include "sqlite.h"

namespace nuvat {

// What a person is told of a batch file that cannot be written, or is not as it should be.

tl::unexpected<Error> cannotWrite(const std::filesystem::path& path, const std::string& why);
/// Why an edit was not written, with the step that helps.
tl::unexpected<Error> cannotRecord(const std::filesystem::path& path, const SqliteError& e);
tl::unexpected<Error> damaged(const std::string& name, const std::string& why);
std::string noteOnOlder(const std::string& name);
std::string noteOnBrokenSeal(const std::string& name);

} // namespace nuvat
