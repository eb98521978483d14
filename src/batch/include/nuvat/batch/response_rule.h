#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <variant>

namespace nuvat {

/// The response is what was read, or a formula over channels: "450 nm − 620 nm".
struct ValueRule {
    std::string formula; ///< empty: the channel in use
    bool operator==(const ValueRule&) const = default;
};
/// What is taken of a stretch of a trace.
enum class BandQuantity { Value, Mean, Difference, Slope };
std::string_view name(BandQuantity quantity); ///< "value", "mean", "difference", "slope": stable, for files
std::optional<BandQuantity> bandQuantityFromName(std::string_view text);

/// The response is taken from a trace at a point or between two, without looking for peaks.
struct BandRule {
    std::string channel;
    double from = 0; ///< in the unit of the trace's x
    double to = 0;   ///< the same as `from` for a value
    BandQuantity quantity = BandQuantity::Value;
    bool operator==(const BandRule&) const = default;
};

/// Height is that of the parabola about the apex; SampleHeight that of the largest sample; AreaPercent the share of all
/// peaks of the trace, each area times the factor of its analyte (area normalisation).
enum class PeakQuantity { Area, Height, Charge, SampleHeight, AreaPercent };
std::string_view
name(PeakQuantity quantity); ///< "area", "height", "charge", "sample-height", "area-percent": stable, for files
std::optional<PeakQuantity> peakQuantityFromName(std::string_view text);

/// What the window around an expected x is measured in.
enum class WindowOf { X, Percent };
std::string_view name(WindowOf of); ///< "x", "percent": stable, for files
std::optional<WindowOf> windowOfFromName(std::string_view text);

/// Which peak of a window is taken.
enum class PeakPick {
    Nearest, ///< to the expected x
    Largest,
    First,
    All, ///< a group of peaks as one: their quantities are added
};
std::string_view name(PeakPick pick); ///< "nearest", "largest", "first", "all": stable, for files
std::optional<PeakPick> peakPickFromName(std::string_view text);

/// The response is that of the peak of a trace that lies where it is expected.
struct PeakRule {
    std::string channel;
    double expected = 0; ///< in the unit of the trace's x
    double window = 0;   ///< on each side of it, > 0
    WindowOf windowOf = WindowOf::X;
    int reference = 0; ///< analyte by whose peak x is shifted; 0: none
    PeakQuantity quantity = PeakQuantity::Area;
    PeakPick pick = PeakPick::Nearest;
    double factor = 1;          ///< correction factor of an area percent, 1/relative response, > 0
    bool isWindowTaken = false; ///< without a peak the window is measured from end to end, for limits of detection
    bool operator==(const PeakRule&) const = default;
};

/// Half the window of a peak, in the unit of x. @param shift what the expected x is multiplied by
double halfWindow(const PeakRule& rule, double shift = 1);
/// Whether a position lies in the window, ends included.
bool isInWindow(const PeakRule& rule, double x, double shift = 1);

/// The response is a statistic of a parameter of the events that a gate holds.
struct PopulationRule {
    std::string population, parameter;
    std::string statistic = "median";
    bool operator==(const PopulationRule&) const = default;
};

/// The concentration itself is a quantity of a calculation, without a curve.
struct NamedRule {
    std::string calculation, quantity; ///< "composition", "mass 1"
    bool operator==(const NamedRule&) const = default;
};

/// The response is taken from what a well showed over time: the reads of a plate whose names say when they were taken.
struct KineticRule {
    std::string channel; ///< what the names have in common: "450 nm" of "450 nm, 60 s"; may be empty
    double from = 0;     ///< [s]
    double to = 0;       ///< [s], the same as `from` for a value
    BandQuantity quantity = BandQuantity::Slope; ///< a slope is per second
    bool operator==(const KineticRule&) const = default;
};

/// How readings become the response of an analyte. One alternative a kind of rule; what no reading of the batch can
/// answer gives no response, and a problem that says so.
using ResponseRule = std::variant<ValueRule, BandRule, PeakRule, PopulationRule, NamedRule, KineticRule>;
std::string_view
kindName(const ResponseRule& rule); ///< "value", "band", "peak", "population", "named", "kinetic": stable
/// The formula of a value rule; empty for the channel in use, and for a rule of another kind.
const std::string& valueFormula(const ResponseRule& rule);

} // namespace nuvat
