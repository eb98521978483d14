#include "widgets/demo_tile.h"

#include "theme/style.h"

#include <cmath>
#include <functional>
#include <QPainter>

namespace nuvat {

namespace {

/// A curve over an area, y from 0 to 1.
void drawCurve(QPainter& painter, const QRectF& area, const QColor& colour, const std::function<double(double)>& y) {
    QPolygonF line;
    constexpr int kPoints = 60;
    for (int i = 0; i <= kPoints; ++i) {
        const double u = static_cast<double>(i) / kPoints;
        line << QPointF(area.left() + u * area.width(), area.bottom() - y(u) * area.height());
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(colour, 1.6));
    painter.drawPolyline(line);
}

double bump(double u, double at, double width) {
    return std::exp(-std::pow((u - at) / width, 2));
}

void drawPlates(QPainter& painter, const QRectF& area) {
    painter.setPen(Qt::NoPen);
    for (int plate = 0; plate < 3; ++plate) {
        for (int row = 0; row < 4; ++row) {
            for (int column = 0; column < 3; ++column) {
                painter.setBrush(theme().heat(((row * 3 + column * 2 + plate) % 7) / 7.0));
                painter.drawRoundedRect(QRectF(area.left() + plate * 18 + column * 5, area.top() + 3 + row * 7, 4, 5),
                                        1, 1);
            }
        }
    }
}

void drawRows(QPainter& painter, const QRectF& area) {
    painter.setPen(Qt::NoPen);
    for (int row = 0; row < 4; ++row) {
        painter.setBrush(theme().line);
        painter.drawRoundedRect(QRectF(area.left(), area.top() + 4 + row * 8, 30, 4), 2, 2);
        painter.setBrush(theme().heat(1 - row / 4.0));
        painter.drawRoundedRect(QRectF(area.left() + 36, area.top() + 3 + row * 8, 14, 6), 2, 2);
    }
}

} // namespace

DemoTile::DemoTile(const Demo& demo, QWidget* parent)
    : QAbstractButton(parent), m_name(demo.name), m_line(nuvat::text(demo.line)) {
    setText(nuvat::text(demo.title));
    setObjectName(QStringLiteral("demo-") + nuvat::text(demo.name));
    setAccessibleDescription(m_line);
    setToolTip(m_line);
    setCursor(Qt::PointingHandCursor);
    setFocusPolicy(Qt::StrongFocus);
    setMinimumWidth(220);
    setFixedHeight(54);
}

void DemoTile::enterEvent(QEnterEvent* event) {
    QAbstractButton::enterEvent(event);
    update();
}

void DemoTile::leaveEvent(QEvent* event) {
    QAbstractButton::leaveEvent(event);
    update();
}

void DemoTile::drawPicture(QPainter& painter, const QRectF& area) const {
    const Theme& t = theme();
    if (m_name == "polyphenols") {
        drawPlates(painter, area);
    } else if (m_name == "cuvettes") {
        drawRows(painter, area);
    } else if (m_name == "mycotoxins") { // quantifiers over their qualifiers
        for (const double height : {0.8, 0.4}) {
            drawCurve(painter, area, height > 0.5 ? t.ink : t.plum, [height](double u) {
                return 0.06 + height * (bump(u, 0.15, 0.02) + 0.6 * bump(u, 0.38, 0.02) + 0.9 * bump(u, 0.6, 0.02) +
                                        0.5 * bump(u, 0.83, 0.02));
            });
        }
    } else if (m_name == "sulfite") {
        drawCurve(painter, area, t.ink, [](double u) {
            return 0.08 + 0.8 * bump(u, 0.2, 0.06) + 0.78 * bump(u, 0.5, 0.06) + 0.82 * bump(u, 0.8, 0.06);
        });
    } else if (m_name == "esters" || m_name == "acids") {
        drawCurve(painter, area, t.ink, [](double u) {
            return 0.06 + 0.85 * bump(u, 0.25, 0.035) + 0.5 * bump(u, 0.52, 0.04) + 0.35 * bump(u, 0.64, 0.04) +
                   0.4 * bump(u, 0.86, 0.045);
        });
    } else if (m_name == "ascorbic-acid") {
        drawCurve(painter, area, t.plum, [](double u) { return 0.1 + 0.1 * u; });
        drawCurve(painter, area, t.ink,
                  [](double u) { return 0.1 + 0.1 * u + 0.7 * bump(u, 0.45, 0.14) + 0.5 * std::pow(u, 7); });
    } else { // a falling curve
        drawCurve(painter, area, t.plum, [](double u) { return 0.1 + 0.8 / (1 + std::exp((u - 0.5) * 9)); });
    }
}

void DemoTile::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    painter.setPen(QPen(hasFocus() ? t.plum : t.line, 1));
    painter.setBrush(underMouse() ? t.field : t.card);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    drawPicture(painter, QRectF(12, 9, 54, 36));
    const QRectF words(78, 8, width() - 86, 18);
    painter.setFont(uiFont(13, QFont::Bold));
    painter.setPen(t.ink);
    painter.drawText(words, Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(text(), Qt::ElideRight, static_cast<int>(words.width())));
    painter.setFont(uiFont(12));
    painter.setPen(t.mute);
    painter.drawText(words.translated(0, 19), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(m_line, Qt::ElideRight, static_cast<int>(words.width())));
}

} // namespace nuvat
