#include "replicate_rules.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/outliers.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

namespace nuvat {

namespace {

/// The replicate that the test calls an outlier, with its sentence.
std::optional<std::pair<std::size_t, std::string>> outlierOf(std::span<const double> values,
                                                             const ReplicateRule& rule) {
    const auto sentence = [&](const char* test, double found, double critical) {
        return std::string("Set aside as an outlier (") + test + ", " + formatFigures(found, 3) + " above " +
               formatFigures(critical, 3) + ").";
    };
    if (rule.outlierTest == OutlierTest::Grubbs) {
        const auto test = grubbs(values, rule.alpha);
        if (test && test->isOutlier) {
            return std::pair(test->suspect, sentence("Grubbs", test->g, test->critical));
        }
    } else if (rule.outlierTest == OutlierTest::Dixon) {
        const auto test = dixon(values, rule.alpha);
        if (test && test->isOutlier) {
            return std::pair(test->suspect, sentence("Dixon", test->value, test->critical));
        }
    }
    return std::nullopt;
}

Response& valueAt(AnalyteEvaluation& evaluation, Place place) {
    return evaluation.responses[evaluation.index->find(place).value()];
}

void applyTo(AnalyteEvaluation& evaluation, std::span<const Place> members, const ReplicateRule& rule) {
    std::vector<Place> used;
    std::vector<double> values;
    for (const Place place : members) {
        const Response& value = evaluation.at(place);
        if (value.state == ResponseState::Used) {
            used.push_back(place);
            values.push_back(*value.value);
        }
    }
    const auto setAside = [&](Place place, std::string why) {
        Response& value = valueAt(evaluation, place);
        value.state = ResponseState::SetAside;
        value.why = std::move(why);
    };
    if (const auto outlier = outlierOf(values, rule)) {
        setAside(used[outlier->first], outlier->second);
        used.erase(used.begin() + static_cast<std::ptrdiff_t>(outlier->first));
        values.erase(values.begin() + static_cast<std::ptrdiff_t>(outlier->first));
    }
    const auto keep = static_cast<std::size_t>(std::max(rule.keepBest, 0));
    if (keep < 2 || values.size() <= keep) {
        return;
    }
    const std::vector<std::size_t> best = bestSubset(values, keep);
    for (std::size_t i = 0; i < used.size(); ++i) {
        if (!std::binary_search(best.begin(), best.end(), i)) {
            setAside(used[i], "Set aside: the best " + std::to_string(keep) + " of " + std::to_string(values.size()) +
                                  " replicates are kept.");
            valueAt(evaluation, used[i]).isUnchosen = true;
        }
    }
}

} // namespace

std::vector<std::size_t> bestSubset(std::span<const double> values, std::size_t n) {
    // The values of the subset with the smallest SD lie next to each other when sorted.
    std::vector<std::size_t> order(values.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return values[a] < values[b]; });
    constexpr double kTie = 1e-12; // SDs that differ by rounding alone
    std::vector<std::size_t> best;
    double least = 0;
    for (std::size_t from = 0; from + n <= order.size(); ++from) {
        std::vector<std::size_t> chosen(order.begin() + static_cast<std::ptrdiff_t>(from),
                                        order.begin() + static_cast<std::ptrdiff_t>(from + n));
        std::sort(chosen.begin(), chosen.end());
        std::vector<double> subset;
        for (const std::size_t i : chosen) {
            subset.push_back(values[i]);
        }
        const double sd = describe(subset).sd.value_or(0);
        const bool isTie = !best.empty() && std::abs(sd - least) <= kTie * std::max(sd, least);
        if (best.empty() || (isTie ? chosen < best : sd < least)) {
            least = sd;
            best = std::move(chosen);
        }
    }
    return best;
}

double bestSubsetVariance(std::size_t n, std::size_t m) {
    constexpr std::size_t kMost = 8;
    constexpr std::array<std::array<double, 6>, 6> kTable{{{0.6389},
                                                           {0.6246, 0.4400},
                                                           {0.6062, 0.4926, 0.3317},
                                                           {0.5906, 0.4872, 0.3859, 0.2642},
                                                           {0.5783, 0.4803, 0.4113, 0.3118, 0.2184},
                                                           {0.5691, 0.4710, 0.4109, 0.3430, 0.2592, 0.1852}}};
    const bool isChosen = n >= 2 && m > n && m <= kMost;
    return isChosen ? kTable[m - 3][n - 2] : 1 / static_cast<double>(n);
}

void applyReplicateRules(const ReplicateRule& rule, AnalyteEvaluation& evaluation) {
    if (rule.keepBest < 2 && rule.outlierTest == OutlierTest::None) {
        return;
    }
    for (const Assignment group : evaluation.index->groups()) {
        if (!isBlank(group.role)) {
            applyTo(evaluation, evaluation.index->members(group), rule);
        }
    }
}

} // namespace nuvat
