#include "model_fits.h"

#include "nuvat/core/stats/descriptive.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <stdexcept>

namespace nuvat {

namespace {

std::vector<double> responsesOf(const CalibrationData& data, const LevelGroup& group) {
    std::vector<double> values;
    for (const std::size_t i : group.points) {
        values.push_back(data.y[i]);
    }
    return values;
}

} // namespace

std::vector<LevelGroup> groupLevels(const CalibrationData& data) {
    std::map<double, LevelGroup> byX;
    std::map<int, LevelGroup> byKey;
    for (std::size_t i = 0; i < data.x.size(); ++i) {
        (data.level.empty() ? byX[data.x[i]] : byKey[data.level[i]]).points.push_back(i);
    }
    std::vector<LevelGroup> groups;
    for (auto& [x, group] : byX) {
        groups.push_back(std::move(group));
    }
    for (auto& [key, group] : byKey) {
        groups.push_back(std::move(group));
    }
    for (LevelGroup& group : groups) {
        std::vector<double> x;
        for (const std::size_t i : group.points) {
            x.push_back(data.x[i]);
        }
        group.x = std::equal(x.begin() + 1, x.end(), x.begin()) ? x.front() : *describe(x).mean;
        group.meanY = *describe(responsesOf(data, group)).mean;
    }
    std::stable_sort(groups.begin(), groups.end(), [](const auto& l, const auto& r) { return l.x < r.x; });
    return groups;
}

std::vector<double> groupScatter(const CalibrationData& data, const std::vector<LevelGroup>& groups) {
    std::vector<double> out;
    if (!data.s.empty()) {
        for (const LevelGroup& group : groups) {
            out.push_back(data.s[group.points.front()]);
        }
        return out;
    }
    double squares = 0;
    double freedom = 0;
    for (const LevelGroup& group : groups) {
        out.push_back(describe(responsesOf(data, group)).sd.value_or(0));
        squares += out.back() * out.back() * static_cast<double>(group.points.size() - 1);
        freedom += static_cast<double>(group.points.size() - 1);
    }
    if (!(squares > 0)) {
        return {};
    }
    for (double& s : out) {
        s = s > 0 ? s : std::sqrt(squares / freedom);
    }
    return out;
}

std::vector<double> computeWeights(Weighting weighting, std::span<const double> x, std::span<const double> sizeOfY,
                                   double floor) {
    std::vector<double> weights(x.size(), 1.0);
    if (weighting == Weighting::None) {
        return weights;
    }
    double lowest = 0;
    for (const double v : x) {
        lowest = v > 0 && (lowest == 0 || v < lowest) ? v : lowest;
    }
    for (std::size_t i = 0; i < x.size(); ++i) {
        const double level = x[i] > 0 ? x[i] : lowest;
        const double size = std::max(std::abs(sizeOfY[i]), floor);
        switch (weighting) {
        case Weighting::None:
        case Weighting::InverseS2:
        case Weighting::Variance:
            break;
        case Weighting::InverseX:
            weights[i] = 1 / level;
            break;
        case Weighting::InverseX2:
            weights[i] = 1 / (level * level);
            break;
        case Weighting::InverseY:
            weights[i] = 1 / size;
            break;
        case Weighting::InverseY2:
            weights[i] = 1 / (size * size);
            break;
        }
    }
    const bool finite = std::all_of(weights.begin(), weights.end(), [](double w) { return std::isfinite(w); });
    return finite ? weights : std::vector<double>{};
}

std::vector<double> unscaledWeights(Weighting weighting, std::span<const double> x, std::span<const double> y,
                                    double floor) {
    if (weighting == Weighting::Variance) {
        throw std::invalid_argument("unscaledWeights: a variance function is fitted together with the curve");
    }
    if (weighting != Weighting::InverseS2) {
        return computeWeights(weighting, x, y, floor);
    }
    const CalibrationData data{x, y, {}, {}};
    const auto groups = groupLevels(data);
    const auto scatter = groupScatter(data, groups);
    std::vector<double> weights(scatter.empty() ? 0 : x.size());
    for (std::size_t k = 0; k < scatter.size(); ++k) {
        for (const std::size_t i : groups[k].points) {
            weights[i] = 1 / (scatter[k] * scatter[k]);
        }
    }
    return weights;
}

double floorOfY(const FitOptions& options, const CalibrationData& data) {
    double largest = 0;
    std::size_t nearest = 0;
    for (std::size_t i = 0; i < data.y.size(); ++i) {
        largest = std::max(largest, std::abs(data.y[i]));
        nearest = std::abs(data.y[i]) < std::abs(data.y[nearest]) ? i : nearest;
    }
    if (options.weightFloor || data.y.empty()) {
        return options.weightFloor.value_or(0) * largest;
    }
    // The level of the response that is nearest to zero: rising or falling, that is where 1/y grows without bound.
    double mean = 0;
    double count = 0;
    for (std::size_t i = 0; i < data.x.size(); ++i) {
        if (data.x[i] == data.x[nearest]) {
            mean += data.y[i];
            ++count;
        }
    }
    mean /= count;
    double squares = data.blankSd * data.blankSd * data.blankDf;
    for (std::size_t i = 0; i < data.x.size(); ++i) {
        if (data.x[i] == data.x[nearest]) {
            squares += (data.y[i] - mean) * (data.y[i] - mean);
        }
    }
    const double freedom = data.blankDf + count - 1;
    constexpr double kWhereNothingIsKnown = 0.01;
    return squares > 0 && freedom > 0 ? std::sqrt(squares / freedom) : kWhereNothingIsKnown * largest;
}

} // namespace nuvat
