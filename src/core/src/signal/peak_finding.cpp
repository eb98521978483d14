#include "peak_finding.h"

#include "lanes.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <optional>

namespace nuvat {

namespace {

/// A flank seen from its apex outwards, whichever side it is.
struct Flank {
    std::span<const double> x, y;
    std::size_t apex = 0;
    bool isRight = true;
    std::size_t index(std::size_t step) const { return isRight ? apex + step : apex - step; }
};

/// Means of up to 64 groups of neighbouring samples.
struct Blocks {
    static constexpr std::size_t kMost = 64;
    std::array<double, kMost> x, y;          // filled up to `count`: clearing them would cost as much
    std::array<std::size_t, kMost + 1> from; ///< steps from the apex
    std::size_t count = 0;
};

Blocks blocksOf(const Flank& flank, std::size_t steps) {
    Blocks out;
    out.count = std::min(Blocks::kMost, steps + 1);
    const bool isWhole = out.count == Blocks::kMost; // by a constant, which is no division
    for (std::size_t j = 0; j <= out.count; ++j) {
        out.from[j] = isWhole ? j * (steps + 1) / Blocks::kMost : j;
    }
    if (!isWhole) { // a sample a block
        for (std::size_t j = 0; j < out.count; ++j) {
            out.x[j] = flank.x[flank.index(j)];
            out.y[j] = flank.y[flank.index(j)];
        }
        return out;
    }
    const std::size_t least = (steps + 1) / Blocks::kMost; // samples of a block, or one more
    const std::array<double, 2> share{1 / static_cast<double>(least), 1 / static_cast<double>(least + 1)};
    for (std::size_t j = 0; j < Blocks::kMost; ++j) {
        const std::size_t size = out.from[j + 1] - out.from[j];
        const std::size_t first = flank.isRight ? flank.index(out.from[j]) : flank.index(out.from[j + 1] - 1);
        double x = flank.x[first], y = flank.y[first];
        for (std::size_t i = first + 1; i < first + size; ++i) {
            x += flank.x[i];
            y += flank.y[i];
        }
        out.x[j] = x * share[size - least];
        out.y[j] = y * share[size - least];
    }
    return out;
}

/// The block where the flank has become straight: as long as one lies below the chord from the foot so far to the outer
/// end, the foot moves there.
/// @param isSteady against the noise of a long ground, which carries the foot away: the outer end is a mean, and a
/// block that lies alone further out has to lie lower, since a tail goes on from block to block
std::size_t kneeOf(const Blocks& blocks, double tolerance, bool isSteady) {
    constexpr double kFar = 1.75;
    const std::size_t near = isSteady ? std::max<std::size_t>(blocks.count / 4, 4) : blocks.count;
    const std::size_t outer = isSteady ? std::min(std::max<std::size_t>(blocks.count / 8, 3), blocks.count - 1) : 1;
    const std::size_t last = blocks.count - outer;
    double endX = 0, endY = 0;
    for (std::size_t j = last; j < blocks.count; ++j) {
        endX += blocks.x[j] / static_cast<double>(outer);
        endY += blocks.y[j] / static_cast<double>(outer);
    }
    std::size_t foot = 0;
    std::array<double, Blocks::kMost> below;
    while (true) {
        const double footX = blocks.x[foot], footY = blocks.y[foot];
        const double slope = (endY - footY) / (endX - footX);
        for (std::size_t j = foot + 1; j < last; ++j) { // by itself, so that several are worked out at once
            below[j] = footY + slope * (blocks.x[j] - footX) - blocks.y[j];
        }
        std::size_t lowest = foot;
        double most = tolerance;
        const auto look = [&](std::size_t from, std::size_t to) {
            const double found = from < to ? greatest({&below[from], to - from}, std::identity()) : 0;
            if (found > most) {
                most = found;
                lowest = static_cast<std::size_t>(std::find(&below[from], &below[to], found) - below.data());
            }
        };
        const std::size_t far = std::min(last, foot + near + 1);
        look(foot + 1, far);
        most = std::max(most, kFar * tolerance);
        look(far, last);
        if (lowest == foot) {
            return foot;
        }
        foot = lowest;
    }
}

/// Of the first tenth of the straight stretch, the sample that lies next to its line: an anchor that noise does not
/// pull to one side.
std::size_t anchorOf(const Flank& flank, const Blocks& blocks, std::size_t foot) {
    const std::size_t from = blocks.from[foot], to = blocks.from[blocks.count];
    const double n = static_cast<double>(to - from);
    const std::size_t first = flank.isRight ? flank.index(from) : flank.index(to - 1);
    const auto xs = flank.x.subspan(first, to - from), ys = flank.y.subspan(first, to - from);
    double meanX = 0, meanY = 0, moment = 0, spread = 0;
    for (std::size_t k = 0; k < xs.size(); ++k) {
        meanX += xs[k];
        meanY += ys[k];
    }
    meanX /= n;
    meanY /= n;
    for (std::size_t k = 0; k < xs.size(); ++k) {
        const double dx = xs[k] - meanX;
        moment += dx * (ys[k] - meanY);
        spread += dx * dx;
    }
    const double slope = spread > 0 ? moment / spread : 0;
    const std::size_t reach = std::max<std::size_t>((to - from) / 10, 1);
    std::size_t best = from;
    double least = INFINITY;
    for (std::size_t k = from; k < std::min(from + reach, to); ++k) {
        const double x = flank.x[flank.index(k)];
        const double distance = std::abs(flank.y[flank.index(k)] - meanY - slope * (x - meanX));
        if (distance < least) {
            least = distance;
            best = k;
        }
    }
    return best;
}

struct Foot {
    std::size_t index = 0;
    bool isOpen = false;
    bool isSure = false; ///< a long straight stretch lies beyond it
};

/// @param limit the last sample that may belong to the flank; @param halfWidth steps from apex to half height
/// The flank is looked at over four half widths, then twice as far and so on, until two fifths of it are straight.
Foot footOf(const Flank& flank, std::size_t limit, std::size_t halfWidth, double sigma) {
    const std::size_t most = flank.isRight ? limit - flank.apex : flank.apex - limit;
    if (most < 2) {
        return {limit, true, false};
    }
    for (std::size_t reach = std::max<std::size_t>(4 * halfWidth, 8);; reach *= 2) {
        const std::size_t steps = std::min(reach, most);
        const Blocks blocks = blocksOf(flank, steps);
        const double size = static_cast<double>(steps + 1) / static_cast<double>(blocks.count);
        const double tolerance = 2.0 * sigma / std::sqrt(size);
        const auto isStraightFrom = [&](std::size_t block) {
            return block > 0 && 10 * blocks.from[block] <= 6 * steps;
        };
        std::size_t foot = kneeOf(blocks, tolerance, false);
        if (!isStraightFrom(foot)) {
            const std::size_t steady = kneeOf(blocks, tolerance, true);
            foot = isStraightFrom(steady) ? steady * 130 / 100 : foot; // it lies close in: see decision 0015
        }
        const bool isStraightBeyond = isStraightFrom(foot);
        const bool isNearlyStraight = foot > 0 && foot + 2 < blocks.count;
        if (isStraightBeyond || (steps == most && isNearlyStraight)) {
            return {flank.index(anchorOf(flank, blocks, foot)), false, isStraightBeyond};
        }
        if (steps == most) {
            return {limit, true, false};
        }
    }
}

/// Steps from the apex to where the flank has fallen half way to a level.
std::size_t halfWidthOf(const Flank& flank, std::size_t limit, double level) {
    const double half = (flank.y[flank.apex] + level) / 2;
    const std::size_t most = flank.isRight ? limit - flank.apex : flank.apex - limit;
    for (std::size_t k = 1; k < most; ++k) {
        if (flank.y[flank.index(k)] <= half) {
            return k;
        }
    }
    return std::max<std::size_t>(most, 1);
}

/// How far a flank may reach: as long as the trace is not above the valley's noise again; beside a neighbour, to the
/// last sample before it that is not.
std::size_t reachOf(std::span<const double> y, std::size_t valley, std::optional<std::size_t> neighbour, bool isRight,
                    double sigma) {
    const double most = y[valley] + 6 * sigma;
    std::size_t k = neighbour.value_or(valley);
    if (neighbour) {
        for (; k != valley && y[k] > most; k += isRight ? std::size_t(-1) : 1) {
        }
        return k;
    }
    for (; isRight ? k + 1 < y.size() && y[k + 1] <= most : k > 0 && y[k - 1] <= most;
         k += isRight ? 1 : std::size_t(-1)) {
    }
    return k;
}

FoundPeak footed(std::span<const double> x, std::span<const double> y, const std::vector<TurningPoint>& points,
                 std::size_t i, const Noise& noise) {
    const TurningPoint& point = points[i];
    const bool isLast = i + 1 == points.size();
    const auto before = i == 0 ? std::nullopt : std::optional(points[i - 1].apex);
    const auto after = isLast ? std::nullopt : std::optional(points[i + 1].apex);
    // Outside the outermost peaks the ground may slope up: all of it counts where it is straight, else as far as it is
    // level.
    const auto foot = [&](bool isRight, std::size_t valley, std::optional<std::size_t> neighbour) {
        const Flank flank{x, y, point.apex, isRight};
        const auto within = [&](std::size_t limit) {
            return footOf(flank, limit, halfWidthOf(flank, limit, y[valley]), noise.fine);
        };
        const std::size_t limit = reachOf(y, valley, neighbour, isRight, noise.sigma);
        if (neighbour) {
            return within(limit);
        }
        const Foot wide = within(isRight ? y.size() - 1 : 0);
        if (wide.isSure) {
            return wide;
        }
        const Foot level = within(limit);
        return level.isOpen && !wide.isOpen ? wide : level;
    };
    const Foot start = foot(false, point.before, before), end = foot(true, point.after, after);
    return {point.apex, start.index, end.index, start.isOpen, end.isOpen, point.after, false};
}

} // namespace

std::vector<TurningPoint> turningPoints(std::span<const double> y, double hysteresis) {
    std::vector<TurningPoint> out;
    const std::size_t n = y.size();
    std::size_t high = 0, low = 0, before = 0, i = 1;
    bool isRising = false;
    for (bool isKnown = false; i < n && !isKnown; ++i) { // until one way is seen
        high = y[i] > y[high] ? i : high;
        isKnown = y[high] - y[i] >= hysteresis;
        low = isKnown || y[i] < y[low] ? i : low;
        if (!isKnown && y[i] - y[low] >= hysteresis) {
            isKnown = isRising = true;
            before = low;
            high = i;
        }
    }
    // Loops of their own for both ways: nearly all samples only pass the two comparisons.
    while (i < n) {
        if (isRising) {
            double most = y[high];
            for (; i < n && most - y[i] < hysteresis; ++i) {
                if (y[i] > most) {
                    most = y[i];
                    high = i;
                }
            }
            if (i < n) {
                out.push_back({high, before, i});
                low = i++;
                isRising = false;
            }
            continue;
        }
        double least = y[low];
        for (; i < n && y[i] - least < hysteresis; ++i) {
            if (y[i] < least) {
                least = y[i];
                low = i;
            }
        }
        if (!out.empty()) {
            out.back().after = low;
        }
        if (i < n) {
            before = low;
            high = i++;
            isRising = true;
        }
    }
    return out;
}

std::vector<FoundPeak> findPeaks(std::span<const double> x, std::span<const double> y, const Noise& noise,
                                 double hysteresis) {
    const std::vector<TurningPoint> points = turningPoints(y, hysteresis);
    std::vector<FoundPeak> out;
    for (std::size_t i = 0; i < points.size(); ++i) {
        out.push_back(footed(x, y, points, i, noise));
    }
    for (std::size_t i = 0; i + 1 < out.size(); ++i) {
        FoundPeak& peak = out[i];
        FoundPeak& next = out[i + 1];
        // Two that nearly meet share a line as well: whether they are parted, the height of the valley above it says.
        const std::size_t gap = next.start > peak.end ? next.start - peak.end : 0;
        peak.touchesNext = 5 * gap < next.apex - peak.apex || peak.isEndOpen || next.isStartOpen;
        if (peak.end > peak.valley || peak.isEndOpen) {
            peak.end = peak.valley;
        }
        if (next.start < peak.valley || next.isStartOpen) {
            next.start = peak.valley;
        }
    }
    return out;
}

} // namespace nuvat
