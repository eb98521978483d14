#include "nuvat/formats/mzml.h"

#include "mzml_arrays.h"
#include "xml_reader.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"

#include <algorithm>
#include <array>
#include <map>
#include <zlib.h>

namespace nuvat {

namespace {

constexpr std::size_t kMostBytes = 1'000'000'000; // out of gzip

struct Term {
    std::string accession, name, value, unit;
};

/// An array of numbers while it is read.
struct ArrayDraft {
    ArrayCode code;
    std::string kind; ///< accession: MS:1000595 time, MS:1000514 m/z, MS:1000515 intensity
    std::string unit;
    std::optional<std::size_t> length; ///< its own, where it differs
};

constexpr const char* kTime = "MS:1000595";
constexpr const char* kMass = "MS:1000514";
constexpr const char* kIntensity = "MS:1000515";

std::string arrayName(std::string_view kind) {
    return kind == kTime ? "time" : kind == kMass ? "m/z" : "intensity";
}

void apply(const Term& term, ArrayDraft& array) {
    const std::string& a = term.accession;
    const std::map<std::string_view, NumberCode> numbers{{"MS:1000521", NumberCode::Float32},
                                                         {"MS:1000523", NumberCode::Float64},
                                                         {"MS:1000519", NumberCode::Int32},
                                                         {"MS:1000522", NumberCode::Int64}};
    const std::map<std::string_view, std::pair<Packing, bool>> packings{
        {"MS:1000574", {Packing::None, true}},   {"MS:1002312", {Packing::Linear, false}},
        {"MS:1002313", {Packing::Pic, false}},   {"MS:1002314", {Packing::Slof, false}},
        {"MS:1002746", {Packing::Linear, true}}, {"MS:1002747", {Packing::Pic, true}},
        {"MS:1002748", {Packing::Slof, true}}};
    if (const auto found = numbers.find(a); found != numbers.end()) {
        array.code.numbers = found->second;
    } else if (const auto packed = packings.find(a); packed != packings.end()) {
        array.code.packing = packed->second.first != Packing::None ? packed->second.first : array.code.packing;
        array.code.isDeflated = array.code.isDeflated || packed->second.second;
    } else if (a == kTime || a == kMass || a == kIntensity) {
        array.kind = a;
        array.unit = term.unit;
    }
}

class MzmlReader : public XmlReader {
public:
    MzmlReader() : XmlReader("mzml.xml", "The XML") {}

    Result<FileContent> finish() {
        if (error()) {
            return tl::unexpected(*error());
        }
        return std::move(m_out);
    }

private:
    void start(std::string_view name, const XmlAttributes& attributes) override {
        if (depth() == 0) {
            if (name != "mzML" && name != "indexedmzML") {
                stop(Error{"mzml.root", "The file is XML, but its root is \"" + excerpt(name) + "\", not mzML.",
                           "Choose an mzML file."});
            }
            m_out.format = "mzML";
        }
        if (name == "mzML") {
            m_out.header.emplace_back("version", attribute(attributes, "version"));
            m_out.header.emplace_back("id", attribute(attributes, "id"));
        } else if (name == "run") {
            m_out.header.emplace_back("run", attribute(attributes, "id"));
            m_out.header.emplace_back("startTimeStamp", attribute(attributes, "startTimeStamp"));
        } else if (name == "sample" && !attribute(attributes, "name").empty()) {
            m_out.header.emplace_back("sample", attribute(attributes, "name"));
        } else if (name == "referenceableParamGroup") {
            m_group = attribute(attributes, "id");
        } else if (name == "referenceableParamGroupRef" &&
                   m_group.empty()) { // none within a group, which could be its own
            for (const Term& term : m_groups[attribute(attributes, "ref")]) {
                take(term);
            }
        } else if (name == "cvParam") {
            take({attribute(attributes, "accession"), attribute(attributes, "name"), attribute(attributes, "value"),
                  attribute(attributes, "unitName")});
        } else if (name == "chromatogramList" || name == "spectrumList") {
            m_declared = attribute(attributes, "count");
            m_found = 0;
        } else if (name == "chromatogram" || name == "spectrum") {
            startTrace(name, attributes);
        } else if (name == "binaryDataArray") {
            m_array = ArrayDraft{};
            if (attributes.contains("arrayLength")) {
                m_array->length = length(attribute(attributes, "arrayLength"));
            }
        } else if (name == "binary") {
            m_isBinary = true;
            m_text.clear();
        }
    }

    std::optional<std::size_t> length(const std::string& text) {
        const auto value = parseNumber(text);
        if (!value || !(*value >= 0) || *value > static_cast<double>(kMostPoints) ||
            *value != static_cast<double>(static_cast<std::size_t>(*value))) {
            stop(Error{"mzml.array",
                       m_what + " \"" + excerpt(m_id) + "\" says that it has " + excerpt(text) +
                           " points, which cannot be.",
                       "Export the file again."});
            return std::nullopt;
        }
        return static_cast<std::size_t>(*value);
    }

    void startTrace(std::string_view name, const XmlAttributes& attributes) {
        m_what = name == "spectrum" ? "The spectrum" : "The chromatogram";
        m_isSpectrum = name == "spectrum";
        m_id = attribute(attributes, "id");
        m_arrays.clear();
        m_isInTrace = true;
        ++m_found;
        m_length = length(attribute(attributes, "defaultArrayLength")).value_or(0);
    }

    void take(const Term& term) {
        if (m_array) {
            apply(term, *m_array);
        } else if (!m_group.empty()) {
            m_groups[m_group].push_back(term);
        }
    }

    void text(std::string_view text) override {
        if (m_isBinary) {
            m_text += text;
        }
    }

    void end(std::string_view name) override {
        if (name == "binary") {
            m_isBinary = false;
        } else if (name == "binaryDataArray") {
            endArray();
        } else if ((name == "chromatogram" || name == "spectrum") && m_isInTrace) {
            endTrace();
        } else if (name == "referenceableParamGroup") {
            m_group.clear();
        } else if (name == "chromatogramList" || name == "spectrumList") {
            if (parseNumber(m_declared) != static_cast<double>(m_found)) {
                m_out.warnings.push_back(
                    "The list of " + std::string(name == "spectrumList" ? "spectra" : "chromatograms") +
                    " says that it has \"" + excerpt(m_declared) + "\"; there are " + std::to_string(m_found) + ".");
            }
        }
    }

    void endArray() {
        if (m_array && m_isInTrace && !m_array->kind.empty()) {
            const std::size_t expected = m_array->length.value_or(m_length);
            m_points += expected;
            if (m_points > 2 * kMostPoints) {
                stop(Error{"mzml.too-large", "The file holds more than 50 million points.",
                           "Export fewer runs a file."});
                return;
            }
            auto values = decodeArray(m_text, m_array->code, expected);
            if (!values) {
                stop(Error{values.error().code,
                           m_what + " \"" + excerpt(m_id) + "\": its " + arrayName(m_array->kind) + " array " +
                               values.error().message + ".",
                           values.error().advice});
                return;
            }
            m_arrays[m_array->kind] = {std::move(*values), m_array->unit};
        }
        m_array.reset();
    }

    void endTrace() {
        m_isInTrace = false;
        const auto x = m_arrays.find(m_isSpectrum ? kMass : kTime);
        const auto y = m_arrays.find(kIntensity);
        const std::string lacking = x == m_arrays.end() ? (m_isSpectrum ? "m/z" : "time") : "intensity";
        if (x == m_arrays.end() || y == m_arrays.end()) {
            if (m_length > 0 || !m_arrays.empty()) {
                stop(Error{"mzml.array", m_what + " \"" + excerpt(m_id) + "\" has no " + lacking + " array.",
                           "Export the file again."});
                return;
            }
        }
        FileTrace trace;
        trace.name = m_id;
        trace.xAxis.name = m_isSpectrum ? "m/z" : "time";
        trace.yAxis.name = "intensity";
        if (x != m_arrays.end() && y != m_arrays.end()) {
            if (x->second.first.size() != y->second.first.size()) {
                stop(Error{"mzml.array", m_what + " \"" + excerpt(m_id) + "\" has arrays of different lengths.",
                           "Export the file again."});
                return;
            }
            trace.xAxis.unit = x->second.second;
            trace.yAxis.unit = y->second.second;
            trace.x = std::move(x->second.first);
            trace.y = std::move(y->second.first);
            if (!m_isSpectrum && !std::ranges::is_sorted(trace.x)) {
                m_out.warnings.push_back(m_what + " \"" + excerpt(m_id) + "\" has times that do not rise.");
            }
        }
        m_out.traces.push_back(std::move(trace));
    }

    FileContent m_out;
    std::string m_group; ///< being defined
    std::map<std::string, std::vector<Term>> m_groups;
    std::string m_declared;
    std::size_t m_found = 0, m_points = 0;
    std::string m_what = "The file", m_id;
    bool m_isSpectrum = false, m_isInTrace = false, m_isBinary = false;
    std::size_t m_length = 0;
    std::optional<ArrayDraft> m_array;
    std::string m_text;
    std::map<std::string, std::pair<std::vector<double>, std::string>> m_arrays;
};

bool isGzip(std::string_view bytes) {
    return bytes.starts_with("\x1f\x8b");
}

/// Unpacks gzip piece by piece. @return false when the container is damaged
bool feedGzip(MzmlReader& reader, std::string_view bytes, std::size_t& total) {
    z_stream stream{};
    constexpr int kGzipWindow = 15 + 16;
    if (inflateInit2(&stream, kGzipWindow) != Z_OK) {
        return false;
    }
    std::string in(bytes);
    stream.next_in = reinterpret_cast<Bytef*>(in.data());
    stream.avail_in = static_cast<uInt>(in.size());
    std::array<char, 1 << 16> piece{};
    int code = Z_OK;
    bool goesOn = true;
    while (code == Z_OK && goesOn) {
        stream.next_out = reinterpret_cast<Bytef*>(piece.data());
        stream.avail_out = static_cast<uInt>(piece.size());
        code = inflate(&stream, Z_NO_FLUSH);
        const std::size_t size = piece.size() - stream.avail_out;
        total += size;
        goesOn = total <= kMostBytes && reader.feed({piece.data(), size}, false);
        if (code == Z_OK && size == 0 && stream.avail_in == 0) {
            code = Z_BUF_ERROR;
        }
    }
    inflateEnd(&stream);
    return code == Z_STREAM_END || !goesOn;
}

} // namespace

bool looksLikeMzml(std::string_view head) {
    return head.find("<mzML") != std::string_view::npos || head.find("<indexedmzML") != std::string_view::npos;
}

Result<FileContent> readMzml(std::string_view bytes) {
    MzmlReader reader;
    if (isGzip(bytes)) {
        std::size_t total = 0;
        if (!feedGzip(reader, bytes, total)) {
            return fail("mzml.gzip", "The gzip archive is damaged or cut.", "Copy the file again.");
        }
        if (total > kMostBytes) {
            return fail("mzml.too-large", "The file holds more than a gigabyte.", "Export fewer runs a file.");
        }
        reader.feed({}, true);
        return reader.finish();
    }
    reader.feedAll(bytes);
    return reader.finish();
}

} // namespace nuvat
