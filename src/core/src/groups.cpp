#include "nuvat/core/stats/groups.h"

#include "nuvat/core/stats/descriptive.h"

#include <algorithm>
#include <boost/math/distributions/chi_squared.hpp>
#include <boost/math/distributions/fisher_f.hpp>
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

std::optional<double> quantile(std::span<const double> values, double p) {
    if (values.empty()) {
        return std::nullopt;
    }
    std::vector<double> sorted(values.begin(), values.end());
    std::sort(sorted.begin(), sorted.end());
    const double at = p * static_cast<double>(sorted.size() - 1);
    const auto below = static_cast<std::size_t>(at);
    const std::size_t above = std::min(below + 1, sorted.size() - 1);
    return sorted[below] + (at - static_cast<double>(below)) * (sorted[above] - sorted[below]);
}

std::optional<double> median(std::span<const double> values) {
    if (values.empty()) {
        return std::nullopt;
    }
    std::vector<double> parted(values.begin(), values.end());
    const auto half = parted.begin() + static_cast<std::ptrdiff_t>(parted.size() / 2);
    std::nth_element(parted.begin(), half, parted.end());
    if (parted.size() % 2 == 1) {
        return *half;
    }
    const double below = *std::max_element(parted.begin(), half);
    return below + (*half - below) / 2;
}

namespace {

std::optional<double> varianceOf(std::span<const double> values) {
    const Description d = describe(values);
    return d.sd ? std::optional(*d.sd * *d.sd) : std::nullopt;
}

} // namespace

double cochranCritical(std::size_t groups, std::size_t size, double alpha) {
    const auto k = static_cast<double>(groups);
    const auto df = static_cast<double>(size) - 1;
    const double f = boost::math::quantile(complement(boost::math::fisher_f(df, (k - 1) * df), alpha / k));
    return 1 / (1 + (k - 1) / f);
}

std::optional<Cochran> cochran(const Groups& groups, double alpha) {
    if (groups.size() < 2 || groups.front().size() < 2) {
        return std::nullopt;
    }
    Cochran out;
    double sum = 0;
    double largest = 0;
    for (std::size_t i = 0; i < groups.size(); ++i) {
        const auto v = varianceOf(groups[i]);
        if (!v || groups[i].size() != groups.front().size()) {
            return std::nullopt;
        }
        sum += *v;
        if (*v > largest) {
            largest = *v;
            out.suspect = i;
        }
    }
    if (!(sum > 0)) {
        return std::nullopt;
    }
    out.c = largest / sum;
    out.critical = cochranCritical(groups.size(), groups.front().size(), alpha);
    out.isOutlier = out.c > out.critical;
    return out;
}

std::optional<VarianceRatio> varianceRatio(std::span<const double> a, std::span<const double> b) {
    const auto va = varianceOf(a);
    const auto vb = varianceOf(b);
    if (!va || !vb || !(*va > 0) || !(*vb > 0)) {
        return std::nullopt;
    }
    VarianceRatio out;
    const bool isALarger = *va >= *vb;
    out.f = isALarger ? *va / *vb : *vb / *va;
    out.df1 = static_cast<double>((isALarger ? a : b).size()) - 1;
    out.df2 = static_cast<double>((isALarger ? b : a).size()) - 1;
    out.pTwoSided = std::min(1.0, 2 * cdf(complement(boost::math::fisher_f(out.df1, out.df2), out.f)));
    return out;
}

std::optional<double> largestVarianceRatio(const Groups& groups) {
    double least = 0;
    double most = 0;
    for (const auto& group : groups) {
        const auto v = varianceOf(group);
        if (!v || !(*v > 0)) {
            return std::nullopt;
        }
        least = least == 0 ? *v : std::min(least, *v);
        most = std::max(most, *v);
    }
    return groups.size() >= 2 ? std::optional(most / least) : std::nullopt;
}

std::optional<double> pooledSd(const Groups& groups) {
    long double squares = 0;
    long double df = 0;
    for (const auto& group : groups) {
        if (group.size() >= 2) {
            squares += squaresAbout(group, meanOf(group));
            df += static_cast<long double>(group.size() - 1);
        }
    }
    return df > 0 ? std::optional(static_cast<double>(std::sqrt(squares / df))) : std::nullopt;
}

} // namespace nuvat
