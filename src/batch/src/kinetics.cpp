#include "nuvat/batch/kinetics.h"

#include "nuvat/core/base/duration.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace nuvat {

namespace {

std::optional<double> timeIn(std::string_view text) {
    text = trimmed(text);
    if (lowerCase(text).starts_with("t = ")) {
        text.remove_prefix(4);
    }
    return parseDuration(text);
}

double interpolated(const WellTrace& trace, double at) {
    const auto right = std::lower_bound(trace.x.begin(), trace.x.end(), at);
    const auto i = static_cast<std::size_t>(right - trace.x.begin());
    if (i == 0 || trace.x[i] == at) {
        return trace.y[i];
    }
    const double share = (at - trace.x[i - 1]) / (trace.x[i] - trace.x[i - 1]);
    return trace.y[i - 1] + share * (trace.y[i] - trace.y[i - 1]);
}

/// Means first, so that late times lose no digits.
double slopeOf(std::span<const double> x, std::span<const double> y) {
    const auto n = static_cast<double>(x.size());
    const double meanX = std::accumulate(x.begin(), x.end(), 0.0) / n;
    const double meanY = std::accumulate(y.begin(), y.end(), 0.0) / n;
    double xy = 0, xx = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        xy += (x[i] - meanX) * (y[i] - meanY);
        xx += (x[i] - meanX) * (x[i] - meanX);
    }
    return xy / xx;
}

} // namespace

std::optional<ReadTime> readTime(std::string_view channel) {
    channel = trimmed(channel);
    if (const auto whole = timeIn(channel)) {
        return ReadTime{"", *whole};
    }
    std::string_view name = channel, time;
    if (channel.ends_with(')')) {
        const auto open = channel.rfind('(');
        if (open != std::string_view::npos) {
            name = channel.substr(0, open);
            time = channel.substr(open + 1, channel.size() - open - 2);
        }
    } else if (const auto comma = channel.rfind(", "); comma != std::string_view::npos) {
        name = channel.substr(0, comma);
        time = channel.substr(comma + 2);
    }
    const auto seconds = timeIn(time);
    return seconds ? std::optional(ReadTime{std::string(trimmed(name)), *seconds}) : std::nullopt;
}

std::vector<TimedChannel> timedChannels(const Batch& batch) {
    constexpr std::size_t kLeast = 3;
    std::vector<TimedChannel> out;
    for (const std::string& channel : batch.channels()) {
        const auto time = readTime(channel);
        if (!time) {
            continue;
        }
        auto found = std::ranges::find(out, time->of, &TimedChannel::of);
        if (found == out.end()) {
            found = out.insert(out.end(), TimedChannel{time->of, {}});
        }
        found->reads.emplace_back(time->seconds, channel);
    }
    for (TimedChannel& one : out) {
        std::ranges::stable_sort(one.reads, {}, [](const auto& read) { return read.first; });
        const auto [from, to] =
            std::ranges::unique(one.reads, {}, [](const auto& read) { return read.first; }); // "60 s" and "1 min"
        one.reads.erase(from, to);
    }
    std::erase_if(out, [](const TimedChannel& one) { return one.reads.size() < kLeast; });
    return out;
}

const TimedChannel* timedChannel(const std::vector<TimedChannel>& all, const std::string& of) {
    const auto found = std::ranges::find(all, of, &TimedChannel::of);
    return found == all.end() ? nullptr : &*found;
}

WellTrace wellTrace(const TimedChannel& channel, std::span<const Grid* const> grids, Place place) {
    WellTrace out;
    for (std::size_t i = 0; i < channel.reads.size() && i < grids.size(); ++i) {
        const ReadingWell* well = grids[i] == nullptr ? nullptr : grids[i]->at(place.row, place.column);
        if (well != nullptr && well->value) {
            out.x.push_back(channel.reads[i].first);
            out.y.push_back(*well->value);
        }
    }
    return out;
}

Result<double> responseOf(const KineticRule& rule, const WellTrace& trace) {
    const double from = std::min(rule.from, rule.to), to = std::max(rule.from, rule.to);
    const bool isBetween = rule.quantity == BandQuantity::Value || rule.quantity == BandQuantity::Difference;
    if (trace.x.empty() || (isBetween && (rule.from < trace.x.front() || rule.from > trace.x.back())) ||
        (rule.quantity == BandQuantity::Difference && (from < trace.x.front() || to > trace.x.back()))) {
        return fail("kinetics.outside", "read at no such time", "Choose a time between the first and the last read.");
    }
    if (rule.quantity == BandQuantity::Value) {
        return interpolated(trace, rule.from);
    }
    if (rule.quantity == BandQuantity::Difference) {
        return interpolated(trace, rule.to) - interpolated(trace, rule.from);
    }
    const auto first = std::ranges::lower_bound(trace.x, from);
    const auto last = std::ranges::upper_bound(trace.x, to);
    const auto begin = static_cast<std::size_t>(first - trace.x.begin());
    const auto count = first < last ? static_cast<std::size_t>(last - first) : 0;
    const std::size_t least = rule.quantity == BandQuantity::Slope ? 2 : 1;
    if (count < least) {
        return fail("kinetics.few-points", "too few reads in that time", "Choose a longer time.");
    }
    const auto x = std::span(trace.x).subspan(begin, count);
    const auto y = std::span(trace.y).subspan(begin, count);
    return rule.quantity == BandQuantity::Slope ? slopeOf(x, y)
                                                : std::accumulate(y.begin(), y.end(), 0.0) / static_cast<double>(count);
}

std::string kineticWords(const KineticRule& rule) {
    const std::string of = rule.channel.empty() ? "" : " of " + rule.channel;
    const std::string from = formatNumber(rule.from), to = formatNumber(rule.to);
    switch (rule.quantity) {
    case BandQuantity::Value:
        return "Value" + of + " at " + from + " s";
    case BandQuantity::Difference:
        return "Change" + of + " from " + from + " to " + to + " s";
    case BandQuantity::Mean:
        return "Mean" + of + " from " + from + " to " + to + " s";
    case BandQuantity::Slope:
        break;
    }
    return "Rate" + of + " from " + from + " to " + to + " s";
}

} // namespace nuvat
