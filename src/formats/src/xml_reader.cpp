#include "xml_reader.h"

namespace nuvat {

namespace {

constexpr int kDeepest = 250;

std::string_view withoutPrefix(std::string_view name) {
    const std::size_t colon = name.find(':');
    return colon == std::string_view::npos ? name : name.substr(colon + 1);
}

} // namespace

std::string attribute(const XmlAttributes& attributes, std::string_view name) {
    const auto found = attributes.find(name);
    return found == attributes.end() ? std::string() : std::string(found->second);
}

XmlReader::XmlReader(std::string code, std::string what)
    : m_code(std::move(code)), m_what(std::move(what)), m_parser(XML_ParserCreate(nullptr)) {
    XML_SetUserData(m_parser, this);
    XML_SetElementHandler(
        m_parser,
        [](void* self, const XML_Char* name, const XML_Char** attributes) {
            static_cast<XmlReader*>(self)->begin(name, attributes);
        },
        [](void* self, const XML_Char* name) {
            auto* reader = static_cast<XmlReader*>(self);
            reader->end(withoutPrefix(name));
            --reader->m_depth;
        });
    XML_SetCharacterDataHandler(m_parser, [](void* self, const XML_Char* text, int size) {
        static_cast<XmlReader*>(self)->text({text, static_cast<std::size_t>(size)});
    });
    XML_SetStartDoctypeDeclHandler(m_parser, [](void* self, const XML_Char*, const XML_Char*, const XML_Char*, int) {
        auto* reader = static_cast<XmlReader*>(self);
        reader->stop({reader->m_code, "The file declares a document type, which files of its kind have not.",
                      "Export the file again."});
    });
}

XmlReader::~XmlReader() {
    XML_ParserFree(m_parser);
}

bool XmlReader::feed(std::string_view bytes, bool isLast) {
    if (m_error) {
        return false;
    }
    const bool isFine =
        XML_Parse(m_parser, bytes.data(), static_cast<int>(bytes.size()), isLast ? 1 : 0) == XML_STATUS_OK;
    if (!isFine && !m_error) {
        m_error = Error{m_code,
                        m_what + " is damaged in line " + std::to_string(XML_GetCurrentLineNumber(m_parser)) +
                            ", column " + std::to_string(XML_GetCurrentColumnNumber(m_parser) + 1) + ": " +
                            XML_ErrorString(XML_GetErrorCode(m_parser)) + ".",
                        "The file may be cut: copy or export it again."};
    }
    return !m_error;
}

void XmlReader::stop(Error error) {
    if (!m_error) {
        m_error = std::move(error);
        XML_StopParser(m_parser, XML_FALSE);
    }
}

void XmlReader::begin(std::string_view name, const XML_Char** raw) {
    if (++m_depth > kDeepest) {
        stop(
            {m_code, m_what + " nests more than " + std::to_string(kDeepest) + " elements.", "Export the file again."});
        return;
    }
    XmlAttributes attributes;
    for (; *raw; raw += 2) {
        // calcext:value-type stands beside office:value-type and says other things.
        const std::string_view key = raw[0];
        attributes[key.starts_with("calcext:") ? key : withoutPrefix(key)] = raw[1];
    }
    start(withoutPrefix(name), attributes);
}

void XmlReader::feedAll(std::string_view bytes) {
    constexpr std::size_t kPiece = 1 << 20;
    if (bytes.empty()) {
        feed({}, true);
    }
    for (std::size_t at = 0; at < bytes.size() && feed(bytes.substr(at, kPiece), at + kPiece >= bytes.size());
         at += kPiece) {
    }
}

} // namespace nuvat
