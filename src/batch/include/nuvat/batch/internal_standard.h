#pragma once

#include "nuvat/batch/command.h"

namespace nuvat {

/// Says what runs hold of an internal standard. @param concentration in its own unit, > 0; absent: the usual one
/// @return method.internal-standard for one that is not above 0, or where the usual concentration is not known;
/// layout.outside for a place that is not in the batch
Result<Command> setAdded(const Batch& batch, const std::vector<Place>& places, int internal,
                         std::optional<double> concentration);
/// What they hold of it, where all hold the same; nothing where the usual one is not known.
std::optional<double> addedIn(const Batch& batch, const std::vector<Place>& places, int internal);

} // namespace nuvat
