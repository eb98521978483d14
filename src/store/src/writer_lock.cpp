#include "writer_lock.h"

#include <array>
#include <cerrno>
#include <fcntl.h>
#include <pwd.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <system_error>
#include <unistd.h>

namespace nuvat {

namespace {

std::string ourselves() {
    std::array<char, 256> host{};
    ::gethostname(host.data(), host.size() - 1);
    const passwd* user = ::getpwuid(::getuid());
    return std::string(user != nullptr ? user->pw_name : "somebody") + " on " + host.data() + " (process " +
           std::to_string(::getpid()) + ")";
}

std::string contentOf(int file) {
    std::array<char, 512> text{};
    const ssize_t size = ::pread(file, text.data(), text.size(), 0);
    std::string out(text.data(), size > 0 ? static_cast<std::size_t>(size) : 0);
    std::erase_if(out, [](char c) { return static_cast<unsigned char>(c) < ' '; });
    return out;
}

} // namespace

std::filesystem::path lockPath(const std::filesystem::path& batch) {
    std::error_code ignored;
    const std::filesystem::path real = std::filesystem::weakly_canonical(batch, ignored);
    return real.parent_path() / ("." + real.filename().string().substr(0, 240) + ".lock");
}

WriterLock::Outcome WriterLock::acquire(const std::filesystem::path& batch) {
    const std::filesystem::path path = lockPath(batch);
    constexpr int kAttempts = 20; // the one who held it may just be removing the file
    for (int i = 0; i < kAttempts; ++i) {
        const int file =
            ::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW, S_IRUSR | S_IWUSR | S_IRGRP | S_IROTH);
        if (file < 0) {
            return Impossible{std::generic_category().message(errno)};
        }
        if (::flock(file, LOCK_EX | LOCK_NB) != 0) {
            const int code = errno;
            HeldBy holder{contentOf(file)};
            ::close(file);
            if (code != EWOULDBLOCK) {
                return Impossible{std::generic_category().message(code)};
            }
            return holder;
        }
        struct stat held {};
        struct stat there {};
        const bool isStillThere = ::fstat(file, &held) == 0 && ::stat(path.c_str(), &there) == 0 &&
                                  held.st_ino == there.st_ino && held.st_dev == there.st_dev;
        if (isStillThere) {
            const std::string who = ourselves();
            if (::ftruncate(file, 0) == 0) {
                [[maybe_unused]] const ssize_t written = ::pwrite(file, who.data(), who.size(), 0);
            }
            return std::unique_ptr<WriterLock>(new WriterLock(file, path));
        }
        ::close(file);
    }
    return HeldBy{};
}

WriterLock::~WriterLock() {
    std::error_code ignored;
    std::filesystem::remove(m_path, ignored); // before the lock goes, so that nobody locks a name that is about to go
    ::close(m_file);
}

} // namespace nuvat
