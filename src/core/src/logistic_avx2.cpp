#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__) // target by pragma is GCC's

#include "logistic.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <limits>
#include <memory>
#include <numbers>

// Lanes never cross a call whose convention could differ.
#pragma GCC diagnostic ignored "-Wpsabi"
// From here on only: what the headers above define stays fit for every machine.
#pragma GCC push_options
#pragma GCC target("avx2,fma")

namespace nuvat::avx2 {
namespace {
#include "lanes.inc"
#include "logistic_kernel.inc"
} // namespace
} // namespace nuvat::avx2
#pragma GCC pop_options

namespace nuvat {

const LogisticKernels& avx2Kernels() {
    static const LogisticKernels table{&avx2::sumAt<2>,  &avx2::sumAt<3>,          &avx2::refine<2>,
                                       &avx2::refine<3>, &avx2::searchGlobally<2>, &avx2::searchGlobally<3>,
                                       &avx2::readPoints};
    return table;
}

bool hasAvx2() {
    return __builtin_cpu_supports("avx2") != 0 && __builtin_cpu_supports("fma") != 0;
}

} // namespace nuvat

#else

#include "logistic.h"

namespace nuvat {

const LogisticKernels& avx2Kernels() {
    return baselineKernels();
}
bool hasAvx2() {
    return false;
}

} // namespace nuvat

#endif
