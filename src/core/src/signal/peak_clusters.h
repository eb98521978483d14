#pragma once

#include "peak_finding.h"
#include "peak_shape.h"

#include <vector>

namespace nuvat {

/// A peak among those it touches.
struct Member {
    std::size_t apex = 0;      ///< index in the trace
    double splitAfter = 0;     ///< x of the drop to the next one
    bool isShoulder = false;   ///< the drop behind it is at no valley
    double start = 0, end = 0; ///< where it leaves the ground and comes back, if it stood by itself
};

/// Peaks that touch: they share one baseline.
struct Cluster {
    double from = 0, to = 0;
    std::vector<Member> members;
    std::vector<PeakRemark> fromRemarks, toRemarks;
    bool isNegative = false;
};

/// What the finder works on.
struct Search {
    TraceView trace;                ///< as peaks are measured
    std::span<const double> signal; ///< as they are found: smoothed, without its background
    const PeakRules& rules;
    Noise noise;
};

/// Finds peaks between the ignored stretches. By place.
std::vector<Cluster> findClusters(const Search& search);
/// Parts a peak at its shoulders.
void splitShoulders(const Search& search, Cluster& cluster);
/// Parts clusters at valleys that lie on their line, or below it.
std::vector<Cluster> partedAtLowValleys(const Search& search, std::vector<Cluster> clusters);
/// Makes one peak of what stretches with rules of their own say belongs together.
void joinByRules(const Search& search, std::vector<Cluster>& clusters);
/// Takes a member out: its neighbour over the higher valley gets what was its own.
void takeOut(const TraceView& trace, Cluster& cluster, std::size_t member);

} // namespace nuvat
