// How TracePlot is painted; what is done on it stands in trace_plot.cpp.
#include "nuvat/report/calibration_figure.h"
#include "plots/trace_plot.h"
#include "theme/style.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace nuvat {

namespace {

constexpr double kText = 12;

} // namespace

QColor overlaidColour(std::size_t i) {
    const Theme& t = theme();
    const std::array<QColor, 6> colours{t.ink, t.plum, t.slate, t.saffron, t.pine, t.brick};
    return colours[i % colours.size()];
}

void TracePlot::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    if (m_traces.empty()) {
        painter.setFont(uiFont(13));
        painter.setPen(t.mute);
        painter.drawText(rect(), Qt::AlignCenter, tr("There is no trace of this channel in the run."));
        return;
    }
    const TraceAxes where = axes();
    const PlottedTrace& first = m_traces.front();
    drawTraceAxes(painter, where, m_xTitle, m_yTitle, t, kText);
    if (m_expected) {
        QRectF shade = where.plot;
        shade.setLeft(std::max(where.x(m_expected->from), shade.left()));
        shade.setRight(std::min(where.x(m_expected->to), shade.right()));
        if (shade.width() > 0) {
            QColor tint = t.slate;
            tint.setAlphaF(0.10F);
            painter.fillRect(shade, tint);
        }
    }
    if (first.measured) {
        for (const Stretch& stretch : first.measured->rules.signal.peaks.ignored) {
            drawIgnored(painter, where, stretch,
                        tr("ignored %1 to %2 %3")
                            .arg(tickText(stretch.from, 4), tickText(stretch.to, 4), text(first.measured->xUnit)),
                        t, kText);
        }
    }
    drawPeaks(painter, where);
    for (std::size_t i = m_traces.size(); i-- > 0;) {
        drawTrace(painter, where, *m_traces[i].trace, m_traces[i].stroke);
    }
    drawNames(painter, where);
    drawHandles(painter);
    drawMarkers(painter, where);
    drawDrag(painter, where);
    drawHover(painter, where);
}

void TracePlot::drawPeaks(QPainter& painter, const TraceAxes& where) const {
    const TraceFeatures* found = features();
    const PlottedTrace& first = m_traces.front();
    if (found == nullptr || (m_traces.size() > 1 && !m_isEditable)) {
        return;
    }
    const Theme& t = theme();
    for (const Peak& peak : found->peaks) {
        const auto label = std::ranges::find_if(m_labels, [&](const PeakLabel& one) {
            return std::abs(one.apex - peak.apex) <= 1e-9 * (1 + std::abs(peak.apex));
        });
        const bool isNamed = label != m_labels.end();
        QColor fill = isNamed ? label->colour : t.mute;
        fill.setAlphaF(!isNamed ? 0.10F : label->isChosen ? 0.34F : 0.18F);
        TraceStroke line = first.stroke;
        line.colour = isNamed ? label->colour : t.mute;
        line.width = isNamed && label->isChosen ? 1.6 : 1.1;
        line.scale = first.measured->rules.signal.isCathodicPositive ? -1 : 1;
        drawPeak(painter, where, *first.trace, found->peaks, peak, fill, line);
    }
}

/// Where the name of a peak goes: above its apex, else to one side, else higher; over the tip of a neighbour only where
/// there is nothing else. @return nothing where every place has a name already
std::optional<QRectF> TracePlot::roomFor(const Peak& peak, double width, const TraceAxes& where,
                                         const std::vector<QRectF>& taken) const {
    const auto hidesTip = [&](const QRectF& box) {
        return std::ranges::any_of(features()->peaks, [&](const Peak& one) {
            const double x = where.x(one.apex);
            return one.apex != peak.apex && x > box.left() && x < box.right() && where.y(one.apexY) < box.bottom();
        });
    };
    std::optional<QRectF> second;
    for (const int lift : {0, 1, 2, 3}) {
        for (const double left : {-width / 2, 7 - width, 6.0}) { // of the apex, for 3 pixels of air in the box
            QRectF box(where.x(peak.apex) + left, where.y(peak.apexY) - 19, width, 16);
            box.moveTop(std::clamp(box.top(), where.plot.top(), where.plot.bottom() - 18) - 17 * lift);
            box.moveLeft(
                std::clamp(box.left(), where.plot.left(), std::max(where.plot.left(), where.plot.right() - width)));
            if (box.top() < where.plot.top() - 6 ||
                std::ranges::any_of(taken, [&](const QRectF& one) { return one.intersects(box); })) {
                continue;
            }
            if (!hidesTip(box)) {
                return box;
            }
            second = second.value_or(box);
        }
    }
    return second;
}

/// The names of peaks, above their apexes; one that has no room beside the others stands higher, or is left out.
void TracePlot::drawNames(QPainter& painter, const TraceAxes& where) const {
    const TraceFeatures* found = features();
    if (found == nullptr) {
        return;
    }
    painter.setFont(uiFont(kText));
    const double title = QFontMetricsF(painter.font()).horizontalAdvance(m_yTitle) + 8; // stands at the right top
    std::vector<QRectF> taken{QRectF(where.plot.right() - title, where.plot.top(), title, 18)};
    std::vector<const PeakLabel*> order;
    for (const PeakLabel& label : m_labels) {
        order.push_back(&label);
    }
    std::ranges::stable_sort(order, [](const auto* a, const auto* b) { return a->isChosen > b->isChosen; });
    for (const PeakLabel* label : order) {
        const auto peak = std::ranges::find_if(found->peaks, [&](const Peak& one) {
            return std::abs(one.apex - label->apex) <= 1e-9 * (1 + std::abs(one.apex));
        });
        if (peak == found->peaks.end() || peak->apex < m_window.xLow || peak->apex > m_window.xHigh) {
            continue;
        }
        painter.setFont(uiFont(kText, QFont::Bold));
        const double width = QFontMetricsF(painter.font()).horizontalAdvance(label->text) + 6;
        const auto box = roomFor(*peak, width, where, taken);
        if (!box) {
            continue;
        }
        taken.push_back(*box);
        QColor back = theme().card;
        back.setAlphaF(0.8F);
        painter.fillRect(box->adjusted(0, 1, 0, -1), back);
        painter.setPen(label->isChosen ? label->colour : theme().ink);
        painter.drawText(*box, Qt::AlignCenter, label->text);
    }
    painter.setFont(uiFont(kText));
    for (const PlottedTrace& one : m_traces) {
        if (!one.name.isEmpty() && m_traces.size() > 1 && one.trace->size() > 1) {
            const double atEnd = std::min(m_window.xHigh, one.trace->xAt(one.trace->size() - 1));
            const auto y = rangeOfY(*one.trace, atEnd - (m_window.xHigh - m_window.xLow) / 40, atEnd, one.stroke.scale);
            const QRectF box(where.plot.right() - 180, where.y((y ? y->second : 0) + one.stroke.offset) - 17, 176, 16);
            if (y && where.plot.contains(box.center()) &&
                std::ranges::none_of(taken, [&](const QRectF& other) { return other.intersects(box); })) {
                taken.push_back(box);
                painter.setPen(one.stroke.colour);
                painter.drawText(box, Qt::AlignRight | Qt::AlignBottom, one.name);
            }
        }
    }
}

void TracePlot::drawHandles(QPainter& painter) const {
    const Theme& t = theme();
    const bool isClose = m_tool == TraceTool::Zoom && m_drag == Drag::None;
    const auto near = isClose && !m_pointer.isNull() ? handleNear(m_pointer) : std::nullopt;
    for (const Handle& handle : handles()) {
        const bool isNear = near && near->peak == handle.peak && near->isEnd == handle.isEnd;
        const double r = isNear ? 5 : 3.5;
        painter.setPen(QPen(t.plum, isNear ? 2 : 1.3));
        painter.setBrush(t.card);
        if (handle.isLine) { // by hand: a square, which moves up and down as well
            painter.drawRect(QRectF(handle.at.x() - r, handle.at.y() - r, 2 * r, 2 * r));
        } else {
            painter.drawEllipse(handle.at, r, r);
        }
    }
}

void TracePlot::drawMarkers(QPainter& painter, const TraceAxes& where) const {
    if (!m_markers) {
        return;
    }
    const Theme& t = theme();
    for (const double x : {m_markers->from, m_markers->to}) {
        const double at = where.x(x);
        if (at < where.plot.left() - 1 || at > where.plot.right() + 1) {
            continue;
        }
        painter.setPen(QPen(t.saffron, 1.4, Qt::DashLine));
        painter.drawLine(QPointF(at, where.plot.top()), QPointF(at, where.plot.bottom()));
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.saffron);
        painter.drawRoundedRect(QRectF(at - 4, where.plot.bottom() - 6, 8, 12), 3, 3);
    }
}

void TracePlot::drawDrag(QPainter& painter, const TraceAxes& where) const {
    const Theme& t = theme();
    if (m_drag == Drag::Band && std::abs(m_pointer.x() - m_pressed.x()) >= 5) {
        QRectF band = where.plot;
        band.setLeft(std::clamp(std::min(m_pressed.x(), m_pointer.x()), band.left(), where.plot.right()));
        band.setRight(std::clamp(std::max(m_pressed.x(), m_pointer.x()), where.plot.left(), where.plot.right()));
        QColor tint = t.plum;
        tint.setAlphaF(0.12F);
        painter.fillRect(band, tint);
        painter.setPen(QPen(t.plum, 1));
        painter.drawLine(band.topLeft(), band.bottomLeft());
        painter.drawLine(band.topRight(), band.bottomRight());
    } else if (m_drag == Drag::Line) {
        painter.setPen(QPen(t.plum, 1.6));
        painter.drawLine(m_pressed, m_pointer);
    }
}

void TracePlot::drawHover(QPainter& painter, const TraceAxes& where) const {
    if (m_hoverText.isEmpty() || !where.plot.contains(m_pointer)) {
        return;
    }
    painter.setFont(uiFont(kText));
    const double width = QFontMetricsF(painter.font()).horizontalAdvance(m_hoverText) + 14;
    const QRectF box(where.plot.left() + 6, where.plot.top() + 4, width, 20);
    QColor back = theme().card;
    back.setAlphaF(0.92F);
    painter.setPen(Qt::NoPen);
    painter.setBrush(back);
    painter.drawRoundedRect(box, 4, 4);
    painter.setPen(theme().ink);
    painter.drawText(box, Qt::AlignCenter, m_hoverText);
}

} // namespace nuvat
