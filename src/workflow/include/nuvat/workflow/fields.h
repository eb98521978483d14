#pragma once

#include "nuvat/batch/batch.h"

#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

namespace nuvat {

/// What {fields} of a text stand for.
struct FieldValues {
    const Batch& batch;
    std::int64_t millis = 0; ///< now, since 1970-01-01 UTC
    int page = 1, pages = 1;
    int number = 1;                          ///< the running number
    std::optional<Place> run = std::nullopt; ///< whose number, name and vial are meant
};

/// A field and what it stands for, for lists.
struct FieldName {
    const char* name;    ///< "batch"
    const char* meaning; ///< "title of the batch"
};
/// Of the top and foot of pages, and those of file names.
const std::vector<FieldName>& pageFields();
const std::vector<FieldName>& fileFields();
/// Of the names of runs.
const std::vector<FieldName>& runFields();

/// A text with its {fields} filled in; names that are no fields stay as they are.
std::string fillFields(const std::string& pattern, const FieldValues& values);

/// What the reading of a run is called, by the method's pattern or "{date}_{batch}_{run}", as exportFileName writes
/// names.
std::string runFileName(const Batch& batch, Place run, std::int64_t millis);

/// Name of a file that is exported, by the method's pattern or "{date}_{batch}", in lower case with hyphens, without
/// what file systems refuse. @param folder where it goes: the lowest {number} for which there is no file yet is taken,
/// and without {number} "-2" and on goes behind a name that is taken; empty: nothing is looked for.
/// @param ending ".pdf"
std::string exportFileName(const Batch& batch, std::int64_t millis, const std::filesystem::path& folder,
                           const std::string& ending);

} // namespace nuvat
