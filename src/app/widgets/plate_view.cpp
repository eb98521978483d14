#include "widgets/plate_view.h"

#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

namespace nuvat {

namespace {
constexpr double kHeadingWidth = 26;
constexpr double kHeadingHeight = 22;
constexpr double kGapShare = 0.06; // of a cell, between wells

QString toneNumber(double value) {
    // Three decimals as plate readers give them; larger numbers with as many figures.
    return shown(std::abs(value) < 100 ? formatDecimals(value, 3) : formatFigures(value, 5));
}
} // namespace

PlateView::PlateView(Workspace& workspace, Mode mode, QWidget* parent)
    : QWidget(parent), m_workspace(workspace), m_mode(mode) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Plate"));
    connect(&workspace, &Workspace::changed, this, qOverload<>(&QWidget::update));
    connect(&workspace, &Workspace::selectionChanged, this, [this] {
        const auto& places = m_workspace.selection().places;
        if (!places.empty() && !m_workspace.selection().holds(m_cursor)) {
            m_cursor = places.front();
        }
        update();
    });
    connect(&workspace, &Workspace::hoverChanged, this, qOverload<>(&QWidget::update));
}

void PlateView::setMode(Mode mode) {
    m_mode = mode;
    update();
}

void PlateView::setScale(std::optional<double> low, std::optional<double> high) {
    m_low = low;
    m_high = high;
    update();
}

void PlateView::setBrush(std::optional<Role> brush) {
    m_brush = brush;
    setCursor(brush ? Qt::CrossCursor : Qt::ArrowCursor);
}

PlateView::Grid PlateView::grid() const {
    const int rows = m_workspace.evaluation().rows;
    const int columns = m_workspace.evaluation().columns;
    const double w = (width() - kHeadingWidth - 2) / std::max(columns, 1);
    const double h = (height() - kHeadingHeight - 2) / std::max(rows, 1);
    return {kHeadingWidth, kHeadingHeight, w, h};
}

QRectF PlateView::wellRect(Place place) const {
    const Grid g = grid();
    const double gap = std::clamp(kGapShare * std::min(g.cellWidth, g.cellHeight), 1.0, 5.0);
    return QRectF(g.left + place.column * g.cellWidth, g.top + place.row * g.cellHeight, g.cellWidth, g.cellHeight)
        .adjusted(gap / 2, gap / 2, -gap / 2, -gap / 2);
}

QRectF PlateView::rowHeadingRect(int row) const {
    const Grid g = grid();
    return {0, g.top + row * g.cellHeight, g.left, g.cellHeight};
}

QRectF PlateView::columnHeadingRect(int column) const {
    const Grid g = grid();
    return {g.left + column * g.cellWidth, 0, g.cellWidth, g.top};
}

std::optional<Place> PlateView::placeAt(QPointF position) const {
    const Grid g = grid();
    const int row = position.y() < g.top ? -1 : static_cast<int>((position.y() - g.top) / g.cellHeight);
    const int column = position.x() < g.left ? -1 : static_cast<int>((position.x() - g.left) / g.cellWidth);
    if (row >= m_workspace.evaluation().rows || column >= m_workspace.evaluation().columns) {
        return std::nullopt;
    }
    return Place{row, column};
}

std::vector<Place> PlateView::between(Place from, Place to) const {
    const int lastRow = m_workspace.evaluation().rows - 1;
    const int lastColumn = m_workspace.evaluation().columns - 1;
    // A drag that began on a heading takes whole rows or columns.
    const bool wholeColumns = from.row < 0;
    const bool wholeRows = from.column < 0;
    const int top = wholeColumns ? 0 : std::max(0, std::min(from.row, to.row));
    const int bottom = wholeColumns ? lastRow : std::max(from.row, to.row);
    const int left = wholeRows ? 0 : std::max(0, std::min(from.column, to.column));
    const int right = wholeRows ? lastColumn : std::max(from.column, to.column);
    std::vector<Place> places;
    for (int row = top; row <= bottom; ++row) {
        for (int column = left; column <= right; ++column) {
            places.push_back({row, column});
        }
    }
    return places;
}

std::optional<double> PlateView::heatValue(Place place) const {
    const PlaceValue& value = m_workspace.evaluation().at(place);
    return m_mode == Mode::Responses ? value.response : value.raw;
}

std::optional<std::pair<double, double>> PlateView::valueRange() const {
    std::optional<std::pair<double, double>> range;
    for (int row = 0; row < m_workspace.evaluation().rows; ++row) {
        for (int column = 0; column < m_workspace.evaluation().columns; ++column) {
            if (const auto value = heatValue({row, column})) {
                range = range ? std::pair(std::min(range->first, *value), std::max(range->second, *value))
                              : std::pair(*value, *value);
            }
        }
    }
    return range;
}

QStringList PlateView::wellTexts(Place place) const {
    const Batch& batch = m_workspace.batch();
    if (m_mode == Mode::Roles) {
        const Assignment group = batch.at(place);
        if (group.role == Role::Empty) {
            return {};
        }
        QString second;
        if (group.role == Role::Standard) {
            const auto level = batch.concentration(group.number, m_workspace.analyteNumber());
            second = level ? shown(formatFigures(*level, 3)) : tr("none");
        } else if (group.role == Role::Qc) {
            const auto nominal = batch.nominal(group.number, m_workspace.analyteNumber());
            second = nominal ? shown(formatNumber(*nominal)) : tr("none");
        } else if (group.role == Role::Unknown) {
            const auto sample = batch.samples.find(group.number);
            second = tr("× %1").arg(shown(formatNumber(sample == batch.samples.end() ? 1 : sample->second.dilution)));
        }
        return {text(shortName(batch, group)), second};
    }
    const PlaceValue& value = m_workspace.evaluation().at(place);
    if (const auto number = heatValue(place)) {
        return m_mode == Mode::Heat ? QStringList() : QStringList{toneNumber(*number)};
    }
    const Reading* reading = batch.reading(m_workspace.analyteNumber());
    if (reading == nullptr || value.state == PlaceState::NotRead) {
        return {};
    }
    const ReadingWell* well = reading->at(place);
    return well == nullptr || well->text.empty() ? QStringList() : QStringList{text(well->text).toLower()};
}

void PlateView::drawHeat(QPainter& painter, Place place, const QRectF& area) const {
    const Theme& t = theme();
    const auto value = heatValue(place);
    const PlaceState state = m_workspace.evaluation().at(place).state;
    const QStringList texts = wellTexts(place);
    const bool isExcluded = m_workspace.batch().exclusions.contains(place);
    QColor ink = t.ink;
    if (!value) {
        const bool isUnusable = !texts.isEmpty();
        painter.setPen(isUnusable ? QPen(t.brick, 1, Qt::DashLine) : QPen(t.line, 1));
        painter.setBrush(t.card);
        painter.drawRoundedRect(area, 6, 6);
        ink = isUnusable ? t.brick : t.mute;
    } else if (m_mode == Mode::Number || (m_mode == Mode::Responses && state == PlaceState::Empty)) {
        painter.setPen(QPen(t.line, 1));
        painter.setBrush(t.card);
        painter.drawRoundedRect(area, 6, 6);
    } else {
        const auto [low, high] = m_paintedScale;
        const double share = high > low ? (*value - low) / (high - low) : 0.5;
        const QColor fill = t.heat(share);
        painter.setPen(Qt::NoPen);
        painter.setBrush(fill);
        painter.drawRoundedRect(area, 6, 6);
        ink = t.inkOn(fill);
    }
    if (!texts.isEmpty()) {
        QFont font = uiFont(area.width() < 40 ? 10 : 13, value ? QFont::Normal : QFont::Bold);
        font.setStrikeOut(isExcluded);
        painter.setFont(font);
        painter.setPen(ink);
        painter.drawText(area, Qt::AlignCenter, texts.first());
    }
    if (isExcluded) {
        const QPointF corner(area.right() - 9, area.top() + 9);
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.card);
        painter.drawEllipse(corner, 7.5, 7.5);
        drawExcluded(painter, corner, 4, t.brick);
    }
}

void PlateView::drawRole(QPainter& painter, Place place, const QRectF& area) const {
    const Theme& t = theme();
    const Assignment group = m_workspace.batch().at(place);
    painter.setPen(group.role == Role::Empty ? QPen(t.line, 1) : QPen(Qt::NoPen));
    painter.setBrush(t.roleSoft(group.role));
    painter.drawRoundedRect(area, 6, 6);
    if (group.role == Role::Empty) {
        return;
    }
    const QStringList texts = wellTexts(place);
    const bool isSmall = area.width() < 44 || area.height() < 30;
    const bool isExcluded = m_workspace.batch().exclusions.contains(place);
    const double firstY = isSmall ? area.center().y() : area.top() + area.height() * 0.31;
    QRectF line(area.left() + 17, firstY - 9, area.width() - 18, 18);
    painter.setFont(uiFont(isSmall ? std::clamp(area.width() / 3.2, 7.0, 11.0) : 13, QFont::Bold));
    painter.setPen(t.ink);
    if (isSmall) { // the short name alone says the role: there is no room for its shape
        painter.setPen(isExcluded ? t.brick : t.ink);
        painter.drawText(area, Qt::AlignCenter, texts.value(0));
        return;
    }
    drawRoleShape(painter, QPointF(area.left() + 9, firstY), 4, group.role, t.role(group.role));
    painter.drawText(line, Qt::AlignLeft | Qt::AlignVCenter, texts.value(0));
    const bool isMissing = texts.value(1).startsWith(tr("no "));
    line.moveTop(area.top() + area.height() * 0.71 - 9);
    painter.setFont(uiFont(12));
    painter.setPen(isMissing ? t.outcome(Outcome::Review) : t.mute);
    painter.drawText(line, Qt::AlignLeft | Qt::AlignVCenter, texts.value(1));
    if (isExcluded) {
        drawExcluded(painter, QPointF(area.right() - 10, area.top() + area.height() * 0.31), 4.5, t.brick);
    }
}

void PlateView::drawBonds(QPainter& painter) const {
    const Theme& t = theme();
    painter.setPen(QPen(t.grey, 2.4));
    for (const auto& [place, assignment] : m_workspace.batch().places) {
        for (const Place next : {Place{place.row, place.column + 1}, Place{place.row + 1, place.column}}) {
            if (assignment.role != Role::Blank && m_workspace.batch().at(next) == assignment) {
                const QRectF from = wellRect(place);
                const QRectF to = wellRect(next);
                painter.drawLine(next.row == place.row
                                     ? QLineF(from.right() - 1, from.center().y(), to.left() + 1, to.center().y())
                                     : QLineF(from.center().x(), from.bottom() - 1, to.center().x(), to.top() + 1));
            }
        }
    }
}

void PlateView::drawWell(QPainter& painter, Place place) const {
    const Theme& t = theme();
    const QRectF area = wellRect(place);
    if (m_mode == Mode::Roles) {
        drawRole(painter, place, area);
    } else {
        drawHeat(painter, place, area);
    }
    const bool isDragged = m_dragFrom && m_dragTo && [&] {
        const auto places = between(*m_dragFrom, *m_dragTo);
        return std::find(places.begin(), places.end(), place) != places.end();
    }();
    if (isDragged || m_workspace.selection().holds(place)) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(isDragged && m_brush ? t.role(*m_brush) : t.ink, 2));
        painter.drawRoundedRect(area.adjusted(1, 1, -1, -1), 6, 6);
    } else if (m_workspace.hovered() == place) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(t.mute, 1.5));
        painter.drawRoundedRect(area.adjusted(0.75, 0.75, -0.75, -0.75), 6, 6);
    }
    if (hasFocus() && m_cursor == place) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(t.plum, 1, Qt::DotLine));
        painter.drawRoundedRect(area.adjusted(3, 3, -3, -3), 4, 4);
    }
}

void PlateView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    painter.setFont(uiFont(12));
    painter.setPen(t.mute);
    for (int column = 0; column < m_workspace.evaluation().columns; ++column) {
        painter.drawText(columnHeadingRect(column), Qt::AlignCenter, QString::number(column + 1));
    }
    for (int row = 0; row < m_workspace.evaluation().rows; ++row) {
        painter.drawText(rowHeadingRect(row), Qt::AlignCenter, text(rowLetters(row)));
    }
    if (m_mode == Mode::Roles) {
        drawBonds(painter);
    } else if (const auto range = valueRange()) {
        // Once for all wells: asked well by well, a plate of 1536 would look at its wells 1536 times.
        m_paintedScale = {m_low.value_or(range->first), m_high.value_or(range->second)};
    }
    for (int row = 0; row < m_workspace.evaluation().rows; ++row) {
        for (int column = 0; column < m_workspace.evaluation().columns; ++column) {
            drawWell(painter, {row, column});
        }
    }
}

void PlateView::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) {
        return;
    }
    m_dragFrom = placeAt(event->position());
    m_dragTo = m_dragFrom;
    m_before.clear();
    if (!m_dragFrom) {
        m_workspace.clearSelection();
        return;
    }
    if (event->modifiers().testFlag(Qt::ControlModifier)) {
        m_before = m_workspace.selection().places;
    } else if (event->modifiers().testFlag(Qt::ShiftModifier)) {
        m_dragFrom = m_workspace.batch().holds(m_cursor) ? m_cursor : Place{}; // the plate may be smaller by now
    }
    update();
}

void PlateView::mouseMoveEvent(QMouseEvent* event) {
    const auto place = placeAt(event->position());
    if (m_dragFrom && event->buttons().testFlag(Qt::LeftButton)) {
        if (place && place != m_dragTo) {
            m_dragTo = place;
            update();
        }
        return;
    }
    m_workspace.hover(place && place->row >= 0 && place->column >= 0 ? place : std::nullopt);
}

void PlateView::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton && m_dragFrom) {
        finishDrag();
    }
}

void PlateView::finishDrag() {
    const std::vector<Place> places = between(*m_dragFrom, *m_dragTo);
    if (m_dragTo->row >= 0 && m_dragTo->column >= 0) {
        m_cursor = *m_dragTo;
    }
    m_dragFrom.reset();
    m_dragTo.reset();
    if (m_brush) {
        Q_EMIT painted(places);
        update();
        return;
    }
    // With Ctrl, wells that were selected all along are taken out, others added.
    std::vector<Place> next = m_before;
    const bool allThere = !m_before.empty() && std::all_of(places.begin(), places.end(), [&](Place p) {
        return std::find(m_before.begin(), m_before.end(), p) != m_before.end();
    });
    for (const Place place : places) {
        const auto found = std::find(next.begin(), next.end(), place);
        if (allThere) {
            next.erase(found);
        } else if (found == next.end()) {
            next.push_back(place);
        }
    }
    m_workspace.select(next);
    update();
}

void PlateView::mouseDoubleClickEvent(QMouseEvent* event) {
    const auto place = placeAt(event->position());
    if (place && place->row >= 0 && place->column >= 0) {
        Q_EMIT wellActivated(*place);
    }
}

void PlateView::leaveEvent(QEvent*) {
    m_workspace.hover(std::nullopt);
}

void PlateView::keyPressEvent(QKeyEvent* event) {
    Place next = m_cursor;
    switch (event->key()) {
    case Qt::Key_Left:
        --next.column;
        break;
    case Qt::Key_Right:
        ++next.column;
        break;
    case Qt::Key_Up:
        --next.row;
        break;
    case Qt::Key_Down:
        ++next.row;
        break;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        Q_EMIT wellActivated(m_cursor);
        return;
    case Qt::Key_A:
        if (event->modifiers().testFlag(Qt::ControlModifier)) {
            m_workspace.select(between({0, -1}, {m_workspace.evaluation().rows - 1, 0}));
            return;
        }
        [[fallthrough]];
    default:
        QWidget::keyPressEvent(event);
        return;
    }
    next.row = std::clamp(next.row, 0, m_workspace.evaluation().rows - 1);
    next.column = std::clamp(next.column, 0, m_workspace.evaluation().columns - 1);
    if (event->modifiers().testFlag(Qt::ShiftModifier) && !m_workspace.selection().places.empty()) {
        m_workspace.select(between(m_workspace.selection().places.front(), next));
    } else {
        m_workspace.select({next});
    }
    m_cursor = next;
    update();
}

bool PlateView::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const auto place = placeAt(help->pos());
        if (place && place->row >= 0 && place->column >= 0) {
            const Assignment group = m_workspace.batch().at(*place);
            QString tip = text(wellName(*place));
            if (group.role != Role::Empty) {
                tip += QStringLiteral(" · ") + text(shortName(m_workspace.batch(), group)) + QStringLiteral(" · ") +
                       text(fullName(m_workspace.batch(), group));
            }
            if (const auto found = m_workspace.batch().exclusions.find(*place);
                found != m_workspace.batch().exclusions.end()) {
                tip += tr(" · excluded: %1").arg(text(found->second.reason));
            }
            QToolTip::showText(help->globalPos(), plainTip(tip), this);
        }
        return true;
    }
    return QWidget::event(event);
}

HeatScale::HeatScale(QWidget* parent) : QWidget(parent) {
    setFixedSize(sizeHint());
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
