#pragma once

#include "nuvat/batch/document.h"

namespace nuvat::test {

/// A list of runs for measures of speed and size: so many analytes, each with a quantifier and a qualifier channel in
/// which its peak stands on a drifting ground with noise; the first 12 runs are six levels in duplicate, then QCs and
/// unknowns. @throws std::runtime_error when a command is refused
DocumentState largeRuns(int runs, int analytes, int points);

} // namespace nuvat::test
