#include "nuvat/core/fit/comparison.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/fit/read_off.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

namespace nuvat {

namespace {

std::string titleOf(const Fit& fit) {
    std::string out(name(fit.model));
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

/// Whether a stands before b.
bool isBetter(const Candidate& a, const Candidate& b) {
    if (a.levelsWithin != b.levelsWithin) {
        return a.levelsWithin > b.levelsWithin;
    }
    if (a.worstErrorPercent.has_value() != b.worstErrorPercent.has_value()) {
        return a.worstErrorPercent.has_value();
    }
    if (a.worstErrorPercent && *a.worstErrorPercent != *b.worstErrorPercent) {
        return *a.worstErrorPercent < *b.worstErrorPercent;
    }
    if (a.fit.aicc.has_value() != b.fit.aicc.has_value()) {
        return a.fit.aicc.has_value();
    }
    return a.fit.aicc && *a.fit.aicc < *b.fit.aicc;
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

/// What set the candidate behind the one before it.
std::string behind(const Candidate& candidate, const Candidate& ahead) {
    const std::string who = titleOf(ahead.fit);
    if (candidate.levelsWithin != ahead.levelsWithin) {
        return "behind " + who + ", which has " + levelsText(ahead) + ".";
    }
    if (candidate.worstErrorPercent != ahead.worstErrorPercent) {
        return "behind " + who + ", which has " + worstText(ahead) + ".";
    }
    return "behind " + who + ", whose AICc is lower or equal.";
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
        if (!candidate.fit.isUsable()) {
            candidate.sentence = titleOf(candidate.fit) + " is not ranked: " + candidate.fit.message;
            others.push_back(std::move(candidate));
        } else if (isInterpolation(one.model)) {
            candidate.sentence = titleOf(candidate.fit) +
                                 " is not ranked: it runs through every level mean, so the standards cannot judge it.";
            others.push_back(std::move(candidate));
        } else {
            setErrors(candidate, means, options);
            ranked.push_back(std::move(candidate));
        }
    }
    std::stable_sort(ranked.begin(), ranked.end(), isBetter);
    for (std::size_t i = 0; i < ranked.size(); ++i) {
        Candidate& one = ranked[i];
        one.rank = i + 1;
        one.sentence = titleOf(one.fit) + " has " + levelsText(one) + " and " + worstText(one) + ": " +
                       (i == 0 ? std::string("it gives the standards back best.") : behind(one, ranked[i - 1]));
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
        for (const Weighting weighting : {Weighting::None, Weighting::InverseX, Weighting::InverseX2,
                                          Weighting::InverseY, Weighting::InverseY2, Weighting::InverseS2}) {
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
