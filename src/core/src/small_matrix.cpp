#include "small_matrix.h"

#include <array>
#include <cmath>
#include <limits>

namespace nuvat {

namespace {

constexpr std::size_t kMost = 8;

/// Upper triangle R of the QR factors, in place.
void triangularise(SmallMatrix& a) {
    for (std::size_t k = 0; k < a.columns(); ++k) {
        double norm = 0;
        for (std::size_t i = k; i < a.rows(); ++i) {
            norm += a(i, k) * a(i, k);
        }
        norm = std::sqrt(norm);
        if (norm == 0) {
            continue;
        }
        const double alpha = a(k, k) > 0 ? -norm : norm;
        const double head = a(k, k) - alpha;
        const double beta = -1 / (alpha * head); // 2/(v'v)
        for (std::size_t j = k + 1; j < a.columns(); ++j) {
            double dot = head * a(k, j);
            for (std::size_t i = k + 1; i < a.rows(); ++i) {
                dot += a(i, k) * a(i, j);
            }
            dot *= beta;
            a(k, j) -= dot * head;
            for (std::size_t i = k + 1; i < a.rows(); ++i) {
                a(i, j) -= dot * a(i, k);
            }
        }
        a(k, k) = alpha;
    }
}

} // namespace

double invertGram(SmallMatrix& jacobian, std::span<double> inverse, std::size_t& weakest) {
    constexpr double kInfinity = std::numeric_limits<double>::infinity();
    const std::size_t p = jacobian.columns();
    std::array<double, kMost> length{};
    weakest = 0;
    for (std::size_t k = 0; k < p; ++k) {
        for (std::size_t i = 0; i < jacobian.rows(); ++i) {
            length[k] += jacobian(i, k) * jacobian(i, k);
        }
        length[k] = std::sqrt(length[k]);
        if (!(length[k] > 0) || !std::isfinite(length[k])) {
            weakest = k;
            return kInfinity;
        }
        for (std::size_t i = 0; i < jacobian.rows(); ++i) {
            jacobian(i, k) /= length[k];
        }
    }
    if (jacobian.rows() < p) {
        return kInfinity;
    }
    triangularise(jacobian);
    std::array<double, kMost * kMost> r{}; // R^-1
    double normR = 0;
    double normInverse = 0;
    for (std::size_t j = 0; j < p; ++j) {
        if (jacobian(j, j) == 0) {
            weakest = j;
            return kInfinity;
        }
        r[j * kMost + j] = 1 / jacobian(j, j);
        for (std::size_t i = j; i-- > 0;) {
            double sum = 0;
            for (std::size_t k = i + 1; k <= j; ++k) {
                sum += jacobian(i, k) * r[k * kMost + j];
            }
            r[i * kMost + j] = -sum / jacobian(i, i);
        }
        for (std::size_t i = 0; i <= j; ++i) {
            normR += jacobian(i, j) * jacobian(i, j);
            normInverse += r[i * kMost + j] * r[i * kMost + j];
        }
    }
    double most = 0;
    for (std::size_t i = 0; i < p; ++i) {
        for (std::size_t j = i; j < p; ++j) {
            double sum = 0;
            for (std::size_t k = j; k < p; ++k) {
                sum += r[i * kMost + k] * r[j * kMost + k];
            }
            if (i == j && sum > most) { // the inflation of its variance by the other columns
                most = sum;
                weakest = i;
            }
            inverse[i * p + j] = inverse[j * p + i] = sum / (length[i] * length[j]);
        }
    }
    return std::sqrt(normR * normInverse);
}

} // namespace nuvat
