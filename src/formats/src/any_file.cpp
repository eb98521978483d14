#include "nuvat/formats/any_file.h"

#include "nuvat/formats/andi.h"
#include "nuvat/formats/jcamp.h"
#include "nuvat/formats/mzml.h"
#include "nuvat/formats/trace_text.h"
#include "text_input.h"

#include <array>
#include <fstream>
#include <sstream>

namespace nuvat {

namespace {

using namespace std::string_view_literals;

constexpr std::size_t kHead = 4096;

/// The name of a format that is recognised by its first bytes and has no reader yet.
std::optional<std::string> formatNotReadYet(std::string_view bytes) {
    constexpr std::array<std::pair<std::string_view, const char*>, 2> kBegins{
        {{"FCS"sv, "FCS"}, {"PK\x03\x04"sv, "a spreadsheet or another ZIP archive"}}};
    for (const auto& [begin, name] : kBegins) {
        if (bytes.starts_with(begin)) {
            return name;
        }
    }
    if (bytes.substr(0, kHead).find("<mzXML") != std::string_view::npos) {
        return "mzXML";
    }
    return std::nullopt;
}

/// XML in UTF-8 or in UTF-16, which the head of a file tells.
bool looksLikeXml(std::string_view bytes) {
    return bytes.starts_with("<?xml") || bytes.starts_with("\xEF\xBB\xBF<?xml") ||
           bytes.starts_with("\xFF\xFE<\0?\0"sv) || bytes.starts_with("\xFE\xFF\0<\0?"sv) ||
           bytes.starts_with("<\0?\0x\0"sv);
}

Result<AnyContent> traces(Result<FileContent> content, const std::string& name) {
    if (!content) {
        return fail(content.error().code, name + ": " + content.error().message, content.error().advice);
    }
    return AnyContent(std::move(*content));
}

Result<AnyContent> readText(const std::string& bytes, const std::string& name, Progress& progress) {
    std::istringstream plateStream(bytes);
    auto plates = readPlates(plateStream, name, progress);
    if (plates && !isTraceList(*plates)) {
        return AnyContent(std::move(*plates));
    }
    if (!plates && plates.error().code != "import.no-plate" && plates.error().code != "import.too-large") {
        return tl::unexpected(plates.error());
    }
    std::istringstream stream(bytes);
    auto content = readTraceText(stream, name, progress);
    if (content) {
        return AnyContent(std::move(*content));
    }
    if (plates) {
        return AnyContent(std::move(*plates));
    }
    const std::string& code = content.error().code;
    return tl::unexpected(code == "import.no-columns" || code == plates.error().code ? plates.error()
                                                                                     : content.error());
}

} // namespace

bool isTraceList(const std::vector<PlateImport>& plates) {
    constexpr std::size_t kLeast = 10;
    const PlateImport& first = plates.front();
    if (!first.isRunList || plates.size() < 2 || first.wells.size() < kLeast) {
        return false;
    }
    for (std::size_t i = 1; i < first.wells.size(); ++i) {
        if (!first.wells[i].value || !first.wells[i - 1].value || *first.wells[i].value <= *first.wells[i - 1].value) {
            return false;
        }
    }
    return true;
}

Result<AnyContent> readAnyBytes(std::string bytes, const std::string& name, Progress& progress) {
    const std::string_view head = std::string_view(bytes).substr(0, kHead);
    if (looksLikeJcamp(head)) {
        return traces(readJcamp(bytes), name);
    }
    if (looksLikeNetcdf(bytes)) {
        return traces(readAndi(bytes), name);
    }
    if (bytes.starts_with("\x89HDF")) {
        return fail("andi.not-a-chromatogram", name + " is netCDF-4 (HDF5); ANDI chromatograms are classic netCDF.",
                    "Export it as ANDI (AIA, .cdf).");
    }
    if (const auto format = formatNotReadYet(bytes)) {
        return fail("read.not-yet", name + " is " + *format + ", which is not read yet.",
                    "Export it as text, or as JCAMP-DX.");
    }
    if (looksLikeMzml(head) || looksLikeXml(head) || bytes.starts_with("\x1f\x8b")) {
        return traces(readMzml(bytes), name);
    }
    return readText(bytes, name, progress);
}

Result<AnyContent> readAnyFile(const std::filesystem::path& path, Progress& progress) {
    std::error_code error;
    if (std::filesystem::is_directory(path, error)) {
        return fail("import.not-found", path.string() + " is a folder, not a file.", "Choose a file in it.");
    }
    std::ifstream stream(path, std::ios::binary);
    if (!stream) {
        return fail("import.not-found",
                    path.string() + " cannot be opened: there is no such file, or you may not read it.",
                    "Choose another file.");
    }
    constexpr std::uintmax_t kMost = 1'000'000'000;
    const std::uintmax_t size = std::filesystem::file_size(path, error);
    if (!error && size > kMost) {
        return fail("import.too-large", path.string() + " has more than a gigabyte.", "Export a part of it.");
    }
    const std::string name = path.filename().string();
    std::string bytes;
    bytes.reserve(error ? 0 : size);
    std::string block(1u << 17, '\0');
    while (stream && bytes.size() <= kMost) { // what has no size may have no end
        stream.read(block.data(), static_cast<std::streamsize>(block.size()));
        bytes.append(block, 0, static_cast<std::size_t>(stream.gcount()));
        if (progress.cancelled()) {
            return cancelled(name);
        }
    }
    return readAnyBytes(std::move(bytes), name, progress);
}

} // namespace nuvat
