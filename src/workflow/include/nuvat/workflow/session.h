#pragma once

#include "nuvat/batch/document.h"
#include "nuvat/formats/plate_file.h"

#include <filesystem>
#include <memory>
#include <string>

namespace nuvat {

/// Reads a file with one read or several. @return what was understood, or the reader's Error, or import.not-found
Result<std::vector<PlateImport>> readPlateFile(const std::filesystem::path& path, Progress& progress,
                                               const PlateCut& cut = {});
/// The reading a batch keeps of an import.
Reading toReading(const PlateImport& import, std::int64_t nowMillis);

/// Takes the reads of one plate or list in. @param carrier where they go; 0: see ImportTarget
/// @return the errors of importReadings
Result<Command> importReads(const Batch& batch, const std::vector<PlateImport>& reads, int carrier,
                            std::int64_t nowMillis);

/// A batch with its file. The document outlives every window that shows it.
struct OpenBatch {
    std::unique_ptr<Document> document;
    std::filesystem::path path;
    bool isNamed = false; ///< false: it lives in the data folder until it is saved under a name
    bool isReadOnly = false;
    MeasuredTraces measured;        ///< what its file remembers of its traces
    std::vector<std::string> notes; ///< sentences to tell: read-only and why, what could not be read, import warnings
};

/// Folder in which batches live that have no name yet: $XDG_DATA_HOME/nuvat/unnamed, or ~/.local/share/…
std::filesystem::path unnamedFolder();
/// Folder of the methods that were kept, beside it.
std::filesystem::path methodsFolder();
/// Whether a batch file is one of those.
bool isUnnamedPath(const std::filesystem::path& path);

/// A fresh identifier of a batch: 16 hexadecimal digits.
std::string newBatchUid();
/// A new batch with a file of its own in the data folder. @return store.cannot-write
Result<OpenBatch> newBatch(Document::Clock clock = {});
/// Opens a batch to edit it. @return the errors of BatchFile::open
Result<OpenBatch> openBatch(const std::filesystem::path& path, Document::Clock clock = {});
/// Opens a batch to look at it: nothing is written, whatever its schema. @return the errors of BatchFile::open
Result<OpenBatch> readBatchFile(const std::filesystem::path& path);
/// Batches of the data folder that were never given a name, the one last changed first.
struct UnnamedBatch {
    std::filesystem::path path;
    std::string title; ///< empty when the file cannot be read
    std::int64_t changedMillis = 0;
};
std::vector<UnnamedBatch> unnamedBatches();
/// Writes the batch to `path` and goes on there. The file of a batch without a name is removed; any other stays.
Result<void> saveAs(OpenBatch& batch, const std::filesystem::path& path);
/// Writes a copy to `path`; the batch stays where it is.
Result<void> saveCopy(const OpenBatch& batch, const std::filesystem::path& path);

/// The demo's plate file as it is understood, under the given file name.
Result<PlateImport> demoImport(const std::string& name);
/// The demo batch of Alderbrook, made by the same commands a person would give: patulin by competitive ELISA.
/// @param path where its file goes; empty: memory only
Result<OpenBatch> demoBatch(const std::filesystem::path& path);

/// A demo batch of Alderbrook.
struct Demo {
    std::string name;  ///< "polyphenols": for command lines
    std::string title; ///< as the start page has it
    std::string line;  ///< what it shows
};
const std::vector<Demo>& demos();
/// @return demo.unknown when there is none of that name
Result<OpenBatch> demoBatch(const std::string& name, const std::filesystem::path& path);

} // namespace nuvat
