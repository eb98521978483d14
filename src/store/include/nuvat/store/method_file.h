#pragma once

#include "nuvat/batch/command.h"
#include "nuvat/core/base/error.h"

#include <filesystem>
#include <string>
#include <vector>

namespace nuvat {

/// A method as a file of its own: the recipe with its layout, without readings, names of samples and decisions.
struct MethodFile {
    Method method;
    std::map<int, Carrier> carriers;
    std::map<Place, Assignment> places;
    std::map<LevelKey, Level> levels;
    std::map<QcKey, QcSample> qcs;
    bool operator==(const MethodFile&) const = default;
};

/// What of a batch is its method.
MethodFile methodOf(const Batch& batch);
/// As JSON with the names that undo entries use; numbers are written so that reading gives the same doubles.
std::string methodText(const MethodFile& file);
/// @return method.not-read when the text is no such JSON, or the errors of validate
Result<MethodFile> methodFromText(const std::string& text);
/// @return method.not-read, with the path
Result<MethodFile> readMethod(const std::filesystem::path& path);

/// A method of a folder, by its revisions.
struct MethodEntry {
    std::string title;
    std::vector<int> revisions; ///< rising
};
/// A folder of methods: each revision is a file, "patulin-kit_r4.nuvat-method", and none is ever changed.
class MethodLibrary {
public:
    explicit MethodLibrary(std::filesystem::path folder) : m_folder(std::move(folder)) {}
    std::vector<MethodEntry> entries() const; ///< by title
    std::filesystem::path pathOf(const std::string& title, int revision) const;
    /// The newest revision of a title. @return method.not-read where there is none
    Result<MethodFile> newest(const std::string& title) const;
    /// Keeps a method as the next revision of its title, 1 for the first; nothing is written where the newest is the
    /// same.
    /// @return the revision that it has then; export.cannot-write
    Result<int> keep(MethodFile file) const;

private:
    std::filesystem::path m_folder;
};

/// What differs between two methods, one line a difference: "analytes 1, weighting: none → 1/y2". Empty where nothing
/// does.
std::vector<std::string> methodDifferences(const MethodFile& before, const MethodFile& after);

/// A batch takes the method with its layout. Readings, samples and decisions stay; a batch without readings takes its
/// plates too. @return method.other-carriers where readings are on plates of other sizes, the errors of setMethod
Result<Command> useMethod(const Batch& batch, const MethodFile& file);

} // namespace nuvat
