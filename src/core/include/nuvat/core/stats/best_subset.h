#pragma once

#include <cstddef>
#include <span>
#include <vector>

namespace nuvat {

/// Variance of the mean of the n closest of m normal replicates in units of the variance of one: more than 1/n, because
/// closeness does not choose the right ones. By simulation, bench/best_subset_study.cpp; 1/n beyond m = 8.
double bestSubsetVariance(std::size_t n, std::size_t m);

/// Of all subsets of n among the values the one with the smallest SD; ties go to the earliest. Indexes, ascending.
/// @pre 2 <= n <= values.size()
std::vector<std::size_t> bestSubset(std::span<const double> values, std::size_t n);

} // namespace nuvat
