#pragma once

#include "nuvat/core/base/error.h"

#include <filesystem>
#include <string>

namespace nuvat {

/// A file that is written beside its target under a name nobody can foresee, and then takes the target's place in one
/// step, so that a person finds either the old content or the new one whole. A link as target stays a link: what it
/// points to is replaced. The mode of an existing target is kept.
/// POSIX only (mkstemp, fsync, rename).
class ReplacementFile {
public:
    enum class Access { Usual, Private }; ///< of a new target: as the umask has it, or for its owner alone

    /// Makes the empty file. @return file.cannot-write
    static Result<ReplacementFile> beside(const std::filesystem::path& target, Access access = Access::Usual);
    ~ReplacementFile(); ///< removes the file unless it was committed
    ReplacementFile(ReplacementFile&& other) noexcept;
    ReplacementFile& operator=(ReplacementFile&&) = delete;

    const std::filesystem::path& path() const { return m_path; }     ///< to write to
    const std::filesystem::path& target() const { return m_target; } ///< with links followed
    /// Brings file and folder to the disk and renames. @return file.cannot-write; the target then is as it was
    Result<void> commit();

private:
    ReplacementFile() = default;
    std::filesystem::path m_path, m_target;
    unsigned m_mode = 0;
};

/// Writes a whole text. @return file.cannot-write
Result<void> replaceFile(const std::filesystem::path& target, std::string_view text);

/// Brings the entries of a folder to the disk, so that a rename or removal survives a power cut. Where the file system
/// does not offer that, nothing happens.
void syncFolder(const std::filesystem::path& folder);

} // namespace nuvat
