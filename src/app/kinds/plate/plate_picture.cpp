// How the plate is painted: faces of the wells into a picture that is kept, marks over it. The rest is in
// plate_view.cpp.
#include "kinds/plate/plate_view.h"
#include "nuvat/core/base/well.h"
#include "theme/style.h"

#include <algorithm>
#include <QPainter>
#include <QPaintEvent>

namespace nuvat {

namespace {

QColor mixed(const QColor& from, const QColor& to, double share) {
    const auto between = [share](int a, int b) { return static_cast<int>(a + share * (b - a)); };
    return {between(from.red(), to.red()), between(from.green(), to.green()), between(from.blue(), to.blue())};
}

} // namespace

WellFace PlateView::heatFace(Place place) const {
    const Theme& t = theme();
    const auto value = heatValue(place);
    WellFace face;
    face.texts = wellTexts(place);
    face.isExcluded = m_workspace.batch().isExcluded(place, m_workspace.analyteNumber());
    face.fill = t.card;
    face.ink = t.ink;
    face.frame = WellFace::Frame::Line;
    face.frameColour = t.line;
    if (m_quantity == PlateQuantity::OverTime) {
        const auto line = values().lines.find(place);
        face.line = line == values().lines.end() ? std::vector<QPointF>() : line->second;
        face.taken = face.line.empty() ? std::nullopt : values().taken;
        return face;
    }
    if (isDerived() && !value) {
        if (const auto word = values().words.find(place); word != values().words.end()) {
            const auto& [what, outcome, depth] = word->second;
            face.fill = depth ? mixed(t.slateSoft, t.slate, 0.62 * *depth) : t.outcomeSoft(outcome);
            face.ink = depth ? t.inkOn(face.fill) : t.outcome(outcome);
            face.frame = WellFace::Frame::None;
        }
    } else if (!value) {
        face.isBold = true;
        face.ink = t.mute;
        if (!face.texts.isEmpty()) { // its text is no number
            face.frame = WellFace::Frame::Dashed;
            face.ink = face.frameColour = t.brick;
        }
    } else if (m_mode == ViewMode::Heat || m_mode == ViewMode::HeatAndNumber ||
               (m_mode == ViewMode::Responses && m_workspace.evaluation().at(place).state != ResponseState::Empty)) {
        const auto [low, high] = m_paintedScale;
        face.fill = t.heat(high > low ? (*value - low) / (high - low) : 0.5);
        face.ink = t.inkOn(face.fill);
        face.frame = WellFace::Frame::None;
    }
    return face;
}

WellFace PlateView::roleFace(Place place) const {
    const Batch& batch = m_workspace.batch();
    const Assignment group = batch.at(place);
    WellFace face;
    face.role = group.role;
    face.fill = theme().roleSoft(group.role);
    face.frameColour = theme().line;
    if (group.role == Role::Empty) {
        face.frame = WellFace::Frame::Line;
        return face;
    }
    face.texts = wellTexts(place);
    face.isExcluded = batch.isExcluded(place);
    face.isIncomplete = face.texts.value(1) == tr("none");
    face.joinsRight = !isBlank(group.role) && batch.at(at(place.row, place.column + 1)) == group;
    face.joinsBelow = !isBlank(group.role) && batch.at(at(place.row + 1, place.column)) == group;
    return face;
}

std::vector<WellFace> PlateView::faces() {
    if (const auto range = m_mode == ViewMode::Roles ? std::nullopt : valueRange()) {
        m_paintedScale = {m_low.value_or(range->first), m_high.value_or(range->second)};
    }
    std::vector<WellFace> out;
    out.reserve(m_workspace.carrier().size());
    for (int row = 0; row < rows(); ++row) {
        for (int column = 0; column < columns(); ++column) {
            out.push_back(m_mode == ViewMode::Roles ? roleFace(at(row, column)) : heatFace(at(row, column)));
        }
    }
    return out;
}

std::size_t PlateView::indexOf(Place place) const {
    return static_cast<std::size_t>(place.row * columns() + place.column);
}

/// Brings the picture up to date: wells that look as before are left as they are.
void PlateView::refreshPicture() {
    m_isPictureStale = false;
    const QSize size = this->size() * devicePixelRatioF();
    std::vector<WellFace> next = faces();
    const bool isNew = m_picture.size() != size || next.size() != m_faces.size() || m_pictureColumns != columns();
    std::swap(m_faces, next);
    if (isNew) {
        m_pictureColumns = columns();
        m_picture = QPixmap(size);
        m_picture.setDevicePixelRatio(devicePixelRatioF());
        m_picture.fill(Qt::transparent); // which makes it one that can be
        drawCells(rect());
        return;
    }
    QRegion dirty;
    for (int row = 0; row < rows(); ++row) {
        for (int column = 0; column < m_pictureColumns; ++column) {
            const std::size_t i = indexOf(at(row, column));
            if (m_faces[i] != next[i]) {
                // What joins it to its replicates reaches into the cells beside it.
                const QRectF cell = cellRect(at(row, column));
                dirty += cell.adjusted(-cell.width(), 0, cell.width(), 0).toAlignedRect();
                dirty += cell.adjusted(0, -cell.height(), 0, cell.height()).toAlignedRect();
            }
        }
    }
    drawCells(dirty);
}

/// Paints headings and faces anew inside the region, into the picture.
void PlateView::drawCells(const QRegion& dirty) {
    if (dirty.isEmpty()) {
        return;
    }
    QPainter painter(&m_picture);
    painter.setClipRegion(dirty);
    painter.setCompositionMode(QPainter::CompositionMode_Source);
    painter.fillRect(rect(), Qt::transparent);
    painter.setCompositionMode(QPainter::CompositionMode_SourceOver);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(uiFont(12));
    painter.setPen(theme().mute);
    for (int column = 0; column < columns(); ++column) {
        painter.drawText(columnHeadingRect(column), Qt::AlignCenter, QString::number(column + 1));
    }
    for (int row = 0; row < rows(); ++row) {
        painter.drawText(rowHeadingRect(row), Qt::AlignCenter, text(rowLetters(row)));
    }
    std::vector<Place> within;
    for (int row = 0; row < rows(); ++row) {
        for (int column = 0; column < columns(); ++column) {
            if (dirty.intersects(cellRect(at(row, column)).toAlignedRect())) {
                within.push_back(at(row, column));
            }
        }
    }
    painter.setPen(QPen(theme().grey, 2.4));
    std::for_each(within.begin(), within.end(), [&](Place place) { drawJoints(painter, place); });
    for (const Place place : within) {
        drawFace(painter, m_faces[indexOf(place)], wellRect(place));
    }
}

void PlateView::drawJoints(QPainter& painter, Place place) const {
    const WellFace& face = m_faces[indexOf(place)];
    const QRectF from = wellRect(place);
    if (face.joinsRight) {
        const QRectF to = wellRect(at(place.row, place.column + 1));
        painter.drawLine(QLineF(from.right() - 1, from.center().y(), to.left() + 1, to.center().y()));
    }
    if (face.joinsBelow) {
        const QRectF to = wellRect(at(place.row + 1, place.column));
        painter.drawLine(QLineF(from.center().x(), from.bottom() - 1, to.center().x(), to.top() + 1));
    }
}

/// Selection, hover, cursor and what a drag takes.
void PlateView::drawMarks(QPainter& painter, const QRegion& region) const {
    const Theme& t = theme();
    painter.setBrush(Qt::NoBrush);
    const auto frame = [&](Place place, const QPen& pen, double inset, double corner) {
        const QRectF area = wellRect(place);
        if (isHere(place) && region.intersects(area.toAlignedRect())) {
            painter.setPen(pen);
            painter.drawRoundedRect(area.adjusted(inset, inset, -inset, -inset), corner, corner);
        }
    };
    const auto& selected = m_workspace.selection().places;
    if (const auto hovered = m_workspace.hovered(); hovered && !m_workspace.selection().holds(*hovered)) {
        frame(*hovered, QPen(t.mute, 1.5), 0.75, 6);
    }
    for (const Place place : selected) {
        frame(place, QPen(t.ink, 2), 1, 6);
    }
    if (m_dragFrom && m_dragTo) {
        for (const Place place : between(*m_dragFrom, *m_dragTo)) {
            frame(place, QPen(m_brush ? t.role(*m_brush) : t.ink, 2), 1, 6);
        }
    }
    if (hasFocus()) {
        frame(m_cursor, QPen(t.plum, 1, Qt::DotLine), 3, 4);
    }
}

void PlateView::paintEvent(QPaintEvent* event) {
    if (m_isPictureStale || m_picture.devicePixelRatioF() != devicePixelRatioF()) {
        refreshPicture();
    }
    QPainter painter(this);
    for (const QRect& part : event->region()) {
        const double scale = m_picture.devicePixelRatioF();
        painter.drawPixmap(
            part, m_picture,
            QRectF(part.x() * scale, part.y() * scale, part.width() * scale, part.height() * scale).toRect());
    }
    painter.setRenderHint(QPainter::Antialiasing);
    drawMarks(painter, event->region());
}

void PlateView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    m_isPictureStale = true;
}

} // namespace nuvat
