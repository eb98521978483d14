#pragma once

#include "nuvat/batch/document.h"
#include "nuvat/batch/evaluation.h"

#include <filesystem>
#include <string>

namespace nuvat {

/// Results as CSV (UTF-8, comma, '.' as decimal sign, full precision, one line a sample): place names, sample,
/// response, read-off, CV, dilution, result, interval, status. Documented in docs/formats/results-csv.md.
/// Several analytes follow each other as tables, each under its name.
std::string resultsCsv(const Batch& batch, const Evaluation& evaluation);
/// One analyte alone.
std::string resultsCsv(const Batch& batch, const AnalyteEvaluation& evaluation);

/// The whole evaluation as JSON with 17 significant digits. Documented in docs/formats/evaluation-json.md.
std::string evaluationJson(const Batch& batch, const Evaluation& evaluation);

/// Results, curves, standards and checks as a workbook (XLSX): numbers as numbers, in full precision; with several
/// analytes a group of sheets for each. Written beside `path` and renamed. @return export.cannot-write
Result<void> writeXlsx(const Batch& batch, const Evaluation& evaluation, const std::filesystem::path& path);

/// Writes a text beside `path` and renames it, so that a file is complete or not there. @return export.cannot-write
Result<void> writeText(const std::filesystem::path& path, const std::string& text);

} // namespace nuvat
