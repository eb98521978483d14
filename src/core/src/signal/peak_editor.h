#pragma once

#include "peak_shape.h"

namespace nuvat {

/// Does to the shapes of peaks what a person draws.
struct PeakEditor {
    const TraceView& trace;
    std::vector<PeakShape>& shapes;
    int& clusters; ///< how many there are

    /// @return false when there is nothing to hold on to, and nothing was done
    bool apply(const PeakEdit& edit);

private:
    std::vector<PeakShape>::iterator spanning(double x);
    bool draw(const PeakEdit& edit);
    bool add(const PeakEdit& edit);
    bool split(double x);
    bool join(double from, double to);
    PeakShape drawn(double from, double to) const; ///< on the chord of the curve
};

} // namespace nuvat
