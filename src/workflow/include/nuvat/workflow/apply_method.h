#pragma once

#include "nuvat/workflow/session.h"

namespace nuvat {

/// Makes a new batch from the method and layout of another and from plate files: roles, levels, QCs, samples and
/// dilutions stay, readings, exclusions and overrides do not. The first file is the reading in use; analytes that name
/// a reading of their own get the file with that number.
/// @param method a batch file whose method is taken, or a method file (.nuvat-method); @param data one plate file or
/// more; @param out where it goes
/// @return the errors of openBatch, readMethod, readPlateFile, addReading and BatchFile::write, or
/// apply.reading-missing when an
///         analyte names a reading that no file gives
Result<OpenBatch> applyMethod(const std::filesystem::path& method, const std::vector<std::filesystem::path>& data,
                              const std::filesystem::path& out, Document::Clock clock = {});

} // namespace nuvat
