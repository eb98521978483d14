#pragma once

#include <array>
#include <cstddef>
#include <span>
#include <string_view>
#include <vector>

namespace nuvat {

/// Rules for a series of control results, by their usual short names.
enum class ControlRule { OneTwoS, OneThreeS, TwoTwoS, RFourS, FourOneS, TenX };
std::string_view name(ControlRule rule); ///< "1_2s", "1_3s", "2_2s", "R_4s", "4_1s", "10_x"

/// Which runs complete the pattern of a rule: indexes into z.
/// 1_2s, 1_3s: |z| > 2, 3. 2_2s: two in a row beyond the same 2 SD limit. R_4s: one beyond +2, its neighbour beyond -2.
/// 4_1s: four in a row beyond the same 1 SD limit. 10_x: ten in a row on one side of the mean. All strict.
/// @param z standardised results (y - target)/SD in order
/// Source: J. O. Westgard, P. L. Barry, M. R. Hunt, T. Groth, Clin. Chem. 27 (1981) 493-501.
std::vector<std::size_t> violations(ControlRule rule, std::span<const double> z);

/// Limits of a chart of individual results: mean -+ 3*mean moving range/d2(2). @pre 2 values or more
struct IndividualsLimits {
    double mean = 0;
    double meanMovingRange = 0;
    double sigma = 0;
    double low = 0, high = 0;
};
IndividualsLimits individualsLimits(std::span<const double> values);

/// Upper and lower cumulative sums of z beyond the allowance k, from 0. Source: E. S. Page, Biometrika 41 (1954)
/// 100-115.
std::vector<std::array<double, 2>> cumulativeSums(std::span<const double> z, double k);
/// Exponentially weighted moving average of z, from 0. Source: S. W. Roberts, Technometrics 1 (1959) 239-250.
std::vector<double> movingAverage(std::span<const double> z, double lambda);

/// Constants of control charts for groups of n >= 2 values of a normal distribution.
/// c4, d2, d3: mean of SD, mean and SD of the range, in units of sigma; the others follow from them.
struct ChartConstants {
    double c4 = 0, d2 = 0, d3 = 0, a2 = 0, a3 = 0, b3 = 0, b4 = 0, lowerD3 = 0, upperD4 = 0;
};
/// Source: ASTM Manual on Presentation of Data and Control Chart Analysis; computed from the definitions.
/// Checked: tests/reference/control_series_test.cpp to 1e-8.
ChartConstants chartConstants(std::size_t n);

} // namespace nuvat
