#pragma once

#include <optional>
#include <string_view>

namespace nuvat {

/// What a tolerance is measured in.
enum class ToleranceOf {
    Relative, ///< percent of the reference
    Absolute, ///< in the unit of the reference
};
std::string_view name(ToleranceOf of); ///< "relative", "absolute": stable, for files
std::optional<ToleranceOf> toleranceOfFromName(std::string_view text);

/// A reference with limits around it.
struct ReferenceWindow {
    double reference = 0;
    double low = 0, high = 0;
    double half = 0; ///< of the window
    /// Limits included.
    bool holds(double value) const;
};

/// @param tolerance >= 0, percent of the reference or in its unit
ReferenceWindow windowAround(double reference, double tolerance, ToleranceOf of);

} // namespace nuvat
