#pragma once

#include "nuvat/batch/document.h"

namespace nuvat::test {

/// A plate by commands for measures of speed and size: 8 standards in duplicate (1000 divided by 2), 4 blanks, 3 QCs in
/// duplicate, all other wells unknowns in duplicate; a rising 4PL with 2 % noise. @param analytes each with a reading
/// of its own @throws std::runtime_error when a command is refused
DocumentState largeBatch(int rows, int columns, int analytes = 1);

} // namespace nuvat::test
