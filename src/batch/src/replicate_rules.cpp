#include "replicate_rules.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/best_subset.h"
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
