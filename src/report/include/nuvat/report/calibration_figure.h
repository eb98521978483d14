#pragma once

#include "nuvat/batch/curve_shape.h"
#include "nuvat/report/theme.h"

#include <QPainter>

namespace nuvat {

/// What a calibration figure shows.
struct FigureOptions {
    double textPixels = 11; ///< size of the axis text, in units of the painter
    double lineWidth = 1.8;
    double pointRadius = 4;
    bool hasAxes = true;
    bool hasBand = true;
    bool hasUnknowns = true;
    std::optional<double> markX; ///< a place on the curve to point out
};

/// Draws the calibration: curve, band, standards (disc), excluded ones (crossed ring), QC (diamond), unknowns as ticks
/// on the axis, regions outside the range hatched.
void drawCalibration(QPainter& painter, const QRectF& area, const Batch& batch, const AnalyteEvaluation& evaluation,
                     const Theme& theme, const FigureOptions& options);

/// The number at a tick of an axis: at most `figures` significant figures, without trailing zeros.
QString tickText(double value, int figures);

/// The shape of a role, filled with its colour: standard disc, blank ring, QC diamond, unknown rounded square.
void drawRoleShape(QPainter& painter, QPointF centre, double radius, Role role, const QColor& colour);
/// A standard that is out of the fit.
void drawExcluded(QPainter& painter, QPointF centre, double radius, const QColor& colour);

} // namespace nuvat
