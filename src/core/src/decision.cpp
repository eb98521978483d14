#include "nuvat/core/stats/decision.h"

#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

double factor(double p, double df) {
    return std::isinf(df) ? normalQuantile(p) : studentQuantile(p, df);
}

/// Limits that lie below a value.
std::size_t classOf(double value, std::span<const double> limits) {
    return static_cast<std::size_t>(std::ranges::lower_bound(limits, value) - limits.begin());
}

Decision::Guarded guarded(const UncertainValue& value, double limit, double confidence) {
    Decision::Guarded out;
    if (value.se == 0) {
        out.isAbove = value.value > limit;
        out.isBelow = !out.isAbove;
        out.probabilityAbove = out.isAbove ? 1 : 0;
        return out;
    }
    const double z = (limit - value.value) / value.se, t = factor(confidence, value.df);
    out.isAbove = value.value - t * value.se > limit;
    out.isBelow = value.value + t * value.se <= limit;
    out.probabilityAbove = std::isinf(value.df) ? normalCumulative(-z) : studentUpperTail(z, value.df);
    return out;
}

int greyClass(double index, std::pair<double, double> grey) {
    return index < grey.first ? 0 : index <= grey.second ? 1 : 2;
}

} // namespace

Decision decide(const UncertainValue& value, std::span<const double> limits, double confidence) {
    Decision out;
    out.byValue = classOf(value.value, limits);
    const double half = value.se == 0 ? 0 : factor((1 + confidence) / 2, value.df) * value.se;
    out.interval = {value.value - half, value.value + half};
    out.lowest = classOf(out.interval.first, limits);
    // An interval that ends at a limit holds it, and so does not tell whether it is reached from above.
    out.highest =
        half == 0 ? out.byValue
                  : static_cast<std::size_t>(std::ranges::upper_bound(limits, out.interval.second) - limits.begin());
    for (const double limit : limits) {
        out.limits.push_back(guarded(value, limit, confidence));
    }
    return out;
}

Result<CutOff> cutOff(std::span<const double> negatives, double k) {
    if (negatives.size() < 2) {
        return fail("decide.too-few-negatives", "A cut-off needs two negative samples or more.",
                    "Measure further negatives.");
    }
    const Description all = describe(negatives);
    CutOff out{negatives.size(), all.mean.value_or(0), all.sd.value_or(0), k, 0, 0};
    out.value = out.mean + k * out.sd;
    const double n = static_cast<double>(out.n), variance = out.sd * out.sd;
    out.se = std::sqrt(variance / n + k * k * variance / (2 * (n - 1)));
    return out;
}

CutOffIndex cutOffIndex(const UncertainValue& value, const CutOff& cutOff, std::pair<double, double> grey) {
    CutOffIndex out;
    out.index = value.value / cutOff.value;
    const double half = normalQuantile(0.975) * value.se / std::abs(cutOff.value);
    out.interval = {out.index - half, out.index + half};
    out.se = std::hypot(value.se, out.index * cutOff.se) / std::abs(cutOff.value);
    out.byValue = greyClass(out.index, grey);
    out.lowest = greyClass(out.interval.first, grey);
    out.highest = greyClass(out.interval.second, grey);
    return out;
}

namespace {

double meanOf(std::span<const double> values) {
    return values.empty() ? 0 : describe(values).mean.value_or(0);
}

double shareOf(std::span<const double> values) {
    return values.empty() ? 0 : 1 / static_cast<double>(values.size());
}

struct Difference {
    double value, variance;
};

/// What lies between blank and sample in percent of what lies between blank and control.
PercentOfControl ratioOf(Difference sample, Difference control, double covariance, double t) {
    const double ratio = sample.value / control.value;
    PercentOfControl out;
    out.percent = 100 * ratio;
    out.se = 100 * std::sqrt(sample.variance + ratio * ratio * control.variance - 2 * ratio * covariance) /
             std::abs(control.value);
    out.deltaLimits = {out.percent - t * out.se, out.percent + t * out.se};
    // (N - r D)^2 = t^2 Var(N - r D)
    const double square = control.value * control.value;
    const double second = square - t * t * control.variance, first = ratio * square - t * t * covariance;
    const double root = first * first - second * (ratio * ratio * square - t * t * sample.variance);
    if (second > 0 && root >= 0) {
        out.fiellerLimits = {100 * (first - std::sqrt(root)) / second, 100 * (first + std::sqrt(root)) / second};
    }
    return out;
}

} // namespace

Result<ControlledGroups> percentOfControl(std::span<const double> control, std::span<const double> blank,
                                          std::span<const std::vector<double>> samples, double confidence,
                                          VarianceGrowth growth) {
    double largest = std::max(std::abs(meanOf(control)), std::abs(meanOf(blank)));
    for (const std::vector<double>& sample : samples) {
        largest = std::max(largest, std::abs(meanOf(sample)));
    }
    const auto growthOf = [&](std::span<const double> group) {
        constexpr double kFloor = 0.01; // of the largest
        const double mean = std::max(std::abs(meanOf(group)), kFloor * largest);
        return growth == VarianceGrowth::Constant || !(mean > 0) ? 1
               : growth == VarianceGrowth::WithMean              ? mean
                                                                 : mean * mean;
    };
    double squares = 0;
    ControlledGroups out;
    const auto add = [&](std::span<const double> group) {
        if (group.size() > 1) {
            const double df = static_cast<double>(group.size()) - 1, sd = describe(group).sd.value_or(0);
            out.df += df;
            squares += sd * sd * df / growthOf(group);
        }
    };
    add(control);
    add(blank);
    std::ranges::for_each(samples, add);
    if (control.empty() || !(out.df > 0)) {
        return fail("control.too-few", "Percent of control needs a control, and replicates of at least one group.",
                    "Measure replicates.");
    }
    const double range = meanOf(control) - meanOf(blank);
    if (range == 0) {
        return fail("control.no-range",
                    "Control and blank are equal: nothing can be said in percent of their difference.");
    }
    const double variance = squares / out.df;
    const auto ofMean = [&](std::span<const double> group) { return variance * growthOf(group) * shareOf(group); };
    const double ofBlank = ofMean(blank), vd = ofMean(control) + ofBlank;
    out.pooledSd = std::sqrt(variance);
    for (const std::vector<double>& sample : samples) {
        out.samples.push_back(ratioOf({meanOf(sample) - meanOf(blank), ofMean(sample) + ofBlank}, {range, vd}, ofBlank,
                                      studentFactor(confidence, out.df)));
    }
    return out;
}

} // namespace nuvat
