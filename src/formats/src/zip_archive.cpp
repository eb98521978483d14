#include "zip_archive.h"

#include "nuvat/core/base/text.h"

#include <array>

namespace nuvat {

namespace {

tl::unexpected<Error> damaged(const std::string& what) {
    return fail("zip.damaged", what, "The file may be cut: copy or export it again.");
}

} // namespace

Result<ZipArchive> ZipArchive::open(std::string_view bytes) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(bytes.data(), bytes.size(), 0, &error);
    zip_t* opened = source ? zip_open_from_source(source, ZIP_RDONLY | ZIP_CHECKCONS, &error) : nullptr;
    if (!opened) {
        const bool isTwice = zip_error_code_zip(&error) == ZIP_ER_EXISTS;
        const std::string why = zip_error_strerror(&error);
        zip_error_fini(&error);
        if (source) {
            zip_source_free(source);
        }
        return isTwice
                   ? fail("zip.twice", "The archive holds two parts of the same name, which may say different things.",
                          "Save the file again by the program that made it.")
                   : damaged("The ZIP archive is damaged (" + why + ").");
    }
    return ZipArchive(opened);
}

bool ZipArchive::has(const std::string& entry) const {
    return zip_name_locate(m_archive.get(), entry.c_str(), 0) >= 0;
}

Result<void> ZipArchive::read(const std::string& entry, const std::function<bool(std::string_view)>& take) const {
    zip_stat_t stat;
    if (zip_stat(m_archive.get(), entry.c_str(), 0, &stat) != 0) {
        return fail("zip.missing", "The archive lacks \"" + excerpt(entry) + "\".",
                    "Save the file again by the program that made it.");
    }
    const std::unique_ptr<zip_file_t, int (*)(zip_file_t*)> file(zip_fopen(m_archive.get(), entry.c_str(), 0),
                                                                 zip_fclose);
    if (!file) {
        return damaged("\"" + excerpt(entry) + "\" cannot be unpacked (" + zip_strerror(m_archive.get()) + ").");
    }
    // Sheets shrink to a tenth or a thirtieth; a thousandth is made to fill memory.
    constexpr std::uint64_t kSmall = 20'000'000, kMost = 1'000'000'000, kRatio = 200;
    const std::uint64_t most = std::min(kMost, std::max(kSmall, kRatio * stat.comp_size));
    std::array<char, 1 << 16> piece;
    std::uint64_t total = 0;
    while (true) {
        const zip_int64_t size = zip_fread(file.get(), piece.data(), piece.size());
        if (size < 0) {
            return damaged("\"" + excerpt(entry) + "\" is damaged (" + zip_file_strerror(file.get()) + ").");
        }
        if (size == 0) {
            return {};
        }
        total += static_cast<std::uint64_t>(size);
        if (total > most) {
            return fail("zip.too-large",
                        "\"" + excerpt(entry) + "\" unfolds to more than " + std::to_string(most / 1'000'000) +
                            " megabytes, far more than a sheet of its size can hold.",
                        "Export the readings alone.");
        }
        if (!take({piece.data(), static_cast<std::size_t>(size)})) {
            return {};
        }
    }
}

Result<std::string> ZipArchive::read(const std::string& entry, std::size_t most) const {
    std::string out;
    bool isTooLarge = false;
    const auto done = read(entry, [&](std::string_view piece) {
        out += piece;
        isTooLarge = out.size() > most;
        return !isTooLarge;
    });
    if (!done) {
        return tl::unexpected(done.error());
    }
    if (isTooLarge) {
        return fail("zip.too-large", "\"" + excerpt(entry) + "\" is larger than such a part can be.",
                    "Export the readings alone.");
    }
    return out;
}

} // namespace nuvat
