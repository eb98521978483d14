#include "nuvat/core/stats/dilutions.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/fit/polynomial_fit.h"
#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace nuvat {

namespace {

constexpr double kMostDifference = 0.2, kLeastP = 0.01;

/// A weighted mean of some dilutions.
struct Mean {
    double value = 0, seInternal = 0, chiSquared = 0, df = 0;
    double p() const { return chiSquaredUpperTail(chiSquared, df); }
    double seExternal() const { return seInternal * std::sqrt(chiSquared / df); }
};

class Combining {
public:
    explicit Combining(std::span<const Dilution> dilutions) : m_dilutions(dilutions) {}

    Mean mean(std::span<const std::size_t> of) const {
        Mean out;
        double weights = 0;
        for (const std::size_t i : of) {
            weights += weight(i);
            out.value += weight(i) * times(i);
        }
        out.value /= weights;
        out.seInternal = 1 / std::sqrt(weights);
        out.df = static_cast<double>(of.size()) - 1;
        for (const std::size_t i : of) {
            out.chiSquared += weight(i) * (times(i) - out.value) * (times(i) - out.value);
        }
        return out;
    }

    bool agree(std::span<const std::size_t> of) const {
        const Mean all = mean(of);
        return all.p() > kLeastP && std::ranges::all_of(of, [&](std::size_t i) {
                   return std::abs(times(i) - all.value) <= kMostDifference * std::abs(all.value);
               });
    }

    /// The first run of two or more that agree, as long as it goes.
    std::vector<std::size_t> lowestThatAgree(std::span<const std::size_t> used) const {
        for (std::size_t from = 0; from + 1 < used.size(); ++from) {
            std::size_t count = 1;
            while (from + count < used.size() && agree(used.subspan(from, count + 1))) {
                ++count;
            }
            if (count > 1) {
                return {used.begin() + static_cast<std::ptrdiff_t>(from),
                        used.begin() + static_cast<std::ptrdiff_t>(from + count)};
            }
        }
        return {};
    }

    /// @param errors how many standard errors a rise has to exceed
    bool rises(std::size_t from, std::size_t to, double errors) const {
        const double rise = times(to) - times(from);
        return rise > kMostDifference * std::abs(times(from)) && rise > errors * std::hypot(seTimes(from), seTimes(to));
    }

    double times(std::size_t i) const { return m_dilutions[i].measured * m_dilutions[i].factor; }

private:
    double seTimes(std::size_t i) const { return m_dilutions[i].se * m_dilutions[i].factor; }
    double weight(std::size_t i) const { return 1 / (seTimes(i) * seTimes(i)); }
    std::span<const Dilution> m_dilutions;
};

/// Slope of ln measured against ln factor, with its 95 % interval.
void setSlope(std::span<const Dilution> dilutions, CombinedDilutions& out) {
    std::vector<double> x, y;
    for (const std::size_t i : out.used) {
        if (dilutions[i].measured > 0) {
            x.push_back(std::log(dilutions[i].factor));
            y.push_back(std::log(dilutions[i].measured));
        }
    }
    const PolynomialFit<2> line = fitPolynomial<2>(x, y);
    if (line.isDetermined) {
        out.slope = line.parameters[1];
        if (line.df > 0) {
            const double half = studentFactor(0.95, line.df) * line.se[1];
            out.slopeInterval = {*out.slope - half, *out.slope + half};
        }
    }
}

} // namespace

Result<CombinedDilutions> combineDilutions(std::span<const Dilution> dilutions, std::pair<double, double> range) {
    if (dilutions.empty()) {
        return fail("dilutions.none", "There is no dilution.", "Give a line for each.");
    }
    for (const Dilution& one : dilutions) {
        if (!(one.factor > 0)) {
            return fail("dilutions.factor", "A dilution factor of " + formatNumber(one.factor) + " is not above 0.",
                        "Undiluted is 1.");
        }
        if (!(one.se > 0)) {
            return fail("dilutions.se", "A standard error of " + formatNumber(one.se) + " is not above 0.",
                        "It weighs the dilutions: give that of each measured value.");
        }
    }
    const Combining combining(dilutions);
    CombinedDilutions out;
    double sum = 0;
    for (std::size_t i = 0; i < dilutions.size(); ++i) {
        out.timesFactor.push_back(combining.times(i));
        if (dilutions[i].measured >= range.first && dilutions[i].measured <= range.second) {
            out.used.push_back(i);
            sum += combining.times(i);
        }
    }
    std::ranges::stable_sort(out.used, {}, [&](std::size_t i) { return dilutions[i].factor; });
    if (out.used.empty()) {
        out.warnings.emplace_back("No dilution is inside the working range.");
        return out;
    }
    const Mean all = combining.mean(out.used);
    out.simpleMean = sum / static_cast<double>(out.used.size());
    out.weightedMean = all.value;
    out.seInternal = all.seInternal;
    if (out.used.size() == 1) {
        out.agree = true; // with nothing to disagree with
        out.reported = out.used;
        out.value = all.value;
        out.se = all.seInternal;
        out.warnings.emplace_back("Only one dilution is inside the working range: its linearity cannot be judged.");
        return out;
    }
    out.seExternal = all.seExternal();
    out.chiSquared = all.chiSquared;
    out.p = all.p();
    setSlope(dilutions, out);
    out.agree = combining.agree(out.used);
    out.reported = combining.lowestThatAgree(out.used);
    if (!out.reported.empty()) {
        const Mean reported = combining.mean(out.reported);
        out.value = reported.value;
        out.se = std::max(reported.seInternal, reported.seExternal());
    } else {
        out.warnings.emplace_back(
            "No two consecutive dilutions agree: the sample is to be reviewed, nothing is combined.");
    }
    // 2 SE for one pair; for several as many as make the same share of samples without a hook be warned of.
    const double pairs = static_cast<double>(out.used.size() - 1);
    const double errors = -normalQuantile(normalCumulative(-2) / pairs);
    for (std::size_t k = 0; k + 1 < out.used.size(); ++k) {
        if (combining.rises(out.used[k], out.used[k + 1], errors)) {
            out.hasHook = true;
            out.warnings.push_back(
                "From the dilution by " + formatNumber(dilutions[out.used[k]].factor) + " to that by " +
                formatNumber(dilutions[out.used[k + 1]].factor) +
                " the result rises by more than 20 %: a hook or matrix effect at the lower dilution.");
        }
    }
    return out;
}

} // namespace nuvat
