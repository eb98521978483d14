// Spreadsheets: whatever the bytes, they are read or refused. A fuzzer cannot make check sums of archives, so the parts
// are given as text and packed here. Good files to begin with: tests/fixtures/spreadsheets, which are taken as they
// are.
#include "nuvat/formats/any_file.h"

#include <cstdint>
#include <string>
#include <zip.h>

namespace {

/// An archive in memory with one part; empty when that fails.
std::string zipOf(const char* mimetype, const char* entry, const std::string& text) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* target = zip_source_buffer_create(nullptr, 0, 0, &error);
    zip_source_keep(target);
    zip_t* archive = zip_open_from_source(target, ZIP_TRUNCATE, &error);
    const std::string kind = mimetype;
    zip_file_add(archive, "mimetype", zip_source_buffer(archive, kind.data(), kind.size(), 0), 0);
    zip_file_add(archive, entry, zip_source_buffer(archive, text.data(), text.size(), 0), 0);
    const std::string relations = "<Relationships><Relationship Id=\"x\" Type=\"/worksheet\" Target=\"one.xml\"/>"
                                  "<Relationship Id=\"t\" Type=\"/sharedStrings\" Target=\"one.xml\"/>"
                                  "<Relationship Id=\"s\" Type=\"/styles\" Target=\"one.xml\"/></Relationships>";
    const std::string workbook = "<workbook><sheet name=\"Data\" r:id=\"x\"/></workbook>";
    zip_file_add(archive, "xl/_rels/workbook.xml.rels",
                 zip_source_buffer(archive, relations.data(), relations.size(), 0), 0);
    zip_file_add(archive, "xl/workbook.xml", zip_source_buffer(archive, workbook.data(), workbook.size(), 0), 0);
    if (zip_close(archive) != 0) {
        zip_discard(archive);
        zip_source_free(target);
        return {};
    }
    zip_source_open(target);
    zip_source_seek(target, 0, SEEK_END);
    std::string out(static_cast<std::size_t>(zip_source_tell(target)), '\0');
    zip_source_seek(target, 0, SEEK_SET);
    zip_source_read(target, out.data(), out.size());
    zip_source_close(target);
    zip_source_free(target);
    return out;
}

void read(const std::string& bytes) {
    nuvat::NoProgress progress;
    const auto content = nuvat::readAnyBytes(bytes, "fuzz", progress);
    if (!content && (content.error().message.empty() || content.error().code.empty())) {
        __builtin_trap();
    }
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string bytes(reinterpret_cast<const char*>(data), size);
    if (nuvat::looksLikeZip(bytes)) {
        read(bytes);
        return 0;
    }
    read(zipOf("application/vnd.oasis.opendocument.spreadsheet", "content.xml", bytes));
    read(zipOf("", "xl/one.xml", bytes));
    return 0;
}
