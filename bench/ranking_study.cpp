// Whether the ranking of models finds the family that made the data: 50 seeded sets, 10 of each of five truths, 7
// levels (lines) or 8 (logistics) in duplicate. A ranking is right when its first model is of the true family or a
// simpler one that does as well. `ranking_study [sets per truth]`, 10 unless said otherwise; exit status 1 when fewer
// than 90 % are right. The table in docs/methods/calibration.md is made by it.
#include "logistic.h"
#include "nuvat/core/fit/comparison.h"
#include "nuvat/core/fit/read_off.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <functional>
#include <random>
#include <string>
#include <vector>

namespace {

using nuvat::Candidate;
using nuvat::Model;

struct Truth {
    const char* title;
    Model family;
    std::vector<double> levels;
    /// Draws a curve. @return response at a concentration
    std::function<std::function<double(double)>(std::mt19937_64&)> draw;
    double constantSd; ///< of a reading; 0: relative
    double cv;
};

double uniform(std::mt19937_64& random, double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(random);
}

std::vector<Truth> truths() {
    const std::vector<double> lines{1, 2, 5, 10, 20, 50, 100};
    const std::vector<double> logistics{1.37, 4.12, 12.3, 37, 111, 333, 1000, 3000};
    const auto logistic = [](bool hasAsymmetry) {
        return [hasAsymmetry](std::mt19937_64& random) -> std::function<double(double)> {
            nuvat::LogisticParameters p{uniform(random, 0.04, 0.1), uniform(random, 0.8, 1.6), uniform(random, 40, 200),
                                        uniform(random, 1.8, 2.6),
                                        hasAsymmetry ? std::exp(uniform(random, std::log(0.35), std::log(3.5))) : 1};
            return [p](double x) { return nuvat::logisticResponse(p, x); };
        };
    };
    return {
        {"line, constant scatter", Model::Line, lines,
         [](std::mt19937_64& random) -> std::function<double(double)> {
             const double a = uniform(random, 0.01, 0.1);
             const double b = uniform(random, 0.01, 0.03);
             return [=](double x) { return a + b * x; };
         },
         0.01, 0},
        {"line, 4 % CV", Model::Line, lines,
         [](std::mt19937_64& random) -> std::function<double(double)> {
             const double a = uniform(random, 0.001, 0.01);
             const double b = uniform(random, 0.01, 0.03);
             return [=](double x) { return a + b * x; };
         },
         0, 0.04},
        {"slightly curved, 1.5 % CV", Model::Quadratic, lines,
         [](std::mt19937_64& random) -> std::function<double(double)> {
             const double a = uniform(random, 0.005, 0.02);
             const double b = uniform(random, 0.015, 0.025);
             const double c = b * uniform(random, -0.0025, -0.0012);
             return [=](double x) { return a + b * x + c * x * x; };
         },
         0, 0.015},
        {"4PL, 2 % CV", Model::Logistic4, logistics, logistic(false), 0, 0.02},
        {"5PL, 2 % CV", Model::Logistic5, logistics, logistic(true), 0, 0.02},
    };
}

/// Order of the families by bend; the quadratic is simpler than a 4PL, a line than both.
int bend(Model model) {
    switch (model) {
    case Model::LineThroughOrigin:
    case Model::Line:
    case Model::LogLog:
        return 0;
    case Model::Quadratic:
        return 1;
    case Model::Cubic:
        return 2;
    case Model::Logistic4:
        return 3;
    default:
        return 4;
    }
}

/// RMS relative error of what the curve reads off noise-free responses over the working range.
double trueError(const Candidate& one, const std::function<double(double)>& curve, const std::vector<double>& levels) {
    double squares = 0;
    int count = 0;
    constexpr int kPoints = 60;
    for (int i = 0; i < kPoints; ++i) {
        const double x = levels.front() * std::pow(levels.back() / levels.front(), (i + 0.5) / kPoints);
        const auto back = nuvat::readOffPoint(one.fit, curve(x)).x;
        const double error = back ? (*back - x) / x : 1;
        squares += std::min(error * error, 1.0);
        ++count;
    }
    return std::sqrt(squares / count);
}

} // namespace

int main(int argc, char** argv) {
    const int sets = argc > 1 ? std::atoi(argv[1]) : 10;
    int right = 0;
    int all = 0;
    std::printf("%-28s %-10s %-26s %s\n", "truth", "right", "first model (times)", "median true error, first / best");
    for (const Truth& truth : truths()) {
        int found = 0;
        std::vector<double> first;
        std::vector<double> best;
        std::string models;
        std::vector<std::pair<Model, int>> counts;
        for (int set = 0; set < sets; ++set) {
            std::mt19937_64 random(20261128u + static_cast<unsigned>(1000 * all + set));
            std::normal_distribution<double> normal;
            const auto curve = truth.draw(random);
            std::vector<double> x;
            std::vector<double> y;
            for (const double level : truth.levels) {
                for (int replicate = 0; replicate < 2; ++replicate) {
                    const double sd = truth.constantSd > 0 ? truth.constantSd : truth.cv * curve(level);
                    x.push_back(level);
                    y.push_back(curve(level) + sd * normal(random));
                }
            }
            const auto ranked = nuvat::compareModels(nuvat::usualCandidates({x, y, {}, {}}), {x, y, {}, {}}, {});
            const Model model = ranked.front().fit.model;
            found += bend(model) <= bend(truth.family) ? 1 : 0;
            const auto known =
                std::find_if(counts.begin(), counts.end(), [&](const auto& c) { return c.first == model; });
            if (known == counts.end()) {
                counts.emplace_back(model, 1);
            } else {
                ++known->second;
            }
            first.push_back(trueError(ranked.front(), curve, truth.levels));
            double least = first.back();
            for (const Candidate& one : ranked) {
                least = one.rank > 0 ? std::min(least, trueError(one, curve, truth.levels)) : least;
            }
            best.push_back(least);
        }
        std::sort(counts.begin(), counts.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
        for (const auto& [model, count] : counts) {
            models += std::string(nuvat::name(model)) + " " + std::to_string(count) + " ";
        }
        std::nth_element(first.begin(), first.begin() + sets / 2, first.end());
        std::nth_element(best.begin(), best.begin() + sets / 2, best.end());
        std::printf("%-28s %2d of %-4d %-26s %.2f %% / %.2f %%\n", truth.title, found, sets, models.c_str(),
                    100 * first[static_cast<std::size_t>(sets / 2)], 100 * best[static_cast<std::size_t>(sets / 2)]);
        std::fflush(stdout);
        right += found;
        all += sets;
    }
    std::printf("family right or simpler: %d of %d\n", right, all);
    constexpr double kWanted = 0.9;
    return right >= kWanted * all ? 0 : 1;
}
