#include "nuvat/core/stats/hypothesis.h"

#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/distributions.h"
#include "nuvat/core/stats/groups.h"

#include <cmath>
#include <stdexcept>
#include <vector>

namespace nuvat {

namespace {

std::optional<TTest> testOf(double difference, double se, double df) {
    if (!(se > 0) || !(df > 0)) {
        return std::nullopt;
    }
    return TTest{difference, difference / se, df, studentTwoSided(difference / se, df)};
}

double sizeOf(std::span<const double> values) {
    return static_cast<double>(values.size());
}

} // namespace

std::optional<TTest> tTestAgainst(std::span<const double> values, double reference) {
    const Description d = describe(values);
    return d.sd ? testOf(*d.mean - reference, *d.sd / std::sqrt(sizeOf(values)), sizeOf(values) - 1) : std::nullopt;
}

std::optional<TTest> tTestPooled(std::span<const double> a, std::span<const double> b) {
    const Description da = describe(a);
    const Description db = describe(b);
    if (!da.sd || !db.sd) {
        return std::nullopt;
    }
    const double pooled = *pooledSd({{a.begin(), a.end()}, {b.begin(), b.end()}});
    return testOf(*da.mean - *db.mean, pooled * std::sqrt(1 / sizeOf(a) + 1 / sizeOf(b)), sizeOf(a) + sizeOf(b) - 2);
}

std::optional<TTest> tTestWelch(std::span<const double> a, std::span<const double> b) {
    const Description da = describe(a);
    const Description db = describe(b);
    if (!da.sd || !db.sd) {
        return std::nullopt;
    }
    const double va = *da.sd * *da.sd / sizeOf(a);
    const double vb = *db.sd * *db.sd / sizeOf(b);
    const double df = (va + vb) * (va + vb) / (va * va / (sizeOf(a) - 1) + vb * vb / (sizeOf(b) - 1));
    return testOf(*da.mean - *db.mean, std::sqrt(va + vb), df);
}

std::optional<TTest> tTestPaired(std::span<const double> a, std::span<const double> b) {
    if (a.size() != b.size()) {
        throw std::invalid_argument("tTestPaired: the results have to come in pairs");
    }
    std::vector<double> differences;
    for (std::size_t i = 0; i < a.size(); ++i) {
        differences.push_back(a[i] - b[i]);
    }
    return tTestAgainst(differences, 0);
}

std::optional<std::array<double, 2>> meanInterval(std::span<const double> values, double confidence) {
    const Description d = describe(values);
    if (!d.sd) {
        return std::nullopt;
    }
    const double half = studentFactor(confidence, sizeOf(values) - 1) * *d.sd / std::sqrt(sizeOf(values));
    return std::array{*d.mean - half, *d.mean + half};
}

std::optional<double> scaledMedianDeviation(std::span<const double> values) {
    const auto middle = median(values);
    if (!middle) {
        return std::nullopt;
    }
    std::vector<double> distances;
    for (const double v : values) {
        distances.push_back(std::abs(v - *middle));
    }
    return *median(distances) / normalQuantile(0.75);
}

double horwitzRsdPercent(double massFraction) {
    if (!(massFraction > 0 && massFraction <= 1)) {
        throw std::invalid_argument("horwitzRsdPercent: a mass fraction lies between 0 and 1");
    }
    return std::exp2(1 - 0.5 * std::log10(massFraction));
}

} // namespace nuvat
