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
    std::size_t rank = 0;                    ///< 1 is best; 0: not ranked
    std::string sentence;                    ///< why it stands where it stands
};

/// Fits every candidate and ranks them by levels within limits (more is better), then the worst |error|, then AICc. R2
/// is not used: it is near 1 for curves that give their standards back badly. Point to point and spline run through
/// every level mean, so their errors say nothing: they are listed, but not ranked; so are fits without estimates.
/// @return best first, then the unranked in the order given
/// @throws as fitCalibration
std::vector<Candidate> compareModels(const std::vector<FitOptions>& candidates, const CalibrationData& data,
                                     const ComparisonOptions& options);

/// All models with all weightings that the data allow: the candidates one usually means.
std::vector<FitOptions> usualCandidates(const CalibrationData& data);

} // namespace nuvat
