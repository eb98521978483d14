#include "kinds/list/run_list_view.h"

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

constexpr int kRow = 26;
constexpr int kHeading = 26;
constexpr int kNumber = 46;
constexpr int kRole = 130;
constexpr int kValue = 110;
constexpr int kFirstChannel = 3; // after number, name and role

int alignment(bool isNumber) {
    return static_cast<int>(Qt::AlignVCenter) | static_cast<int>(isNumber ? Qt::AlignRight : Qt::AlignLeft);
}

QString roleText(const Batch& batch, Assignment group, int analyte) {
    if (group.role == Role::Empty) {
        return {};
    }
    QString out = text(shortName(batch, group));
    if (const auto x = batch.concentration(group.number, analyte); group.role == Role::Standard && x) {
        out += QStringLiteral("  ") + shown(formatFigures(*x, 4));
    } else if (const auto nominal = batch.nominal(group, analyte)) {
        out += QStringLiteral("  ") + shown(formatNumber(*nominal));
    } else if (const double dilution = batch.dilution(group); dilution != 1) {
        out += QStringLiteral("  × ") + shown(formatNumber(dilution));
    }
    return out;
}

} // namespace

RunListView::RunListView(Workspace& workspace, QWidget* parent)
    : QAbstractScrollArea(parent), m_workspace(workspace), m_editor(new QLineEdit(viewport())) {
    setFrameShape(QFrame::NoFrame);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Run list"));
    viewport()->setMouseTracking(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    verticalScrollBar()->setSingleStep(kRow);
    m_editor->setObjectName(QStringLiteral("runEditor"));
    m_editor->setProperty("kind", QStringLiteral("compact"));
    m_editor->installEventFilter(this);
    m_editor->hide();
    connect(&workspace, &Workspace::changed, this, &RunListView::stale);
    connect(&workspace, &Workspace::carrierChanged, this, &RunListView::stale);
    connect(&workspace, &Workspace::aboutToReplace, this, [this] { finishEdit(true); });
    connect(&workspace, &Workspace::hoverChanged, viewport(), qOverload<>(&QWidget::update));
    connect(&workspace, &Workspace::selectionChanged, this, [this] {
        const auto& places = m_workspace.selection().places;
        if (!places.empty() && places.front().carrier == m_workspace.carrierNumber() &&
            !m_workspace.selection().holds(at(m_row))) {
            m_row = places.front().row;
            showRow(m_row);
        }
        viewport()->update();
    });
}

void RunListView::stale() {
    m_range = valueRange().value_or(std::pair(0.0, 0.0));
    m_row = std::clamp(m_row, 0, std::max(rows() - 1, 0));
    m_column = std::min(m_column, columns() - 1);
    const int page = viewport()->height() - kHeading;
    verticalScrollBar()->setRange(0, std::max(0, rows() * kRow - page));
    verticalScrollBar()->setPageStep(page);
    viewport()->update();
}

void RunListView::resizeEvent(QResizeEvent* event) {
    QAbstractScrollArea::resizeEvent(event);
    stale();
}

void RunListView::setScale(std::optional<double> low, std::optional<double> high) {
    m_low = low;
    m_high = high;
    viewport()->update();
}

void RunListView::setBrush(std::optional<Role> brush) {
    m_brush = brush;
    viewport()->setCursor(brush ? Qt::CrossCursor : Qt::ArrowCursor);
}

std::optional<std::pair<double, double>> RunListView::valueRange() const {
    std::optional<std::pair<double, double>> range;
    for (int row = 0; row < rows(); ++row) {
        if (const auto raw = m_workspace.evaluation().at(at(row)).raw) {
            range =
                range ? std::pair(std::min(range->first, *raw), std::max(range->second, *raw)) : std::pair(*raw, *raw);
        }
    }
    return range;
}

/// Channels that were read of this list; one without a name when nothing has been yet.
std::vector<QString> RunListView::channels() const {
    std::vector<QString> out;
    if (m_workspace.batch().hasTraces(m_workspace.carrierNumber())) {
        return out; // a trace is no text; the pages of traces show it
    }
    for (const std::string& channel : m_workspace.batch().channels()) {
        if (m_workspace.batch().reading(m_workspace.carrierNumber(), channel) != nullptr) {
            out.push_back(text(channel));
        }
    }
    return out.empty() ? std::vector{text(m_workspace.batch().info.channel)} : out;
}

int RunListView::columns() const {
    return kFirstChannel + static_cast<int>(channels().size()) + 1;
}

bool RunListView::isEditable(int column) const {
    return column == 1 || (column >= kFirstChannel && column < columns() - 1);
}

QString RunListView::cellText(int row, int column) const {
    return cellText(m_workspace.batch(), row, column);
}

QString RunListView::cellText(const Batch& batch, int row, int column) const {
    const Place place = at(row);
    if (column == 0) {
        return QString::number(row + 1);
    }
    if (column == 1) {
        const auto run = batch.runs.find(place);
        return run == batch.runs.end() ? QString() : text(run->second.name);
    }
    if (column == 2) {
        return roleText(batch, batch.at(place), m_workspace.analyteNumber());
    }
    if (column == columns() - 1) {
        const auto response = m_workspace.evaluation().at(place).value;
        return response ? shown(formatFigures(*response, 4)) : QString();
    }
    const std::string channel = channels().at(static_cast<std::size_t>(column - kFirstChannel)).toStdString();
    const Reading* reading = batch.reading(place.carrier, channel);
    const auto grid = reading == nullptr ? nullptr : reading->payload.grid();
    const ReadingWell* well = grid == nullptr ? nullptr : grid->at(row, 0);
    if (well == nullptr || !well->value) {
        return well == nullptr ? QString() : text(well->text);
    }
    std::string digits = well->text; // with all that the file gave, and the window's decimal sign
    std::replace(digits.begin(), digits.end(), ',', '.');
    return shown(parseNumber(digits) == well->value ? digits : formatNumber(*well->value));
}

QRect RunListView::cellRect(int row, int column) const {
    const int values = columns() - kFirstChannel;
    const int name = std::max(120, viewport()->width() - kNumber - kRole - values * kValue);
    const int left = column == 0   ? 0
                     : column == 1 ? kNumber
                     : column == 2 ? kNumber + name
                                   : kNumber + name + kRole + (column - kFirstChannel) * kValue;
    const int width = column == 0 ? kNumber : column == 1 ? name : column == 2 ? kRole : kValue;
    return {left, kHeading + row * kRow - verticalScrollBar()->value(), width, kRow};
}

void RunListView::drawHeading(QPainter& painter) const {
    painter.fillRect(QRect(0, 0, viewport()->width(), kHeading), theme().card);
    painter.setPen(theme().mute);
    painter.setFont(uiFont(12));
    const auto names = channels();
    for (int column = 0; column < columns(); ++column) {
        const QString title = column == 0              ? tr("Run")
                              : column == 1            ? tr("Name")
                              : column == 2            ? tr("Role")
                              : column < columns() - 1 ? names[static_cast<std::size_t>(column - kFirstChannel)]
                                                       : tr("Response");
        QRect cell = cellRect(0, column);
        cell.moveTop(0);
        const bool isNumber = column >= kFirstChannel;
        painter.drawText(cell.adjusted(6, 0, -6, 0), alignment(isNumber), title.isEmpty() ? tr("Value") : title);
    }
    painter.setPen(theme().line);
    painter.drawLine(0, kHeading - 1, viewport()->width(), kHeading - 1);
}

void RunListView::drawRow(QPainter& painter, int row, std::pair<double, double> scale) const {
    const Theme& t = theme();
    const Place place = at(row);
    const QRect whole(0, cellRect(row, 0).top(), viewport()->width(), kRow);
    const Response& value = m_workspace.evaluation().at(place);
    const bool isExcluded = m_workspace.batch().isExcluded(place, m_workspace.analyteNumber());
    const bool isDragged =
        m_dragFrom && row >= std::min(*m_dragFrom, *m_dragTo) && row <= std::max(*m_dragFrom, *m_dragTo);
    if (m_workspace.selection().holds(place) || isDragged) {
        painter.fillRect(whole, isDragged && m_brush ? t.roleSoft(*m_brush) : t.field);
        painter.fillRect(QRect(0, whole.top(), 3, kRow), isDragged && m_brush ? t.role(*m_brush) : t.ink);
    }
    const Role role = m_workspace.batch().at(place).role;
    for (int column = 0; column < columns(); ++column) {
        const QRect cell = cellRect(row, column);
        QRect inside = cell.adjusted(6, 0, -6, 0);
        const bool isNumber = column >= kFirstChannel;
        const bool isFirstValue = column == kFirstChannel && value.raw && scale.second > scale.first;
        painter.setPen(column == 0 ? t.mute : t.ink);
        if (isFirstValue) { // the heat as a stripe beside the number, so that it stays readable
            painter.fillRect(QRect(cell.left() + 4, cell.top() + 5, 8, kRow - 10),
                             t.heat((*value.raw - scale.first) / (scale.second - scale.first)));
        }
        if (column == 2 && role != Role::Empty) {
            drawRoleShape(painter, QPointF(cell.left() + 12, cell.center().y() + 0.5), 4, role, t.role(role));
            inside.setLeft(cell.left() + 24);
        }
        QFont font = uiFont(13, column == 2 ? QFont::DemiBold : QFont::Normal);
        font.setStrikeOut(isExcluded && isNumber);
        painter.setFont(font);
        const bool isText = isNumber && column < columns() - 1 && value.state == ResponseState::Unusable;
        painter.setPen(isText ? t.brick : painter.pen().color());
        const QString shownText =
            painter.fontMetrics().elidedText(cellText(row, column), Qt::ElideRight, inside.width());
        painter.drawText(inside, alignment(isNumber), shownText);
    }
    if (isExcluded) {
        drawExcluded(painter, QPointF(cellRect(row, 0).right() - 8, whole.center().y() + 0.5), 4, t.brick);
    }
    painter.setPen(t.line);
    painter.drawLine(0, whole.bottom(), whole.right(), whole.bottom());
    if (m_workspace.hovered() == place) {
        painter.setPen(QPen(t.mute, 1));
        painter.drawRect(whole.adjusted(0, 0, -1, -1));
    }
    if (row == m_row && hasFocus()) {
        painter.setPen(QPen(t.plum, 1, Qt::DotLine));
        painter.drawRect(cellRect(row, m_column).adjusted(1, 1, -2, -2));
    }
}

void RunListView::paintEvent(QPaintEvent*) {
    QPainter painter(viewport());
    painter.setRenderHint(QPainter::Antialiasing);
    const int first = verticalScrollBar()->value() / kRow;
    const int last = std::min(rows() - 1, first + viewport()->height() / kRow + 1);
    const double low = m_low.value_or(m_range.first);
    const double high = m_high.value_or(m_range.second);
    for (int row = first; row <= last; ++row) {
        drawRow(painter, row, {low, high});
    }
    drawHeading(painter);
}

std::optional<int> RunListView::rowAt(QPoint position) const {
    if (position.y() < kHeading) {
        return std::nullopt;
    }
    const int row = (position.y() - kHeading + verticalScrollBar()->value()) / kRow;
    return row < rows() ? std::optional(row) : std::nullopt;
}

std::vector<Place> RunListView::between(int from, int to) const {
    std::vector<Place> places;
    for (int row = std::min(from, to); row <= std::max(from, to); ++row) {
        places.push_back(at(row));
    }
    return places;
}

void RunListView::mousePressEvent(QMouseEvent* event) {
    finishEdit(true);
    if (event->button() != Qt::LeftButton) {
        return;
    }
    m_dragFrom = rowAt(event->pos());
    m_dragTo = m_dragFrom;
    m_before.clear();
    if (!m_dragFrom) {
        m_workspace.clearSelection();
        return;
    }
    for (int column = 0; column < columns(); ++column) {
        m_column = cellRect(*m_dragFrom, column).contains(event->pos()) ? column : m_column;
    }
    if (event->modifiers().testFlag(Qt::ControlModifier)) {
        m_before = m_workspace.selection().places;
    } else if (event->modifiers().testFlag(Qt::ShiftModifier)) {
        m_dragFrom = m_row;
    }
    viewport()->update();
}

void RunListView::mouseMoveEvent(QMouseEvent* event) {
    const auto row = rowAt(event->pos());
    if (m_dragFrom && event->buttons().testFlag(Qt::LeftButton)) {
        m_dragTo = row ? row : m_dragTo;
        viewport()->update();
        return;
    }
    m_workspace.hover(row ? std::optional(at(*row)) : std::nullopt);
}

void RunListView::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton && m_dragFrom) {
        finishDrag();
    }
}

void RunListView::finishDrag() {
    const std::vector<Place> places = between(*m_dragFrom, *m_dragTo);
    m_row = *m_dragTo;
    m_dragFrom.reset();
    m_dragTo.reset();
    viewport()->update();
    if (m_brush) {
        Q_EMIT painted(places);
        return;
    }
    m_workspace.select(withDragged(m_before, places));
}

void RunListView::mouseDoubleClickEvent(QMouseEvent* event) {
    if (const auto row = rowAt(event->pos())) {
        if (isEditable(m_column)) {
            edit(*row, m_column);
        } else {
            Q_EMIT runActivated(at(*row));
        }
    }
}

void RunListView::leaveEvent(QEvent*) {
    m_workspace.hover(std::nullopt);
}

void RunListView::showRow(int row) {
    const int top = row * kRow;
    const int page = viewport()->height() - kHeading;
    if (top < verticalScrollBar()->value()) {
        verticalScrollBar()->setValue(top);
    } else if (top + kRow > verticalScrollBar()->value() + page) {
        verticalScrollBar()->setValue(top + kRow - page);
    }
}

void RunListView::moveTo(int row, int column, bool extends) {
    row = std::clamp(row, 0, rows() - 1);
    m_column = std::clamp(column, 0, columns() - 1);
    const auto& selected = m_workspace.selection().places;
    const std::vector<Place> places =
        extends && !selected.empty() ? between(selected.front().row, row) : std::vector{at(row)};
    m_row = row;
    m_workspace.select(extends && !selected.empty() && selected.front().row > row
                           ? std::vector<Place>(places.rbegin(), places.rend()) // from where it began
                           : places);
    showRow(row);
    viewport()->update();
}

void RunListView::keyPressEvent(QKeyEvent* event) {
    const bool extends = event->modifiers().testFlag(Qt::ShiftModifier);
    const int page = std::max(1, (viewport()->height() - kHeading) / kRow - 1);
    switch (event->key()) {
    case Qt::Key_Up:
        return moveTo(m_row - 1, m_column, extends);
    case Qt::Key_Down:
        return moveTo(m_row + 1, m_column, extends);
    case Qt::Key_Left:
        return moveTo(m_row, m_column - 1, false);
    case Qt::Key_Right:
        return moveTo(m_row, m_column + 1, false);
    case Qt::Key_PageUp:
        return moveTo(m_row - page, m_column, extends);
    case Qt::Key_PageDown:
        return moveTo(m_row + page, m_column, extends);
    case Qt::Key_Home:
        return moveTo(0, m_column, extends);
    case Qt::Key_End:
        return moveTo(rows() - 1, m_column, extends);
    case Qt::Key_F2:
    case Qt::Key_Return:
    case Qt::Key_Enter:
        return isEditable(m_column) ? edit(m_row, m_column) : Q_EMIT runActivated(at(m_row));
    case Qt::Key_A:
        if (event->modifiers().testFlag(Qt::ControlModifier)) {
            m_workspace.select(between(0, rows() - 1));
            return;
        }
        break;
    default:
        break;
    }
    // A number begins to be typed where one can stand; letters are keys of the window.
    const QString typed = event->text();
    const bool isNumber = !typed.isEmpty() && QStringLiteral("0123456789.,-+<>").contains(typed.front());
    if (isNumber && m_column >= kFirstChannel && isEditable(m_column)) {
        return edit(m_row, m_column, typed);
    }
    QAbstractScrollArea::keyPressEvent(event);
}

void RunListView::edit(int row, int column, const QString& typed) {
    if (!isEditable(column)) {
        return;
    }
    m_row = row;
    m_column = column;
    showRow(row);
    m_editor->setGeometry(cellRect(row, column).adjusted(1, 1, -1, -1));
    m_editor->setAlignment(column == 1 ? Qt::AlignLeft : Qt::AlignRight);
    m_editor->setText(typed.isEmpty() ? cellText(m_workspace.newest(), row, column) : typed);
    m_editor->show();
    m_editor->setFocus(Qt::OtherFocusReason);
    if (typed.isEmpty()) {
        m_editor->selectAll();
    }
}

void RunListView::finishEdit(bool isKept) {
    if (m_editor->isHidden()) {
        return;
    }
    const QString typed = m_editor->text().trimmed();
    const bool isSame = typed == cellText(m_workspace.newest(), m_row, m_column);
    m_editor->hide();
    setFocus(Qt::OtherFocusReason);
    if (!isKept || isSame) {
        return;
    }
    const Batch& batch = m_workspace.newest(); // what was typed a moment ago may still have to be evaluated
    if (m_column == 1) {
        m_workspace.apply(nameRun(batch, at(m_row), typed.toStdString()));
    } else {
        const QString channel = channels().at(static_cast<std::size_t>(m_column - kFirstChannel));
        m_workspace.apply(
            typeValue(batch, at(m_row), channel.toStdString(), typed.toStdString(), m_workspace.document()->now()));
    }
}

bool RunListView::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_editor && event->type() == QEvent::FocusOut) {
        finishEdit(true);
    } else if (watched == m_editor && event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        const int row = m_row;
        const int column = m_column;
        if (key == Qt::Key_Escape) {
            finishEdit(false);
            return true;
        }
        if (key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Down || key == Qt::Key_Up) {
            finishEdit(true);
            moveTo(row + (key == Qt::Key_Up ? -1 : 1), column, false);
            if (key != Qt::Key_Up && row + 1 < rows()) {
                edit(row + 1, column); // typing goes on down the column
            }
            return true;
        }
        if (key == Qt::Key_Tab || key == Qt::Key_Backtab) {
            finishEdit(true);
            int next = column + (key == Qt::Key_Tab ? 1 : -1);
            while (next > 0 && next < columns() && !isEditable(next)) {
                next += key == Qt::Key_Tab ? 1 : -1;
            }
            const bool wraps = next >= columns() - 1;
            edit(std::min(wraps ? row + 1 : row, rows() - 1), wraps ? 1 : std::max(next, 1));
            return true;
        }
    }
    return QAbstractScrollArea::eventFilter(watched, event);
}

} // namespace nuvat
