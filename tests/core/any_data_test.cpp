// Whatever the data: no crash, no exception, no number that is not one, and every limit on its side. Properties,
// without outside values; the data are drawn at random from every kind of set that a person could enter.
#include "nuvat/core/fit/comparison.h"
#include "nuvat/core/fit/detection.h"
#include "nuvat/core/fit/diagnostics.h"
#include "nuvat/core/fit/read_off.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <random>

namespace nuvat {
namespace {

constexpr std::array kModels{
    Model::Line,   Model::LineThroughOrigin, Model::LineFixedPoint, Model::Quadratic, Model::Cubic,
    Model::LogLog, Model::PointToPoint,      Model::Spline,         Model::Logistic4, Model::Logistic5};
constexpr std::array kMethods{IntervalMethod::Propagation, IntervalMethod::LogPropagation, IntervalMethod::Fieller,
                              IntervalMethod::Inversion,   IntervalMethod::Profile,        IntervalMethod::Bootstrap};

class AnyData {
public:
    explicit AnyData(unsigned seed) : m_random(seed) {
        const std::size_t levels = 1 + pick(seed % 10 == 0 ? 60 : 14);
        const std::size_t replicates = 1 + pick(4);
        const double scaleX = std::pow(10, real(-6, 6));
        const double scaleY = std::pow(10, real(-6, 6));
        const double scatter = pick(3) == 0 ? 0 : std::pow(10, real(-8, 0));
        const double ratio = real(1.001, 6);
        const auto spacing = pick(5);
        const auto shape = pick(7);
        for (std::size_t k = 0; k < levels; ++k) {
            const auto step = static_cast<double>(k);
            double level = scaleX * std::pow(ratio, step);
            if (spacing == 1) {
                level = scaleX * (step + 1);
            } else if (spacing == 2) {
                level = scaleX * (1e6 + step); // far from zero
            } else if (spacing == 3) {
                level = scaleX; // all alike
            }
            level = k == 0 && pick(3) == 0 ? 0 : level;
            for (std::size_t r = 0; r < 1 + pick(replicates); ++r) {
                x.push_back(level);
                y.push_back(scaleY * (shapeAt(shape, level / scaleX, step) * (1 + scatter * normal()) +
                                      (pick(40) == 0 ? real(-5, 5) : 0)));
            }
        }
        if (pick(4) == 0) { // in any order
            for (std::size_t i = x.size(); i-- > 1;) {
                const std::size_t other = pick(i + 1);
                std::swap(x[i], x[other]);
                std::swap(y[i], y[other]);
            }
        }
    }

    FitOptions options(Model model) {
        FitOptions out;
        out.model = model;
        out.weighting = static_cast<Weighting>(pick(6));
        out.weightFrom = static_cast<WeightSource>(pick(3));
        out.fitTo = pick(4) == 0 ? FitTo::Means : FitTo::Replicates;
        if (isLogistic(model) && pick(5) == 0) {
            out.heldA = y.front();
        }
        if (isLogistic(model) && pick(5) == 0) {
            out.heldD = y.back();
        }
        out.fixedX = pick(2) == 0 ? 0 : x.front();
        out.fixedY = pick(2) == 0 ? 0 : y.front();
        out.isSplineInLogX = pick(2) == 0;
        return out;
    }

    std::size_t pick(std::size_t count) { return std::uniform_int_distribution<std::size_t>(0, count - 1)(m_random); }
    double real(double low, double high) { return std::uniform_real_distribution<double>(low, high)(m_random); }

    std::vector<double> x, y;

private:
    double normal() { return std::normal_distribution<double>()(m_random); }

    double shapeAt(std::size_t shape, double level, double step) {
        switch (shape) {
        case 0:
            return 1 + 0.3 * step;
        case 1:
            return 0.05 + 2 / (1 + std::pow(level / 30, -1.2));
        case 2:
            return 2 / (1 + std::pow(level / 30, 2));
        case 3:
            return 1; // no response at all
        case 4:
            return 0;
        case 5:
            return step < 3 ? 0.1 : 2; // a step
        default:
            return real(-1, 1); // nothing to be seen
        }
    }

    std::mt19937 m_random;
};

/// @param hasSides a percentile interval of a bootstrap need not hold the estimate
void expectReadOff(const ReadOff& read, bool hasSides) {
    for (const auto& value : {read.x, read.se, read.low, read.high}) {
        EXPECT_FALSE(value && std::isnan(*value));
    }
    EXPECT_EQ(read.status == ReadOffStatus::Ok, read.x.has_value());
    EXPECT_FALSE(read.se && *read.se < 0);
    if (hasSides && read.x && std::isfinite(*read.x)) {
        const double slack = 1e-9 * std::abs(*read.x);
        EXPECT_FALSE(read.low && *read.low > *read.x + slack) << *read.low << " above " << *read.x;
        EXPECT_FALSE(read.high && *read.high < *read.x - slack) << *read.high << " below " << *read.x;
    }
}

void expectReadOffs(const Fit& fit, AnyData& data) {
    const auto [low, high] = std::minmax_element(data.y.begin(), data.y.end());
    std::vector<double> responses{*low, *high, 0, -1e300, 1e300};
    for (int k = 0; k < 3; ++k) {
        responses.push_back(data.real(*low - (*high - *low), *high + (*high - *low)));
    }
    ReadOffOptions options;
    options.simulations = 30;
    options.blankSe = data.pick(2) == 0 ? 0 : 0.01 * std::abs(*high);
    for (const IntervalMethod method : kMethods) {
        if (!isDefinedFor(method, fit.model)) {
            continue;
        }
        options.interval = method;
        const bool hasSides = method != IntervalMethod::Bootstrap;
        if (method == IntervalMethod::Bootstrap) {
            options.bootstrap = simulateCurves(fit, options);
        }
        for (const ReadOff& read : readOffs(fit, responses, options)) {
            SCOPED_TRACE(std::string(name(method)));
            expectReadOff(read, hasSides);
        }
        options.average = data.pick(2) == 0 ? AverageOf::Responses : AverageOf::Concentrations;
        expectReadOff(readOffMean(fit, std::span(responses).last(3), options), hasSides);
    }
}

void expectNumbers(const std::vector<double>& values) {
    EXPECT_TRUE(std::all_of(values.begin(), values.end(), [](double v) { return std::isfinite(v); }));
}

TEST(AnyData, NeverLeadsToACrashOrToWhatIsNoNumber) {
    int usable = 0;
    for (unsigned seed = 1; seed <= 1500; ++seed) {
        AnyData data(seed);
        for (const Model model : kModels) {
            const FitOptions options = data.options(model);
            SCOPED_TRACE("seed " + std::to_string(seed) + ", " + std::string(name(model)) + ", weights " +
                         std::string(name(options.weighting)));
            const Fit fit = fitCalibration(options, {data.x, data.y, {}, {}});
            EXPECT_EQ(fit.isUsable(), fit.message.empty());
            if (!fit.isUsable()) {
                EXPECT_TRUE(fit.parameters.empty());
                continue;
            }
            ++usable;
            expectNumbers(fit.parameters);
            expectNumbers(fit.fitted);
            expectNumbers(fit.weights);
            if (fit.df > 0) {
                expectNumbers(fit.se);
                expectNumbers(fit.covariance);
            }
            (void)diagnose(fit);
            (void)rangeByPrecision(fit, 20, {});
            expectReadOffs(fit, data);
            if (HasFailure()) {
                return; // one set tells enough
            }
        }
        if (seed % 50 == 0) {
            const CalibrationData all{data.x, data.y, {}, {}};
            (void)compareModels(usualCandidates(all), all, {});
        }
    }
    EXPECT_GT(usable, 5000); // the sets are not all refused
}

} // namespace
} // namespace nuvat
