#include "peak_shape.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace nuvat {

namespace {

/// The curve between start and end, and its distance from the ground.
struct Outline {
    std::vector<double> x, y, r;
    std::size_t firstSample = 0; ///< 1 when the start lies between samples
    std::size_t endSamples = 0;  ///< one behind the last sample
};

void addPoint(Outline& out, const TraceView& trace, const PeakShape& shape, double x, double y, double ground) {
    for (const auto& [stretch, rider] : shape.skimmed) {
        y = stretch.contains(x) ? rider.at(trace, x) : y;
    }
    out.x.push_back(x);
    out.y.push_back(y);
    out.r.push_back(y - ground);
}

/// The ends of skimmed parts, which need not lie on samples.
std::vector<double> cornersOf(const PeakShape& shape) {
    std::vector<double> out;
    for (const auto& [stretch, ground] : shape.skimmed) {
        for (const double x : {stretch.from, stretch.to}) {
            if (x > shape.from && x < shape.to) {
                out.push_back(x);
            }
        }
    }
    std::ranges::sort(out);
    return out;
}

Outline outlineOf(const TraceView& trace, const PeakShape& shape) {
    Outline out;
    const std::vector<double> corners = cornersOf(shape);
    auto corner = corners.begin();
    const auto addBetween = [&](double x) {
        addPoint(out, trace, shape, x, interpolated(trace.x, trace.y, x), shape.ground.at(trace, x));
    };
    auto i = static_cast<std::size_t>(std::ranges::lower_bound(trace.x, shape.from) - trace.x.begin());
    if (i == trace.x.size() || trace.x[i] != shape.from) {
        addBetween(shape.from);
        out.firstSample = 1;
    }
    const auto end = static_cast<std::size_t>(
        std::upper_bound(trace.x.begin() + static_cast<std::ptrdiff_t>(i), trace.x.end(), shape.to) - trace.x.begin());
    for (std::vector<double>* values : {&out.x, &out.y, &out.r}) {
        values->reserve(end - i + 2 + corners.size());
    }
    if (shape.skimmed.empty()) { // nothing between the samples
        const auto first = out.x.size();
        out.x.insert(out.x.end(), &trace.x[i], &trace.x[i] + (end - i));
        out.y.insert(out.y.end(), &trace.y[i], &trace.y[i] + (end - i));
        out.r.resize(out.x.size());
        for (std::size_t j = first; i < end; ++i, ++j) {
            out.r[j] = trace.y[i] - shape.ground.atSample(trace, i);
        }
    }
    for (; i < end; ++i) {
        for (; corner != corners.end() && *corner < trace.x[i]; ++corner) {
            addBetween(*corner);
        }
        for (; corner != corners.end() && *corner == trace.x[i]; ++corner) {
        }
        addPoint(out, trace, shape, trace.x[i], trace.y[i], shape.ground.atSample(trace, i));
    }
    for (; corner != corners.end(); ++corner) {
        addBetween(*corner);
    }
    out.endSamples = out.x.size();
    if (out.x.empty() || out.x.back() != shape.to) {
        addBetween(shape.to);
    }
    return out;
}

/// A sum that keeps what rounding takes from it, as exact as one in twice the digits. Source: D. E. Knuth, The Art of
/// Computer Programming, volume 2, section 4.2.2, theorem B.
class ExactSum {
public:
    void add(double value) {
        const double sum = m_sum + value, added = sum - m_sum;
        m_lost += (m_sum - (sum - added)) + (value - added);
        m_sum = sum;
    }
    double value() const { return m_sum + m_lost; }

private:
    double m_sum = 0, m_lost = 0;
};

/// Trapezoids above and below, and where the curve crosses.
void setAreas(const Outline& outline, Peak& peak) {
    double largest = 0;
    for (const double y : outline.y) {
        largest = std::max(largest, std::abs(y));
    }
    const double rounding = 1e-13 * largest; // a point typed as it stands in the file lies on the curve
    const auto heightOf = [&](std::size_t i) { return std::abs(outline.r[i]) <= rounding ? 0 : outline.r[i]; };
    ExactSum above, below;
    double before = heightOf(0);
    int side = before > 0 ? 1 : before < 0 ? -1 : 0; // of the last that was not on the line
    for (std::size_t i = 1; i < outline.x.size(); ++i) {
        const double r = heightOf(i), dx = outline.x[i] - outline.x[i - 1];
        const int now = r > 0 ? 1 : r < 0 ? -1 : 0;
        if (before > 0 && now > 0) { // nearly everywhere
            above.add((before + r) * dx / 2);
        } else if (before * r < 0) {
            const double share = before / (before - r);
            peak.crossings.push_back(outline.x[i - 1] + share * dx);
            (before > 0 ? above : below).add(before * share * dx / 2);
            (r > 0 ? above : below).add(r * (1 - share) * dx / 2);
        } else {
            (before + r > 0 ? above : below).add((before + r) * dx / 2);
            if (before == 0 && now != 0 && side != 0 && now != side) {
                peak.crossings.push_back(outline.x[i - 1]);
            }
        }
        side = now != 0 ? now : side;
        before = r;
    }
    peak.areaAbove = above.value();
    peak.areaBelow = below.value();
    peak.area = peak.areaAbove + peak.areaBelow;
}

/// The point of the largest value times sign, of samples where there are any.
std::size_t topOf(const Outline& outline, const std::vector<double>& values, double sign) {
    std::size_t from = outline.firstSample, to = outline.endSamples;
    if (from >= to) {
        from = 0;
        to = outline.x.size();
    }
    std::size_t best = from;
    double most = sign * values[from];
    for (std::size_t i = from + 1; i < to; ++i) {
        if (sign * values[i] > most) {
            most = sign * values[i];
            best = i;
        }
    }
    return best;
}

std::pair<double, double> summitOf(const Outline& outline, const std::vector<double>& values, std::size_t top) {
    if (top == 0 || top + 1 == outline.x.size()) {
        return {outline.x[top], values[top]};
    }
    return vertexOf(&outline.x[top - 1], &values[top - 1]);
}

/// Where the flank has fallen to a level, on the left and on the right of the top.
std::optional<double> leftAt(const Outline& outline, std::size_t top, double sign, double level) {
    for (std::size_t i = top; i-- > 0;) {
        const double r = sign * outline.r[i];
        if (r <= level) {
            const double above = sign * outline.r[i + 1];
            return outline.x[i] + (outline.x[i + 1] - outline.x[i]) * (above == r ? 0 : (level - r) / (above - r));
        }
    }
    return std::nullopt;
}

std::optional<double> rightAt(const Outline& outline, std::size_t top, double sign, double level) {
    for (std::size_t i = top + 1; i < outline.x.size(); ++i) {
        const double r = sign * outline.r[i];
        if (r <= level) {
            const double above = sign * outline.r[i - 1];
            return outline.x[i] - (outline.x[i] - outline.x[i - 1]) * (above == r ? 0 : (level - r) / (above - r));
        }
    }
    return std::nullopt;
}

std::optional<double> difference(const std::optional<double>& a, const std::optional<double>& b) {
    return a && b ? std::optional(*a - *b) : std::nullopt;
}

void setWidths(const Outline& outline, std::size_t top, double sign, Peak& peak) {
    peak.left5 = leftAt(outline, top, sign, 0.05 * peak.height);
    peak.right5 = rightAt(outline, top, sign, 0.05 * peak.height);
    peak.left10 = leftAt(outline, top, sign, 0.1 * peak.height);
    peak.right10 = rightAt(outline, top, sign, 0.1 * peak.height);
    peak.left50 = leftAt(outline, top, sign, 0.5 * peak.height);
    peak.right50 = rightAt(outline, top, sign, 0.5 * peak.height);
    peak.width5 = difference(peak.right5, peak.left5);
    peak.width10 = difference(peak.right10, peak.left10);
    peak.width50 = difference(peak.right50, peak.left50);
}

/// Where the tangent at the steepest point of one flank meets the ground.
/// @param slope of the smoothed curve, by sample
std::optional<double> tangentFoot(const Outline& outline, Smoothing window, const std::vector<double>& slope,
                                  std::size_t from, std::size_t to, double sign) {
    std::size_t steepest = from;
    for (std::size_t i = from; i < to; ++i) {
        steepest = sign * slope[i] > sign * slope[steepest] ? i : steepest;
    }
    if (from >= to || steepest == from || steepest + 1 == to || slope[steepest] == 0) {
        return std::nullopt; // the flank is cut before its inflection point
    }
    const std::array<double, 3> at{-1, 0, 1};
    const auto [shift, rate] = vertexOf(at.data(), &slope[steepest - 1]);
    const auto next = static_cast<std::size_t>(static_cast<long>(steepest) + (shift < 0 ? -1 : 1));
    const double share = std::abs(shift);
    const double x = outline.x[steepest] + share * (outline.x[next] - outline.x[steepest]);
    const double r = savitzkyGolayAt(outline.r, steepest, window);
    const double height = r + share * (savitzkyGolayAt(outline.r, next, window) - r);
    return x - height / rate * savitzkyGolayAt(outline.x, steepest, window, 1);
}

void setBaseWidth(const Outline& outline, std::size_t top, double sign, Peak& peak) {
    const std::size_t n = outline.x.size();
    const double half = peak.width50.value_or((peak.end - peak.start) / 3);
    const double points = half / ((outline.x.back() - outline.x.front()) / static_cast<double>(n - 1));
    constexpr int kOrder = 4;
    const int m = std::clamp(static_cast<int>(points / 6), 2, 200);
    const Smoothing window{2 * m + 1, kOrder};
    if (n < static_cast<std::size_t>(window.window) + 2) {
        return;
    }
    // Only the flanks matter: from somewhat outside half height to the top.
    const std::vector<double> slope = savitzkyGolay(outline.r, window, 1);
    const auto left = tangentFoot(outline, window, slope, 0, top, sign);
    const auto right = tangentFoot(outline, window, slope, top, n, -sign);
    peak.widthBase = difference(right, left);
}

/// Three samples or more at the very top that end as abruptly as they begin.
bool isFlatTop(const Outline& outline, std::size_t top, double digitStep) {
    std::size_t from = top, to = top;
    while (from > 0 && outline.y[from - 1] == outline.y[top]) {
        --from;
    }
    while (to + 1 < outline.y.size() && outline.y[to + 1] == outline.y[top]) {
        ++to;
    }
    if (to - from < 2 || from == 0 || to + 1 == outline.y.size()) {
        return false;
    }
    const double least = std::max(5 * digitStep, 0.002 * std::abs(outline.r[top]));
    return std::abs(outline.y[from] - outline.y[from - 1]) > least &&
           std::abs(outline.y[to] - outline.y[to + 1]) > least;
}

double square(double value) {
    return value * value;
}

void setShape(Peak& peak) {
    if (peak.left10 && peak.right10 && peak.apex > *peak.left10) {
        peak.asymmetry10 = (*peak.right10 - peak.apex) / (peak.apex - *peak.left10);
    }
    if (peak.left5 && peak.right5 && peak.apex > *peak.left5) {
        peak.tailing5 = *peak.width5 / (2 * (peak.apex - *peak.left5));
    }
    if (peak.width50 && *peak.width50 > 0) {
        peak.platesHalf = 5.54 * square(peak.apex / *peak.width50);
    }
    if (peak.widthBase && *peak.widthBase > 0) {
        peak.platesBase = 16 * square(peak.apex / *peak.widthBase);
    }
}

} // namespace

double Ground::atSample(const TraceView& trace, std::size_t i) const {
    return values.empty() ? at(trace, trace.x[i]) : values[i] + riseAt(trace.x[i]);
}

double Ground::at(const TraceView& trace, double x) const {
    return (values.empty() ? line.at(x) : interpolated(trace.x, values, x)) + riseAt(x);
}

double Ground::riseAt(double x) const {
    return rise != 0 ? rise * std::exp(-decay * (x - from)) : 0;
}

std::pair<double, double> vertexOf(const double* x, const double* y) {
    const double left = (y[1] - y[0]) / (x[1] - x[0]);
    const double right = (y[2] - y[1]) / (x[2] - x[1]);
    const double curvature = (right - left) / (x[2] - x[0]);
    if (curvature == 0) {
        return {x[1], y[1]};
    }
    const double slope = left + curvature * (x[1] - x[0]); // at the middle point
    const double shift = -slope / (2 * curvature);
    if (x[1] + shift < x[0] || x[1] + shift > x[2]) {
        return {x[1], y[1]};
    }
    return {x[1] + shift, y[1] + slope * shift / 2};
}

namespace {

/// Coefficients of the parabola about x[i], by polynomials that are orthogonal over the points. fitPolynomial has more
/// digits than a valley in noise needs, at four times the time.
std::array<double, 3> parabolaAbout(std::span<const double> x, std::span<const double> y, std::size_t i,
                                    std::size_t reach) {
    reach = std::max<std::size_t>(std::min({reach, i, x.size() - 1 - i}), 1);
    const std::size_t from = i - reach, end = i + reach + 1;
    const double n = static_cast<double>(end - from);
    double meanX = 0, meanY = 0;
    for (std::size_t k = from; k < end; ++k) {
        meanX += x[k] - x[i];
        meanY += y[k] - y[i];
    }
    meanX /= n;
    meanY /= n;
    double squares = 0, cubes = 0, moment = 0;
    for (std::size_t k = from; k < end; ++k) {
        const double u = x[k] - x[i] - meanX, square = u * u;
        squares += square;
        cubes += square * u;
        moment += u * (y[k] - y[i]);
    }
    const double slope = moment / squares, tilt = cubes / squares, spread = squares / n;
    double share = 0, weight = 0;
    for (std::size_t k = from; k < end; ++k) {
        const double u = x[k] - x[i] - meanX, q = u * u - tilt * u - spread;
        share += q * (y[k] - y[i] - slope * u);
        weight += q * q;
    }
    const double bend = weight > 0 ? share / weight : 0, linear = slope - bend * tilt;
    // y[i] + meanY + linear*u + bend*(u*u - spread), with u = t - meanX
    return {y[i] + meanY - linear * meanX + bend * (meanX * meanX - spread), linear - 2 * bend * meanX, bend};
}

} // namespace

std::pair<double, double> localParabola(std::span<const double> x, std::span<const double> y, std::size_t i,
                                        std::size_t reach) {
    if (i == 0 || i + 1 == x.size()) {
        return {x[i], y[i]};
    }
    const auto [level, slope, bend] = parabolaAbout(x, y, i, reach);
    const double shift = bend != 0 ? -slope / (2 * bend) : INFINITY;
    const std::size_t left = i - std::min(i, std::max<std::size_t>(reach, 1));
    const std::size_t right = std::min(i + std::max<std::size_t>(reach, 1), x.size() - 1);
    if (x[i] + shift < x[left] || x[i] + shift > x[right]) {
        return {x[i], y[i]};
    }
    return {x[i] + shift, level + slope * shift / 2};
}

namespace {

/// The ground at equal steps, ends included; nothing where it is straight.
std::vector<double> bendOf(const TraceView& trace, const PeakShape& shape) {
    constexpr int kSteps = 32; // more than an eye can tell
    if (shape.ground.values.empty() && shape.ground.rise == 0) {
        return {};
    }
    std::vector<double> out(kSteps + 1);
    for (std::size_t i = 0; i < out.size(); ++i) {
        out[i] = shape.ground.at(trace, shape.from + (shape.to - shape.from) * static_cast<double>(i) / kSteps);
    }
    const bool isStraight = std::ranges::all_of(out, [&](double y) { return y == out.front(); });
    return isStraight ? std::vector<double>{} : out;
}

} // namespace

Peak measuredPeak(const TraceView& trace, const PeakShape& shape, double digitStep) {
    const Outline outline = outlineOf(trace, shape);
    const double sign = shape.isNegative ? -1 : 1;
    Peak peak;
    peak.isNegative = shape.isNegative;
    peak.split = shape.split;
    peak.cluster = shape.cluster;
    peak.remarks = shape.remarks;
    peak.start = shape.from;
    peak.end = shape.to;
    peak.startY = shape.ground.at(trace, shape.from);
    peak.endY = shape.ground.at(trace, shape.to);
    peak.bend = bendOf(trace, shape);
    setAreas(outline, peak);
    const std::size_t top = topOf(outline, outline.r, sign);
    const auto [apex, height] = summitOf(outline, outline.r, top);
    peak.apex = apex;
    peak.height = sign * height;
    peak.apexY = height + shape.ground.at(trace, apex);
    peak.xSample = outline.x[top];
    peak.heightSample = sign * outline.r[top];
    const auto [signal, signalY] = summitOf(outline, outline.y, topOf(outline, outline.y, sign));
    peak.apexSignal = signal;
    peak.apexSignalY = signalY;
    if (top == 0 || top + 1 == outline.x.size()) {
        peak.remarks.push_back(PeakRemark::NoApex);
    } else {
        setWidths(outline, top, sign, peak);
        setBaseWidth(outline, top, sign, peak);
        setShape(peak);
        if (isFlatTop(outline, top, digitStep)) {
            peak.remarks.push_back(PeakRemark::Saturated);
        }
    }
    return peak;
}

void relatePeaks(const TraceView& trace, std::vector<Peak>& peaks, std::optional<double> deadTime) {
    double areas = 0, heights = 0;
    for (const Peak& peak : peaks) {
        areas += std::abs(peak.area);
        heights += peak.height;
    }
    for (std::size_t i = 0; i < peaks.size(); ++i) {
        Peak& peak = peaks[i];
        if (areas > 0) {
            peak.areaPercent = 100 * std::abs(peak.area) / areas;
        }
        if (heights > 0) {
            peak.heightPercent = 100 * peak.height / heights;
        }
        if (deadTime && *deadTime > 0) {
            peak.retentionFactor = (peak.apex - *deadTime) / *deadTime;
        }
        if (i == 0) {
            continue;
        }
        const Peak& before = peaks[i - 1];
        const double distance = peak.apex - before.apex;
        if (before.width50 && peak.width50 && *before.width50 + *peak.width50 > 0) {
            peak.resolutionHalf = 1.18 * distance / (*before.width50 + *peak.width50);
        }
        if (before.widthBase && peak.widthBase && *before.widthBase + *peak.widthBase > 0) {
            peak.resolutionBase = 2 * distance / (*before.widthBase + *peak.widthBase);
        }
        if (before.cluster == peak.cluster && before.end == peak.start && before.isNegative == peak.isNegative &&
            before.split == PeakSplit::Drop && peak.split == PeakSplit::Drop) {
            const double valley = std::abs(interpolated(trace.x, trace.y, peak.start) - peak.startY);
            peak.peakToValley =
                valley > 0 ? std::optional(std::min(before.height, peak.height) / valley) : std::nullopt;
        }
    }
}

} // namespace nuvat
