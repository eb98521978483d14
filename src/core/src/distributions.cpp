#include "nuvat/core/stats/distributions.h"

#include <array>
#include <boost/math/distributions/students_t.hpp>
#include <stdexcept>

namespace nuvat {

double studentFactor(double confidence, double degreesOfFreedom) {
    if (!(confidence > 0 && confidence < 1) || !(degreesOfFreedom > 0)) {
        throw std::invalid_argument("studentFactor: confidence must be between 0 and 1, degrees of freedom above 0");
    }
    // Every fit and read-off of a batch asks for one or two of them, and the quantile costs more than a small fit.
    struct Last {
        double confidence = 0, degreesOfFreedom = 0, factor = 0;
    };
    thread_local std::array<Last, 4> lasts{};
    thread_local std::size_t next = 0;
    for (const Last& last : lasts) {
        if (last.confidence == confidence && last.degreesOfFreedom == degreesOfFreedom) {
            return last.factor;
        }
    }
    const boost::math::students_t distribution(degreesOfFreedom);
    const double factor = boost::math::quantile(boost::math::complement(distribution, (1 - confidence) / 2));
    lasts[next++ % lasts.size()] = {confidence, degreesOfFreedom, factor};
    return factor;
}

} // namespace nuvat
