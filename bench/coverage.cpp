// Whether 95 % intervals of read-offs hold the truth in 94 to 96 % of simulated batches: standards and one sample in
// duplicate are simulated, fitted and read off, seeded. `coverage [batches]`, 10 000 unless said otherwise.
// Exit status 1 when a method that is offered as the default somewhere misses the band there.
#include "logistic.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/stats/distributions.h"

#include <cstdio>
#include <cstdlib>
#include <functional>
#include <random>
#include <string>
#include <utility>
#include <vector>

namespace {

using nuvat::IntervalMethod;
using nuvat::Model;
using nuvat::Weighting;

struct Scenario {
    const char* title;
    Model model;
    Weighting weighting;
    nuvat::WeightSource weightFrom;
    std::function<double(double)> truth;
    std::function<double(double)> sd; ///< of one reading at concentration x
    std::vector<double> levels;
    std::vector<double> samples; ///< concentrations inside the range
    std::vector<IntervalMethod> methods;
    int replicates = 2;     ///< of a level
    bool isOfGiven = false; ///< share of the read-offs that have a concentration: near a plateau many have none
    bool isHeldTo = true;   ///< false: shown for what it is, a choice that Nuvat warns of or the end of a range
};

/// A 4PL whose readings scatter by 4 % everywhere, under a weighting that need not fit that.
Scenario ofProportionalScatter(const char* title, Weighting weighting, int replicates, std::vector<double> samples,
                               bool isOfGiven = false) {
    const auto logistic = [](double x) { return nuvat::logisticResponse({2.3, 1.1, 20, 0.08, 1}, x); };
    return {title,
            Model::Logistic4,
            weighting,
            nuvat::WeightSource::Fitted,
            logistic,
            [logistic](double x) { return 0.04 * logistic(x); },
            {0.7, 2, 6, 18, 55, 165, 500},
            std::move(samples),
            {IntervalMethod::Propagation, IntervalMethod::Profile},
            replicates,
            isOfGiven,
            false};
}

std::vector<Scenario> scenarios() {
    const auto line = [](double x) { return 0.05 + 0.02 * x; };
    const auto logistic = [](double x) { return nuvat::logisticResponse({2.3, 1.1, 20, 0.08, 1}, x); };
    const std::vector<double> lineLevels{5, 10, 20, 40, 60, 80, 100};
    const std::vector<double> logisticLevels{0.7, 2, 6, 18, 55, 165, 500};
    return {
        {"line",
         Model::Line,
         Weighting::None,
         nuvat::WeightSource::Observed,
         line,
         [](double) { return 0.02; },
         lineLevels,
         {10, 30, 50, 90},
         {IntervalMethod::Propagation, IntervalMethod::Fieller}},
        {"line, 1/x2",
         Model::Line,
         Weighting::InverseX2,
         nuvat::WeightSource::Observed,
         [](double x) { return 0.02 * x; },
         [](double x) { return 0.02 * x * 0.04; },
         {1, 2, 5, 10, 20, 50, 100},
         {2, 8, 30, 90},
         {IntervalMethod::Propagation, IntervalMethod::Fieller}},
        {"4PL",
         Model::Logistic4,
         Weighting::None,
         nuvat::WeightSource::Observed,
         logistic,
         [](double) { return 0.03; },
         logisticLevels,
         {6, 15, 40, 90},
         {IntervalMethod::Propagation, IntervalMethod::LogPropagation, IntervalMethod::Profile,
          IntervalMethod::Bootstrap}},
        {"4PL, 1/y2 of the fitted response",
         Model::Logistic4,
         Weighting::InverseY2,
         nuvat::WeightSource::Fitted,
         logistic,
         [logistic](double x) { return 0.04 * logistic(x); },
         logisticLevels,
         {6, 15, 40, 120},
         {IntervalMethod::Propagation, IntervalMethod::LogPropagation, IntervalMethod::Profile}},
        ofProportionalScatter("4PL, variance function, 3 replicates", Weighting::Variance, 3, {6, 15, 40, 120}),
        ofProportionalScatter("4PL, 1/s2, 2 replicates a level", Weighting::InverseS2, 2, {6, 15, 40, 120}),
        ofProportionalScatter("4PL, 1/s2, 5 replicates a level", Weighting::InverseS2, 5, {6, 15, 40, 120}),
        ofProportionalScatter("4PL, 1/s2, 10 replicates a level", Weighting::InverseS2, 10, {6, 15, 40, 120}),
        ofProportionalScatter("4PL, no weights, CV the same", Weighting::None, 2, {6, 15, 40, 120}),
        ofProportionalScatter("4PL, 1/y2 fitted, near the ends", Weighting::InverseY2, 2, {0.8, 1.5, 300, 450}, true),
    };
}

/// Share of the batches in which the interval holds the truth, for each method and sample.
std::vector<std::vector<double>> coverage(const Scenario& scenario, int batches) {
    std::vector<std::vector<int>> held(scenario.methods.size(), std::vector<int>(scenario.samples.size(), 0));
    auto given = held; // read-offs with a concentration
    int counted = 0;
    std::mt19937_64 random(20261125);
    std::normal_distribution<double> normal;
    const auto read = [&](double x) { return scenario.truth(x) + scenario.sd(x) * normal(random); };
    nuvat::FitOptions options;
    options.model = scenario.model;
    options.weighting = scenario.weighting;
    options.weightFrom = scenario.weightFrom;
    for (int batch = 0; batch < batches; ++batch) {
        std::vector<double> x;
        std::vector<double> y;
        for (const double level : scenario.levels) {
            for (int replicate = 0; replicate < scenario.replicates; ++replicate) {
                x.push_back(level);
                y.push_back(read(level));
            }
        }
        std::vector<std::vector<double>> samples;
        for (const double concentration : scenario.samples) {
            samples.push_back({read(concentration), read(concentration)});
        }
        const nuvat::Fit fit = nuvat::fitCalibration(options, {x, y, {}, {}});
        if (!fit.isUsable()) {
            continue;
        }
        ++counted;
        for (std::size_t m = 0; m < scenario.methods.size(); ++m) {
            nuvat::ReadOffOptions how;
            how.interval = scenario.methods[m];
            how.factor = nuvat::studentFactor(how.confidence, fit.df);
            how.simulations = 1000;
            if (how.interval == IntervalMethod::Bootstrap) {
                how.bootstrap = nuvat::simulateCurves(fit, how);
            }
            for (std::size_t k = 0; k < samples.size(); ++k) {
                const nuvat::ReadOff result = nuvat::readOffMean(fit, samples[k], how);
                // A limit that the data do not bound lies at infinity; a sample beyond the curve has no interval.
                const bool isBelow = !result.low || *result.low <= scenario.samples[k];
                const bool isAbove = !result.high || *result.high >= scenario.samples[k];
                held[m][k] += result.x && isBelow && isAbove ? 1 : 0;
                given[m][k] += result.x ? 1 : 0;
            }
        }
    }
    std::vector<std::vector<double>> out;
    for (std::size_t m = 0; m < held.size(); ++m) {
        out.emplace_back();
        for (std::size_t k = 0; k < held[m].size(); ++k) {
            out.back().push_back(100.0 * held[m][k] / (scenario.isOfGiven ? given[m][k] : counted));
        }
    }
    return out;
}

} // namespace

int main(int argc, char** argv) {
    const int batches = argc > 1 ? std::atoi(argv[1]) : 10'000;
    constexpr double kLow = 94;
    constexpr double kHigh = 96;
    bool isGood = true;
    for (const Scenario& scenario : scenarios()) {
        const auto shares = coverage(scenario, batches);
        for (std::size_t m = 0; m < shares.size(); ++m) {
            const std::string method(nuvat::name(scenario.methods[m]));
            std::printf("%-34s %-16s", scenario.title, method.c_str());
            for (std::size_t k = 0; k < shares[m].size(); ++k) {
                std::printf("  x=%-5g %5.2f %%", scenario.samples[k], shares[m][k]);
                const bool isDefault = scenario.isHeldTo && scenario.methods[m] == IntervalMethod::Propagation;
                isGood = isGood && (!isDefault || (shares[m][k] >= kLow && shares[m][k] <= kHigh));
            }
            std::printf("\n");
            std::fflush(stdout);
        }
    }
    return isGood ? 0 : 1;
}
