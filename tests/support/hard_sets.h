#pragma once

#include "logistic.h"

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <random>
#include <vector>

namespace nuvat::test {

struct HardSet {
    std::vector<double> x, y;
};

/// 8 levels in duplicate over 2 to 5 decades with 2 to 6 % scatter; by turns falling, with a zero standard, without
/// one of the plateaus, with an outlier. The same set for the same seed.
inline HardSet hardSet(unsigned seed, bool hasAsymmetry) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> uniform(0, 1);
    std::normal_distribution<double> normal;
    const bool isFalling = uniform(random) < 0.5;
    LogisticParameters truth;
    truth.a = 0.05 + 0.1 * uniform(random);
    truth.d = 1.5 + uniform(random);
    truth.b = 0.6 + 1.6 * uniform(random);
    truth.g = hasAsymmetry ? std::exp(1.4 * uniform(random) - 0.7) : 1;
    truth.c = std::pow(10, 1 + 2 * uniform(random));
    if (isFalling) {
        std::swap(truth.a, truth.d);
    }
    const double noise = 0.02 + 0.04 * uniform(random);
    const double decades = 2 + 3 * uniform(random);
    const double lowest = std::pow(10, uniform(random)); // sometimes above the lower plateau
    const bool hasZero = uniform(random) < 0.3;
    const bool hasOutlier = uniform(random) < 0.2;
    HardSet data;
    for (int level = 0; level < 8; ++level) {
        const double x = hasZero && level == 0 ? 0 : lowest * std::pow(10, decades * level / 7);
        for (int replicate = 0; replicate < 2; ++replicate) {
            data.x.push_back(x);
            data.y.push_back(logisticResponse(truth, x) * (1 + noise * normal(random)));
        }
    }
    if (hasOutlier) {
        data.y[static_cast<std::size_t>(random() % data.y.size())] *= 1.5;
    }
    return data;
}

} // namespace nuvat::test
