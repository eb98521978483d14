#pragma once

#include "nuvat/batch/evaluation.h"
#include "nuvat/report/theme.h"

#include <QPainter>
#include <vector>

namespace nuvat {

/// The part of x and y that a figure of traces shows.
struct TraceWindow {
    double xLow = 0, xHigh = 1, yLow = 0, yHigh = 1;
    bool operator==(const TraceWindow&) const = default;
};

/// From values to the painter's units and back.
struct TraceAxes {
    QRectF plot;
    TraceWindow window;
    double x(double value) const {
        return plot.left() + (value - window.xLow) / (window.xHigh - window.xLow) * plot.width();
    }
    double y(double value) const {
        return plot.bottom() - (value - window.yLow) / (window.yHigh - window.yLow) * plot.height();
    }
    double valueX(double at) const {
        return window.xLow + (at - plot.left()) / plot.width() * (window.xHigh - window.xLow);
    }
    double valueY(double at) const {
        return window.yLow + (plot.bottom() - at) / plot.height() * (window.yHigh - window.yLow);
    }
};

/// How one trace is drawn: y as measured, times `scale`, plus `offset`.
struct TraceStroke {
    QColor colour;
    double width = 1.4;
    double scale = 1;
    double offset = 0;
};

/// Lowest and highest y of the points between two x, or nothing when there are none.
std::optional<std::pair<double, double>> rangeOfY(const Trace& trace, double xLow, double xHigh, double scale = 1);
/// All of a trace, with room above for names.
TraceWindow wholeWindow(const Trace& trace, double scale = 1);

/// Grid, numbers and titles of both axes. @param textPixels size of the numbers; 0: none are written
void drawTraceAxes(QPainter& painter, const TraceAxes& axes, const QString& xTitle, const QString& yTitle,
                   const Theme& theme, double textPixels);
/// The curve. Where several points share a pixel their lowest and highest are joined, so that nothing that sticks out
/// is lost. Cost O(visible points).
void drawTrace(QPainter& painter, const TraceAxes& axes, const Trace& trace, const TraceStroke& stroke);
/// What a peak holds, between the curve and its base line, and the line itself. Under a rider that is skimmed off it
/// ends where the rider begins.
/// @param all peaks of the trace, among which its riders are found
void drawPeak(QPainter& painter, const TraceAxes& axes, const Trace& trace, std::span<const Peak> all, const Peak& peak,
              const QColor& fill, const TraceStroke& line);
/// A stretch that does not count, hatched, with a word in it.
void drawIgnored(QPainter& painter, const TraceAxes& axes, const Stretch& stretch, const QString& word,
                 const Theme& theme, double textPixels);
/// A line at a slant over an area, step by step.
void drawHatch(QPainter& painter, const QRectF& area, double step, const Theme& theme);

/// "Time, min": what a trace's x or y is called and in what it is.
QString axisTitle(const std::string& name, const std::string& unit);

} // namespace nuvat
