#include "kinds/plate/well_face.h"

#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"

#include <algorithm>
#include <QPainter>

namespace nuvat {

namespace {

constexpr double kCorner = 6;

/// In a smaller size, or cut short, where the text is too long for the line.
void drawFitted(QPainter& painter, const QRectF& line, const QString& shownText) {
    constexpr int kSmallest = 10;
    QFont font = painter.font();
    while (font.pixelSize() > kSmallest && QFontMetricsF(font).horizontalAdvance(shownText) > line.width()) {
        font.setPixelSize(font.pixelSize() - 1);
    }
    painter.setFont(font);
    painter.drawText(line, Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(shownText, Qt::ElideRight, static_cast<int>(line.width()) + 1));
}

/// In a smaller size where the well is narrow; what still does not fit is cut short.
void drawCentred(QPainter& painter, const QRectF& area, const QString& what) {
    constexpr int kSmallest = 7;
    QFont font = painter.font();
    double wide = QFontMetricsF(font).horizontalAdvance(what);
    if (wide <= area.width()) {
        painter.drawText(area, Qt::AlignCenter, what);
        return;
    }
    for (; font.pixelSize() > kSmallest && wide > area.width(); wide = QFontMetricsF(font).horizontalAdvance(what)) {
        font.setPixelSize(font.pixelSize() - 1);
    }
    painter.setFont(font);
    painter.drawText(area, Qt::AlignCenter,
                     wide > area.width()
                         ? painter.fontMetrics().elidedText(what, Qt::ElideRight, static_cast<int>(area.width()))
                         : what);
}

void drawRoleTexts(QPainter& painter, const WellFace& face, const QRectF& area) {
    const Theme& t = theme();
    const bool isSmall = area.width() < 44 || area.height() < 30;
    const double firstY = isSmall ? area.center().y() : area.top() + area.height() * 0.31;
    painter.setFont(uiFont(isSmall ? std::clamp(area.width() / 3.2, 7.0, 11.0) : 13, QFont::Bold));
    painter.setPen(t.ink);
    if (isSmall) { // the short name alone says the role: there is no room for its shape
        painter.setPen(face.isExcluded ? t.brick : t.ink);
        drawCentred(painter, area, face.texts.value(0));
        return;
    }
    QRectF line(area.left() + 17, firstY - 9, area.width() - 18, 18);
    drawRoleShape(painter, QPointF(area.left() + 9, firstY), 4, *face.role, t.role(*face.role));
    drawFitted(painter, line, face.texts.value(0));
    line.moveTop(area.top() + area.height() * 0.71 - 9);
    painter.setFont(uiFont(12));
    painter.setPen(face.isIncomplete ? t.outcome(Outcome::Review) : t.mute);
    painter.drawText(line, Qt::AlignLeft | Qt::AlignVCenter, face.texts.value(1));
    if (face.isExcluded) {
        drawExcluded(painter, QPointF(area.right() - 10, area.top() + area.height() * 0.31), 4.5, t.brick);
    }
}

void drawLine(QPainter& painter, const WellFace& face, const QRectF& area) {
    const Theme& t = theme();
    const QRectF inner = area.adjusted(4, 4, -4, -4);
    const auto x = [&](double share) { return inner.left() + share * inner.width(); };
    if (face.taken) {
        painter.fillRect(
            QRectF(QPointF(x(face.taken->first), area.top() + 1), QPointF(x(face.taken->second), area.bottom() - 1)),
            t.plumSoft);
    }
    QPolygonF points;
    for (const QPointF& point : face.line) {
        points << QPointF(x(point.x()), inner.bottom() - point.y() * inner.height());
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(face.isExcluded ? t.mute : t.plum, area.width() < 30 ? 1.0 : 1.6));
    painter.drawPolyline(points);
}

void drawValue(QPainter& painter, const WellFace& face, const QRectF& area) {
    const Theme& t = theme();
    if (!face.line.empty()) {
        drawLine(painter, face, area);
    }
    if (!face.texts.isEmpty()) {
        QFont font = uiFont(area.width() < 40 ? 10 : 13, face.isBold ? QFont::Bold : QFont::Normal);
        font.setStrikeOut(face.isExcluded);
        painter.setFont(font);
        painter.setPen(face.ink);
        drawCentred(painter, area, face.texts.first());
    }
    if (face.isExcluded) {
        const QPointF corner(area.right() - 9, area.top() + 9);
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.card);
        painter.drawEllipse(corner, 7.5, 7.5);
        drawExcluded(painter, corner, 4, t.brick);
    }
}

} // namespace

void drawFace(QPainter& painter, const WellFace& face, const QRectF& area) {
    painter.setPen(
        face.frame == WellFace::Frame::None
            ? QPen(Qt::NoPen)
            : QPen(face.frameColour, 1, face.frame == WellFace::Frame::Dashed ? Qt::DashLine : Qt::SolidLine));
    painter.setBrush(face.fill);
    painter.drawRoundedRect(area, kCorner, kCorner);
    if (!face.role) {
        drawValue(painter, face, area);
    } else if (*face.role != Role::Empty) {
        drawRoleTexts(painter, face, area);
    }
}

} // namespace nuvat
