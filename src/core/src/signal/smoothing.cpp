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

/// The polynomial through a window at its first or last half: the share of each order is found once, and then each
/// value costs no more than the orders.
/// @param first, last of the m values of the end
void smoothEnd(const double* y, Smoothing smoothing, int derivative, bool isLast, double* out, int first, int last) {
    const int m = smoothing.window / 2;
    const auto orders = static_cast<std::size_t>(smoothing.order) + 1;
    Orders shares{};
    for (int i = -m; i <= m; ++i) {
        const Orders values = gram(i, m, smoothing.order, 0);
        for (std::size_t k = 0; k < orders; ++k) {
            shares[k] += values[k] * y[i + m];
        }
    }
    const Orders scales = orderScales(smoothing);
    for (int j = first; j <= last; ++j, ++out) {
        const Orders values = gram(isLast ? j + 1 : j - m, m, smoothing.order, derivative);
        *out = 0;
        for (std::size_t k = 0; k < orders; ++k) {
            *out += scales[k] * shares[k] * values[k];
        }
    }
}

/// The weights of the middle. Peaks ask for the same few again and again, and making them costs more than using them.
/// Hold until the next are asked for.
const std::vector<double>& middleWeights(Smoothing smoothing, int derivative) {
    constexpr std::size_t kMost = 64;
    struct Known {
        Smoothing smoothing;
        int derivative = 0;
        std::vector<double> weights;
    };
    thread_local std::vector<Known> known;
    for (const Known& one : known) {
        if (one.smoothing == smoothing && one.derivative == derivative) {
            return one.weights;
        }
    }
    if (known.size() == kMost) {
        known.clear();
    }
    known.push_back({smoothing, derivative, savitzkyGolayWeights(smoothing, derivative)});
    return known.back().weights;
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
    const std::vector<double>& middle = middleWeights(smoothing, derivative);
    const std::size_t n = y.size();
    const auto window = static_cast<std::size_t>(smoothing.window);
    if (n < window) {
        return derivative == 0 ? std::vector<double>(y.begin(), y.end()) : std::vector<double>(n, 0.0);
    }
    const std::size_t m = window / 2;
    std::vector<double> out(n);
    for (std::size_t i = m; i + m < n; ++i) {
        out[i] = applied(middle, &y[i - m]);
    }
    const int last = smoothing.window / 2 - 1;
    smoothEnd(&y[0], smoothing, derivative, false, &out[0], 0, last);
    smoothEnd(&y[n - window], smoothing, derivative, true, &out[n - m], 0, last);
    return out;
}

double savitzkyGolayAt(std::span<const double> y, std::size_t i, Smoothing smoothing, int derivative) {
    const std::size_t n = y.size();
    const auto window = static_cast<std::size_t>(smoothing.window), m = window / 2;
    if (i >= m && i + m < n) {
        return applied(middleWeights(smoothing, derivative), &y[i - m]);
    }
    double out = 0;
    const bool isLast = i >= m;
    const int j = static_cast<int>(isLast ? i - (n - m) : i);
    smoothEnd(isLast ? &y[n - window] : &y[0], smoothing, derivative, isLast, &out, j, j);
    return out;
}

} // namespace nuvat
