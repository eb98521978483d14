#pragma once

#include <boost/multiprecision/cpp_bin_float.hpp>

namespace nuvat {

/// 34 significant digits, a hundred times slower than an extended double: for the few sums that need them.
using Quad = boost::multiprecision::cpp_bin_float_quad;

} // namespace nuvat
