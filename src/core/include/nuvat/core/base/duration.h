#pragma once

#include <optional>
#include <string_view>

namespace nuvat {

/// Seconds in a unit of time: "s", "sec", "min", "h", "d", "ms" and their words, in either case.
std::optional<double> secondsIn(std::string_view unit);
/// "0:05:30" (h:min:s) or "05:30" (min:s) as seconds; blanks around it are allowed, nothing else.
std::optional<double> parseClock(std::string_view text);
/// A whole text as a time in seconds: a clock, or a number (with point or comma) and a unit: "60 s", "1.5min".
std::optional<double> parseDuration(std::string_view text);

} // namespace nuvat
