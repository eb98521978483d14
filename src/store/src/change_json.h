#pragma once

#include "nuvat/batch/command.h"

#include <string>
#include <vector>

namespace nuvat {

/// The changes of a command as JSON, for the batch file's table `command`.
std::string changesToJson(const std::vector<Change>& changes);
/// The inverse. @throws std::exception when the text is not what changesToJson writes
std::vector<Change> changesFromJson(const std::string& text, const std::shared_ptr<PayloadSource>& payloads);

/// Names of the report's blocks as one text, and back.
std::string joinedNames(const std::vector<std::string>& names);
std::vector<std::string> splitNames(const std::string& text);

} // namespace nuvat
