#include "peak_clusters.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace nuvat {

namespace {

/// The lowest point of a valley, between samples: the vertex of a parabola through three, or, where the valley bends
/// far beyond the noise, of a quartic through five (central differences, x at nearly equal steps).
/// @param reach samples on either side that the valley fills: in noise the parabola is fitted to all of them
double valleyAt(std::span<const double> x, std::span<const double> y, std::size_t i, std::size_t reach, double noise) {
    if (i == 0 || i + 1 == x.size()) {
        return x[i];
    }
    const double parabola = vertexOf(&x[i - 1], &y[i - 1]).first;
    const double bend = y[i - 1] - 2 * y[i] + y[i + 1];
    const bool isEven = i > 1 && i + 2 < x.size() &&
                        std::abs(x[i + 2] - x[i - 2] - 2 * (x[i + 1] - x[i - 1])) < 1e-6 * (x[i + 1] - x[i - 1]);
    constexpr double kClear = 50;
    if (bend < kClear * noise) {
        return localParabola(x, y, i, reach).first;
    }
    if (!isEven) {
        return parabola;
    }
    const double first = (y[i - 2] - 8 * y[i - 1] + 8 * y[i + 1] - y[i + 2]) / 12;
    const double second = (-y[i - 2] + 16 * y[i - 1] - 30 * y[i] + 16 * y[i + 1] - y[i + 2]) / 12;
    const double third = (-y[i - 2] + 2 * y[i - 1] - 2 * y[i + 1] + y[i + 2]) / 2;
    const double fourth = y[i - 2] - 4 * y[i - 1] + 6 * y[i] - 4 * y[i + 1] + y[i + 2];
    const double step = (x[i + 1] - x[i - 1]) / 2;
    double t = (parabola - x[i]) / step;
    constexpr int kTurns = 5;
    for (int turn = 0; turn < kTurns; ++turn) { // Newton on the derivative
        const double slope = first + t * (second + t * (third / 2 + t * fourth / 6));
        t -= slope / (second + t * (third + t * fourth / 2));
    }
    return std::abs(t) <= 1 ? x[i] + t * step : parabola;
}

/// Index ranges between ignored stretches.
struct Piece {
    std::size_t from = 0, to = 0; ///< one behind the last
    bool isCutBefore = false, isCutAfter = false;
};

std::vector<Piece> piecesOf(std::span<const double> x, std::vector<Stretch> ignored) {
    std::vector<Piece> out;
    std::ranges::sort(ignored, {}, &Stretch::from);
    Piece piece;
    const auto add = [&](std::size_t to, bool isCutAfter) {
        if (to > piece.from) {
            out.push_back({piece.from, to, piece.from > 0, isCutAfter});
        }
    };
    for (const Stretch& stretch : ignored) {
        const auto first = static_cast<std::size_t>(std::ranges::lower_bound(x, stretch.from) - x.begin());
        const auto end = static_cast<std::size_t>(std::ranges::upper_bound(x, stretch.to) - x.begin());
        if (first < end && end > piece.from) { // else no sample lies in it that is not ignored already
            add(first, true);
            piece.from = end;
        }
    }
    add(x.size(), false);
    return out;
}

/// A remark where a peak begins or ends at the edge of its piece.
void remarkEdge(bool isAtEdge, bool isOpen, bool isIgnoredBeyond, std::vector<PeakRemark>& remarks) {
    if (isAtEdge && isIgnoredBeyond) {
        remarks.push_back(PeakRemark::TouchesIgnored);
    } else if (isAtEdge && isOpen) {
        remarks.push_back(PeakRemark::CutByEnd);
    }
}

void addClusters(const Search& search, const Piece& piece, bool isNegative, std::vector<Cluster>& out,
                 std::span<const double> signal) {
    const auto x = search.trace.x.subspan(piece.from, piece.to - piece.from);
    const auto y = signal.subspan(piece.from, piece.to - piece.from);
    const double hysteresis =
        std::min(search.rules.leastValley.in(search.noise), search.rules.leastHeight.in(search.noise));
    if (x.size() < 3 || !(hysteresis > 0)) {
        return;
    }
    bool isNew = true;
    const std::vector<FoundPeak> peaks = findPeaks(x, y, search.noise, hysteresis);
    for (std::size_t i = 0; i < peaks.size(); ++i) {
        const FoundPeak& peak = peaks[i];
        if (isNew) {
            Cluster cluster;
            cluster.isNegative = isNegative;
            cluster.from = x[peak.start];
            remarkEdge(peak.start == 0, peak.isStartOpen, piece.isCutBefore, cluster.fromRemarks);
            out.push_back(cluster);
        }
        Cluster& cluster = out.back();
        const std::size_t next = i + 1 < peaks.size() ? peaks[i + 1].apex : peak.valley;
        const std::size_t reach = std::min(peak.valley - peak.apex, next - peak.valley) / 3;
        cluster.members.push_back({piece.from + peak.apex, valleyAt(x, y, peak.valley, reach, search.noise.fine), false,
                                   x[peak.start], x[peak.end]});
        cluster.to = x[peak.end];
        cluster.toRemarks.clear();
        remarkEdge(peak.end + 1 == x.size(), peak.isEndOpen, piece.isCutAfter, cluster.toRemarks);
        isNew = !peak.touchesNext;
    }
}

/// The level of the ground as a running median over half the trace: for telling positive from negative peaks.
std::vector<double> runningLevel(std::span<const double> y) {
    constexpr std::size_t kBlocks = 64;
    const std::size_t size = std::max<std::size_t>(y.size() / kBlocks, 1);
    std::vector<double> middles;
    for (std::size_t from = 0; from < y.size(); from += size) {
        std::vector<double> block(y.begin() + static_cast<std::ptrdiff_t>(from),
                                  y.begin() + static_cast<std::ptrdiff_t>(std::min(from + size, y.size())));
        std::ranges::nth_element(block, block.begin() + static_cast<std::ptrdiff_t>(block.size() / 2));
        middles.push_back(block[block.size() / 2]);
    }
    std::vector<double> out(y.size());
    const std::size_t reach = middles.size() / 4;
    for (std::size_t i = 0; i < middles.size(); ++i) {
        const std::size_t from = i > reach ? i - reach : 0, to = std::min(i + reach + 1, middles.size());
        std::vector<double> around(middles.begin() + static_cast<std::ptrdiff_t>(from),
                                   middles.begin() + static_cast<std::ptrdiff_t>(to));
        std::ranges::nth_element(around, around.begin() + static_cast<std::ptrdiff_t>(around.size() / 2));
        for (std::size_t k = i * size; k < std::min((i + 1) * size, y.size()); ++k) {
            out[k] = around[around.size() / 2];
        }
    }
    return out;
}

double halfWidthSteps(std::span<const double> y, std::size_t apex, double ground) {
    const double half = (y[apex] + ground) / 2;
    std::size_t left = apex, right = apex;
    while (left > 0 && y[left] > half) {
        --left;
    }
    while (right + 1 < y.size() && y[right] > half) {
        ++right;
    }
    return static_cast<double>(right - left);
}

/// Makes one of neighbours that are both chosen.
template<class Chosen> void joinMembers(const Search& search, Cluster& cluster, const Chosen& isChosen) {
    const double sign = cluster.isNegative ? -1 : 1;
    for (std::size_t i = 0; i + 1 < cluster.members.size();) {
        if (!isChosen(cluster.members[i]) || !isChosen(cluster.members[i + 1])) {
            ++i;
            continue;
        }
        const Member before = cluster.members[i];
        cluster.members.erase(cluster.members.begin() + static_cast<std::ptrdiff_t>(i));
        Member& joined = cluster.members[i];
        joined.start = before.start;
        if (sign * search.signal[before.apex] > sign * search.signal[joined.apex]) {
            joined.apex = before.apex;
        }
    }
}

} // namespace

std::vector<Cluster> findClusters(const Search& search) {
    std::vector<Cluster> out;
    std::vector<double> up, down;
    std::span<const double> signal = search.signal;
    if (search.rules.isNegative) {
        up = runningLevel(search.signal);
        down.resize(up.size());
        for (std::size_t i = 0; i < up.size(); ++i) {
            down[i] = -std::min(search.signal[i], up[i]);
            up[i] = std::max(search.signal[i], up[i]);
        }
        signal = up;
    }
    for (const Piece& piece : piecesOf(search.trace.x, search.rules.ignored)) {
        addClusters(search, piece, false, out, signal);
        if (search.rules.isNegative) {
            addClusters(search, piece, true, out, down);
        }
    }
    std::ranges::stable_sort(out, {}, &Cluster::from);
    return out;
}

void joinByRules(const Search& search, std::vector<Cluster>& clusters) {
    for (const StretchRule& rule : search.rules.rules) {
        if (!rule.isJoined && !rule.isWhole) {
            continue;
        }
        const auto isIn = [&](const Member& member) { return rule.stretch.contains(search.trace.x[member.apex]); };
        for (std::size_t i = 0; rule.isJoined && i + 1 < clusters.size();) {
            Cluster& next = clusters[i + 1];
            if (next.isNegative != clusters[i].isNegative || !isIn(clusters[i].members.back()) ||
                !isIn(next.members.front())) {
                ++i;
                continue;
            }
            clusters[i].members.back().splitAfter = (clusters[i].to + next.from) / 2;
            clusters[i].members.insert(clusters[i].members.end(), next.members.begin(), next.members.end());
            clusters[i].to = next.to;
            clusters[i].toRemarks = next.toRemarks;
            clusters.erase(clusters.begin() + static_cast<std::ptrdiff_t>(i) + 1);
        }
        for (Cluster& cluster : clusters) {
            joinMembers(search, cluster, isIn);
        }
    }
}

void splitShoulders(const Search& search, Cluster& cluster) {
    const auto& x = search.trace.x;
    const double sign = cluster.isNegative ? -1 : 1;
    std::vector<Member> out;
    for (std::size_t k = 0; k < cluster.members.size(); ++k) {
        const Member& member = cluster.members[k];
        const double from = k == 0 ? cluster.from : cluster.members[k - 1].splitAfter;
        const double to = k + 1 == cluster.members.size() ? cluster.to : member.splitAfter;
        const auto first = static_cast<std::size_t>(std::ranges::lower_bound(x, from) - x.begin());
        const auto end = static_cast<std::size_t>(std::ranges::upper_bound(x, to) - x.begin());
        std::vector<double> y;
        for (std::size_t i = first; i < end; ++i) {
            y.push_back(sign * search.signal[i]);
        }
        const std::size_t apex = member.apex - first;
        const double ground = std::max(y.front(), y.back());
        const int m = std::clamp(static_cast<int>(halfWidthSteps(y, apex, ground) / 7), 3, 200);
        const Smoothing window{2 * m + 1, 4};
        if (y.size() < static_cast<std::size_t>(window.window) + 2) {
            out.push_back(member);
            continue;
        }
        const std::vector<double> bend = savitzkyGolay(y, window, 2);
        const std::vector<double> weights = savitzkyGolayWeights(window, 2);
        const double noise =
            search.noise.fine * std::sqrt(std::inner_product(weights.begin(), weights.end(), weights.begin(), 0.0));
        const double least = std::max(5 * noise, 0.005 * std::abs(bend[apex]));
        // From the apex outwards: bent up, then bent down again is a shoulder; its drop is where it begins.
        const auto shoulder = [&](bool isRight) -> std::optional<Member> {
            bool wasUp = false;
            std::size_t deepest = apex, border = apex;
            for (std::size_t i = apex; isRight ? i + 1 < y.size() : i > 0; i += isRight ? 1 : std::size_t(-1)) {
                if (bend[i] > least) {
                    if (deepest != apex) {
                        break;
                    }
                    wasUp = true;
                } else if (wasUp && bend[i] < 0) {
                    border = border == apex ? i : border;
                    if (bend[i] < -least && (deepest == apex || bend[i] < bend[deepest])) {
                        deepest = i;
                    }
                }
            }
            if (deepest == apex) {
                return std::nullopt;
            }
            const std::size_t inner = isRight ? border - 1 : border + 1;
            const double share = bend[inner] == bend[border] ? 0 : bend[inner] / (bend[inner] - bend[border]);
            return Member{first + deepest, x[first + inner] + share * (x[first + border] - x[first + inner]), true,
                          from, to};
        };
        const auto before = shoulder(false), after = shoulder(true);
        if (before) {
            out.push_back({before->apex, before->splitAfter, true, member.start, member.end});
        }
        Member self = member;
        if (after) {
            self.splitAfter = after->splitAfter;
            self.isShoulder = true;
        }
        out.push_back(self);
        if (after) {
            out.push_back({after->apex, member.splitAfter, member.isShoulder, member.start, member.end});
        }
    }
    cluster.members = out;
}

std::vector<Cluster> partedAtLowValleys(const Search& search, std::vector<Cluster> clusters) {
    std::vector<Cluster> out;
    while (!clusters.empty()) {
        Cluster cluster = std::move(clusters.back());
        clusters.pop_back();
        const TraceView& trace = search.trace;
        const BaseLine line{cluster.from, interpolated(trace.x, trace.y, cluster.from), cluster.to,
                            interpolated(trace.x, trace.y, cluster.to)};
        const double sign = cluster.isNegative ? -1 : 1;
        std::size_t lowest = cluster.members.size();
        double least = 3 * search.noise.sigma;
        for (std::size_t i = 0; i + 1 < cluster.members.size(); ++i) {
            const double x = cluster.members[i].splitAfter;
            const double above = sign * (interpolated(trace.x, trace.y, x) - line.at(x));
            if (!cluster.members[i].isShoulder && above <= least) {
                least = above;
                lowest = i;
            }
        }
        if (lowest == cluster.members.size()) {
            out.push_back(std::move(cluster));
            continue;
        }
        Cluster right = cluster;
        const auto cut = static_cast<std::ptrdiff_t>(lowest) + 1;
        right.members.erase(right.members.begin(), right.members.begin() + cut);
        const double valley = cluster.members[lowest].splitAfter;
        right.from = std::max(valley, right.members.front().start);
        right.fromRemarks.clear();
        cluster.members.erase(cluster.members.begin() + cut, cluster.members.end());
        cluster.to = std::min(valley, cluster.members.back().end);
        cluster.toRemarks.clear();
        clusters.push_back(std::move(cluster));
        clusters.push_back(std::move(right));
    }
    std::ranges::stable_sort(out, {}, &Cluster::from);
    return out;
}

void takeOut(const TraceView& trace, Cluster& cluster, std::size_t member) {
    const bool hasBefore = member > 0, hasAfter = member + 1 < cluster.members.size();
    const double sign = cluster.isNegative ? -1 : 1;
    bool isToBefore = hasBefore;
    if (hasBefore && hasAfter) {
        const auto height = [&](double x) { return sign * interpolated(trace.x, trace.y, x); };
        isToBefore = height(cluster.members[member - 1].splitAfter) >= height(cluster.members[member].splitAfter);
    }
    if (isToBefore) {
        cluster.members[member - 1].splitAfter = cluster.members[member].splitAfter;
        cluster.members[member - 1].isShoulder = cluster.members[member].isShoulder;
    }
    cluster.members.erase(cluster.members.begin() + static_cast<std::ptrdiff_t>(member));
}

} // namespace nuvat
