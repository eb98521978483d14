#include "nuvat/report/trace_figure.h"

#include "nuvat/batch/curve_shape.h"
#include "nuvat/report/calibration_figure.h"

#include <algorithm>
#include <cmath>
#include <QPainterPath>

namespace nuvat {

namespace {

/// The first point at or behind an x.
std::size_t firstFrom(const Trace& trace, double x) {
    std::size_t low = 0, high = trace.size();
    while (low < high) {
        const std::size_t middle = low + (high - low) / 2;
        if (trace.xAt(middle) < x) {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    return low;
}

/// Goes through points that are there, and knows where some are missing.
class Gaps {
public:
    explicit Gaps(const Trace& trace) : m_trace(trace) {}
    bool isMissing(std::size_t i) {
        while (m_next < m_trace.missing.size() && m_trace.missing[m_next] < i) {
            ++m_next;
        }
        return m_next < m_trace.missing.size() && m_trace.missing[m_next] == i;
    }

private:
    const Trace& m_trace;
    std::size_t m_next = 0;
};

double valueAt(const Trace& trace, double x) {
    const std::size_t behind = firstFrom(trace, x);
    if (behind == 0) {
        return trace.y.front();
    }
    if (behind == trace.size()) {
        return trace.y.back();
    }
    const double x0 = trace.xAt(behind - 1), x1 = trace.xAt(behind);
    return trace.y[behind - 1] + (trace.y[behind] - trace.y[behind - 1]) * (x - x0) / (x1 - x0);
}

/// The points of a stretch as a line, several in one pixel as their lowest and highest.
class Polyline {
public:
    Polyline(QPainter& painter, const TraceAxes& axes) : m_painter(painter), m_axes(axes) {}
    void add(double x, double y) {
        const double atX = m_axes.x(x), atY = std::clamp(m_axes.y(y), -1e5, 1e5);
        const double column = std::floor(atX);
        if (m_count > 0 && column == m_column) {
            m_low = std::min(m_low, atY);
            m_high = std::max(m_high, atY);
            m_last = {atX, atY};
            ++m_count;
            return;
        }
        closeColumn();
        m_points << QPointF(atX, atY);
        m_column = column;
        m_low = m_high = m_first = atY;
        m_last = {atX, atY};
        m_count = 1;
    }
    void finish() {
        closeColumn();
        if (m_points.size() > 1) {
            m_painter.drawPolyline(m_points);
        }
        m_points.clear();
        m_count = 0;
    }

private:
    void closeColumn() {
        if (m_count > 1) {
            if (m_count > 2) {
                // On a flank the way goes on; the other way round it would run back and forth.
                const bool isRising = m_last.y() < m_first;
                m_points << QPointF(m_last.x(), isRising ? m_high : m_low)
                         << QPointF(m_last.x(), isRising ? m_low : m_high);
            }
            m_points << m_last;
        }
    }
    QPainter& m_painter;
    const TraceAxes& m_axes;
    QPolygonF m_points;
    double m_column = 0, m_low = 0, m_high = 0, m_first = 0; ///< of the pixel column
    QPointF m_last;
    int m_count = 0;
};

} // namespace

std::optional<std::pair<double, double>> rangeOfY(const Trace& trace, double xLow, double xHigh, double scale) {
    std::optional<std::pair<double, double>> out;
    Gaps gaps(trace);
    for (std::size_t i = firstFrom(trace, xLow); i < trace.size() && trace.xAt(i) <= xHigh; ++i) {
        if (!gaps.isMissing(i)) {
            const double y = scale * trace.y[i];
            out = out ? std::pair(std::min(out->first, y), std::max(out->second, y)) : std::pair(y, y);
        }
    }
    return out;
}

TraceWindow wholeWindow(const Trace& trace, double scale) {
    if (trace.size() < 2) {
        return {};
    }
    TraceWindow out{trace.xAt(0), trace.xAt(trace.size() - 1), 0, 1};
    const auto range = rangeOfY(trace, out.xLow, out.xHigh, scale).value_or(std::pair(0.0, 1.0));
    const double span = range.second > range.first ? range.second - range.first : 1;
    out.yLow = range.first - 0.05 * span;
    out.yHigh = range.second + 0.12 * span;
    return out;
}

void drawTraceAxes(QPainter& painter, const TraceAxes& axes, const QString& xTitle, const QString& yTitle,
                   const Theme& theme, double textPixels) {
    const TraceWindow& window = axes.window;
    painter.setFont(uiFont(std::max(textPixels, 1.0)));
    const QFontMetricsF metrics(painter.font());
    const QPen grid(theme.line, 1);
    const int rows = std::clamp(static_cast<int>(axes.plot.height() / 55), 2, 7);
    for (const double tick : roundTicks(window.yLow, window.yHigh, rows)) {
        const double y = axes.y(tick);
        painter.setPen(grid);
        painter.drawLine(QPointF(axes.plot.left(), y), QPointF(axes.plot.right(), y));
        if (textPixels > 0) {
            painter.setPen(theme.mute);
            painter.drawText(QRectF(axes.plot.left() - 10 * textPixels, y - metrics.height(), 9.4 * textPixels,
                                    2 * metrics.height()),
                             Qt::AlignRight | Qt::AlignVCenter, tickText(tick, 4));
        }
    }
    const double base = axes.plot.bottom();
    painter.setPen(theme.mute);
    painter.drawLine(QPointF(axes.plot.left(), base), QPointF(axes.plot.right(), base));
    if (textPixels <= 0) {
        return;
    }
    const int columns = std::clamp(static_cast<int>(axes.plot.width() / (6 * textPixels)), 2, 12);
    for (const double tick : roundTicks(window.xLow, window.xHigh, columns)) {
        painter.drawLine(QPointF(axes.x(tick), base), QPointF(axes.x(tick), base + 4));
        painter.drawText(
            QRectF(axes.x(tick) - 5 * textPixels, base + 0.45 * textPixels, 10 * textPixels, metrics.height()),
            Qt::AlignHCenter | Qt::AlignTop, tickText(tick, 5));
    }
    painter.drawText(QRectF(axes.plot.left(), base + 1.7 * textPixels, axes.plot.width(), metrics.height()),
                     Qt::AlignRight | Qt::AlignTop, xTitle);
    painter.drawText(
        QRectF(axes.plot.left(), axes.plot.top() + 0.2 * textPixels, axes.plot.width() - 4, metrics.height()),
        Qt::AlignRight | Qt::AlignTop, yTitle);
}

void drawTrace(QPainter& painter, const TraceAxes& axes, const Trace& trace, const TraceStroke& stroke) {
    if (trace.size() < 2) {
        return;
    }
    painter.save();
    painter.setClipRect(axes.plot.adjusted(0, -1, 0, 1), Qt::IntersectClip);
    painter.setPen(QPen(stroke.colour, stroke.width, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.setBrush(Qt::NoBrush);
    const std::size_t from = firstFrom(trace, axes.window.xLow);
    const std::size_t behind = std::min(trace.size(), firstFrom(trace, axes.window.xHigh) + 1);
    Polyline line(painter, axes);
    Gaps gaps(trace);
    for (std::size_t i = from > 0 ? from - 1 : 0; i < behind; ++i) {
        if (gaps.isMissing(i)) {
            line.finish();
        } else {
            line.add(trace.xAt(i), stroke.scale * trace.y[i] + stroke.offset);
        }
    }
    line.finish();
    painter.restore();
}

namespace {

/// The base line of a peak, which may be bent.
QPolygonF groundOf(const TraceAxes& axes, const Peak& peak, double offset) {
    QPolygonF out;
    const auto add = [&](double share, double y) {
        out << QPointF(axes.x(peak.start + share * (peak.end - peak.start)), std::clamp(axes.y(y + offset), -1e5, 1e5));
    };
    add(0, peak.startY);
    for (std::size_t i = 1; i + 1 < peak.bend.size(); ++i) {
        add(static_cast<double>(i) / static_cast<double>(peak.bend.size() - 1), peak.bend[i]);
    }
    add(1, peak.endY);
    return out;
}

bool isRiderOf(const Peak& rider, const Peak& peak) {
    return &rider != &peak && rider.split == PeakSplit::Skim && rider.cluster == peak.cluster &&
           rider.start >= peak.start && rider.end <= peak.end;
}

/// The upper edge of what a peak holds: the curve, and the base lines of its riders where they lie.
QPolygonF edgeOf(const TraceAxes& axes, const Trace& trace, std::span<const Peak> all, const Peak& peak,
                 const TraceStroke& line) {
    const auto add = [&](QPolygonF& out, double x, double y) {
        out << QPointF(axes.x(x), std::clamp(axes.y(line.scale * y + line.offset), -1e5, 1e5));
    };
    const double pixel = (axes.window.xHigh - axes.window.xLow) / std::max(axes.plot.width(), 1.0);
    QPolygonF out;
    add(out, peak.start, valueAt(trace, peak.start));
    double last = peak.start;
    std::size_t i = firstFrom(trace, peak.start);
    const auto follow = [&](double to) {
        for (; i < trace.size() && trace.xAt(i) < to; ++i) {
            if (trace.xAt(i) - last >= pixel / 2) {
                add(out, trace.xAt(i), trace.y[i]);
                last = trace.xAt(i);
            }
        }
    };
    for (const Peak& rider : all) { // in the order of x
        if (isRiderOf(rider, peak) && rider.start >= last) {
            follow(rider.start);
            out << groundOf(axes, rider, line.offset);
            last = rider.end;
            i = firstFrom(trace, rider.end);
        }
    }
    follow(peak.end);
    add(out, peak.end, valueAt(trace, peak.end));
    return out;
}

} // namespace

void drawPeak(QPainter& painter, const TraceAxes& axes, const Trace& trace, std::span<const Peak> all, const Peak& peak,
              const QColor& fill, const TraceStroke& line) {
    if (trace.size() < 2 || peak.end <= axes.window.xLow || peak.start >= axes.window.xHigh) {
        return;
    }
    const QPolygonF shape = edgeOf(axes, trace, all, peak, line);
    const QPolygonF ground = groundOf(axes, peak, line.offset);
    painter.save();
    painter.setClipRect(axes.plot.adjusted(0, -1, 0, 1), Qt::IntersectClip);
    painter.setPen(Qt::NoPen);
    painter.setBrush(fill);
    QPolygonF whole = shape;
    std::copy(ground.rbegin(), ground.rend(), std::back_inserter(whole));
    painter.drawPolygon(whole);
    painter.setPen(QPen(line.colour, line.width));
    painter.drawPolyline(ground);
    if (peak.split == PeakSplit::Drop) { // where a drop parts it from its neighbour
        painter.setPen(QPen(line.colour, line.width / 1.5, Qt::DotLine));
        painter.drawLine(ground.front(), shape.front());
        painter.drawLine(ground.back(), shape.back());
    }
    painter.restore();
}

void drawHatch(QPainter& painter, const QRectF& area, double step, const Theme& theme) {
    if (area.width() <= 0) {
        return;
    }
    painter.save();
    painter.setClipRect(area, Qt::IntersectClip);
    painter.setPen(QPen(theme.line, step / 12));
    for (double at = area.left() - area.height(); at < area.right(); at += step) {
        painter.drawLine(QPointF(at, area.bottom()), QPointF(at + area.height(), area.top()));
    }
    painter.restore();
}

void drawIgnored(QPainter& painter, const TraceAxes& axes, const Stretch& stretch, const QString& word,
                 const Theme& theme, double textPixels) {
    QRectF area = axes.plot;
    area.setLeft(std::clamp(axes.x(stretch.from), axes.plot.left(), axes.plot.right()));
    area.setRight(std::clamp(axes.x(stretch.to), axes.plot.left(), axes.plot.right()));
    drawHatch(painter, area, 0.8 * std::max(textPixels, 8.0), theme);
    if (textPixels > 0) {
        painter.setFont(uiFont(textPixels));
        painter.setPen(theme.mute);
        painter.drawText(area.adjusted(6, 3, -4, 0), Qt::AlignLeft | Qt::AlignTop,
                         QFontMetricsF(painter.font()).elidedText(word, Qt::ElideRight, area.width() - 10));
    }
}

QString axisTitle(const std::string& name, const std::string& unit) {
    QString out = text(name);
    if (!out.isEmpty()) {
        out[0] = out[0].toUpper();
    }
    return unit.empty() ? out : out.isEmpty() ? text(unit) : out + QStringLiteral(", ") + text(unit);
}

} // namespace nuvat
