#pragma once

#include "nuvat/core/base/error.h"
#include "nuvat/formats/file_content.h"

#include <string_view>

namespace nuvat {

/// Whether a text is XML whose root is mzML, as far as its first bytes tell.
bool looksLikeMzml(std::string_view head);

/// Reads the chromatograms and spectra of an mzML file, indexed or not, in the order of the file: arrays of 32 and 64
/// bits, plain, in zlib, or in MS-Numpress (linear, pic, slof). What a value is, is decided by accession, never by
/// name; index and counts are hints. @param bytes may be in gzip Sources: L. Martens et al., Mol. Cell. Proteomics 10
/// (2011) R110.000133; J. Teleman et al., Mol. Cell. Proteomics 13 (2014) 1537-1542.
/// @return mzml.xml with line and column, mzml.root, mzml.array with the chromatogram, mzml.too-large, mzml.gzip
Result<FileContent> readMzml(std::string_view bytes);

} // namespace nuvat
