#pragma once

#include "nuvat/core/base/error.h"
#include "nuvat/formats/file_content.h"

#include <string_view>

namespace nuvat {

/// Whether a text is XML whose root is mzXML, as far as its first bytes tell.
bool looksLikeMzxml(std::string_view head);

/// Reads the spectra of an mzXML file in the order of the file, those that hang below another scan as well: pairs or
/// arrays of 32 and 64 bits in network order, plain or in zlib. Index, offsets and checksums are not looked at. Where a
/// scan has a time, its trace says so as its place. @param bytes of one file
/// Source: mzXML 3.0 (P. G. A. Pedrioli et al., Nat. Biotechnol. 22 (2004) 1459-1466).
/// @return mzxml.xml with line and column, mzxml.peaks with the scan, mzxml.too-large
Result<FileContent> readMzxml(std::string_view bytes);

} // namespace nuvat
