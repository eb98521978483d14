#pragma once

#include "nuvat/core/base/error.h"

#include <filesystem>

namespace nuvat {

/// Renders every main page from the demo data to PNG at 1280×800 into `folder`, without a display.
/// @return shots.cannot-write
Result<void> takeShots(const std::filesystem::path& folder, const std::string& demo);

} // namespace nuvat
