#include "nuvat/batch/brackets.h"

#include <algorithm>

namespace nuvat {

namespace {

/// Rows of one sort that follow each other: standards, or samples.
struct RowSpan {
    bool isOfSamples = false;
    int first = 0, last = 0;
};

/// Standards and samples in the order of the list; QCs and blanks go with what they stand between.
std::vector<RowSpan> stretchesOf(const Batch& batch, int carrier) {
    std::vector<RowSpan> out;
    for (auto at = batch.places.lower_bound(Place{0, 0, carrier});
         at != batch.places.end() && at->first.carrier == carrier; ++at) {
        const Role role = at->second.role;
        if (role != Role::Standard && !isOfSample(role)) {
            continue;
        }
        if (out.empty() || out.back().isOfSamples != isOfSample(role)) {
            out.push_back({isOfSample(role), at->first.row, at->first.row});
        }
        out.back().last = at->first.row;
    }
    return out;
}

} // namespace

bool Bracket::holds(Place place, Role role) const {
    if (place.carrier != carrier) {
        return false;
    }
    const bool isShared = role == Role::Standard || role == Role::Blank;
    return isShared ? place.row >= first && place.row <= last : place.row >= ownFirst && place.row <= ownLast;
}

std::vector<Bracket> bracketsOf(const Batch& batch, int carrier) {
    std::vector<Bracket> out;
    const auto found = batch.carriers.find(carrier);
    if (found == batch.carriers.end() || found->second.kind != CarrierKind::RunList) {
        return out;
    }
    const std::vector<RowSpan> stretches = stretchesOf(batch, carrier);
    const int end = found->second.rows - 1;
    int own = 0; // what no bracket has taken yet
    int set = 0; // where the standards before it begin, or what was run before them
    for (std::size_t i = 0; i < stretches.size(); ++i) {
        if (!stretches[i].isOfSamples) {
            continue;
        }
        Bracket one{carrier, static_cast<int>(out.size()) + 1, set, end, own, end};
        if (i + 1 < stretches.size()) { // a set of standards follows
            set = stretches[i].last + 1;
            const bool isLast = i + 2 >= stretches.size();
            one.last = one.ownLast = isLast ? end : stretches[i + 1].last;
            own = one.ownLast + 1;
        }
        out.push_back(one);
    }
    return out;
}

std::vector<Bracket> bracketsOf(const Batch& batch) {
    std::vector<Bracket> out;
    for (const auto& [number, carrier] : batch.carriers) {
        std::ranges::move(bracketsOf(batch, number), std::back_inserter(out));
    }
    return out;
}

std::string bracketName(int number) {
    return "bracket " + std::to_string(number);
}

} // namespace nuvat
