#include "model_fits.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

constexpr double kUsualAlpha = 0.05;

void warnOfWeakSlope(Fit& fit) {
    if ((!isStraightLine(fit.model) && fit.model != Model::LogLog) || !(fit.df > 0)) {
        return;
    }
    const std::size_t at = fit.model == Model::LineThroughOrigin ? 0 : 1;
    const double b = std::abs(fit.parameters[at]);
    constexpr double kSurelySignificant = 13; // above the 5 % limit of any number of degrees of freedom
    if (b > kSurelySignificant * fit.se[at] || !(fit.se[at] > 0)) {
        return;
    }
    if (const double p = studentTwoSided(b / fit.se[at], fit.df); p > kUsualAlpha) {
        fit.warnings.push_back("The slope is not significantly different from zero (p = " + formatFigures(p, 2) +
                               "): concentrations read off mean little, whatever their limits say.");
    }
}

void warnOfFlatness(Fit& fit) {
    const auto [low, high] = std::minmax_element(fit.y.begin(), fit.y.end());
    if (*low == *high) {
        fit.warnings.emplace_back("All responses are equal, so the curve is flat and nothing can be read off.");
    }
}

void warnOfSigns(Fit& fit) {
    const bool byX = fit.weighting == Weighting::InverseX || fit.weighting == Weighting::InverseX2;
    const bool byY = fit.weighting == Weighting::InverseY || fit.weighting == Weighting::InverseY2;
    if (byX && fit.lowestX < 0) {
        fit.warnings.emplace_back(
            "Weights from the concentration are not defined below zero: negative ones got the weight of the lowest "
            "level above 0.");
    }
    if (byY && std::any_of(fit.y.begin(), fit.y.end(), [&](double y) { return y < -fit.floorOfY; })) {
        fit.warnings.emplace_back(
            "Weights from the response are not defined below zero: negative ones were weighted by "
            "their absolute value.");
    }
}

void warnOfFewReplicates(Fit& fit, const CalibrationData& data, const std::vector<LevelGroup>& groups) {
    if (fit.weighting != Weighting::InverseS2 || !data.s.empty()) {
        return;
    }
    constexpr std::size_t kEnough = 10;
    std::size_t fewest = kEnough;
    for (const LevelGroup& group : groups) {
        fewest = std::min(fewest, group.points.size());
    }
    if (fewest < kEnough) {
        fit.warnings.push_back("1/s\u00b2 with " + std::to_string(fewest) +
                               (fewest == 1 ? " replicate" : " replicates") +
                               " a level: the SDs are too uncertain, and 95 % intervals hold about " +
                               (fewest <= 2   ? "80"
                                : fewest <= 4 ? "88"
                                              : "91") +
                               " %. Take 1/y\u00b2 or a variance function instead.");
    }
}

} // namespace

void addWarnings(Fit& fit, const CalibrationData& data, const std::vector<LevelGroup>& groups) {
    warnOfFlatness(fit);
    warnOfWeakSlope(fit);
    warnOfSigns(fit);
    warnOfFewReplicates(fit, data, groups);
}

} // namespace nuvat
