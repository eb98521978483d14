#pragma once

#include "nuvat/batch/batch.h"

#include <optional>

namespace nuvat {

/// The batch with, in each slot that was read more than once, the reading before the one in use: another set of data
/// under the same layout and method. @return nothing where no slot has one
std::optional<Batch> withReadingsBefore(const Batch& batch);

} // namespace nuvat
