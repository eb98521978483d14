#include "nuvat/core/fit/comparison.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/fit/read_off.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <map>

namespace nuvat {

namespace {

std::string titleOf(const Fit& fit) {
    std::string out(name(fit.model));
    if (isLogistic(fit.model)) {
        out = fit.model == Model::Logistic4 ? "4PL" : "5PL"; // in a sentence, as it is spoken
    }
    if (fit.weighting != Weighting::None) {
        out += " with " + std::string(name(fit.weighting));
    }
    return out;
}

/// Means of the levels as they were measured, by concentration.
std::map<double, double> levelMeans(const CalibrationData& data) {
    std::map<double, std::pair<long double, std::size_t>> sums;
    for (std::size_t i = 0; i < data.x.size(); ++i) {
        auto& [sum, count] = sums[data.x[i]];
        sum += data.y[i];
        ++count;
    }
    std::map<double, double> out;
    for (const auto& [x, entry] : sums) {
        out[x] = static_cast<double>(entry.first / static_cast<long double>(entry.second));
    }
    return out;
}

void setErrors(Candidate& candidate, const std::map<double, double>& means, const ComparisonOptions& options) {
    bool isLowest = true;
    bool isComplete = true;
    double worst = -1;
    for (const auto& [x, y] : means) {
        if (!(x > 0)) {
            continue;
        }
        ++candidate.levels;
        const ReadOff back = readOffPoint(candidate.fit, y);
        const double limit = isLowest ? options.limitPercentLowest : options.limitPercent;
        isLowest = false;
        if (!back.x) {
            if (isComplete) {
                candidate.worstX = x;
            }
            isComplete = false;
            continue;
        }
        const double error = 100 * std::abs(*back.x - x) / x;
        candidate.levelsWithin += error <= limit ? 1 : 0;
        if (isComplete && error > worst) {
            worst = error;
            candidate.worstX = x;
        }
    }
    if (isComplete && worst >= 0) {
        candidate.worstErrorPercent = worst;
    }
}

/// RMS of the relative errors of the levels, each read off a curve that was fitted without it.
std::optional<double> leftOutError(const FitOptions& options, const CalibrationData& data,
                                   const std::map<double, double>& means) {
    constexpr std::size_t kMostLevels = 50;
    double squares = 0;
    double count = 0;
    for (const auto& [x, y] : means) {
        if (!(x > 0) || means.size() > kMostLevels) {
            continue;
        }
        std::vector<double> restX;
        std::vector<double> restY;
        std::vector<int> restLevel;
        std::vector<double> restS;
        for (std::size_t i = 0; i < data.x.size(); ++i) {
            if (data.x[i] == x) {
                continue;
            }
            restX.push_back(data.x[i]);
            restY.push_back(data.y[i]);
            if (!data.level.empty()) {
                restLevel.push_back(data.level[i]);
            }
            if (!data.s.empty()) {
                restS.push_back(data.s[i]);
            }
        }
        CalibrationData rest{restX, restY, restLevel, restS};
        rest.blankSd = data.blankSd;
        rest.blankDf = data.blankDf;
        rest.offset = data.offset;
        const Fit fit = fitCalibration(options, rest);
        const auto back = fit.isUsable() ? readOffPoint(fit, y).x : std::nullopt;
        if (!back) {
            return std::nullopt;
        }
        squares += (*back - x) / x * ((*back - x) / x);
        ++count;
    }
    return count > 0 ? std::optional(100 * std::sqrt(squares / count)) : std::nullopt;
}

/// AICc; that of an exact fit is below every other. Absent for what is not ranked.
std::optional<double> criterionOf(const Fit& fit, bool hasGivenScatter) {
    const bool isEstimated = fit.weighting == Weighting::InverseS2 && !hasGivenScatter;
    if (!fit.isUsable() || isInterpolation(fit.model) || isEstimated) {
        return std::nullopt;
    }
    long double squares = 0;
    for (std::size_t i = 0; i < fit.n; ++i) {
        squares += static_cast<long double>(fit.weights[i]) * fit.y[i] * fit.y[i];
    }
    constexpr long double kRounding = 1e-26L;
    const bool isExact = fit.n > fit.p + 2 && fit.sse <= static_cast<double>(kRounding * squares);
    return isExact ? std::optional(-std::numeric_limits<double>::infinity()) : fit.aicc;
}

/// Parameters that were fitted, the exponent of a variance function among them.
std::size_t parametersOf(const Fit& fit) {
    return fit.p + (fit.weighting == Weighting::Variance && !fit.options.theta ? 1u : 0u);
}

constexpr double kSupport = 2; // AICc this close to the lowest has about as much support

/// Whether a is the plainer of two fits that have as much support.
bool isPlainer(const Candidate& a, const Candidate& b) {
    if (parametersOf(a.fit) != parametersOf(b.fit)) {
        return parametersOf(a.fit) < parametersOf(b.fit);
    }
    return a.fit.weighting < b.fit.weighting; // in the order of the enumeration: none first
}

/// Best first. @pre every one has a criterion
void rank(std::vector<Candidate>& candidates, bool hasGivenScatter) {
    const auto criterion = [&](const Candidate& one) { return *criterionOf(one.fit, hasGivenScatter); };
    std::stable_sort(candidates.begin(), candidates.end(),
                     [&](const Candidate& a, const Candidate& b) { return criterion(a) < criterion(b); });
    if (candidates.empty()) {
        return;
    }
    const double lowest = criterion(candidates.front());
    auto first = candidates.begin();
    for (auto one = candidates.begin(); one != candidates.end(); ++one) {
        const bool hasSupport = criterion(*one) == lowest || criterion(*one) <= lowest + kSupport;
        first = hasSupport && isPlainer(*one, *first) ? one : first;
    }
    std::rotate(candidates.begin(), first, first + 1);
}

std::string levelsText(const Candidate& candidate) {
    return std::to_string(candidate.levelsWithin) + " of " + std::to_string(candidate.levels) + " levels within limits";
}

std::string worstText(const Candidate& candidate) {
    const std::string where = " at " + formatFigures(candidate.worstX, 4);
    return candidate.worstErrorPercent
               ? "a worst error of " + formatFigures(*candidate.worstErrorPercent, 3) + " %" + where
               : "a level that the curve does not reach" + where;
}

/// Why the first one is first. @param lowest of the ranked, by AICc
std::string whyFirst(const Candidate& first, const Candidate& lowest) {
    if (&first == &lowest || first.fit.aicc == lowest.fit.aicc) {
        return first.fit.aicc ? "It has the lowest AICc." : "It runs through the standards exactly.";
    }
    const bool hasFewer = parametersOf(first.fit) < parametersOf(lowest.fit);
    return "Its AICc is within 2 of the lowest, that of " + titleOf(lowest.fit) + ", and it has " +
           (hasFewer ? "fewer parameters." : "a plainer weighting.");
}

/// What sets another one behind it.
std::string whyBehind(const Candidate& one, const Candidate& first) {
    if (!one.fit.aicc || !first.fit.aicc) {
        return "It is behind " + titleOf(first.fit) + ", which runs through the standards exactly.";
    }
    const double difference = *one.fit.aicc - *first.fit.aicc;
    if (difference <= 0) {
        return "Its AICc is as low as that of " + titleOf(first.fit) + ", which is plainer.";
    }
    return "Its AICc is " + formatFigures(difference, 2) + " above that of " + titleOf(first.fit) + ".";
}

std::string whyNotRanked(const Fit& fit) {
    if (!fit.isUsable()) {
        return fit.message;
    }
    if (isInterpolation(fit.model)) {
        return "it runs through every level mean, so the standards cannot judge it.";
    }
    if (fit.weighting == Weighting::InverseS2) {
        return "its SDs are estimated from the same replicates and not counted as parameters.";
    }
    return "there are too few standards for an AICc.";
}

} // namespace

std::vector<Candidate> compareModels(const std::vector<FitOptions>& candidates, const CalibrationData& data,
                                     const ComparisonOptions& options) {
    const auto means = levelMeans(data);
    std::vector<Candidate> ranked;
    std::vector<Candidate> others;
    for (const FitOptions& one : candidates) {
        Candidate candidate;
        candidate.fit = fitCalibration(one, data);
        if (candidate.fit.isUsable() && !isInterpolation(one.model)) {
            setErrors(candidate, means, options);
            candidate.leftOutErrorPercent = leftOutError(one, data, means);
        }
        if (criterionOf(candidate.fit, !data.s.empty())) {
            ranked.push_back(std::move(candidate));
        } else {
            candidate.sentence = titleOf(candidate.fit) + " is not ranked: " + whyNotRanked(candidate.fit);
            others.push_back(std::move(candidate));
        }
    }
    rank(ranked, !data.s.empty());
    const auto lowest = std::min_element(ranked.begin(), ranked.end(), [&](const Candidate& a, const Candidate& b) {
        return *criterionOf(a.fit, !data.s.empty()) < *criterionOf(b.fit, !data.s.empty());
    });
    for (std::size_t i = 0; i < ranked.size(); ++i) {
        Candidate& one = ranked[i];
        one.rank = i + 1;
        one.sentence = titleOf(one.fit) + " has " + levelsText(one) + " and " + worstText(one) + ". " +
                       (i == 0 ? whyFirst(one, *lowest) : whyBehind(one, ranked.front()));
        for (const std::string& warning : one.fit.warnings) {
            one.sentence += " " + warning;
        }
    }
    ranked.insert(ranked.end(), std::make_move_iterator(others.begin()), std::make_move_iterator(others.end()));
    return ranked;
}

std::vector<FitOptions> usualCandidates(const CalibrationData& data) {
    const bool hasZero = std::any_of(data.x.begin(), data.x.end(), [](double x) { return !(x > 0); });
    const bool hasNoLog = hasZero || std::any_of(data.y.begin(), data.y.end(), [](double y) { return !(y > 0); });
    std::vector<FitOptions> out;
    for (const Model model : {Model::Line, Model::LineThroughOrigin, Model::Quadratic, Model::Cubic, Model::LogLog,
                              Model::Logistic4, Model::Logistic5, Model::PointToPoint, Model::Spline}) {
        for (const Weighting weighting :
             {Weighting::None, Weighting::InverseX, Weighting::InverseX2, Weighting::InverseY, Weighting::InverseY2,
              Weighting::InverseS2, Weighting::Variance}) {
            const bool isPlainOnly = isInterpolation(model) || model == Model::LogLog;
            if ((isPlainOnly && weighting != Weighting::None) || (model == Model::LogLog && hasNoLog)) {
                continue;
            }
            FitOptions one;
            one.model = model;
            one.weighting = weighting;
            out.push_back(one);
        }
    }
    return out;
}

} // namespace nuvat
