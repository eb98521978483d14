#pragma once

#include "nuvat/batch/batch.h"

#include <memory>

namespace nuvat {

/// The trace of the first blank run of a channel that is not left out; nullptr: there is none.
std::shared_ptr<const Trace> blankTrace(const Batch& batch, const std::string& channel);
/// 2H/h with the noise h of the blank over 20 half widths about the peak (European Pharmacopoeia 2.2.46).
std::optional<double> signalToNoise(const Peak& peak, const Trace* blank);

} // namespace nuvat
