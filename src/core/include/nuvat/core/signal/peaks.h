#pragma once

#include "nuvat/core/signal/baseline.h"
#include "nuvat/core/signal/noise.h"
#include "nuvat/core/signal/smoothing.h"

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace nuvat {

/// A limit in y, absolute or as a multiple of the noise.
struct HeightLimit {
    double value = 8;
    bool isInNoise = true;
    double in(const Noise& noise) const { return isInNoise ? value * noise.sigma : value; }
    bool operator==(const HeightLimit&) const = default;
};

enum class BaselineKind { Straight, Valleys, Horizontal, Level, Tangent, Polynomial, AsymmetricLeastSquares, None };
std::string baselineName(BaselineKind kind); ///< "straight", "valleys", …
std::optional<BaselineKind> baselineFromName(std::string_view name);

/// How the line below peaks is drawn.
struct BaselineRule {
    BaselineKind kind = BaselineKind::Straight;
    int order = 3;                ///< of the polynomial, 1 to 5
    std::vector<Stretch> through; ///< the polynomial: stretches it goes through, none for all that is no peak; the
                                  ///< level: the one stretch whose mean it has
    double lambda = 1e6;          ///< of asymmetric least squares, > 0
    double asymmetry = 0.01;      ///< p of asymmetric least squares, 0 to 1
    bool operator==(const BaselineRule&) const = default;
};

enum class SkimKind { None, Tangent, DoubleTangent, Exponential };
std::string skimName(SkimKind kind);
std::optional<SkimKind> skimFromName(std::string_view name);

/// A stretch in which peaks are found by rules of its own.
struct StretchRule {
    Stretch stretch;
    std::optional<HeightLimit> leastHeight;
    bool isHeld = false;   ///< the baseline stays at the level that it has where a peak of the stretch begins
    bool isJoined = false; ///< all that is found in it is one peak
    bool isWhole = false;  ///< peaks that touch are not parted
    bool operator==(const StretchRule&) const = default;
};

/// How peaks of a trace are found and measured.
struct PeakRules {
    std::optional<Smoothing> smoothing; ///< for finding only, unless the next says otherwise
    bool isAreaSmoothed = false;        ///< areas and heights from the smoothed trace as well
    HeightLimit leastHeight;
    HeightLimit leastValley; ///< how far the trace must fall between two peaks to part them
    double leastWidth = 0;   ///< at half height [X]
    double leastArea = 0;    ///< [X*Y], by its size
    std::vector<Stretch> ignored;
    std::vector<StretchRule> rules;
    BaselineRule baseline;
    SkimKind skim = SkimKind::None;
    double skimRatio = 10;   ///< parent height/rider height (above its skim line) from which a rider is skimmed
    bool isNegative = false; ///< negative peaks are found as well
    bool hasShoulders = false;
    std::vector<Stretch> given;   ///< start and end of peaks: nothing is found then
    std::optional<BaseLine> line; ///< the base line of all of them; without `given`, of one peak between its ends
    std::optional<double> deadTime;
    bool operator==(const PeakRules&) const = default;
};

enum class PeakSplit { None, Drop, Skim };
enum class PeakRemark {
    CutByEnd,       ///< the trace ends before the peak does
    Saturated,      ///< a flat top
    TouchesIgnored, ///< begins or ends at a stretch that is ignored
    NoApex,         ///< the largest sample is at the start or the end
};

/// One peak. Widths and what is made of them are absent where they are not defined. x in [X], heights in [Y].
struct Peak {
    double apex = 0;   ///< vertex of the parabola through the three samples about the largest y - baseline
    double apexY = 0;  ///< the parabola there, with the baseline
    double height = 0; ///< the parabola there, above the baseline (below it for a negative peak): positive
    bool isNegative = false;
    double area = 0;               ///< trapezoids of y - baseline from start to end, signed [X*Y]
    double areaAbove = 0;          ///< >= 0
    double areaBelow = 0;          ///< <= 0; area is their sum
    std::vector<double> crossings; ///< x at which the curve crosses the baseline between start and end
    double apexSignal = 0;         ///< the same parabola through y as measured, about its largest sample
    double apexSignalY = 0;
    double xSample = 0;      ///< the sample with the largest distance from the baseline
    double heightSample = 0; ///< that distance
    double start = 0, end = 0;
    double startY = 0, endY = 0; ///< of the baseline
    std::vector<double> bend;    ///< of a baseline that is not straight: its y at equal steps from start to end, for
                                 ///< pictures; else empty
    PeakSplit split = PeakSplit::None;
    int cluster = 0; ///< peaks of the same number share one baseline
    std::optional<double> left5, right5, left10, right10, left50, right50; ///< x at that share of the height
    std::optional<double> width5, width10, width50;
    std::optional<double> widthBase; ///< between the tangents at the inflection points, on the baseline
    std::optional<double> asymmetry10, tailing5, platesHalf, platesBase, retentionFactor;
    std::optional<double> resolutionHalf, resolutionBase; ///< to the peak before
    std::optional<double> peakToValley;                   ///< to the peak before
    std::optional<double> areaPercent, heightPercent;     ///< of the sum over all peaks
    std::vector<PeakRemark> remarks;
};

/// What a person draws on a trace.
enum class PeakEditKind {
    Bounds, ///< start and end of the peak at `at` are `from` and `to`
    Line,   ///< the same, on the straight line through (from, fromY) and (to, toY); without a peak there it makes one
    Add,    ///< a peak from `from` to `to`
    Remove, ///< there is no peak at `at`
    Split,  ///< the peak that spans `at` is two, parted by a drop there
    Join,   ///< what lies between `from` and `to` is one peak
    Give,   ///< the peak that spans `at` is that of `owner`; nothing is measured differently
};
std::string_view
name(PeakEditKind kind); ///< "bounds", "line", "add", "remove", "split", "join", "give": stable, for files
std::optional<PeakEditKind> peakEditKindFromName(std::string_view text);

/// One such decision; all positions in the unit of x.
struct PeakEdit {
    PeakEditKind kind = PeakEditKind::Bounds;
    double at = 0;
    double from = 0, to = 0;
    double fromY = 0, toY = 0;
    int owner = 0; ///< whoever names peaks knows who that is; 0: nobody's
    bool operator==(const PeakEdit&) const = default;
};

/// What was found in a trace.
struct TraceFeatures {
    Noise noise;
    std::vector<Peak> peaks; ///< by apex
    std::vector<std::string> warnings;
    std::vector<std::size_t> unheld; ///< indexes of edits that have no peak to hold on to
};

/// Finds and measures the peaks of one trace.
/// @param x n values [X], strictly rising; @param y n values [Y], finite
/// @return trace.too-short with fewer than 3 samples; peaks.outside when a start, an end or a line lies outside the
///         trace; peaks.same-x for a line or a peak without extent; baseline.too-few-points
/// @throws std::invalid_argument when lengths differ (mistake of the caller)
/// Method: turning points with hysteresis, from left to right; feet where the flank has become straight within the
///         noise; peaks that touch share one line and are parted by perpendicular drops at the interpolated valley,
///         unless it lies within 3 sigma of that line. See docs/methods/peaks.md.
/// Sources of the metrics: European Pharmacopoeia 2.2.46, IUPAC Nomenclature for chromatography, Pure Appl. Chem. 65
///         (1993) 819-872.
/// Checked: tests/reference/peaks_test.cpp, voltammetry_test.cpp. Cost O(n), three passes without options.
/// @param edits are done to what was found, one after the other; @param noise of y, where it is known from before: it
/// is
///        two fifths of the work, and no rule changes it
Result<TraceFeatures> measurePeaks(std::span<const double> x, std::span<const double> y, const PeakRules& rules,
                                   std::span<const PeakEdit> edits = {}, const std::optional<Noise>& noise = {});

} // namespace nuvat
