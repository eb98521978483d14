#pragma once

#include "nuvat/batch/command.h"
#include "nuvat/formats/any_file.h"

#include <filesystem>

namespace nuvat {

/// A file of traces as it was read.
struct TraceFile {
    FileContent content;
    std::string source;   ///< file name
    std::string checksum; ///< of its bytes
};

/// The runs of a file of traces: one, or one for each place that the file names. A curve that goes forth and back is
/// cut into sweeps, each a channel: "current · sweep 2, falling". Tables of peaks are left out.
/// @param recipe what is to be taken otherwise than the file has it
/// @return trace.not-rising for x that turns too often, peaks.no-trace without a trace or with all of them left out
Result<std::vector<ImportedRun>> runsOf(const TraceFile& file, const TraceRecipe& recipe = {});

/// The names of what a file measured, in its order, each once: what can be x, and what channels are made of.
std::vector<std::string> columnNames(const FileContent& content);

/// What files and folders stand for: folders are replaced by the files in them that are not hidden. All are in the
/// order of their names, numbers counted ("run 2" before "run 10").
std::vector<std::filesystem::path> filesIn(const std::vector<std::filesystem::path>& paths);

/// What was read of files that were given together.
struct FilesRead {
    std::vector<TraceFile> traces;
    std::vector<PlateImport> plates;        ///< of one file; empty where traces are not
    std::vector<Error> errors;              ///< of files that could not be read
    std::shared_ptr<const PlateFile> cells; ///< of a single file in which no plate was found: they can be marked
    std::size_t count = 0;                  ///< how many were read, from the first on; the others wait
};
/// Reads the first file, and where it holds traces all that follow and do too, until one holds plates; several at once
/// on all processors.
/// @return import.cancelled
/// @param cut how files of plates are read
Result<FilesRead> readNext(const std::vector<std::filesystem::path>& files, Progress& progress,
                           const PlateCut& cut = {});
/// The same for a pasted block. @return the error of its reader, where not even cells can be shown
Result<FilesRead> readPasted(const std::string& text);

} // namespace nuvat
