#include "nuvat/core/stats/best_subset.h"

#include "nuvat/core/stats/descriptive.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

namespace nuvat {

std::vector<std::size_t> bestSubset(std::span<const double> values, std::size_t n) {
    // The values of the subset with the smallest SD lie next to each other when sorted.
    std::vector<std::size_t> order(values.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return values[a] < values[b]; });
    constexpr double kTie = 1e-12; // SDs that differ by rounding alone
    std::vector<std::size_t> best;
    double least = 0;
    for (std::size_t from = 0; from + n <= order.size(); ++from) {
        std::vector<std::size_t> chosen(order.begin() + static_cast<std::ptrdiff_t>(from),
                                        order.begin() + static_cast<std::ptrdiff_t>(from + n));
        std::sort(chosen.begin(), chosen.end());
        std::vector<double> subset;
        for (const std::size_t i : chosen) {
            subset.push_back(values[i]);
        }
        const double sd = describe(subset).sd.value_or(0);
        const bool isTie = !best.empty() && std::abs(sd - least) <= kTie * std::max(sd, least);
        if (best.empty() || (isTie ? chosen < best : sd < least)) {
            least = sd;
            best = std::move(chosen);
        }
    }
    return best;
}

double bestSubsetVariance(std::size_t n, std::size_t m) {
    constexpr std::size_t kMost = 8;
    constexpr std::array<std::array<double, 6>, 6> kTable{{{0.6389},
                                                           {0.6246, 0.4400},
                                                           {0.6062, 0.4926, 0.3317},
                                                           {0.5906, 0.4872, 0.3859, 0.2642},
                                                           {0.5783, 0.4803, 0.4113, 0.3118, 0.2184},
                                                           {0.5691, 0.4710, 0.4109, 0.3430, 0.2592, 0.1852}}};
    const bool isChosen = n >= 2 && m > n && m <= kMost;
    return isChosen ? kTable[m - 3][n - 2] : 1 / static_cast<double>(n);
}

} // namespace nuvat
