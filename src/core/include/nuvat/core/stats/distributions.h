#pragma once

namespace nuvat {

/// Two-sided Student t factor: the half-width of an interval of the given confidence in units of the SE.
/// @param confidence 0 < confidence < 1, for example 0.95
/// @param degreesOfFreedom > 0, need not be whole
/// @throws std::invalid_argument outside these ranges (mistake of the caller)
/// Checked: tests/reference/quantiles_test.cpp to 1e-12.
double studentFactor(double confidence, double degreesOfFreedom);

} // namespace nuvat
