#pragma once

#include "nuvat/core/base/error.h"

#include <cstddef>
#include <span>
#include <string>
#include <vector>

namespace nuvat {

/// A part of a trace, ends included, in the unit of x.
struct Stretch {
    double from = 0;
    double to = 0;
    bool contains(double x) const { return x >= from && x <= to; }
    bool operator==(const Stretch&) const = default;
};

/// A part of a recorded curve in which x only rises or only falls, turned so that x strictly rises.
struct Sweep {
    std::vector<double> x, y; ///< of the same length, x strictly rising
    bool isRising = true;     ///< as recorded
    std::size_t first = 0;    ///< index of its first sample as recorded
};

/// Cuts pairs, in the order in which they were recorded, into sweeps. The sample at which the direction turns belongs
/// to the sweep that it ends; of neighbours with the same x the later one is left out.
/// @param missing indexes of points without y, ascending; they are left out
/// @throws std::invalid_argument when lengths differ (mistake of the caller)
std::vector<Sweep> cutSweeps(std::span<const double> x, std::span<const double> y,
                             std::span<const std::size_t> missing = {});

/// A text such as "sweep 2, falling". @param number from 1
std::string sweepName(std::size_t number, bool isRising);

/// y between samples by straight lines. @param x strictly rising; `at` within its ends
double interpolated(std::span<const double> x, std::span<const double> y, double at);

/// What a stretch of a trace looks like as a straight line y = a + b*x.
struct MarkerLine {
    std::size_t n = 0;   ///< samples with from <= x <= to
    double a = 0, b = 0; ///< intercept [Y] and slope [Y/X]
    double seA = 0, seB = 0;
    double covariance = 0;
    double s = 0; ///< residual standard deviation [Y], n-2 degrees of freedom
    double rSquared = 0;
};

/// Least-squares line through the samples between two markers, ends included, in either order of the markers.
/// @param at the positions the markers refer to, x itself when empty (one for each sample)
/// @return line.too-few-points with fewer than three samples; line.same-x when x does not differ
/// Method: fitPolynomial. Checked: tests/reference/voltammetry_test.cpp.
Result<MarkerLine> lineBetween(std::span<const double> x, std::span<const double> y, Stretch markers,
                               std::span<const double> at = {});

} // namespace nuvat
