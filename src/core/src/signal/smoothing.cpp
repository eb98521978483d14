#include "nuvat/core/signal/smoothing.h"

#include <stdexcept>

namespace nuvat {

namespace {

/// The Gram polynomial of order k over -m..m at i, or its s-th derivative (P. A. Gorry 1990, equation 9).
double gram(int i, int m, int k, int s) {
    if (k < 0 || (k == 0 && s > 0)) {
        return 0;
    }
    if (k == 0) {
        return 1;
    }
    const double scale = k * (2.0 * m - k + 1);
    return (4.0 * k - 2) / scale * (i * gram(i, m, k - 1, s) + (s > 0 ? s * gram(i, m, k - 1, s - 1) : 0)) -
           (k - 1) * (2.0 * m + k) / scale * gram(i, m, k - 2, s);
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

} // namespace

std::vector<double> savitzkyGolayWeights(Smoothing smoothing, int derivative, int at) {
    if (smoothing.window < 3 || smoothing.window % 2 == 0 || smoothing.order < 1 ||
        smoothing.order >= smoothing.window || derivative < 0 || derivative > smoothing.order) {
        throw std::invalid_argument("window or order of the smoothing out of range");
    }
    const int m = smoothing.window / 2;
    std::vector<double> out;
    for (int i = -m; i <= m; ++i) {
        double weight = 0;
        for (int k = 0; k <= smoothing.order; ++k) {
            weight += (2 * k + 1) * fallingFactorial(2 * m, k) / fallingFactorial(2 * m + k + 1, k + 1) *
                      gram(i, m, k, 0) * gram(at, m, k, derivative);
        }
        out.push_back(weight);
    }
    return out;
}

std::vector<double> savitzkyGolay(std::span<const double> y, Smoothing smoothing, int derivative) {
    const std::vector<double> middle = savitzkyGolayWeights(smoothing, derivative);
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
    for (std::size_t k = 0; k < m; ++k) {
        const int at = static_cast<int>(k) - static_cast<int>(m);
        out[k] = applied(savitzkyGolayWeights(smoothing, derivative, at), &y[0]);
        out[n - 1 - k] = applied(savitzkyGolayWeights(smoothing, derivative, -at), &y[n - window]);
    }
    return out;
}

} // namespace nuvat
