#include "nuvat/core/stats/groups.h"

#include "nuvat/core/stats/descriptive.h"

#include <algorithm>
#include <boost/math/distributions/chi_squared.hpp>
#include <boost/math/distributions/fisher_f.hpp>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>

namespace nuvat {

namespace {

using boost::math::cdf;
using boost::math::complement;

long double meanOf(const std::vector<double>& values) {
    long double sum = 0;
    for (const double v : values) {
        sum += v;
    }
    const long double mean = sum / static_cast<long double>(values.size());
    long double rest = 0;
    for (const double v : values) {
        rest += v - mean;
    }
    return mean + rest / static_cast<long double>(values.size());
}

long double squaresAbout(const std::vector<double>& values, long double mean) {
    long double sum = 0;
    for (const double v : values) {
        sum += (v - mean) * (v - mean);
    }
    return sum;
}

} // namespace

std::optional<OneWay> oneWayAnova(const Groups& groups) {
    OneWay out;
    out.groups = groups.size();
    std::vector<double> all;
    for (const auto& group : groups) {
        if (group.empty()) {
            return std::nullopt;
        }
        all.insert(all.end(), group.begin(), group.end());
    }
    out.n = all.size();
    if (out.groups < 2 || out.n <= out.groups) {
        return std::nullopt;
    }
    const long double grand = meanOf(all);
    long double between = 0;
    long double within = 0;
    long double squaredSizes = 0;
    for (const auto& group : groups) {
        const auto size = static_cast<long double>(group.size());
        const long double mean = meanOf(group);
        between += size * (mean - grand) * (mean - grand);
        within += squaresAbout(group, mean);
        squaredSizes += size * size;
    }
    if (!(within > 0)) {
        return std::nullopt;
    }
    const auto n = static_cast<long double>(out.n);
    const auto k = static_cast<long double>(out.groups);
    const long double betweenMs = between / (k - 1);
    const long double withinMs = within / (n - k);
    const long double n0 = (n - squaredSizes / n) / (k - 1);
    out.grandMean = static_cast<double>(grand);
    out.betweenSs = static_cast<double>(between);
    out.withinSs = static_cast<double>(within);
    out.betweenDf = static_cast<double>(k - 1);
    out.withinDf = static_cast<double>(n - k);
    out.f = static_cast<double>(betweenMs / withinMs);
    out.p = cdf(complement(boost::math::fisher_f(out.betweenDf, out.withinDf), out.f));
    out.repeatabilitySd = static_cast<double>(std::sqrt(withinMs));
    out.betweenVariance = static_cast<double>((betweenMs - withinMs) / n0);
    out.intermediatePrecisionSd =
        static_cast<double>(std::sqrt(withinMs + std::max(0.0L, (betweenMs - withinMs) / n0)));
    return out;
}

std::optional<VarianceTest> bartlett(const Groups& groups) {
    if (groups.size() < 2) {
        return std::nullopt;
    }
    long double pooled = 0;
    long double freedom = 0;
    long double logs = 0;
    long double inverses = 0;
    for (const auto& group : groups) {
        if (group.size() < 2) {
            return std::nullopt;
        }
        const auto df = static_cast<long double>(group.size() - 1);
        const long double squares = squaresAbout(group, meanOf(group));
        if (!(squares > 0)) {
            return std::nullopt;
        }
        pooled += squares;
        freedom += df;
        logs += df * std::log(squares / df);
        inverses += 1 / df;
    }
    const auto k = static_cast<long double>(groups.size());
    const long double statistic =
        (freedom * std::log(pooled / freedom) - logs) / (1 + (inverses - 1 / freedom) / (3 * (k - 1)));
    VarianceTest out;
    out.statistic = static_cast<double>(std::max(0.0L, statistic));
    out.p = cdf(complement(boost::math::chi_squared(static_cast<double>(k - 1)), out.statistic));
    return out;
}

std::optional<VarianceTest> levene(const Groups& groups, bool aboutMedians) {
    Groups distances;
    for (const auto& group : groups) {
        if (group.empty()) {
            return std::nullopt;
        }
        const auto centre = aboutMedians ? static_cast<long double>(*median(group)) : meanOf(group);
        std::vector<double> row;
        for (const double v : group) {
            row.push_back(static_cast<double>(std::abs(v - centre)));
        }
        distances.push_back(std::move(row));
    }
    const auto anova = oneWayAnova(distances);
    return anova ? std::optional(VarianceTest{anova->f, anova->p}) : std::nullopt;
}

std::optional<double> median(std::span<const double> values) {
    if (values.empty()) {
        return std::nullopt;
    }
    std::vector<double> sorted(values.begin(), values.end());
    std::sort(sorted.begin(), sorted.end());
    const std::size_t half = sorted.size() / 2;
    return sorted.size() % 2 == 1 ? sorted[half] : sorted[half - 1] + (sorted[half] - sorted[half - 1]) / 2;
}

double grubbsCritical(std::size_t n, double alpha, bool isTwoSided) {
    const auto count = static_cast<double>(n);
    const double share = alpha / (isTwoSided ? 2 * count : count);
    const double t = boost::math::quantile(complement(boost::math::students_t(count - 2), share));
    return (count - 1) / std::sqrt(count) * std::sqrt(t * t / (count - 2 + t * t));
}

std::optional<Grubbs> grubbs(std::span<const double> values, double alpha) {
    const Description d = describe(values);
    if (values.size() < 3 || !(d.sd.value_or(0) > 0)) {
        return std::nullopt;
    }
    Grubbs out;
    for (std::size_t i = 0; i < values.size(); ++i) {
        const double g = std::abs(values[i] - *d.mean) / *d.sd;
        if (g > out.g) {
            out.g = g;
            out.suspect = i;
        }
    }
    const auto n = static_cast<double>(values.size());
    out.critical = grubbsCritical(values.size(), alpha, true);
    const double rest = (n - 1) * (n - 1) - n * out.g * out.g;
    if (rest > 0) {
        const double t = std::sqrt(n * (n - 2) * out.g * out.g / rest);
        out.pBound = std::min(1.0, 2 * n * cdf(complement(boost::math::students_t(n - 2), t)));
    }
    out.isOutlier = out.g > out.critical;
    return out;
}

} // namespace nuvat
