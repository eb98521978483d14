#pragma once

#include "nuvat/batch/evaluation.h"

namespace nuvat {

/// The curve as it is drawn: sampled between the ends of its concentration axis.
struct CurveShape {
    bool isLogarithmic = false;
    double xLow = 0; ///< ends of the axis
    double xHigh = 1;
    double yLow = 0;
    double yHigh = 1;
    std::optional<double> zeroX; ///< where x = 0 is drawn on a logarithmic axis; absent when no point is there
    std::vector<double> x;       ///< ascending; empty without a usable fit
    std::vector<double> y;
    std::vector<double> low; ///< confidence band of the curve
    std::vector<double> high;
    /// Concentration at which something at x is drawn.
    double drawn(double concentration) const;
};

/// @param samples at least 2
CurveShape curveShape(const Batch& batch, const AnalyteEvaluation& evaluation, int samples);

/// What stands at the axes: what the analyst called them, else the analyte with its unit, and the response.
std::string concentrationAxisTitle(const Analyte& analyte);
std::string responseAxisTitle(const Method& method, const Analyte& analyte);

/// Where an unknown is marked on the concentration axis: its read-off. By standard addition the sample whose line is
/// drawn stands where that meets response 0, and the others nowhere.
std::optional<double> markedX(const AnalyteEvaluation& evaluation, const SampleResult& result);

/// Positions of round numbers between low and high, about `wanted` of them: steps of 1, 2 or 5.
std::vector<double> roundTicks(double low, double high, int wanted);
/// Powers of ten between low and high; 1, 2, 5 times them when fewer than three fit.
std::vector<double> logTicks(double low, double high);

} // namespace nuvat
