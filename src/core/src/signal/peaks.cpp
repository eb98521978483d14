#include "nuvat/core/signal/peaks.h"

#include "peak_clusters.h"
#include "peak_editor.h"
#include "skim.h"

#include "nuvat/core/base/number.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <stdexcept>

namespace nuvat {

namespace {

constexpr std::array<const char*, 8> kBaselines{"straight", "valleys",    "horizontal", "level",
                                                "tangent",  "polynomial", "als",        "none"};
constexpr std::array<const char*, 4> kSkims{"none", "tangent", "double-tangent", "exponential"};

constexpr std::array<const char*, 7> kEdits{"bounds", "line", "add", "remove", "split", "join", "give"};

template<class T, class Names> std::optional<T> named(const Names& names, std::string_view name) {
    const auto found = std::ranges::find(names, name);
    return found == names.end() ? std::nullopt : std::optional(static_cast<T>(found - names.begin()));
}

/// One trace while its peaks are measured.
class Measuring {
public:
    Measuring(std::span<const double> x, std::span<const double> y, const PeakRules& rules)
        : m_rules(rules), m_trace{x, y}, m_signal(y) {}

    Result<TraceFeatures> run(std::span<const PeakEdit> edits, const std::optional<Noise>& known) {
        m_noise = known ? *known : noiseOf(m_trace.y);
        smooth();
        if (auto set = setBackground(); !set) {
            return tl::unexpected(set.error());
        }
        const bool isGiven = !m_rules.given.empty() || m_rules.line;
        if (auto done = isGiven ? measureGiven() : measureFound(); !done) {
            return tl::unexpected(done.error());
        }
        apply(edits);
        std::ranges::stable_sort(m_peaks, {}, &Peak::apex);
        relatePeaks(m_trace, m_peaks, m_rules.deadTime);
        return TraceFeatures{m_noise, std::move(m_peaks), std::move(m_warnings), std::move(m_unheld)};
    }

private:
    void smooth() {
        if (m_rules.smoothing) {
            m_smoothed = savitzkyGolay(m_trace.y, *m_rules.smoothing);
            m_signal = m_smoothed;
            m_trace.y = m_rules.isAreaSmoothed ? m_signal : m_trace.y;
        }
    }

    /// Baselines that do not depend on where peaks are.
    Result<void> setBackground() {
        const BaselineRule& rule = m_rules.baseline;
        if (rule.kind == BaselineKind::None) {
            m_background.assign(m_trace.x.size(), 0);
        } else if (rule.kind == BaselineKind::Level) {
            const auto stretch = blankStretch(m_trace.x, m_trace.y, rule.through.empty() ? Stretch{} : rule.through[0]);
            if (!stretch) {
                return tl::unexpected(stretch.error());
            }
            m_background.assign(m_trace.x.size(), stretch->mean);
        } else if (rule.kind == BaselineKind::AsymmetricLeastSquares) {
            m_background = asymmetricLeastSquares(m_trace.y, rule.lambda, rule.asymmetry);
            m_flat.resize(m_background.size());
            for (std::size_t i = 0; i < m_flat.size(); ++i) {
                m_flat[i] = m_signal[i] - m_background[i];
            }
            m_signal = m_flat;
        } else if ((isTangent() || rule.kind == BaselineKind::Polynomial) && !m_rules.isNegative) {
            // A peak on a slope need not be a maximum, and a background that bends is nowhere straight.
            m_flat = hullBaseline(m_trace.x, m_signal, false);
            for (std::size_t i = 0; i < m_flat.size(); ++i) {
                m_flat[i] = m_signal[i] - m_flat[i];
            }
            m_signal = m_flat;
            m_noise.fine = m_noise.sigma;
        }
        if (rule.kind == BaselineKind::Polynomial && !rule.through.empty()) {
            return setPolynomial(rule.through);
        }
        return {};
    }

    Result<void> setPolynomial(const std::vector<Stretch>& through) {
        auto values = polynomialBaseline(m_trace.x, m_trace.y, through, m_rules.baseline.order);
        if (!values) {
            return tl::unexpected(values.error());
        }
        m_background = std::move(*values);
        return {};
    }

    /// The polynomial through everything that is in no peak.
    Result<void> setPolynomialBeside(std::vector<Stretch> peaks) {
        if (m_rules.baseline.kind != BaselineKind::Polynomial || !m_background.empty()) {
            return {};
        }
        peaks.insert(peaks.end(), m_rules.ignored.begin(), m_rules.ignored.end());
        std::ranges::sort(peaks, {}, &Stretch::from);
        std::vector<Stretch> beside;
        double from = -INFINITY;
        for (const Stretch& peak : peaks) {
            beside.push_back({from, std::nextafter(peak.from, -INFINITY)});
            from = std::max(from, std::nextafter(peak.to, INFINITY));
        }
        beside.push_back({from, INFINITY});
        return setPolynomial(beside);
    }

    double yAt(double x) const { return interpolated(m_trace.x, m_trace.y, x); }
    BaseLine chord(double from, double to) const { return {from, yAt(from), to, yAt(to)}; }

    /// What peaks between two points stand on. @param sign of the peaks
    Ground groundOf(double from, double to) const {
        if (!m_background.empty()) {
            return {{from, 0, to, 0}, m_background, 0, 0, 0};
        }
        const bool isHeld = std::ranges::any_of(
            m_rules.rules, [&](const StretchRule& rule) { return rule.isHeld && rule.stretch.contains(from); });
        if (m_rules.baseline.kind == BaselineKind::Horizontal || isHeld) {
            return {{from, yAt(from), to, yAt(from)}, {}, 0, 0, 0};
        }
        return {chord(from, to), {}, 0, 0, 0};
    }

    bool isTangent() const { return m_rules.baseline.kind == BaselineKind::Tangent && !m_rules.line; }

    /// The tangent below (above) what lies between two points, and the stretch between the samples it touches. Of the
    /// edges of the hull, the one below the sample that lies highest above the hull.
    void toTangent(PeakShape& shape, std::optional<std::size_t> apexSample = std::nullopt) const {
        const auto [first, end] = samplesIn(shape.from, shape.to);
        if (end < first + 3) {
            return;
        }
        const auto x = m_trace.x.subspan(first, end - first), y = m_trace.y.subspan(first, end - first);
        const std::vector<double> hull = hullBaseline(x, y, shape.isNegative);
        std::size_t apex = apexSample ? *apexSample - first : 0;
        for (std::size_t i = 0; i < x.size() && !apexSample; ++i) {
            apex = std::abs(y[i] - hull[i]) > std::abs(y[apex] - hull[apex]) ? i : apex;
        }
        if (const auto points = tangentPoints(x, y, apex, shape.isNegative)) {
            shape.from = x[points->first];
            shape.to = x[points->second];
            shape.ground = {{shape.from, y[points->first], shape.to, y[points->second]}, {}, 0, 0, 0};
        }
    }

    std::pair<std::size_t, std::size_t> samplesIn(double from, double to) const {
        return {static_cast<std::size_t>(std::ranges::lower_bound(m_trace.x, from) - m_trace.x.begin()),
                static_cast<std::size_t>(std::ranges::upper_bound(m_trace.x, to) - m_trace.x.begin())};
    }

    // ---- peaks whose start and end are given

    Result<void> requireInside(double x, const char* what) const {
        if (x < m_trace.x.front() || x > m_trace.x.back()) {
            return fail("peaks.outside",
                        std::string(what) + " at " + formatNumber(x) + " lies outside the trace, which goes from " +
                            formatNumber(m_trace.x.front()) + " to " + formatNumber(m_trace.x.back()) + ".",
                        "Choose a point within it.");
        }
        return {};
    }

    Result<std::vector<Stretch>> givenStretches() const {
        std::vector<Stretch> out = m_rules.given;
        if (out.empty()) {
            out.push_back({m_rules.line->x0, m_rules.line->x1});
        }
        for (Stretch& stretch : out) {
            stretch = {std::min(stretch.from, stretch.to), std::max(stretch.from, stretch.to)};
            const auto from = requireInside(stretch.from, m_rules.given.empty() ? "The line" : "The start of a peak");
            const auto to = requireInside(stretch.to, m_rules.given.empty() ? "The line" : "The end of a peak");
            if (!from || !to) {
                return tl::unexpected(!from ? from.error() : to.error());
            }
            if (stretch.from == stretch.to) {
                return fail("peaks.same-x", "The start and the end of a peak are the same.", "Set them apart.");
            }
        }
        std::ranges::sort(out, {}, &Stretch::from);
        return out;
    }

    Result<void> measureGiven() {
        if (m_rules.line && m_rules.line->x0 == m_rules.line->x1) {
            return fail("peaks.same-x",
                        "The two points of the line have the same x, " + formatNumber(m_rules.line->x0) +
                            ": it is no base line.",
                        "Set them apart.");
        }
        const auto stretches = givenStretches();
        if (!stretches) {
            return tl::unexpected(stretches.error());
        }
        if (auto set = setPolynomialBeside(*stretches); !set) {
            return set;
        }
        std::size_t from = 0;
        for (std::size_t i = 0; i < stretches->size(); ++i) {
            const bool touchesNext = i + 1 < stretches->size() && (*stretches)[i].to == (*stretches)[i + 1].from &&
                                     m_rules.baseline.kind != BaselineKind::Valleys;
            if (!touchesNext) {
                measureTouching({stretches->begin() + static_cast<std::ptrdiff_t>(from),
                                 stretches->begin() + static_cast<std::ptrdiff_t>(i) + 1});
                from = i + 1;
            }
        }
        return {};
    }

    /// Given peaks that touch share one baseline.
    void measureTouching(const std::vector<Stretch>& stretches) {
        PeakShape shape;
        shape.from = stretches.front().from;
        shape.to = stretches.back().to;
        shape.ground = groundOf(shape.from, shape.to);
        if (m_rules.line) {
            const BaseLine& line = *m_rules.line;
            shape.ground = {line.x0 <= line.x1 ? line : BaseLine{line.x1, line.y1, line.x0, line.y0}, {}, 0, 0, 0};
        }
        shape.cluster = m_clusters++;
        shape.isNegative = isTangent() ? bendsUp(shape) : isDeeperThanHigh(shape);
        if (isTangent()) {
            toTangent(shape);
        }
        const bool isOne = stretches.size() == 1;
        const double from = shape.from, to = shape.to;
        for (std::size_t i = 0; i < stretches.size(); ++i) {
            shape.from = i == 0 ? from : stretches[i].from;
            shape.to = i + 1 == stretches.size() ? to : stretches[i].to;
            shape.split = isOne ? PeakSplit::None : PeakSplit::Drop;
            keep(shape, measuredPeak(m_trace, shape, m_noise.digitStep));
        }
    }

    void keep(const PeakShape& shape, Peak peak) {
        m_shapes.push_back(shape);
        m_peaks.push_back(std::move(peak));
    }

    /// Whether the sharpest bend is that of a negative peak: a curved background does not tell its sign, its bend does.
    bool bendsUp(const PeakShape& shape) const {
        const auto [first, end] = samplesIn(shape.from, shape.to);
        const int m = std::clamp(static_cast<int>((end - first) / 12), 2, 100);
        const Smoothing window{2 * m + 1, 2};
        if (end < first + static_cast<std::size_t>(window.window)) {
            return isDeeperThanHigh(shape);
        }
        const std::vector<double> bend = savitzkyGolay(m_trace.y.subspan(first, end - first), window, 2);
        const auto inside =
            std::span(bend).subspan(static_cast<std::size_t>(m), bend.size() - 2 * static_cast<std::size_t>(m));
        return std::ranges::max(inside) > -std::ranges::min(inside);
    }

    bool isDeeperThanHigh(const PeakShape& shape) const {
        double high = 0, low = 0;
        const auto first = std::ranges::lower_bound(m_trace.x, shape.from) - m_trace.x.begin();
        for (auto i = static_cast<std::size_t>(first); i < m_trace.x.size() && m_trace.x[i] <= shape.to; ++i) {
            const double r = m_trace.y[i] - shape.ground.atSample(m_trace, i);
            high = std::max(high, r);
            low = std::min(low, r);
        }
        return -low > high;
    }

    // ---- peaks that are found

    Result<void> measureFound() {
        const Search search{m_trace, m_signal, m_rules, m_noise};
        std::vector<Cluster> clusters = findClusters(search);
        if (m_rules.hasShoulders) {
            for (Cluster& cluster : clusters) {
                splitShoulders(search, cluster);
            }
        }
        if (m_background.empty()) {
            clusters = partedAtLowValleys(search, std::move(clusters));
        }
        joinByRules(search, clusters);
        std::vector<Stretch> peaks;
        for (const Cluster& cluster : clusters) {
            peaks.push_back({cluster.from, cluster.to});
        }
        if (auto set = setPolynomialBeside(peaks); !set) {
            return set;
        }
        for (std::size_t i = 0; i < clusters.size(); ++i) {
            const Stretch room{i > 0 ? clusters[i - 1].to : m_trace.x.front(),
                               i + 1 < clusters.size() ? clusters[i + 1].from : m_trace.x.back()};
            while (!clusters[i].members.empty() && !measure(search, clusters[i], room)) {
            }
        }
        return {};
    }

    double leastHeightAt(double x) const {
        for (const StretchRule& rule : m_rules.rules) {
            if (rule.leastHeight && rule.stretch.contains(x)) {
                return rule.leastHeight->in(m_noise);
            }
        }
        return m_rules.leastHeight.in(m_noise);
    }

    bool isTooLow(const Peak& peak) const { return peak.heightSample < leastHeightAt(peak.xSample); }

    /// Such a peak is not told of, and nobody gets its area.
    bool isTooSmall(const Peak& peak) const {
        return peak.width50.value_or(peak.end - peak.start) < m_rules.leastWidth ||
               std::abs(peak.area) < m_rules.leastArea;
    }

    /// @param room between its neighbours; @return false when a member was too low and has been taken out
    bool measure(const Search& search, Cluster& cluster, Stretch room) {
        std::vector<Peak> peaks;
        const std::vector<PeakShape> shapes = shapesOf(cluster, room);
        for (const PeakShape& shape : shapes) {
            peaks.push_back(measuredPeak(m_trace, shape, m_noise.digitStep));
        }
        for (std::size_t i = 0; i < peaks.size(); ++i) {
            if (isTooLow(peaks[i])) {
                takeOut(search.trace, cluster, i);
                return false;
            }
        }
        ++m_clusters;
        for (std::size_t i = 0; i < peaks.size(); ++i) {
            if (!isTooSmall(peaks[i])) {
                keep(shapes[i], std::move(peaks[i]));
            }
        }
        return true;
    }

    /// One shape a member.
    std::vector<PeakShape> shapesOf(const Cluster& cluster, Stretch room) const {
        const std::size_t n = cluster.members.size();
        std::vector<PeakShape> out(n);
        const bool isByValleys = m_rules.baseline.kind == BaselineKind::Valleys;
        const Ground common = groundOf(cluster.from, cluster.to);
        for (std::size_t i = 0; i < n; ++i) {
            PeakShape& shape = out[i];
            shape.from = i == 0 ? cluster.from : cluster.members[i - 1].splitAfter;
            shape.to = i + 1 == n ? cluster.to : cluster.members[i].splitAfter;
            shape.ground = isByValleys ? groundOf(shape.from, shape.to) : common;
            shape.split = n == 1 || isByValleys ? PeakSplit::None : PeakSplit::Drop;
            shape.cluster = m_clusters;
            shape.isNegative = cluster.isNegative;
        }
        out.front().remarks = cluster.fromRemarks;
        out.back().remarks.insert(out.back().remarks.end(), cluster.toRemarks.begin(), cluster.toRemarks.end());
        if (isTangent()) {
            touch(cluster, room, out);
        }
        if (m_rules.skim != SkimKind::None && n > 1 && !isByValleys && !cluster.isNegative) {
            skim(cluster, common, out);
        }
        return out;
    }

    /// The tangent of the whole cluster, which may touch anywhere in its room that is not ignored.
    void touch(const Cluster& cluster, Stretch room, std::vector<PeakShape>& shapes) const {
        for (const Stretch& ignored : m_rules.ignored) {
            room.from = ignored.to <= cluster.from ? std::max(room.from, ignored.to) : room.from;
            room.to = ignored.from >= cluster.to ? std::min(room.to, ignored.from) : room.to;
        }
        PeakShape whole = shapes.front();
        whole.from = room.from;
        whole.to = room.to;
        const double sign = cluster.isNegative ? -1 : 1;
        const Member& top = *std::ranges::max_element(
            cluster.members, {}, [&](const Member& member) { return sign * m_signal[member.apex]; });
        toTangent(whole, top.apex);
        shapes.front().from = whole.from;
        shapes.back().to = whole.to;
        for (PeakShape& shape : shapes) {
            shape.ground = whole.ground;
            shape.from = std::max(shape.from, whole.from);
            shape.to = std::min(shape.to, whole.to);
        }
    }

    /// Riders on the tail of a much higher member before them.
    void skim(const Cluster& cluster, const Ground& common, std::vector<PeakShape>& shapes) const {
        const auto heightOf = [&](std::size_t i) {
            const std::size_t apex = cluster.members[i].apex;
            return m_trace.y[apex] - common.atSample(m_trace, apex);
        };
        std::size_t parent = 0;
        for (std::size_t i = 1; i < shapes.size(); ++i) {
            const auto cut = skimOf(m_trace, m_rules.skim, shapes[i].from, cluster.members[parent].apex,
                                    cluster.members[i].apex, shapes[i].to, common, m_noise.fine);
            if (!cut || !(heightOf(parent) > m_rules.skimRatio * cut->riderHeight)) {
                parent = i;
                continue;
            }
            shapes[parent].to = shapes[i].to;
            shapes[parent].skimmed.emplace_back(cut->stretch, cut->ground);
            shapes[parent].split = parent > 0 || i + 1 < shapes.size() ? PeakSplit::Drop : PeakSplit::None;
            shapes[i].from = cut->stretch.from;
            shapes[i].to = cut->stretch.to;
            shapes[i].ground = cut->ground;
            shapes[i].split = PeakSplit::Skim;
        }
    }

    // ---- what a person draws

    /// The edits one after the other; then all peaks are measured again.
    void apply(std::span<const PeakEdit> edits) {
        for (std::size_t i = 0; i < edits.size(); ++i) {
            if (!PeakEditor{m_trace, m_shapes, m_clusters}.apply(edits[i])) {
                m_unheld.push_back(i);
            }
        }
        if (!edits.empty()) {
            m_peaks.clear();
            for (const PeakShape& shape : m_shapes) {
                m_peaks.push_back(measuredPeak(m_trace, shape, m_noise.digitStep));
            }
        }
    }

    const PeakRules& m_rules;
    TraceView m_trace;
    std::span<const double> m_signal;
    std::vector<double> m_smoothed, m_background, m_flat;
    Noise m_noise;
    std::vector<Peak> m_peaks;
    std::vector<PeakShape> m_shapes; ///< of the peaks, in the same order
    std::vector<std::size_t> m_unheld;
    std::vector<std::string> m_warnings;
    int m_clusters = 0;
};

} // namespace

std::string baselineName(BaselineKind kind) {
    return kBaselines.at(static_cast<std::size_t>(kind));
}

std::optional<BaselineKind> baselineFromName(std::string_view name) {
    return named<BaselineKind>(kBaselines, name);
}

std::string skimName(SkimKind kind) {
    return kSkims.at(static_cast<std::size_t>(kind));
}

std::optional<SkimKind> skimFromName(std::string_view name) {
    return named<SkimKind>(kSkims, name);
}

std::string_view name(PeakEditKind kind) {
    return kEdits.at(static_cast<std::size_t>(kind));
}

std::optional<PeakEditKind> peakEditKindFromName(std::string_view text) {
    return named<PeakEditKind>(kEdits, text);
}

Result<TraceFeatures> measurePeaks(std::span<const double> x, std::span<const double> y, const PeakRules& rules,
                                   std::span<const PeakEdit> edits, const std::optional<Noise>& noise) {
    if (x.size() != y.size()) {
        throw std::invalid_argument("x and y differ in length");
    }
    if (x.size() < 3) {
        return fail("trace.too-short", "The trace has fewer than three samples.");
    }
    return Measuring(x, y, rules).run(edits, noise);
}

} // namespace nuvat
