#pragma once

#include "nuvat/batch/evaluation.h"
#include "sqlite.h"

namespace nuvat {

/// What the file remembers of the traces that count, where it still holds; what does not is left out, and so is all
/// of a table that cannot be read.
MeasuredTraces readMeasured(Database& db, const Batch& batch);
/// Remembers that, and nothing else, in the transaction that is open. @throws SqliteError. @return whether anything had
/// to be written
bool storeMeasured(Database& db, const Batch& batch, const MeasuredTraces& traces);

} // namespace nuvat
