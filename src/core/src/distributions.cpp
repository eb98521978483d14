#include "nuvat/core/stats/distributions.h"

#include <array>
#include <boost/math/distributions/chi_squared.hpp>
#include <boost/math/distributions/fisher_f.hpp>
#include <boost/math/distributions/non_central_t.hpp>
#include <boost/math/distributions/normal.hpp>
#include <boost/math/distributions/students_t.hpp>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <stdexcept>

namespace nuvat {

namespace {

using boost::math::cdf;
using boost::math::complement;
using boost::math::quantile;

/// In double throughout: within 3e-15 of what extended precision gives, in a tenth of the time. For what is asked for
/// every sample of a batch; what a person asks for by itself keeps the extended precision.
using InDouble = boost::math::policies::policy<boost::math::policies::promote_double<false>>;

void require(bool holds, const char* what) {
    if (!holds) {
        throw std::invalid_argument(what);
    }
}

void requireProbability(double p) {
    require(p > 0 && p < 1, "a probability has to lie between 0 and 1");
}

void requireFreedom(double df) {
    require(df > 0 && std::isfinite(df), "degrees of freedom have to be above 0");
}

} // namespace

double studentFactor(double confidence, double degreesOfFreedom) {
    requireProbability(confidence);
    requireFreedom(degreesOfFreedom);
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
    const boost::math::students_t_distribution<double, InDouble> distribution(degreesOfFreedom);
    const double factor = quantile(complement(distribution, (1 - confidence) / 2));
    lasts[next++ % lasts.size()] = {confidence, degreesOfFreedom, factor};
    return factor;
}

double normalQuantile(double p) {
    requireProbability(p);
    return quantile(boost::math::normal(), p);
}

double studentQuantile(double p, double degreesOfFreedom) {
    requireProbability(p);
    requireFreedom(degreesOfFreedom);
    return quantile(boost::math::students_t(degreesOfFreedom), p);
}

double chiSquaredQuantile(double p, double degreesOfFreedom) {
    requireProbability(p);
    requireFreedom(degreesOfFreedom);
    return quantile(boost::math::chi_squared_distribution<double, InDouble>(degreesOfFreedom), p);
}

double fQuantile(double p, double df1, double df2) {
    requireProbability(p);
    requireFreedom(df1);
    requireFreedom(df2);
    return quantile(boost::math::fisher_f(df1, df2), p);
}

double studentUpperTail(double t, double degreesOfFreedom) {
    requireFreedom(degreesOfFreedom);
    return cdf(complement(boost::math::students_t(degreesOfFreedom), t));
}

double studentTwoSided(double t, double degreesOfFreedom) {
    return 2 * studentUpperTail(std::abs(t), degreesOfFreedom);
}

double chiSquaredUpperTail(double statistic, double degreesOfFreedom) {
    requireFreedom(degreesOfFreedom);
    return cdf(complement(boost::math::chi_squared(degreesOfFreedom), statistic));
}

double fUpperTail(double f, double df1, double df2) {
    requireFreedom(df1);
    requireFreedom(df2);
    return cdf(complement(boost::math::fisher_f_distribution<double, InDouble>(df1, df2), f));
}

double normalCumulative(double z) {
    return cdf(boost::math::normal(), z);
}

double noncentrality(double degreesOfFreedom, double alpha, double beta) {
    requireFreedom(degreesOfFreedom);
    require(alpha > 0 && alpha < 0.5 && beta > 0 && beta < 0.5, "alpha and beta have to lie between 0 and 0.5");
    const double t = studentQuantile(1 - alpha, degreesOfFreedom);
    const auto excess = [&](double delta) {
        return cdf(boost::math::non_central_t(degreesOfFreedom, delta), t) - beta;
    };
    // The probability falls with delta; 2 t is the usual approximation.
    double high = 2 * t;
    while (excess(high) > 0) {
        high *= 2;
    }
    std::uintmax_t rounds = 200;
    const auto [low, up] =
        boost::math::tools::toms748_solve(excess, 0.0, high, boost::math::tools::eps_tolerance<double>(50), rounds);
    return (low + up) / 2;
}

} // namespace nuvat
