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

namespace nuvat::baseline {
namespace {
#include "lanes.inc"
#include "logistic_kernel.inc"
} // namespace
} // namespace nuvat::baseline

namespace nuvat {

const LogisticKernels& baselineKernels() {
    static const LogisticKernels table{&baseline::sumAt<2>,  &baseline::sumAt<3>,          &baseline::refine<2>,
                                       &baseline::refine<3>, &baseline::searchGlobally<2>, &baseline::searchGlobally<3>,
                                       &baseline::readPoints};
    return table;
}

} // namespace nuvat
