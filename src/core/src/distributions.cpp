#include "nuvat/core/stats/distributions.h"

#include <boost/math/distributions/students_t.hpp>
#include <stdexcept>

namespace nuvat {

double studentFactor(double confidence, double degreesOfFreedom) {
    if (!(confidence > 0 && confidence < 1) || !(degreesOfFreedom > 0)) {
        throw std::invalid_argument("studentFactor: confidence must be between 0 and 1, degrees of freedom above 0");
    }
    const boost::math::students_t distribution(degreesOfFreedom);
    return boost::math::quantile(boost::math::complement(distribution, (1 - confidence) / 2));
}

} // namespace nuvat
