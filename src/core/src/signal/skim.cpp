#include "skim.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

/// Indexes of the samples behind the rider's apex, up to the limit.
struct Behind {
    std::size_t from = 0, to = 0; ///< one behind the last
};

Behind behind(const TraceView& trace, std::size_t rider, double limit) {
    const auto end = std::ranges::upper_bound(trace.x, limit) - trace.x.begin();
    return {rider + 1, static_cast<std::size_t>(end)};
}

std::optional<Skim> tangentSkim(const TraceView& trace, double valley, Behind range) {
    const double y = interpolated(trace.x, trace.y, valley);
    double least = INFINITY;
    std::size_t touch = range.to;
    for (std::size_t i = range.from; i < range.to; ++i) {
        const double slope = (trace.y[i] - y) / (trace.x[i] - valley);
        if (slope < least) {
            least = slope;
            touch = i;
        }
    }
    if (touch == range.to) {
        return std::nullopt;
    }
    return Skim{{valley, trace.x[touch]}, {{valley, y, trace.x[touch], trace.y[touch]}, {}, 0, 0, 0}, 0};
}

std::optional<Skim> doubleTangentSkim(const TraceView& trace, std::size_t parent, std::size_t rider, Behind range) {
    const std::size_t size = range.to - parent;
    const auto points =
        tangentPoints(trace.x.subspan(parent, size), trace.y.subspan(parent, size), rider - parent, false);
    if (!points) {
        return std::nullopt;
    }
    const std::size_t a = parent + points->first, b = parent + points->second;
    return Skim{{trace.x[a], trace.x[b]}, {{trace.x[a], trace.y[a], trace.x[b], trace.y[b]}, {}, 0, 0, 0}, 0};
}

/// The lowest exponential through the valley that has no sample below it: it touches the tail behind the rider.
std::optional<Skim> exponentialSkim(const TraceView& trace, double valley, Behind range, const Ground& base) {
    // The tail goes on behind the rider; only what lies close to where a tangent touches can be the end of it.
    const auto tangent = tangentSkim(trace, valley, range);
    const double limit = tangent ? valley + 1.5 * (tangent->stretch.to - valley) : valley;
    const double rise = interpolated(trace.x, trace.y, valley) - base.at(trace, valley);
    double most = 0;
    std::size_t touch = range.to;
    for (std::size_t i = range.from; i < range.to; ++i) {
        const double above = trace.y[i] - base.atSample(trace, i);
        if (!(above > 0) || trace.x[i] > limit) {
            break; // an exponential never comes to its baseline
        }
        const double decay = std::log(rise / above) / (trace.x[i] - valley);
        if (decay > most) {
            most = decay;
            touch = i;
        }
    }
    if (!(rise > 0) || touch == range.to) {
        return std::nullopt;
    }
    Ground ground = base;
    ground.rise = rise;
    ground.decay = most;
    ground.from = valley;
    return Skim{{valley, trace.x[touch]}, ground, 0};
}

/// The trace with its noise taken out by local parabolas as wide as a third of the rider's front; nothing where the
/// tail bends far beyond the noise.
std::vector<double> curveOf(const TraceView& trace, double valley, std::size_t rider, double noise) {
    const auto at = static_cast<std::size_t>(std::ranges::lower_bound(trace.x, valley) - trace.x.begin());
    constexpr double kClear = 50;
    if (at == 0 || at + 1 >= trace.x.size() || rider <= at + 3 ||
        trace.y[at - 1] - 2 * trace.y[at] + trace.y[at + 1] > kClear * noise) {
        return {};
    }
    const int reach = static_cast<int>(std::clamp<std::size_t>((rider - at) / 3, 2, 100));
    return savitzkyGolay(trace.y, {2 * reach + 1, 2});
}

} // namespace

std::optional<Skim> skimOf(const TraceView& measured, SkimKind kind, double valley, std::size_t parent,
                           std::size_t rider, double limit, const Ground& base, double noise) {
    const Behind range = behind(measured, rider, limit);
    if (range.from >= range.to) {
        return std::nullopt;
    }
    const std::vector<double> curve = curveOf(measured, valley, rider, noise);
    const TraceView trace{measured.x, curve.empty() ? measured.y : std::span<const double>(curve)};
    auto out = kind == SkimKind::Tangent         ? tangentSkim(trace, valley, range)
               : kind == SkimKind::DoubleTangent ? doubleTangentSkim(trace, parent, rider, range)
                                                 : exponentialSkim(trace, valley, range, base);
    if (!out) {
        return out;
    }
    const auto first = std::ranges::lower_bound(trace.x, out->stretch.from) - trace.x.begin();
    for (auto i = static_cast<std::size_t>(first); i < trace.x.size() && trace.x[i] <= out->stretch.to; ++i) {
        out->riderHeight = std::max(out->riderHeight, trace.y[i] - out->ground.at(trace, trace.x[i]));
    }
    return out;
}

} // namespace nuvat
