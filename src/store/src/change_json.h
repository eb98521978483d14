#pragma once

#include "nuvat/batch/command.h"

#include <string>
#include <vector>

namespace nuvat {

/// The changes of a command as JSON, for the batch file's table `command`.
std::string changesToJson(const std::vector<Change>& changes);
/// The inverse. @throws std::exception when the text is not what changesToJson writes
std::vector<Change> changesFromJson(const std::string& text, const std::shared_ptr<PayloadSource>& payloads);

} // namespace nuvat
