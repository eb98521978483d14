#pragma once

#include "nuvat/batch/batch.h"

#include <string>

namespace nuvat {

/// A rule as the JSON that a batch file keeps of it: {"kind":"value","formula":"450 nm − 620 nm"}.
std::string ruleText(const ResponseRule& rule);
/// The inverse. @throws std::exception when the text is not what ruleText writes
ResponseRule ruleFromText(const std::string& text);

} // namespace nuvat
