#include "nuvat/core/stats/descriptive.h"

#include <cmath>

namespace nuvat {

Description describe(std::span<const double> values) {
    Description out;
    out.n = values.size();
    if (values.empty()) {
        return out;
    }
    const auto n = static_cast<long double>(values.size());
    long double sum = 0;
    for (const double v : values) {
        sum += v;
    }
    const long double mean = sum / n;
    long double squares = 0;
    long double rest = 0;
    for (const double v : values) {
        const long double deviation = v - mean;
        squares += deviation * deviation;
        rest += deviation;
    }
    out.mean = static_cast<double>(mean + rest / n);
    if (values.size() < 2) {
        return out;
    }
    const long double variance = (squares - rest * rest / n) / (n - 1);
    const long double sd = std::sqrt(variance > 0 ? variance : 0);
    out.sd = static_cast<double>(sd);
    if (mean != 0) {
        out.cvPercent = static_cast<double>(100 * sd / std::abs(mean));
    }
    return out;
}

} // namespace nuvat
