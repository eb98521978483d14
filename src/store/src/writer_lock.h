#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <variant>

namespace nuvat {

/// One writer a batch: held while a batch is open for editing, released by its end and by the end of its process,
/// however that comes. It is an advisory lock (flock) on a hidden file beside the batch that says who holds it; the
/// batch file itself cannot carry it, since closing any descriptor of it would drop SQLite's own locks.
class WriterLock {
public:
    struct HeldBy {
        std::string who; ///< "ana on lab7 (process 4211)"; may be empty
    };
    struct Impossible { // no file can be made there
        std::string why;
    };
    using Outcome = std::variant<std::unique_ptr<WriterLock>, HeldBy, Impossible>;
    static Outcome acquire(const std::filesystem::path& batch);
    ~WriterLock();
    WriterLock(const WriterLock&) = delete;
    WriterLock& operator=(const WriterLock&) = delete;

private:
    WriterLock(int file, std::filesystem::path path) : m_file(file), m_path(std::move(path)) {}
    int m_file;
    std::filesystem::path m_path;
};

/// Where the lock of a batch lies.
std::filesystem::path lockPath(const std::filesystem::path& batch);

} // namespace nuvat
