#pragma once

#include <algorithm>
#include <array>
#include <span>

namespace nuvat {

/// The greatest of `of(value)` over at least one value. Four at a time, which do not wait for each other.
template<class F> double greatest(std::span<const double> values, const F& of) {
    std::array<double, 4> most;
    most.fill(of(values[0]));
    std::size_t i = 0;
    for (; i + most.size() <= values.size(); i += most.size()) {
        for (std::size_t lane = 0; lane < most.size(); ++lane) {
            const double value = of(values[i + lane]);
            most[lane] = value > most[lane] ? value : most[lane];
        }
    }
    for (; i < values.size(); ++i) {
        most[0] = std::max(most[0], of(values[i]));
    }
    return std::ranges::max(most);
}

} // namespace nuvat
