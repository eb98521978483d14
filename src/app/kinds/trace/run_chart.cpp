#include "kinds/trace/run_chart.h"

#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "nuvat/report/trace_figure.h"
#include "theme/style.h"

#include <algorithm>
#include <QMouseEvent>
#include <QPainter>

namespace nuvat {

RunChart::RunChart(Workspace& workspace, QWidget* parent)
    : QWidget(parent), m_workspace(workspace), m_look(TraceLook::of(workspace)) {
    setMinimumSize(160, 96);
    connect(&workspace, &Workspace::selectionChanged, this, qOverload<>(&QWidget::update));
}

void RunChart::show(RunQuantity quantity, const QString& title, std::optional<Stretch> limits) {
    m_quantity = quantity;
    m_title = title;
    m_limits = limits;
    setAccessibleName(title);
    update();
}

std::optional<double> RunChart::value(Place place) const {
    const bool isHere = place.carrier == m_workspace.carrierNumber();
    return isHere ? m_look.review().value(m_quantity, m_workspace.analyteNumber(), place) : std::nullopt;
}

TraceAxes RunChart::axes() const {
    std::optional<std::pair<double, double>> y;
    if (m_limits) {
        y = std::pair(m_limits->from, m_limits->to);
    }
    int last = 1;
    for (const Place place : m_look.review().runs()) {
        if (const auto one = value(place)) {
            y = y ? std::pair(std::min(y->first, *one), std::max(y->second, *one)) : std::pair(*one, *one);
            last = std::max(last, place.row + 1);
        }
    }
    auto [low, high] = y.value_or(std::pair(0.0, 1.0));
    const double room = high > low ? 0.12 * (high - low) : 0.05 * std::max(1e-9, std::abs(high));
    return {QRectF(rect()).adjusted(44, 24, -8, -18), {0, last + 1.0, low - room, high + room}};
}

std::optional<QPointF> RunChart::pointOf(Place place) const {
    const auto one = value(place);
    const TraceAxes a = axes();
    return one ? std::optional(QPointF(a.x(place.row + 1), a.y(*one))) : std::nullopt;
}

void RunChart::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const TraceAxes a = axes();
    painter.setFont(uiFont(12, QFont::Bold));
    painter.setPen(t.ink);
    painter.drawText(QRect(2, 0, width() - 4, 20), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(m_title, Qt::ElideRight, width() - 4));
    if (m_limits) {
        const QRectF band(a.plot.left(), a.y(m_limits->to), a.plot.width(), a.y(m_limits->from) - a.y(m_limits->to));
        painter.fillRect(band, t.pineSoft);
        painter.setPen(QPen(t.pine, 1, Qt::DashLine));
        painter.drawLine(band.topLeft(), band.topRight());
        painter.drawLine(band.bottomLeft(), band.bottomRight());
    }
    painter.setFont(uiFont(11));
    painter.setPen(t.mute);
    for (const double y : {a.window.yLow, (a.window.yLow + a.window.yHigh) / 2, a.window.yHigh}) {
        painter.drawText(QRectF(0, a.y(y) - 8, a.plot.left() - 6, 16), Qt::AlignRight | Qt::AlignVCenter,
                         tickText(y, 3));
    }
    painter.drawText(QRectF(a.plot.left(), a.plot.bottom() + 1, a.plot.width(), 16), Qt::AlignLeft, tr("run 1"));
    painter.drawText(QRectF(a.plot.left(), a.plot.bottom() + 1, a.plot.width(), 16), Qt::AlignRight,
                     tr("run %1").arg(static_cast<int>(a.window.xHigh) - 1));
    painter.setPen(t.line);
    painter.drawLine(a.plot.bottomLeft(), a.plot.bottomRight());
    for (const Place place : m_look.review().runs()) {
        const auto at = pointOf(place);
        if (!at) {
            continue;
        }
        const Role role = m_workspace.batch().at(place).role;
        const bool isOut = m_workspace.batch().isExcluded(place, m_workspace.analyteNumber());
        drawRoleShape(painter, *at, 3, role, isOut ? t.mute : t.role(role));
        if (m_workspace.selection().holds(place)) {
            painter.setPen(QPen(t.ink, 1.6));
            painter.setBrush(Qt::NoBrush);
            painter.drawEllipse(*at, 6.5, 6.5);
        }
    }
}

void RunChart::mousePressEvent(QMouseEvent* event) {
    constexpr double kReach = 12;
    std::optional<Place> nearest;
    double best = kReach;
    for (const Place place : m_look.review().runs()) {
        if (const auto at = pointOf(place)) {
            const double away = QLineF(*at, event->position()).length();
            nearest = away < best ? std::optional(place) : nearest;
            best = std::min(best, away);
        }
    }
    if (nearest) {
        Q_EMIT chosen(*nearest);
    }
}

} // namespace nuvat
