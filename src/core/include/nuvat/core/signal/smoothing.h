#pragma once

#include <span>
#include <vector>

namespace nuvat {

/// A moving polynomial: a window of 2m+1 samples, a polynomial of the order fitted in it.
struct Smoothing {
    int window = 9; ///< odd, 5 to 999
    int order = 2;  ///< 2 to 4, below the window
    bool operator==(const Smoothing&) const = default;
};

/// Savitzky-Golay smoothing or derivative of samples at equal steps. At the ends the polynomial of the outermost whole
/// window is used.
/// @param derivative 0 smooths; 1, 2: derivative in units of y by step, step^2
/// @return n values; y itself (or zeros for a derivative) when there are fewer samples than the window
/// @throws std::invalid_argument for a window or an order out of range (mistake of the caller)
/// Source: A. Savitzky, M. J. E. Golay, Anal. Chem. 36 (1964) 1627-1639; ends: P. A. Gorry, Anal. Chem. 62 (1990)
/// 570-573.
std::vector<double> savitzkyGolay(std::span<const double> y, Smoothing smoothing, int derivative = 0);

/// One of these values alone, to the same digit, for more samples than the window. @param i its index
double savitzkyGolayAt(std::span<const double> y, std::size_t i, Smoothing smoothing, int derivative = 0);

/// The 2m+1 weights of the window's middle.
std::vector<double> savitzkyGolayWeights(Smoothing smoothing, int derivative, int at = 0);

} // namespace nuvat
