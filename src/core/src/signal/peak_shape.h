#pragma once

#include "nuvat/core/signal/peaks.h"

#include <span>
#include <utility>
#include <vector>

namespace nuvat {

/// A trace as peaks are measured in it.
struct TraceView {
    std::span<const double> x, y;
};

/// What a peak stands on.
struct Ground {
    BaseLine line;
    std::span<const double> values; ///< not empty: at the samples of the trace, instead of the line
    /// An exponential on it: rise*exp(-decay*(x - from)).
    double rise = 0, decay = 0, from = 0;

    double at(const TraceView& trace, double x) const;
    double atSample(const TraceView& trace, std::size_t i) const;
    double riseAt(double x) const;
};

/// Where a peak begins and ends and what it stands on: all that measuring needs.
struct PeakShape {
    double from = 0, to = 0;
    Ground ground;
    bool isNegative = false;
    PeakSplit split = PeakSplit::None;
    int cluster = 0;
    std::vector<PeakRemark> remarks;
    /// Parts that are given to riders: the curve runs along their ground there.
    std::vector<std::pair<Stretch, Ground>> skimmed;
};

/// All that is told of one peak by itself. @param digitStep of the trace
Peak measuredPeak(const TraceView& trace, const PeakShape& shape, double digitStep);
/// What is told of a peak by its neighbours, and by all.
void relatePeaks(const TraceView& trace, std::vector<Peak>& peaks, std::optional<double> deadTime);

/// Vertex of the parabola through three points. @return x and y of it; the middle point where there is none between
/// the outer two
std::pair<double, double> vertexOf(const double* x, const double* y);
/// Vertex of the parabola fitted to a sample and `reach` others on either side, at least one; nothing less than the
/// sample where the parabola has no vertex among them.
std::pair<double, double> localParabola(std::span<const double> x, std::span<const double> y, std::size_t i,
                                        std::size_t reach);
} // namespace nuvat
