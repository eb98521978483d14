#pragma once

#include "nuvat/core/base/error.h"

#include <expat.h>
#include <map>
#include <optional>
#include <string>
#include <string_view>

namespace nuvat {

/// Attributes of an element by their names without prefix; those of a prefix that another name needs keep it.
using XmlAttributes = std::map<std::string_view, std::string_view>;
/// Empty where there is none.
std::string attribute(const XmlAttributes& attributes, std::string_view name);

/// Reads XML piece by piece, so that memory stays flat whatever the file holds. Document types, which could unfold to
/// anything, and nesting that no real file has are refused.
class XmlReader {
public:
    /// @param what of the file is read, for sentences: "the XML", "sheet1.xml"; @param code of the error
    XmlReader(std::string code, std::string what);
    virtual ~XmlReader();
    XmlReader(const XmlReader&) = delete;
    XmlReader& operator=(const XmlReader&) = delete;

    /// @return false when reading has to stop
    bool feed(std::string_view bytes, bool isLast);
    /// The whole text, in pieces; stops where reading has to.
    void feedAll(std::string_view bytes);
    const std::optional<Error>& error() const { return m_error; }

protected:
    /// Names come without their prefix.
    virtual void start(std::string_view name, const XmlAttributes& attributes) = 0;
    virtual void end(std::string_view) {}
    virtual void text(std::string_view) {}
    void stop(Error error);
    int depth() const { return m_depth; } ///< 0 at the root's start

private:
    void begin(std::string_view name, const XML_Char** raw);

    std::string m_code, m_what;
    XML_Parser m_parser;
    std::optional<Error> m_error;
    int m_depth = -1;
};

} // namespace nuvat
