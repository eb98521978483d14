#include "nuvat/formats/any_file.h"

#include "nuvat/core/base/checksum.h"
#include "nuvat/core/base/text.h"
#include "nuvat/formats/andi.h"
#include "nuvat/formats/jcamp.h"
#include "nuvat/formats/mzml.h"
#include "nuvat/formats/mzxml.h"
#include "nuvat/formats/trace_text.h"
#include "text_input.h"

#include <algorithm>
#include <array>
#include <fstream>
#include <functional>
#include <sstream>

namespace nuvat {

namespace {

using namespace std::string_view_literals;

constexpr std::size_t kHead = 4096;

/// The name of a format that is recognised by its first bytes and has no reader yet.
std::optional<std::string> formatNotReadYet(std::string_view bytes) {
    constexpr std::array<std::pair<std::string_view, const char*>, 2> kBegins{
        {{"FCS"sv, "FCS"}, {"\xD0\xCF\x11\xE0"sv, "an old spreadsheet, or one that is protected by a password"}}};
    for (const auto& [begin, name] : kBegins) {
        if (bytes.starts_with(begin)) {
            return name;
        }
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

/// What a table is: plates or lists, unless it looks more like traces.
Result<AnyContent> understood(Result<std::vector<PlateImport>> plates,
                              const std::function<Result<FileContent>()>& readTraces) {
    if (plates && !isTraceList(*plates)) {
        return AnyContent(std::move(*plates));
    }
    if (!plates && plates.error().code != "import.no-plate" && plates.error().code != "import.too-large") {
        return tl::unexpected(plates.error());
    }
    auto content = readTraces();
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

Result<AnyContent> readText(const std::string& bytes, const std::string& name, Progress& progress,
                            const PlateCut& cut) {
    std::istringstream stream(bytes);
    auto plates = readPlates(stream, name, progress, {}, cut);
    if (plates && !cut.blocks.empty()) { // marked by a person, who knows what they are
        return AnyContent(std::move(*plates));
    }
    return understood(std::move(plates), [&] {
        std::istringstream again(bytes);
        return readTraceText(again, name, progress);
    });
}

Result<AnyContent> readMarkedCells(const Workbook& workbook, const std::string& name, const std::string& checksum,
                                   const PlateCut& cut) {
    std::vector<PlateImport> out;
    for (const CellBlock& block : cut.blocks) {
        const auto sheet = std::ranges::find(workbook.sheets, block.sheet, &Sheet::name);
        if (sheet == workbook.sheets.end()) {
            return fail("import.outside", name + " has no sheet " + excerpt(block.sheet) + ", where cells were marked.",
                        "Mark cells that the file has, or read it as it is found.");
        }
        auto file = std::make_shared<const PlateFile>(
            PlateFile{name + ", sheet " + excerpt(sheet->name), {}, tableOf(workbook, *sheet, checksum)});
        auto one = readPlates(file, PlateCut{{}, {block}});
        if (!one) {
            return tl::unexpected(one.error());
        }
        out.push_back(std::move(one->front()));
        out.back().source = name;
    }
    return AnyContent(std::move(out));
}

} // namespace

Result<AnyContent> readSheet(const Workbook& workbook, const Sheet& sheet, const std::string& name,
                             const std::string& checksum) {
    const std::string where = name + ", sheet " + excerpt(sheet.name);
    if (sheet.cells.empty()) {
        return fail("import.empty", where + " is empty.", "Choose a file with a plate matrix or a list of wells.");
    }
    return understood(readPlates(tableOf(workbook, sheet, checksum), where),
                      [&] { return readTraceTable(tableOf(workbook, sheet, checksum), where); });
}

Result<AnyContent> readSheets(const Workbook& workbook, const std::string& name, const std::string& checksum,
                              const PlateCut& cut) {
    if (!cut.blocks.empty()) {
        return readMarkedCells(workbook, name, checksum, cut);
    }
    std::vector<PlateImport> plates;
    FileContent traces;
    std::vector<std::string> leftOut;
    std::optional<Error> first;
    for (const Sheet& sheet : workbook.sheets) {
        if (sheet.cells.empty()) {
            continue;
        }
        if (sheet.isHidden) {
            leftOut.push_back("Sheet " + excerpt(sheet.name) + " is hidden and was left out.");
            continue;
        }
        auto content = readSheet(workbook, sheet, name, checksum);
        if (!content) {
            first = first ? first : content.error();
            leftOut.push_back("Sheet " + excerpt(sheet.name) + " was left out: " + content.error().message);
        } else if (auto* found = std::get_if<FileContent>(&*content)) {
            for (FileTrace& trace : found->traces) {
                trace.place = trace.place.empty() ? sheet.name : sheet.name + ", " + trace.place;
                traces.traces.push_back(std::move(trace));
            }
            std::ranges::move(found->header, std::back_inserter(traces.header));
            std::ranges::move(found->warnings, std::back_inserter(traces.warnings));
        } else {
            std::ranges::move(std::get<std::vector<PlateImport>>(*content), std::back_inserter(plates));
        }
    }
    if (!plates.empty()) {
        if (!traces.traces.empty()) {
            leftOut.push_back("Traces on other sheets were left out: the file holds plates.");
        }
        for (PlateImport& plate : plates) {
            plate.source = name;
        }
        for (std::string& sentence : leftOut) {
            plates.front().warnings.push_back({std::move(sentence)});
        }
        return AnyContent(std::move(plates));
    }
    if (!traces.traces.empty()) {
        traces.format = workbook.format;
        std::ranges::move(leftOut, std::back_inserter(traces.warnings));
        return AnyContent(std::move(traces));
    }
    return first ? Result<AnyContent>(tl::unexpected(*first))
                 : fail("import.no-numbers", name + " holds no visible sheet with anything in it.",
                        "Choose a file with a plate matrix or a list of wells and values.");
}

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

Result<AnyContent> readAnyBytes(std::string bytes, const std::string& name, Progress& progress, const PlateCut& cut) {
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
    if (looksLikeZip(bytes)) {
        const auto workbook = readWorkbook(bytes, name, progress);
        return workbook ? readSheets(*workbook, name, fnv1a(bytes), cut) : tl::unexpected(workbook.error());
    }
    if (const auto format = formatNotReadYet(bytes)) {
        return fail("read.not-yet", name + " is " + *format + ", which is not read yet.",
                    "Save it as XLSX, ODS or text, or as JCAMP-DX.");
    }
    if (looksLikeMzxml(head)) {
        return traces(readMzxml(bytes), name);
    }
    if (looksLikeMzml(head) || looksLikeXml(head) || bytes.starts_with("\x1f\x8b")) {
        return traces(readMzml(bytes), name);
    }
    return readText(bytes, name, progress, cut);
}

std::shared_ptr<const PlateFile> cellsOfBytes(const std::string& bytes, const std::string& name, Progress& progress) {
    if (looksLikeZip(bytes)) {
        const auto workbook = readWorkbook(bytes, name, progress);
        for (const Sheet& sheet : workbook ? workbook->sheets : std::vector<Sheet>{}) {
            if (!sheet.isHidden && !sheet.cells.empty()) {
                return std::make_shared<const PlateFile>(
                    PlateFile{name + ", sheet " + excerpt(sheet.name), {}, tableOf(*workbook, sheet, fnv1a(bytes))});
            }
        }
        return nullptr;
    }
    std::istringstream stream(bytes);
    const auto file = plateFileOf(stream, name, progress);
    return file ? *file : nullptr;
}

Result<std::string> readFileBytes(const std::filesystem::path& path, Progress& progress) {
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
    return bytes;
}

Result<AnyContent> readAnyFile(const std::filesystem::path& path, Progress& progress, const PlateCut& cut) {
    auto bytes = readFileBytes(path, progress);
    return bytes ? readAnyBytes(std::move(*bytes), path.filename().string(), progress, cut)
                 : tl::unexpected(bytes.error());
}

} // namespace nuvat
