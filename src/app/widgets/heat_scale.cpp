#include "widgets/heat_scale.h"

#include "nuvat/core/base/number.h"
#include "theme/style.h"

#include <algorithm>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace nuvat {

HeatScale::HeatScale(QWidget* parent) : QWidget(parent) {
    constexpr int kNarrowest = 110;
    setFixedHeight(sizeHint().height());
    setMinimumWidth(kNarrowest);
    setMaximumWidth(sizeHint().width());
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Heat scale"));
    setToolTip(tr("Drag the ends to set the scale; double-click to fit it to the plate"));
}

void HeatScale::setRange(double low, double high) {
    m_least = low;
    m_most = high > low ? high : low + 1;
    m_low = m_least;
    m_high = m_most;
    update();
}

double HeatScale::xOf(double value) const {
    return 5 + (value - m_least) / (m_most - m_least) * (width() - 10);
}

void HeatScale::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    QLinearGradient gradient(xOf(m_low), 0, xOf(m_high), 0);
    gradient.setColorAt(0, t.heat(0));
    gradient.setColorAt(1, t.heat(1));
    painter.setPen(Qt::NoPen);
    painter.setBrush(gradient);
    painter.drawRoundedRect(QRectF(5, 5, width() - 10, 9), 3, 3);
    painter.setBrush(t.card);
    for (const bool isHigh : {false, true}) {
        painter.setPen(QPen(hasFocus() && m_movesHigh == isHigh ? t.plum : t.ink, 1.3));
        painter.drawRoundedRect(QRectF(xOf(isHigh ? m_high : m_low) - 3, 2, 6, 15), 2.5, 2.5);
    }
    painter.setFont(uiFont(11));
    painter.setPen(t.mute);
    painter.drawText(QRectF(2, 18, width() / 2.0, 15), Qt::AlignLeft, shown(formatFigures(m_low, 3)));
    painter.drawText(QRectF(width() / 2.0, 18, width() / 2.0 - 2, 15), Qt::AlignRight, shown(formatFigures(m_high, 3)));
}

void HeatScale::mousePressEvent(QMouseEvent* event) {
    const double x = event->position().x();
    m_movesHigh = std::abs(x - xOf(m_high)) < std::abs(x - xOf(m_low));
    move(x);
}

void HeatScale::mouseMoveEvent(QMouseEvent* event) {
    if (event->buttons().testFlag(Qt::LeftButton)) {
        move(event->position().x());
    }
}

void HeatScale::mouseDoubleClickEvent(QMouseEvent*) {
    setRange(m_least, m_most);
    Q_EMIT scaleChanged(m_low, m_high);
}

void HeatScale::keyPressEvent(QKeyEvent* event) {
    const double step = (width() - 10) / 40.0;
    if (event->key() == Qt::Key_Left || event->key() == Qt::Key_Right) {
        move(xOf(m_movesHigh ? m_high : m_low) + (event->key() == Qt::Key_Left ? -step : step));
    } else if (event->key() == Qt::Key_Up || event->key() == Qt::Key_Down) {
        m_movesHigh = event->key() == Qt::Key_Up;
        update();
    } else {
        QWidget::keyPressEvent(event);
    }
}

void HeatScale::move(double x) {
    const double value = std::clamp(m_least + (x - 5) / (width() - 10) * (m_most - m_least), m_least, m_most);
    const double least = (m_most - m_least) / 50; // the ends never meet
    if (m_movesHigh) {
        m_high = std::max(value, m_low + least);
    } else {
        m_low = std::min(value, m_high - least);
    }
    update();
    Q_EMIT scaleChanged(m_low, m_high);
}

} // namespace nuvat
