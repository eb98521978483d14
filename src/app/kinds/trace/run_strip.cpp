#include "kinds/trace/run_strip.h"

#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>

namespace nuvat {

namespace {

constexpr int kRow = 25;

} // namespace

RunStrip::RunStrip(Workspace& workspace, QWidget* parent)
    : QAbstractScrollArea(parent), m_workspace(workspace), m_look(TraceLook::of(workspace)) {
    setFrameShape(QFrame::NoFrame);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Runs"));
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    viewport()->setMouseTracking(true);
    verticalScrollBar()->setSingleStep(kRow);
    connect(&workspace, &Workspace::changed, this, &RunStrip::follow);
    connect(&workspace, &Workspace::carrierChanged, this, &RunStrip::follow);
    connect(&workspace, &Workspace::selectionChanged, this, &RunStrip::follow);
    connect(&workspace, &Workspace::hoverChanged, viewport(), qOverload<>(&QWidget::update));
}

void RunStrip::follow() {
    m_row = m_look.run().row;
    const int page = viewport()->height();
    verticalScrollBar()->setRange(0, std::max(0, rows() * kRow - page));
    verticalScrollBar()->setPageStep(page);
    const int top = m_row * kRow - verticalScrollBar()->value();
    if (top < 0) {
        verticalScrollBar()->setValue(m_row * kRow);
    } else if (top + kRow > page) {
        verticalScrollBar()->setValue(m_row * kRow + kRow - page);
    }
    viewport()->update();
}

void RunStrip::resizeEvent(QResizeEvent* event) {
    QAbstractScrollArea::resizeEvent(event);
    follow();
}

QRect RunStrip::rowRect(int row) const {
    return {0, row * kRow - verticalScrollBar()->value(), viewport()->width(), kRow};
}

std::optional<int> RunStrip::rowAt(QPoint position) const {
    const int row = (position.y() + verticalScrollBar()->value()) / kRow;
    return row >= 0 && row < rows() ? std::optional(row) : std::nullopt;
}

QString RunStrip::valueText(Place place) const {
    const auto run = m_workspace.batch().runs.find(place);
    if (run != m_workspace.batch().runs.end()) {
        switch (run->second.state) {
        case RunState::Planned:
            return tr("planned");
        case RunState::Running:
            return tr("running");
        case RunState::Failed:
            return tr("failed");
        case RunState::SetAside:
            return tr("set aside");
        case RunState::Done:
            break;
        }
    }
    const Response& response = m_workspace.evaluation().at(place);
    switch (response.state) {
    case ResponseState::NotFound:
        return tr("not found");
    case ResponseState::NotRead:
        return tr("not read");
    case ResponseState::Unusable:
        return tr("unusable");
    case ResponseState::Empty:
        return {};
    default:
        return response.raw ? shown(formatFigures(*response.raw, 4)) : notDefined();
    }
}

void RunStrip::drawRow(QPainter& painter, int row) const {
    const Theme& t = theme();
    const Batch& batch = m_workspace.batch();
    const Place place{row, 0, m_workspace.carrierNumber()};
    const QRect area = rowRect(row);
    const bool isShown = row == m_row;
    const bool isSelected = m_workspace.selection().holds(place);
    if (isSelected || isShown) {
        painter.fillRect(area, isShown ? t.plumSoft : t.field);
        painter.fillRect(QRect(0, area.top(), 3, kRow), t.plum);
    } else if (m_workspace.hovered() == place) {
        painter.fillRect(area, t.field);
    }
    const Assignment group = batch.at(place);
    if (group.role != Role::Empty) {
        drawRoleShape(painter, QPointF(14, area.center().y() + 0.5), 4, group.role, t.role(group.role));
    }
    const Response& response = m_workspace.evaluation().at(place);
    const bool isExcluded = response.state == ResponseState::Excluded;
    painter.setFont(uiFont(12));
    const QString value = valueText(place);
    const int valueWidth = value.isEmpty() ? 0 : painter.fontMetrics().horizontalAdvance(value) + 6;
    const QRect inside = area.adjusted(26, 0, -8, 0);
    // In a sample or a blank that nothing is found is an answer.
    const bool isMissing = response.state == ResponseState::NotFound && !isOfSample(group.role) && !isBlank(group.role);
    painter.setPen(isMissing || response.state == ResponseState::Unusable ? t.brick : t.mute);
    QFont font = uiFont(12);
    font.setStrikeOut(isExcluded);
    painter.setFont(font);
    painter.drawText(inside, static_cast<int>(Qt::AlignRight) | static_cast<int>(Qt::AlignVCenter), value);
    font = uiFont(13, isShown ? QFont::Bold : QFont::Normal);
    font.setStrikeOut(isExcluded);
    painter.setFont(font);
    painter.setPen(t.ink);
    QString name = m_look.runName(place);
    if (group.role == Role::Standard) {
        name = text(shortName(batch, group)) + QStringLiteral(" · ") + name;
    }
    painter.drawText(inside.adjusted(0, 0, -valueWidth, 0),
                     static_cast<int>(Qt::AlignLeft) | static_cast<int>(Qt::AlignVCenter),
                     painter.fontMetrics().elidedText(name, Qt::ElideRight, inside.width() - valueWidth));
    if (batch.handEdits.contains(m_look.slot(place))) { // drawn on by hand
        painter.setPen(QPen(t.ink, 1.2));
        painter.setBrush(t.card);
        painter.drawRect(QRectF(area.right() - 6, area.top() + 3, 4, 4));
    }
    painter.setPen(t.line);
    painter.drawLine(8, area.bottom(), area.right() - 8, area.bottom());
}

void RunStrip::paintEvent(QPaintEvent*) {
    QPainter painter(viewport());
    painter.setRenderHint(QPainter::Antialiasing);
    const int first = verticalScrollBar()->value() / kRow;
    const int last = std::min(rows() - 1, first + viewport()->height() / kRow + 1);
    for (int row = first; row <= last; ++row) {
        drawRow(painter, row);
    }
    if (hasFocus() && rows() > 0) {
        painter.setPen(QPen(theme().plum, 1, Qt::DotLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(rowRect(m_row).adjusted(0, 0, -1, -1));
    }
}

void RunStrip::choose(int row, Qt::KeyboardModifiers modifiers) {
    row = std::clamp(row, 0, std::max(rows() - 1, 0));
    const int carrier = m_workspace.carrierNumber();
    const Place place{row, 0, carrier};
    std::vector<Place> places{place};
    if (modifiers.testFlag(Qt::ControlModifier)) {
        places = withDragged(m_workspace.selection().places, {place});
        m_anchor = row;
    } else if (modifiers.testFlag(Qt::ShiftModifier)) { // the one that is reached is looked at
        places.clear();
        const int step = m_anchor > row ? 1 : -1;
        for (int at = row; at != m_anchor + step; at += step) {
            places.push_back({at, 0, carrier});
        }
    } else {
        m_anchor = row;
    }
    m_workspace.select(places);
}

void RunStrip::mousePressEvent(QMouseEvent* event) {
    const auto row = rowAt(event->pos());
    if (event->button() == Qt::LeftButton && row) {
        choose(*row, event->modifiers());
    }
}

void RunStrip::mouseMoveEvent(QMouseEvent* event) {
    const auto row = rowAt(event->pos());
    if (event->buttons().testFlag(Qt::LeftButton) && row) {
        choose(*row, Qt::ShiftModifier);
        return;
    }
    m_workspace.hover(row ? std::optional(Place{*row, 0, m_workspace.carrierNumber()}) : std::nullopt);
}

void RunStrip::mouseDoubleClickEvent(QMouseEvent* event) {
    if (const auto row = rowAt(event->pos())) {
        Q_EMIT activated({*row, 0, m_workspace.carrierNumber()});
    }
}

void RunStrip::leaveEvent(QEvent*) {
    m_workspace.hover(std::nullopt);
}

void RunStrip::keyPressEvent(QKeyEvent* event) {
    const int page = std::max(1, viewport()->height() / kRow - 1);
    const auto extends = event->modifiers() & Qt::ShiftModifier;
    switch (event->key()) {
    case Qt::Key_Up:
        return choose(m_row - 1, extends);
    case Qt::Key_Down:
        return choose(m_row + 1, extends);
    case Qt::Key_PageUp:
        return choose(m_row - page, extends);
    case Qt::Key_PageDown:
        return choose(m_row + page, extends);
    case Qt::Key_Home:
        return choose(0, extends);
    case Qt::Key_End:
        return choose(rows() - 1, extends);
    case Qt::Key_Return:
    case Qt::Key_Enter:
        return Q_EMIT activated({m_row, 0, m_workspace.carrierNumber()});
    case Qt::Key_A:
        if (event->modifiers().testFlag(Qt::ControlModifier)) {
            m_anchor = 0;
            return choose(rows() - 1, Qt::ShiftModifier);
        }
        break;
    default:
        break;
    }
    QAbstractScrollArea::keyPressEvent(event);
}

} // namespace nuvat
