#include "kinds/plate/plate_view.h"

#include "nuvat/core/base/number.h"
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

PlateView::PlateView(Workspace& workspace, ViewMode mode, QWidget* parent)
    : QWidget(parent), m_workspace(workspace), m_mode(mode) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Plate"));
    connect(&workspace, &Workspace::changed, this, &PlateView::stale);
    connect(&workspace, &Workspace::carrierChanged, this, [this] {
        m_cursor = at(0, 0);
        stale();
    });
    connect(&workspace, &Workspace::selectionChanged, this, [this] {
        const auto& places = m_workspace.selection().places;
        const auto here = std::find_if(places.begin(), places.end(), [this](Place p) { return isHere(p); });
        if (here != places.end() && !m_workspace.selection().holds(m_cursor)) {
            updateWell(m_cursor);
            m_cursor = *here;
        }
        updateSelection();
    });
    connect(&workspace, &Workspace::hoverChanged, this, [this] {
        updateWell(m_hovered);
        m_hovered = m_workspace.hovered();
        updateWell(m_hovered);
    });
}

/// The picture is made anew with the next paint, which is never for a plate that is hidden.
void PlateView::stale() {
    m_isPictureStale = true;
    m_values.reset();
    update();
}

int PlateView::rows() const {
    return m_workspace.carrier().rows;
}

int PlateView::columns() const {
    return m_workspace.carrier().columns;
}

Place PlateView::at(int row, int column) const {
    return {row, column, m_workspace.carrierNumber()};
}

bool PlateView::isHere(Place place) const {
    return place.carrier == m_workspace.carrierNumber();
}

void PlateView::updateWell(std::optional<Place> place) {
    if (place && isHere(*place)) {
        update(cellRect(*place).toAlignedRect());
    }
}

/// Repaints wells that were selected or are now; a well outside the plate has no area to repaint.
void PlateView::updateSelection() {
    std::for_each(m_marked.begin(), m_marked.end(), [this](Place place) { updateWell(place); });
    m_marked = m_workspace.selection().places;
    std::for_each(m_marked.begin(), m_marked.end(), [this](Place place) { updateWell(place); });
}

void PlateView::setMode(ViewMode mode) {
    m_mode = mode;
    stale();
}

void PlateView::setQuantity(PlateQuantity quantity) {
    m_quantity = quantity;
    stale();
}

bool PlateView::isDerived() const {
    return m_quantity != PlateQuantity::Reading && m_quantity != PlateQuantity::Response;
}

const PlateValues& PlateView::values() const {
    if (!m_values) {
        m_values = plateValues(m_workspace.batch(), m_workspace.evaluation(), m_quantity);
    }
    return *m_values;
}

QString PlateView::numberText(double value) const {
    return !isDerived()                      ? toneNumber(value)
           : m_quantity == PlateQuantity::Cv ? shown(formatDecimals(value, 1))
                                             : shown(formatFigures(value, 3));
}

void PlateView::setScale(std::optional<double> low, std::optional<double> high) {
    m_low = low;
    m_high = high;
    stale();
}

void PlateView::setBrush(std::optional<Role> brush) {
    m_brush = brush;
    setCursor(brush ? Qt::CrossCursor : Qt::ArrowCursor);
}

PlateView::Grid PlateView::grid() const {
    const double w = (width() - kHeadingWidth - 2) / std::max(columns(), 1);
    const double h = (height() - kHeadingHeight - 2) / std::max(rows(), 1);
    return {kHeadingWidth, kHeadingHeight, w, h};
}

QRectF PlateView::wellRect(Place place) const {
    const Grid g = grid();
    const double gap = std::clamp(kGapShare * std::min(g.cellWidth, g.cellHeight), 1.0, 5.0);
    return cellRect(place).adjusted(gap / 2, gap / 2, -gap / 2, -gap / 2);
}

QRectF PlateView::cellRect(Place place) const {
    const Grid g = grid();
    return {g.left + place.column * g.cellWidth, g.top + place.row * g.cellHeight, g.cellWidth, g.cellHeight};
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
    if (row >= rows() || column >= columns()) {
        return std::nullopt;
    }
    return at(row, column);
}

std::vector<Place> PlateView::between(Place from, Place to) const {
    const int lastRow = rows() - 1;
    const int lastColumn = columns() - 1;
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
            places.push_back(at(row, column));
        }
    }
    return places;
}

std::optional<double> PlateView::heatValue(Place place) const {
    if (isDerived()) {
        const auto found = values().numbers.find(place);
        return found == values().numbers.end() ? std::nullopt : std::optional(found->second);
    }
    const Response& value = m_workspace.evaluation().at(place);
    return m_mode == ViewMode::Responses || m_quantity == PlateQuantity::Response ? value.value : value.raw;
}

std::optional<std::pair<double, double>> PlateView::valueRange() const {
    std::optional<std::pair<double, double>> range;
    for (int row = 0; row < rows(); ++row) {
        for (int column = 0; column < columns(); ++column) {
            if (const auto value = heatValue(at(row, column))) {
                range = range ? std::pair(std::min(range->first, *value), std::max(range->second, *value))
                              : std::pair(*value, *value);
            }
        }
    }
    return range;
}

QStringList PlateView::wellTexts(Place place) const {
    const Batch& batch = m_workspace.batch();
    if (m_mode == ViewMode::Roles) {
        const Assignment group = batch.at(place);
        if (group.role == Role::Empty) {
            return {};
        }
        QString second;
        if (group.role == Role::Standard) {
            const auto level = batch.concentration(group.number, m_workspace.analyteNumber());
            second = level ? shown(formatFigures(*level, 3)) : tr("none");
        } else if (hasNominal(group.role)) {
            const auto nominal = batch.nominal(group, m_workspace.analyteNumber());
            second = nominal ? shown(formatNumber(*nominal)) : tr("none");
        } else if (isOfSample(group.role)) {
            second = tr("× %1").arg(shown(formatNumber(batch.dilution(group))));
        }
        const QString first = text(shortName(batch, group));
        return isBlank(group.role) ? first.split(u' ') : QStringList{first, second}; // "Double" over "blank"
    }
    const Response& value = m_workspace.evaluation().at(place);
    if (const auto number = heatValue(place)) {
        return m_mode == ViewMode::Heat ? QStringList() : QStringList{numberText(*number)};
    }
    if (isDerived()) {
        const auto word = values().words.find(place);
        return word == values().words.end() ? QStringList() : QStringList{word->second.text};
    }
    const bool isText = value.state == ResponseState::Unusable || value.state == ResponseState::Empty ||
                        value.state == ResponseState::Excluded;
    return !isText || value.why.empty() ? QStringList() : QStringList{text(value.why).toLower()};
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
        m_dragFrom = m_workspace.batch().holds(m_cursor) ? m_cursor : at(0, 0); // the plate may be smaller by now
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
    m_workspace.select(withDragged(m_before, places));
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
            m_workspace.select(between(at(0, -1), at(rows() - 1, 0)));
            return;
        }
        [[fallthrough]];
    default:
        QWidget::keyPressEvent(event);
        return;
    }
    next.row = std::clamp(next.row, 0, rows() - 1);
    next.column = std::clamp(next.column, 0, columns() - 1);
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
            QString tip = text(placeName(m_workspace.batch(), *place));
            if (group.role != Role::Empty) {
                tip += QStringLiteral(" · ") + text(shortName(m_workspace.batch(), group)) + QStringLiteral(" · ") +
                       text(fullName(m_workspace.batch(), group));
            }
            if (const auto* out = m_workspace.batch().exclusion(*place, m_workspace.analyteNumber())) {
                tip += tr(" · excluded: %1").arg(text(out->reason));
            }
            QToolTip::showText(help->globalPos(), plainTip(tip), this);
        }
        return true;
    }
    return QWidget::event(event);
}

} // namespace nuvat
