#pragma once

#include "nuvat/core/base/error.h"
#include "nuvat/formats/file_content.h"

#include <string_view>

namespace nuvat {

/// Whether the text begins as a JCAMP-DX file does, with a ##TITLE.
bool looksLikeJcamp(std::string_view text);

/// Reads JCAMP-DX 4.24 and 5: XYDATA and XYPOINTS in every form of their ordinates (AFFN, packed, squeezed,
/// differences, duplicates), peak tables, linked blocks and the pages of NTUPLES. In (X++(Y..Y)) the abscissas follow
/// from FIRSTX, LASTX and the number of points; the checks at the beginning of a line are compared and said where they
/// disagree. Source: R. S. McDonald and P. A. Wilks, Applied Spectroscopy 42 (1988) 151-162; P. Lampen et al., Applied
/// Spectroscopy 53 (1999) and 48 (1994) 1545-1552 (JCAMP-DX 5).
/// @return jcamp.no-title, jcamp.no-data, jcamp.number, jcamp.points, jcamp.pairs, jcamp.range, jcamp.symbols,
/// jcamp.form
///         with a sentence that names the line
Result<FileContent> readJcamp(std::string_view text);

} // namespace nuvat
