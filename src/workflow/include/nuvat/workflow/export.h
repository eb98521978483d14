#pragma once

#include "nuvat/batch/document.h"
#include "nuvat/batch/evaluation.h"

#include <filesystem>
#include <string>

namespace nuvat {

/// Results as CSV (UTF-8, comma, '.' as decimal sign, full precision, one line a sample): place names, sample,
/// response, read-off, CV, dilution, result, interval, status. Documented in docs/formats/results-csv.md.
std::string resultsCsv(const Batch& batch, const Evaluation& evaluation);

/// The whole evaluation as JSON with 17 significant digits. Documented in docs/formats/evaluation-json.md.
std::string evaluationJson(const Batch& batch, const Evaluation& evaluation);

/// Writes a text beside `path` and renames it, so that a file is complete or not there. @return export.cannot-write
Result<void> writeText(const std::filesystem::path& path, const std::string& text);

} // namespace nuvat
