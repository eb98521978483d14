#pragma once

#include "nuvat/core/fit/calibration.h"

#include <optional>
#include <string>
#include <vector>

namespace nuvat {

/// How models are compared.
struct ComparisonOptions {
    double limitPercent = 15;       ///< of the back-calculated mean of a level
    double limitPercentLowest = 20; ///< of the lowest level above 0
};

/// One model and weighting among those compared.
struct Candidate {
    Fit fit;
    std::size_t levels = 0;                  ///< levels with x above 0
    std::size_t levelsWithin = 0;            ///< of them, back-calculated mean within the limit
    std::optional<double> worstErrorPercent; ///< largest |error| of a level; absent when a level cannot be read off
    double worstX = 0;                       ///< where
    /// Root mean square of the relative errors of the levels, each read off a curve fitted without it; absent when one
    /// cannot be read off, and for more than 50 levels.
    std::optional<double> leftOutErrorPercent;
    std::size_t rank = 0; ///< 1 is best; 0: not ranked
    std::string sentence; ///< why it stands where it stands
};

/// Fits every candidate and ranks them by AICc with a price for bend: of the fits within 2 of the lowest AICc the one
/// with the fewest parameters is first, then the one with the plainest weighting; the rest follow by AICc. A fit that
/// is exact has an AICc below every other. Levels within limits, errors and R2 are no part of it: the errors of the
/// calibration's own levels fall with every parameter, and ranking by them rewards overfitting (right in 15 of 50 known
/// cases, against 45 by AICc; bench/ranking_study.cpp). Not ranked are interpolations and fits without an AICc, and
/// 1/s2 from replicates, whose SDs are estimated from the same points and not counted as parameters.
/// Source: K. P. Burnham, D. R. Anderson, Model Selection and Multimodel Inference (2002), section 2.6 (support within
/// 2).
/// @return best first, then the unranked in the order given
/// @throws as fitCalibration
std::vector<Candidate> compareModels(const std::vector<FitOptions>& candidates, const CalibrationData& data,
                                     const ComparisonOptions& options);

/// All models with all weightings that the data allow: the candidates one usually means.
std::vector<FitOptions> usualCandidates(const CalibrationData& data);

} // namespace nuvat
