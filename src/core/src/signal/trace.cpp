#include "nuvat/core/signal/trace.h"

#include "nuvat/core/fit/polynomial_fit.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace nuvat {

namespace {

void requireSameLength(std::size_t x, std::size_t y) {
    if (x != y) {
        throw std::invalid_argument("x and y differ in length");
    }
}

/// Pairs without those whose y is missing.
struct Pairs {
    std::vector<double> x, y;
    std::vector<std::size_t> index;
};

Pairs presentPairs(std::span<const double> x, std::span<const double> y, std::span<const std::size_t> missing) {
    Pairs out;
    auto skip = missing.begin();
    for (std::size_t i = 0; i < x.size(); ++i) {
        if (skip != missing.end() && *skip == i) {
            ++skip;
            continue;
        }
        if (!out.x.empty() && out.x.back() == x[i]) {
            continue;
        }
        out.x.push_back(x[i]);
        out.y.push_back(y[i]);
        out.index.push_back(i);
    }
    return out;
}

} // namespace

std::vector<Sweep> cutSweeps(std::span<const double> x, std::span<const double> y,
                             std::span<const std::size_t> missing) {
    requireSameLength(x.size(), y.size());
    const Pairs pairs = presentPairs(x, y, missing);
    std::vector<Sweep> out;
    std::size_t from = 0;
    while (from + 1 < pairs.x.size()) {
        const bool isRising = pairs.x[from + 1] > pairs.x[from];
        std::size_t to = from + 1;
        while (to + 1 < pairs.x.size() && (pairs.x[to + 1] > pairs.x[to]) == isRising) {
            ++to;
        }
        const auto cut = [&](const std::vector<double>& all) {
            std::vector<double> part(all.begin() + static_cast<std::ptrdiff_t>(from),
                                     all.begin() + static_cast<std::ptrdiff_t>(to) + 1);
            if (!isRising) {
                std::ranges::reverse(part);
            }
            return part;
        };
        out.push_back({cut(pairs.x), cut(pairs.y), isRising, pairs.index[from]});
        from = to;
    }
    return out;
}

std::string sweepName(std::size_t number, bool isRising) {
    return "sweep " + std::to_string(number) + (isRising ? ", rising" : ", falling");
}

double interpolated(std::span<const double> x, std::span<const double> y, double at) {
    const auto above = std::ranges::lower_bound(x, at);
    if (above == x.end()) {
        return y.back();
    }
    const auto i = static_cast<std::size_t>(above - x.begin());
    if (i == 0 || *above == at) {
        return y[i];
    }
    return y[i - 1] + (y[i] - y[i - 1]) * ((at - x[i - 1]) / (x[i] - x[i - 1]));
}

Result<MarkerLine> lineBetween(std::span<const double> x, std::span<const double> y, Stretch markers,
                               std::span<const double> at) {
    requireSameLength(x.size(), y.size());
    const Stretch between{std::min(markers.from, markers.to), std::max(markers.from, markers.to)};
    std::vector<double> xs, ys;
    for (std::size_t i = 0; i < x.size(); ++i) {
        if (between.contains(at.empty() ? x[i] : at[i])) {
            xs.push_back(x[i]);
            ys.push_back(y[i]);
        }
    }
    if (xs.size() < 3) {
        return fail("line.too-few-points",
                    "Between the markers lie " + std::to_string(xs.size()) + " samples; a line needs three.",
                    "Set the markers further apart.");
    }
    const PolynomialFit<2> fit = fitPolynomial<2>(xs, ys);
    if (!fit.isDetermined) {
        return fail("line.same-x", "All samples between the markers have the same x.",
                    "Set the markers further apart.");
    }
    MarkerLine out;
    out.n = xs.size();
    out.a = fit.parameters[0];
    out.b = fit.parameters[1];
    out.seA = fit.se[0];
    out.seB = fit.se[1];
    out.covariance = fit.covariance[1];
    out.s = std::sqrt(fit.sse / fit.df);
    out.rSquared = fit.squares > 0 ? 1 - fit.sse / fit.squares : 0;
    return out;
}

} // namespace nuvat
