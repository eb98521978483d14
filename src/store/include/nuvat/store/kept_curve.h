#pragma once

#include "nuvat/batch/method.h"
#include "nuvat/core/base/error.h"

#include <filesystem>
#include <string>

namespace nuvat {

/// A kept curve as JSON, as it stands in batch files and in files of its own (`.nuvat-curve`). Numbers are written so
/// that reading gives the same doubles.
std::string keptCurveText(const KeptCurve& curve);
/// @return curve.not-read when the text is no such JSON
Result<KeptCurve> keptCurveFromText(const std::string& text);

/// Writes a curve to a file of its own, whole or not at all. @return export.cannot-write
Result<void> writeKeptCurve(const std::filesystem::path& path, const KeptCurve& curve);
/// @return curve.not-read
Result<KeptCurve> readKeptCurve(const std::filesystem::path& path);

} // namespace nuvat
