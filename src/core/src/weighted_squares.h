#pragma once

#include <cstddef>
#include <span>

namespace nuvat {

/// Weighted sum of squares about the weighted mean, or about zero, in extended precision.
/// @param w as many weights as y, or none: all equal
template<class Number>
long double weightedSquares(std::span<const Number> y, std::span<const Number> w, bool isAboutZero = false) {
    const auto weight = [&](std::size_t i) { return w.empty() ? 1.0L : static_cast<long double>(w[i]); };
    long double sumW = 0;
    long double sumY = 0;
    for (std::size_t i = 0; i < y.size(); ++i) {
        sumW += weight(i);
        sumY += weight(i) * y[i];
    }
    const long double origin = isAboutZero ? 0 : sumY / sumW;
    long double squares = 0;
    for (std::size_t i = 0; i < y.size(); ++i) {
        const long double off = y[i] - origin;
        squares += weight(i) * off * off;
    }
    return squares;
}

} // namespace nuvat
