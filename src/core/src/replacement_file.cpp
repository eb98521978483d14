#include "nuvat/core/base/replacement_file.h"

#include <cerrno>
#include <chrono>
#include <cstring>
#include <fcntl.h>
#include <sys/stat.h>
#include <system_error>
#include <unistd.h>
#include <utility>

namespace nuvat {

namespace {

constexpr std::string_view kEnding = ".part";
constexpr std::size_t kRandomLetters = 6; // of mkstemp

tl::unexpected<Error> cannotWrite(const std::filesystem::path& path, int code) {
    return fail("file.cannot-write",
                path.string() + " cannot be written (" + std::generic_category().message(code) +
                    "); what was there is as it was.",
                "Check that the disk has room and that you may write there, or choose another place.");
}

unsigned modeFor(const std::filesystem::path& target, ReplacementFile::Access access) {
    struct stat found {};
    if (::stat(target.c_str(), &found) == 0) {
        return found.st_mode & 07777u;
    }
    if (access == ReplacementFile::Access::Private) {
        return S_IRUSR | S_IWUSR;
    }
    const mode_t mask = ::umask(0);
    ::umask(mask);
    return 0666u & ~mask;
}

/// Removes what an earlier write of the same target left when its process was killed: files of our own naming that
/// nobody has touched for a day.
void removeLeftovers(const std::filesystem::path& folder, const std::string& prefix) {
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(folder, error)) {
        const std::string name = entry.path().filename().string();
        const bool isOurs = name.starts_with(prefix) &&
                            name.size() >= prefix.size() + kRandomLetters + kEnding.size() &&
                            name.substr(prefix.size() + kRandomLetters, kEnding.size()) == kEnding;
        const auto written = isOurs ? entry.last_write_time(error) : std::filesystem::file_time_type();
        if (isOurs && !error && std::filesystem::file_time_type::clock::now() - written > std::chrono::hours(24)) {
            std::filesystem::remove(entry.path(), error);
        }
    }
}

/// @return 0, or errno
int syncFile(const std::filesystem::path& path) {
    const int file = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (file < 0) {
        return errno;
    }
    const int code = ::fsync(file) == 0 ? 0 : errno;
    ::close(file);
    return code;
}

/// @return 0, or errno
int writeAll(const std::filesystem::path& path, std::string_view text) {
    const int file = ::open(path.c_str(), O_WRONLY | O_TRUNC | O_CLOEXEC);
    if (file < 0) {
        return errno;
    }
    while (!text.empty()) {
        const ssize_t written = ::write(file, text.data(), text.size());
        if (written < 0 && errno != EINTR) {
            const int code = errno;
            ::close(file);
            return code;
        }
        text.remove_prefix(written > 0 ? static_cast<std::size_t>(written) : 0);
    }
    return ::close(file) == 0 ? 0 : errno;
}

} // namespace

Result<ReplacementFile> ReplacementFile::beside(const std::filesystem::path& target, Access access) {
    std::error_code error;
    ReplacementFile out;
    out.m_target = target;
    if (std::filesystem::is_symlink(target, error)) {
        out.m_target = std::filesystem::weakly_canonical(target, error);
        if (error) {
            return cannotWrite(target, error.value());
        }
    }
    const auto status = std::filesystem::status(out.m_target, error);
    if (std::filesystem::exists(status) && !std::filesystem::is_regular_file(status)) {
        return cannotWrite(target, std::filesystem::is_directory(status) ? EISDIR : EINVAL);
    }
    out.m_mode = modeFor(out.m_target, access);
    const std::filesystem::path folder =
        out.m_target.has_parent_path() ? out.m_target.parent_path() : std::filesystem::path(".");
    // A name of full length leaves no room for what is added.
    constexpr std::size_t kMostOfName = 200;
    const std::string prefix = "." + out.m_target.filename().string().substr(0, kMostOfName) + ".";
    removeLeftovers(folder, prefix);
    std::string name = (folder / (prefix + std::string(kRandomLetters, 'X') + std::string(kEnding))).string();
    const int file = ::mkstemps(name.data(), static_cast<int>(kEnding.size())); // mode 0600
    if (file < 0) {
        return cannotWrite(target, errno);
    }
    ::close(file);
    out.m_path = name;
    return out;
}

ReplacementFile::ReplacementFile(ReplacementFile&& other) noexcept
    : m_path(std::exchange(other.m_path, {})), m_target(std::move(other.m_target)), m_mode(other.m_mode) {}

ReplacementFile::~ReplacementFile() {
    if (!m_path.empty()) {
        std::error_code ignored;
        std::filesystem::remove(m_path, ignored);
    }
}

Result<void> ReplacementFile::commit() {
    if (const int code = syncFile(m_path); code != 0) {
        return cannotWrite(m_target, code);
    }
    if (::chmod(m_path.c_str(), m_mode) != 0 || ::rename(m_path.c_str(), m_target.c_str()) != 0) {
        return cannotWrite(m_target, errno);
    }
    m_path.clear();
    syncFolder(m_target.parent_path());
    return {};
}

Result<void> replaceFile(const std::filesystem::path& target, std::string_view text) {
    std::error_code error;
    const auto status = std::filesystem::status(target, error);
    if (std::filesystem::is_character_file(status) || std::filesystem::is_fifo(status)) {
        const int code = writeAll(target, text); // a terminal or a pipe has no content that could be torn
        return code == 0 ? Result<void>() : Result<void>(cannotWrite(target, code));
    }
    auto file = ReplacementFile::beside(target);
    if (!file) {
        return tl::unexpected(file.error());
    }
    if (const int code = writeAll(file->path(), text); code != 0) {
        return cannotWrite(target, code);
    }
    return file->commit();
}

void syncFolder(const std::filesystem::path& folder) {
    const int directory = ::open(folder.empty() ? "." : folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (directory >= 0) {
        ::fsync(directory);
        ::close(directory);
    }
}

} // namespace nuvat
