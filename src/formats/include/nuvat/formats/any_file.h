#pragma once

#include "nuvat/formats/file_content.h"
#include "nuvat/formats/plate_file.h"
#include "nuvat/formats/workbook.h"

#include <filesystem>
#include <variant>

namespace nuvat {

/// Traces, or the reads of plates and lists.
using AnyContent = std::variant<FileContent, std::vector<PlateImport>>;

/// Whether what was read as a list of samples is rather one curve: ten rows or more whose first numbers, a time, rise
/// from row to row, with others beside them.
bool isTraceList(const std::vector<PlateImport>& plates);

/// The bytes of a file. @return import.not-found, import.too-large, import.cancelled
Result<std::string> readFileBytes(const std::filesystem::path& path, Progress& progress);

/// What one sheet holds, as text would be understood. @param name of the file; @param checksum of its bytes
Result<AnyContent> readSheet(const Workbook& workbook, const Sheet& sheet, const std::string& name,
                             const std::string& checksum);
/// What the visible sheets hold: the plates of all, or, where there are none, the traces; sheets with neither are named
/// in a warning.
/// @param cut where it marks cells, those are all that is read
/// @return the error of the first sheet when none holds anything
Result<AnyContent> readSheets(const Workbook& workbook, const std::string& name, const std::string& checksum,
                              const PlateCut& cut = {});

/// Reads a file by what its bytes say it is: JCAMP-DX, ANDI chromatography, mzML, mzML in gzip, XLSX, ODS; else text.
/// Text and sheets hold plates, lists or traces.
/// @return import.not-found, read.not-yet for a format without a reader, or the error of its reader
Result<AnyContent> readAnyFile(const std::filesystem::path& path, Progress& progress, const PlateCut& cut = {});
/// The same for bytes, and for a pasted block. @param name what it is called in sentences
Result<AnyContent> readAnyBytes(std::string bytes, const std::string& name, Progress& progress,
                                const PlateCut& cut = {});
/// The cells of a text, or of the first visible sheet that has some, where no plate was found in them.
/// @return nothing where there are none to show
std::shared_ptr<const PlateFile> cellsOfBytes(const std::string& bytes, const std::string& name, Progress& progress);

} // namespace nuvat
