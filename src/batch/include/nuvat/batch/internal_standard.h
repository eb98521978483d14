#pragma once

#include "nuvat/batch/command.h"
#include "nuvat/batch/evaluation.h"

namespace nuvat {

/// Says what runs hold of an internal standard. @param concentration in its own unit, > 0; absent: the usual one
/// @return method.internal-standard for one that is not above 0, or where the usual concentration is not known;
/// layout.place for a place that is not in the batch
Result<Command> setAdded(const Batch& batch, const std::vector<Place>& places, int internal,
                         std::optional<double> concentration);
/// What they hold of it, where all hold the same; nothing where the usual one is not known.
std::optional<double> addedIn(const Batch& batch, const std::vector<Place>& places, int internal);

/// Concentration of the internal standard in a run over the usual one; 1 where none is said. On the axis of the curve
/// a standard stands at its concentration over this, and what is read off is multiplied by it.
double internalShare(const Batch& batch, int analyte, Place place);

/// Whether an analyte is there for others alone: it is an internal standard, and no level has a concentration of it. It
/// has neither curve nor results, and no criterion that asks for them.
bool isOnlyInternal(const Batch& batch, int analyte);

/// What the rule gave at a place, before it was divided by an internal standard.
const std::optional<double>& measuredOf(const Response& response);

} // namespace nuvat
