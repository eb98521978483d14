#include "kinds/trace/time_plot.h"

#include "nuvat/batch/curve_shape.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/descriptive.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"

#include <algorithm>
#include <cmath>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

namespace nuvat {

TimePlot::TimePlot(Workspace& workspace, QWidget* parent)
    : QWidget(parent), m_workspace(workspace), m_look(TraceLook::of(workspace)) {
    setMouseTracking(true);
    setMinimumHeight(120);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
    setAccessibleName(tr("Where the peak came in every run"));
    for (const auto signal : {&Workspace::changed, &Workspace::carrierChanged, &Workspace::selectionChanged}) {
        connect(&workspace, signal, this, qOverload<>(&QWidget::update));
    }
}

const Response& TimePlot::responseAt(int row) const {
    return m_workspace.evaluation().at({row, 0, m_workspace.carrierNumber()});
}

TraceAxes TimePlot::axes() const {
    double low = INFINITY, high = -INFINITY;
    for (int row = 0; row < rows(); ++row) {
        const Response& response = responseAt(row);
        if (response.window) {
            low = std::min(low, response.window->from);
            high = std::max(high, response.window->to);
        }
        if (response.position) {
            low = std::min(low, *response.position);
            high = std::max(high, *response.position);
        }
    }
    if (!(low < high)) {
        low = 0;
        high = 1;
    }
    const double margin = 0.08 * (high - low);
    return {QRectF(62, 6, width() - 74.0, height() - 32.0), {0.5, rows() + 0.5, low - margin, high + margin}};
}

std::optional<QPointF> TimePlot::pointOf(int row) const {
    const auto position = responseAt(row).position;
    const TraceAxes where = axes();
    return position ? std::optional(QPointF(where.x(row + 1), where.y(*position))) : std::nullopt;
}

QString TimePlot::summary() const {
    std::vector<double> found;
    std::size_t lost = 0, near = 0;
    for (int row = 0; row < rows(); ++row) {
        const Response& response = responseAt(row);
        lost += response.state == ResponseState::NotFound ? 1 : 0;
        near += response.isNearEdge ? 1 : 0;
        if (response.position) {
            found.push_back(*response.position);
        }
    }
    const auto measured = m_look.measured(m_look.run());
    const Description all = describe(found);
    QStringList out;
    if (all.sd) {
        out << tr("SD %1 %2").arg(shown(formatFigures(*all.sd, 2)), measured ? text(measured->xUnit) : QString());
    }
    if (near > 0) {
        out << tr("%1 near an edge").arg(near);
    }
    if (lost > 0) {
        out << tr("%1 not found").arg(lost);
    }
    return out.join(QStringLiteral(" · "));
}

void TimePlot::drawWindows(QPainter& painter, const TraceAxes& where) const {
    const Theme& t = theme();
    painter.setRenderHint(QPainter::Antialiasing, false); // no seams between runs
    for (int row = 0; row < rows(); ++row) {
        if (const auto& window = responseAt(row).window) {
            const QRectF area(QPointF(where.x(row + 0.5), where.y(window->to)),
                              QPointF(where.x(row + 1.5), where.y(window->from)));
            painter.fillRect(area, t.plumSoft);
            const double middle = where.y((window->from + window->to) / 2);
            painter.setPen(QPen(t.plum, 1, Qt::DotLine));
            painter.drawLine(QPointF(area.left(), middle), QPointF(area.right(), middle));
        }
    }
    painter.setRenderHint(QPainter::Antialiasing);
}

void TimePlot::drawRun(QPainter& painter, const TraceAxes& where, int row) const {
    const Theme& t = theme();
    const Place place{row, 0, m_workspace.carrierNumber()};
    const Response& response = responseAt(row);
    const double x = where.x(row + 1);
    if (response.state == ResponseState::NotFound) {
        painter.setPen(QPen(t.brick, 1.6));
        const QPointF at(x, where.plot.bottom() - 7);
        painter.drawLine(at + QPointF(-3.5, -3.5), at + QPointF(3.5, 3.5));
        painter.drawLine(at + QPointF(-3.5, 3.5), at + QPointF(3.5, -3.5));
        return;
    }
    if (!response.position) {
        return;
    }
    const QPointF at(x, where.y(*response.position));
    const Role role = m_workspace.batch().at(place).role;
    const double size = std::clamp((where.x(1) - where.x(0)) / 3, 1.5, 4.0);
    drawRoleShape(painter, at, size, role, response.state == ResponseState::Excluded ? t.mute : t.role(role));
    if (response.isNearEdge) {
        painter.setPen(QPen(t.brick, 1.6));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(at, size + 4, size + 4);
    }
}

/// Runs are whole numbers, however few there are.
void TimePlot::drawRunNumbers(QPainter& painter, const TraceAxes& where) const {
    painter.setFont(uiFont(12));
    painter.setPen(theme().mute);
    const double base = where.plot.bottom();
    painter.drawLine(QPointF(where.plot.left(), base), QPointF(where.plot.right(), base));
    const double room = painter.fontMetrics().horizontalAdvance(QString::number(rows())) + 12;
    int step = 1;
    for (const int factor : {2, 5, 10, 20, 50, 100, 200, 500, 1000}) {
        step = where.x(step) - where.x(0) < room ? factor : step;
    }
    for (int run = step == 1 ? 1 : step; run <= rows(); run += step) {
        painter.drawText(QRectF(where.x(run) - 30, base + 3, 60, 18), Qt::AlignHCenter | Qt::AlignTop,
                         QString::number(run));
    }
    painter.drawText(QRectF(0, base + 3, where.plot.left() - 8, 18), Qt::AlignRight | Qt::AlignTop, tr("Run"));
}

void TimePlot::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    if (!std::holds_alternative<PeakRule>(m_workspace.analyte().source.rule)) {
        painter.setFont(uiFont(13));
        painter.setPen(t.mute);
        painter.drawText(rect(), Qt::AlignCenter, tr("Only peaks have times: this analyte is read between markers."));
        return;
    }
    const TraceAxes where = axes();
    drawWindows(painter, where);
    const int looked = m_look.run().row;
    painter.setPen(QPen(t.plum, 1.4));
    painter.drawLine(QPointF(where.x(looked + 1), where.plot.top()), QPointF(where.x(looked + 1), where.plot.bottom()));
    painter.setFont(uiFont(12));
    for (const double tick : roundTicks(where.window.yLow, where.window.yHigh, std::max(2, height() / 45))) {
        painter.setPen(t.line);
        painter.drawLine(QPointF(where.plot.left(), where.y(tick)), QPointF(where.plot.right(), where.y(tick)));
        painter.setPen(t.mute);
        painter.drawText(QRectF(0, where.y(tick) - 9, where.plot.left() - 8, 18), Qt::AlignRight | Qt::AlignVCenter,
                         tickText(tick, 5));
    }
    drawRunNumbers(painter, where);
    for (int row = 0; row < rows(); ++row) {
        drawRun(painter, where, row);
    }
}

std::optional<int> TimePlot::rowAt(QPointF position) const {
    const int row = static_cast<int>(std::lround(axes().valueX(position.x()))) - 1;
    return row >= 0 && row < rows() ? std::optional(row) : std::nullopt;
}

void TimePlot::mousePressEvent(QMouseEvent* event) {
    if (const auto row = rowAt(event->position()); row && event->button() == Qt::LeftButton) {
        Q_EMIT chosen({*row, 0, m_workspace.carrierNumber()});
    }
}

void TimePlot::mouseMoveEvent(QMouseEvent* event) {
    const auto row = rowAt(event->position());
    if (!row) {
        QToolTip::hideText();
        return;
    }
    const Place place{*row, 0, m_workspace.carrierNumber()};
    m_workspace.hover(place);
    const Response& response = responseAt(*row);
    QString words = tr("Run %1 · %2").arg(*row + 1).arg(m_look.runName(place));
    if (response.position) {
        words += QStringLiteral(" · ") + shown(formatFigures(*response.position, 5));
    } else if (!response.why.empty()) {
        words += QStringLiteral(" · ") + text(response.why);
    }
    if (response.isNearEdge) {
        words += tr(" · near the edge of its window");
    }
    QToolTip::showText(event->globalPosition().toPoint(), words, this);
}

void TimePlot::leaveEvent(QEvent*) {
    m_workspace.hover(std::nullopt);
}

} // namespace nuvat
