#pragma once

#include "nuvat/core/base/error.h"
#include "nuvat/core/base/progress.h"

#include <filesystem>
#include <string>

namespace nuvat {

/// Names of samples from a text, or the first visible sheet of a spreadsheet with anything in it, as pasteSampleNames()
/// takes them: one a line, with the dilution behind a tab where the file has one. Under headings the columns are found
/// by what they are called (sample, name, …; dilution, factor); else the first is the name, and the second, where it is
/// a number in every line, the dilution. A line of text without such a second column is a name as a whole.
/// @return the errors of readFileBytes and of its reader, samples.none
Result<std::string> readSampleNames(const std::filesystem::path& path, Progress& progress);

} // namespace nuvat
