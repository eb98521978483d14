#include "model_fits.h"
#include "nuvat/core/stats/descriptive.h"

#include <algorithm>
#include <cmath>
#include <functional>

namespace nuvat {

namespace {

constexpr double kMostTheta = 1.5;
constexpr double kLeastFreedom = 8; // below, theta is a guess

/// Where a function of one number is least between two ends, by the golden section.
double leastBetween(double low, double high, const std::function<double(double)>& value) {
    constexpr double kGolden = 0.6180339887498949;
    double left = high - kGolden * (high - low);
    double right = low + kGolden * (high - low);
    double atLeft = value(left);
    double atRight = value(right);
    for (int i = 0; i < 80 && high - low > 1e-12; ++i) {
        if (atLeft <= atRight) {
            high = right;
            right = left;
            atRight = atLeft;
            left = high - kGolden * (high - low);
            atLeft = value(left);
        } else {
            low = left;
            left = right;
            atLeft = atRight;
            right = low + kGolden * (high - low);
            atRight = value(right);
        }
    }
    return (low + high) / 2;
}

/// Levels' scatter with what it is a function of.
struct Scatter {
    std::span<const double> y, s, df;
    double floor = 0;
    double least = 0; ///< |y| counts as at least this, so that its logarithm exists

    /// |y|^theta, which both of the following need.
    std::vector<double> powers(double theta) const {
        std::vector<double> out(y.size());
        std::transform(y.begin(), y.end(), out.begin(),
                       [&](double one) { return std::pow(std::max(std::abs(one), least), theta); });
        return out;
    }

    /// -2 log likelihood but for a constant.
    double misfit(double k, std::span<const double> power) const {
        double sum = 0;
        for (std::size_t i = 0; i < y.size(); ++i) {
            const double sigma = std::max(floor, k * power[i]);
            sum += df[i] * (2 * std::log(sigma) + s[i] * s[i] / (sigma * sigma));
        }
        return sum;
    }

    double bestK(std::span<const double> power) const {
        double squares = 0;
        double freedom = 0;
        for (std::size_t i = 0; i < y.size(); ++i) {
            squares += df[i] * s[i] * s[i] / (power[i] * power[i]);
            freedom += df[i];
        }
        const double k = std::sqrt(squares / freedom); // the best where no level lies on the floor
        if (!(floor > 0)) {
            return k;
        }
        constexpr double kRange = 4; // a factor of e^4 either way
        return std::exp(leastBetween(std::log(k) - kRange, std::log(k) + kRange,
                                     [&](double logK) { return misfit(std::exp(logK), power); }));
    }
};

} // namespace

double VarianceFunction::at(double y) const {
    return std::max(floor, k * std::pow(std::abs(y), theta));
}

std::optional<VarianceFunction> fitVarianceFunction(std::span<const double> y, std::span<const double> s,
                                                    std::span<const double> df, double floor,
                                                    std::optional<double> theta) {
    double largest = 0;
    double freedom = 0;
    double squares = 0;
    for (std::size_t i = 0; i < y.size(); ++i) {
        largest = std::max(largest, std::abs(y[i]));
        freedom += df[i];
        squares += df[i] * s[i] * s[i];
    }
    if (!(squares > 0) || freedom < (theta ? 1 : kLeastFreedom)) {
        return std::nullopt;
    }
    const Scatter scatter{y, s, df, floor, 1e-9 * largest};
    if (!theta) {
        // A coarse grid first: the likelihood may have two hollows.
        const auto profile = [&](double at) {
            const std::vector<double> power = scatter.powers(at);
            return scatter.misfit(scatter.bestK(power), power);
        };
        constexpr int kSteps = 15;
        int best = 0;
        double least = profile(0);
        for (int i = 1; i <= kSteps; ++i) {
            if (const double here = profile(i * kMostTheta / kSteps); here < least) {
                best = i;
                least = here;
            }
        }
        constexpr double kStep = kMostTheta / kSteps;
        theta = leastBetween(std::max(0, best - 1) * kStep, std::min(kSteps, best + 1) * kStep, profile);
    }
    return VarianceFunction{scatter.bestK(scatter.powers(*theta)), *theta, floor};
}

std::optional<VarianceFunction> varianceOfGroups(const FitOptions& options, const CalibrationData& data,
                                                 const std::vector<LevelGroup>& groups,
                                                 std::span<const double> responses) {
    std::vector<double> y;
    std::vector<double> s;
    std::vector<double> df;
    for (std::size_t k = 0; k < groups.size(); ++k) {
        std::vector<double> values;
        for (const std::size_t i : groups[k].points) {
            values.push_back(data.y[i]);
        }
        if (values.size() > 1) {
            y.push_back(responses[k] + data.offset);
            s.push_back(describe(values).sd.value_or(0));
            df.push_back(static_cast<double>(values.size() - 1));
        }
    }
    return fitVarianceFunction(y, s, df, data.blankSd, options.theta);
}

} // namespace nuvat
