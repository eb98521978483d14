#pragma once

#include "nuvat/formats/file_content.h"
#include "nuvat/formats/plate_file.h"

#include <filesystem>
#include <variant>

namespace nuvat {

/// Traces, or the reads of plates and lists.
using AnyContent = std::variant<FileContent, std::vector<PlateImport>>;

/// Whether what was read as a list of samples is rather one curve: ten rows or more whose first numbers, a time, rise
/// from row to row, with others beside them.
bool isTraceList(const std::vector<PlateImport>& plates);

/// Reads a file by what its bytes say it is: JCAMP-DX, ANDI chromatography, mzML, mzML in gzip; else text, which holds
/// plates, lists or traces.
/// @return import.not-found, read.not-yet for a format without a reader, or the error of its reader
Result<AnyContent> readAnyFile(const std::filesystem::path& path, Progress& progress);
/// The same for bytes, and for a pasted block. @param name what it is called in sentences
Result<AnyContent> readAnyBytes(std::string bytes, const std::string& name, Progress& progress);

} // namespace nuvat
