#pragma once

#include "nuvat/core/base/error.h"

#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <string_view>
#include <zip.h>

namespace nuvat {

/// A ZIP archive in memory, read only. What it says of sizes is not believed: what comes out is counted.
class ZipArchive {
public:
    /// @param bytes have to outlive the archive; @return zip.damaged, zip.twice when two entries have the same name
    static Result<ZipArchive> open(std::string_view bytes);

    bool has(const std::string& entry) const;
    /// Hands an entry piece by piece to `take`, which returns false when it wants no more.
    /// @return zip.missing, zip.damaged (also when its check sum is wrong), zip.too-large when it unfolds to more than
    ///         a file of its size can hold
    Result<void> read(const std::string& entry, const std::function<bool(std::string_view)>& take) const;
    /// A whole one. @return also zip.too-large when it has more than `most` bytes
    Result<std::string> read(const std::string& entry, std::size_t most) const;

private:
    struct Closing {
        void operator()(zip_t* archive) const { zip_discard(archive); }
    };
    explicit ZipArchive(zip_t* archive) : m_archive(archive) {}
    std::unique_ptr<zip_t, Closing> m_archive;
};

} // namespace nuvat
