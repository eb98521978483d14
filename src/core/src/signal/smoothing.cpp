#include "nuvat/core/signal/smoothing.h"

#include <array>
#include <stdexcept>

namespace nuvat {

namespace {

constexpr std::size_t kOrders = 12; ///< 0 to 11

using Orders = std::array<double, kOrders>;

/// The Gram polynomials of orders 0 to `most` over -m..m at i, or their s-th derivatives (P. A. Gorry 1990, equation
/// 9).
Orders gram(int i, int m, int most, int s) {
    Orders lower{}, now{};
    for (int j = 0; j <= s; ++j) {
        lower = now;
        now[0] = j == 0 ? 1 : 0;
        for (int k = 1; k <= most; ++k) {
            const auto at = static_cast<std::size_t>(k);
            const double scale = k * (2.0 * m - k + 1);
            now[at] = (4.0 * k - 2) / scale * (i * now[at - 1] + (j > 0 ? j * lower[at - 1] : 0)) -
                      (k > 1 ? (k - 1) * (2.0 * m + k) / scale * now[at - 2] : 0);
        }
    }
    return now;
}

/// a (a-1) … (a-b+1)
double fallingFactorial(int a, int b) {
    double out = 1;
    for (int j = a - b + 1; j <= a; ++j) {
        out *= j;
    }
    return out;
}

double applied(const std::vector<double>& weights, const double* y) {
    double out = 0;
    for (std::size_t i = 0; i < weights.size(); ++i) {
        out += weights[i] * y[i];
    }
    return out;
}

/// What each order counts in a smoothed value.
Orders orderScales(Smoothing smoothing) {
    const int m = smoothing.window / 2;
    Orders out{};
    for (int k = 0; k <= smoothing.order; ++k) {
        out[static_cast<std::size_t>(k)] =
            ((2 * k + 1) * fallingFactorial(2 * m, k) / fallingFactorial(2 * m + k + 1, k + 1));
    }
    return out;
}

/// What one smoothing takes anew from trace to trace. Peaks ask for the same few again and again, and making these
/// costs more than using them.
struct Tables {
    Smoothing smoothing;
    int derivative = 0;
    std::vector<double> middle;         ///< weights where the window fits
    std::vector<Orders> values, slopes; ///< of the polynomials over the window, and their derivatives
    Orders scales{};
};

/// Hold until the next are asked for.
const Tables& tablesOf(Smoothing smoothing, int derivative) {
    constexpr std::size_t kMost = 64;
    thread_local std::vector<Tables> known;
    for (const Tables& one : known) {
        if (one.smoothing == smoothing && one.derivative == derivative) {
            return one;
        }
    }
    if (known.size() == kMost) {
        known.clear();
    }
    Tables out{smoothing, derivative, savitzkyGolayWeights(smoothing, derivative), {}, {}, orderScales(smoothing)};
    const int m = smoothing.window / 2;
    for (int i = -m; i <= m; ++i) {
        out.values.push_back(gram(i, m, smoothing.order, 0));
        out.slopes.push_back(gram(i, m, smoothing.order, derivative));
    }
    return known.emplace_back(std::move(out));
}

/// The polynomial through a window at its first or last half: the share of each order is found once, and then each
/// value costs no more than the orders.
/// @param first, last of the m values of the end
void smoothEnd(const double* y, const Tables& tables, bool isLast, double* out, std::size_t first, std::size_t last) {
    const auto orders = static_cast<std::size_t>(tables.smoothing.order) + 1;
    Orders shares{};
    for (std::size_t i = 0; i < tables.values.size(); ++i) {
        for (std::size_t k = 0; k < orders; ++k) {
            shares[k] += tables.values[i][k] * y[i];
        }
    }
    const std::size_t offset = isLast ? tables.values.size() / 2 + 1 : 0;
    for (std::size_t j = first; j <= last; ++j, ++out) {
        *out = 0;
        for (std::size_t k = 0; k < orders; ++k) {
            *out += tables.scales[k] * shares[k] * tables.slopes[j + offset][k];
        }
    }
}

} // namespace

std::vector<double> savitzkyGolayWeights(Smoothing smoothing, int derivative, int at) {
    if (smoothing.window < 3 || smoothing.window % 2 == 0 || smoothing.order < 1 ||
        smoothing.order >= smoothing.window || smoothing.order >= static_cast<int>(kOrders) || derivative < 0 ||
        derivative > smoothing.order) {
        throw std::invalid_argument("window or order of the smoothing out of range");
    }
    const int m = smoothing.window / 2;
    const Orders scales = orderScales(smoothing);
    const Orders there = gram(at, m, smoothing.order, derivative);
    std::vector<double> out;
    for (int i = -m; i <= m; ++i) {
        const Orders here = gram(i, m, smoothing.order, 0);
        double weight = 0;
        for (std::size_t k = 0; k <= static_cast<std::size_t>(smoothing.order); ++k) {
            weight += scales[k] * here[k] * there[k];
        }
        out.push_back(weight);
    }
    return out;
}

std::vector<double> savitzkyGolay(std::span<const double> y, Smoothing smoothing, int derivative) {
    const Tables& tables = tablesOf(smoothing, derivative);
    const std::size_t n = y.size();
    const auto window = static_cast<std::size_t>(smoothing.window);
    if (n < window) {
        return derivative == 0 ? std::vector<double>(y.begin(), y.end()) : std::vector<double>(n, 0.0);
    }
    const std::size_t m = window / 2;
    std::vector<double> out(n);
    for (std::size_t i = m; i + m < n; ++i) {
        out[i] = applied(tables.middle, &y[i - m]);
    }
    smoothEnd(&y[0], tables, false, &out[0], 0, m - 1);
    smoothEnd(&y[n - window], tables, true, &out[n - m], 0, m - 1);
    return out;
}

double savitzkyGolayAt(std::span<const double> y, std::size_t i, Smoothing smoothing, int derivative) {
    const std::size_t n = y.size();
    const auto window = static_cast<std::size_t>(smoothing.window), m = window / 2;
    const Tables& tables = tablesOf(smoothing, derivative);
    if (i >= m && i + m < n) {
        return applied(tables.middle, &y[i - m]);
    }
    double out = 0;
    const bool isLast = i >= m;
    const std::size_t j = isLast ? i - (n - m) : i;
    smoothEnd(isLast ? &y[n - window] : &y[0], tables, isLast, &out, j, j);
    return out;
}

} // namespace nuvat
