#include "nuvat/core/base/duration.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"

#include <algorithm>
#include <array>

namespace nuvat {

namespace {

struct TimeUnit {
    const char* word;
    double seconds;
};
constexpr std::array<TimeUnit, 11> kUnits{{{"s", 1},
                                           {"sec", 1},
                                           {"second", 1},
                                           {"seconds", 1},
                                           {"min", 60},
                                           {"minutes", 60},
                                           {"h", 3600},
                                           {"hours", 3600},
                                           {"d", 86400},
                                           {"days", 86400},
                                           {"ms", 0.001}}};

} // namespace

std::optional<double> secondsIn(std::string_view unit) {
    const std::string lower = lowerCase(trimmed(unit));
    const auto* found = std::ranges::find_if(kUnits, [&](const TimeUnit& one) { return lower == one.word; });
    return found == kUnits.end() ? std::nullopt : std::optional(found->seconds);
}

std::optional<double> parseClock(std::string_view text) {
    double seconds = 0;
    int parts = 0;
    for (text = trimmed(text);; ++parts) {
        const auto colon = text.find(':');
        const std::string_view part = text.substr(0, colon);
        const auto value = parseNumber(part);
        if (!value || part.front() < '0' || part.front() > '9') { // no sign, no blank
            return std::nullopt;
        }
        seconds = 60 * seconds + *value;
        if (colon == std::string_view::npos) {
            break;
        }
        text.remove_prefix(colon + 1);
    }
    constexpr int kMostColons = 2;
    return parts >= 1 && parts <= kMostColons ? std::optional(seconds) : std::nullopt;
}

std::optional<double> parseDuration(std::string_view text) {
    text = trimmed(text);
    if (const auto clock = parseClock(text)) {
        return clock;
    }
    const auto end = text.find_last_of("0123456789.,");
    const auto unit = end == std::string_view::npos ? std::nullopt : secondsIn(text.substr(end + 1));
    if (!unit) {
        return std::nullopt;
    }
    const std::string_view number = trimmed(text.substr(0, end + 1));
    auto value = parseNumber(number);
    value = value ? value : parseNumber(number, {','});
    return value ? std::optional(*value * *unit) : std::nullopt;
}

} // namespace nuvat
