#pragma once

#include "peak_shape.h"

#include <optional>

namespace nuvat {

/// A rider cut off its parent's tail.
struct Skim {
    Stretch stretch;
    Ground ground;
    double riderHeight = 0; ///< the largest distance of a sample from the skim line
};

/// @param valley where the rider begins; @param parent index of the sample at the parent's apex; @param rider the same
/// of the rider; @param limit how far it may reach; @param base the common baseline, on which an exponential decays
/// @param noise sigma: where the tail bends little beside it, the line goes through local parabolas, not through
/// samples
/// @return nothing where no line touches the tail behind the rider
std::optional<Skim> skimOf(const TraceView& trace, SkimKind kind, double valley, std::size_t parent, std::size_t rider,
                           double limit, const Ground& base, double noise);

} // namespace nuvat
