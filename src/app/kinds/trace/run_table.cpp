#include "kinds/trace/run_table.h"

#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "nuvat/report/trace_figure.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <cmath>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <QToolTip>

namespace nuvat {

namespace {

constexpr int kNames = 150, kHead = 34, kRow = 20, kColumn = 43;

bool isLogarithmic(const Analyte& analyte) {
    return analyte.isConcentrationLogarithmic;
}

} // namespace

RunTable::RunTable(Workspace& workspace, QWidget* parent)
    : QAbstractScrollArea(parent), m_workspace(workspace), m_look(TraceLook::of(workspace)) {
    setFocusPolicy(Qt::StrongFocus);
    setFrameShape(QFrame::NoFrame);
    setAccessibleName(tr("Analytes and runs"));
    viewport()->setAutoFillBackground(false);
    connect(&workspace, &Workspace::changed, this, &RunTable::follow);
    connect(&workspace, &Workspace::selectionChanged, this, [this] {
        reveal();
        viewport()->update();
    });
    follow();
}

void RunTable::follow() {
    if (!m_workspace.isOpen()) {
        m_runs.clear();
        return;
    }
    const RunReview& review = m_look.review();
    m_runs.clear();
    std::ranges::copy_if(review.runs(), std::back_inserter(m_runs), [this](Place place) {
        return place.carrier == m_workspace.carrierNumber() && isShown(place, m_filter);
    });
    m_ranges.clear();
    for (int analyte = 1; analyte <= review.analytes(); ++analyte) {
        const Range& range = m_workspace.wholeEvaluation().analyte(analyte, m_workspace.carrierNumber()).range;
        std::pair<double, double> ends{range.lloq.value_or(0), range.uloq.value_or(0)};
        if (m_quantity != RunQuantity::Concentration || ends.second <= ends.first) {
            ends = {0, 0};
            bool isFirst = true;
            for (const Place place : m_runs) {
                if (const auto value = review.value(m_quantity, analyte, place)) {
                    ends = isFirst ? std::pair(*value, *value)
                                   : std::pair(std::min(ends.first, *value), std::max(ends.second, *value));
                    isFirst = false;
                }
            }
        }
        m_ranges.push_back(ends);
    }
    setBars();
    reveal();
    viewport()->update();
    Q_EMIT shownChanged();
}

void RunTable::setQuantity(RunQuantity quantity) {
    m_quantity = quantity;
    follow();
}

void RunTable::setFilter(RunFilter filter) {
    m_filter = filter;
    follow();
}

bool RunTable::isShown(Place place, RunFilter filter) const {
    const Role role = m_workspace.batch().at(place).role;
    switch (filter) {
    case RunFilter::All:
        return true;
    case RunFilter::Standards:
        return role == Role::Standard;
    case RunFilter::Qcs:
        return hasNominal(role);
    case RunFilter::Unknowns:
        return isOfSample(role);
    case RunFilter::Blanks:
        return isBlank(role);
    case RunFilter::ToLookAt:
        for (int analyte = 1; analyte <= m_look.review().analytes(); ++analyte) {
            if (m_look.review().asksForLook(analyte, place)) {
                return true;
            }
        }
        return false;
    }
    return true;
}

std::size_t RunTable::countOf(RunFilter filter) const {
    const auto& runs = m_look.review().runs();
    return static_cast<std::size_t>(std::ranges::count_if(
        runs, [&](Place place) { return place.carrier == m_workspace.carrierNumber() && isShown(place, filter); }));
}

int RunTable::contentHeight() const {
    return kHead + kRow * static_cast<int>(m_ranges.size()) + 4;
}

void RunTable::setBars() {
    const int wide = kColumn * static_cast<int>(m_runs.size()), tall = kRow * static_cast<int>(m_ranges.size());
    horizontalScrollBar()->setRange(0, std::max(0, wide - (viewport()->width() - kNames)));
    horizontalScrollBar()->setPageStep(viewport()->width() - kNames);
    horizontalScrollBar()->setSingleStep(kColumn);
    verticalScrollBar()->setRange(0, std::max(0, tall - (viewport()->height() - kHead)));
    verticalScrollBar()->setPageStep(viewport()->height() - kHead);
    verticalScrollBar()->setSingleStep(kRow);
}

void RunTable::resizeEvent(QResizeEvent*) {
    setBars();
}

QRect RunTable::rectOf(int analyte, std::size_t column) const {
    return {kNames + kColumn * static_cast<int>(column) - horizontalScrollBar()->value(),
            kHead + kRow * (analyte - 1) - verticalScrollBar()->value(), kColumn, kRow};
}

QRect RunTable::cellRect(int analyte, Place place) const {
    const auto found = std::ranges::find(m_runs, place);
    if (found == m_runs.end()) {
        return {};
    }
    const QRect rect = rectOf(analyte, static_cast<std::size_t>(found - m_runs.begin()));
    const bool isSeen = rect.left() >= kNames - 1 && rect.right() <= viewport()->width() && rect.top() >= kHead - 1;
    return isSeen ? rect : QRect();
}

std::optional<RunTable::Cell> RunTable::cellAt(QPoint position) const {
    const int row = (position.y() - kHead + verticalScrollBar()->value()) / kRow;
    const int column = (position.x() - kNames + horizontalScrollBar()->value()) / kColumn;
    if (position.y() < kHead || row < 0 || row >= static_cast<int>(m_ranges.size())) {
        return std::nullopt;
    }
    if (position.x() < kNames) { // the name: the run stays
        const auto current = currentColumn();
        return current ? std::optional(Cell{row + 1, *current}) : std::nullopt;
    }
    return column < static_cast<int>(m_runs.size()) ? std::optional(Cell{row + 1, static_cast<std::size_t>(column)})
                                                    : std::nullopt;
}

std::optional<std::size_t> RunTable::currentColumn() const {
    const auto found = std::ranges::find(m_runs, m_look.run());
    return found == m_runs.end() ? std::nullopt : std::optional(static_cast<std::size_t>(found - m_runs.begin()));
}

void RunTable::choose(int analyte, std::ptrdiff_t column) {
    if (m_runs.empty() || m_ranges.empty()) {
        return;
    }
    const int last = static_cast<int>(m_ranges.size());
    column = std::clamp<std::ptrdiff_t>(column, 0, std::ssize(m_runs) - 1);
    const int number = std::clamp(analyte, 1, last);
    if (number != m_workspace.analyteNumber()) {
        m_workspace.commitPending();
        m_workspace.showAnalyte(number);
    }
    m_workspace.select({m_runs[static_cast<std::size_t>(column)]});
}

void RunTable::reveal() {
    const auto column = currentColumn();
    if (!column) {
        return;
    }
    const int left = kColumn * static_cast<int>(*column), width = viewport()->width() - kNames;
    QScrollBar* bar = horizontalScrollBar();
    bar->setValue(std::clamp(bar->value(), left + kColumn - width, left));
    const int top = kRow * (m_workspace.analyteNumber() - 1), height = viewport()->height() - kHead;
    verticalScrollBar()->setValue(std::clamp(verticalScrollBar()->value(), top + kRow - height, top));
}

QString RunTable::cellText(int analyte, Place place) const {
    const Response& response = m_workspace.wholeEvaluation().at(analyte, place).at(place);
    if (response.state == ResponseState::NotRead) {
        return {};
    }
    const auto value = m_look.review().value(m_quantity, analyte, place);
    if (!value) {
        return notDefined();
    }
    constexpr int kFigures = 3;
    return shown(formatFigures(*value, kFigures));
}

std::optional<double> RunTable::shareOf(int analyte, double value) const {
    auto [low, high] = m_ranges[static_cast<std::size_t>(analyte) - 1];
    if (!(high > low)) {
        return std::nullopt;
    }
    if (m_quantity == RunQuantity::Concentration && isLogarithmic(m_workspace.batch().method.analyte(analyte)) &&
        low > 0 && value > 0) {
        return std::clamp(std::log(value / low) / std::log(high / low), 0.0, 1.0);
    }
    return std::clamp((value - low) / (high - low), 0.0, 1.0);
}

void RunTable::drawHead(QPainter& painter, std::size_t column) const {
    const Theme& t = theme();
    const Place place = m_runs[column];
    const Assignment group = m_workspace.batch().at(place);
    QRect rect = rectOf(1, column);
    rect.moveTop(0);
    rect.setHeight(kHead);
    if (m_workspace.selection().holds(place)) {
        painter.fillRect(rect, t.plumSoft);
    }
    drawRoleShape(painter, QPointF(rect.center().x() + 0.5, 10), 3.6, group.role, t.role(group.role));
    painter.setFont(uiFont(11.5, m_workspace.selection().holds(place) ? QFont::Bold : QFont::Normal));
    painter.setPen(t.ink);
    const QString name = text(shortName(m_workspace.batch(), group));
    painter.drawText(rect.adjusted(1, 16, -1, 0), Qt::AlignCenter,
                     painter.fontMetrics().elidedText(name, Qt::ElideRight, rect.width() - 2));
}

void RunTable::drawName(QPainter& painter, int analyte) const {
    const Theme& t = theme();
    QRect rect = rectOf(analyte, 0);
    rect.setLeft(0);
    rect.setWidth(kNames);
    const bool isCurrent = analyte == m_workspace.analyteNumber();
    if (isCurrent) {
        painter.fillRect(rect.adjusted(0, 0, -2, 0), t.plumSoft);
    }
    const std::size_t open = m_look.review().countToLookAt(analyte);
    const QPointF mark(11, rect.center().y() + 0.5);
    painter.setPen(Qt::NoPen);
    if (open > 0) { // a triangle asks, a disc is well: by shape, not by colour alone
        painter.setBrush(t.saffron);
        painter.drawPolygon(
            QPolygonF{{mark.x(), mark.y() - 4}, {mark.x() + 4.5, mark.y() + 3.5}, {mark.x() - 4.5, mark.y() + 3.5}});
    } else {
        painter.setBrush(t.pine);
        painter.drawEllipse(mark, 3.6, 3.6);
    }
    painter.setFont(uiFont(11.5));
    const QString count = open > 0 ? counted(open, tr("run"), tr("runs")) : QString();
    painter.setPen(t.mute);
    painter.drawText(rect.adjusted(0, 0, -8, 0), Qt::AlignRight | Qt::AlignVCenter, count);
    const int used = painter.fontMetrics().horizontalAdvance(count) + 12;
    painter.setFont(uiFont(12.5, isCurrent ? QFont::Bold : QFont::Normal));
    painter.setPen(t.ink);
    const std::string& name = m_workspace.batch().method.analyte(analyte).name;
    painter.drawText(rect.adjusted(24, 0, -used, 0), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(name.empty() ? tr("Analyte") : text(name), Qt::ElideRight,
                                                      rect.width() - 24 - used));
}

void RunTable::drawCell(QPainter& painter, int analyte, std::size_t column) const {
    const Theme& t = theme();
    const Place place = m_runs[column];
    const QRect rect = rectOf(analyte, column).adjusted(0, 0, -1, -1);
    const Response& response = m_workspace.wholeEvaluation().at(analyte, place).at(place);
    const auto value = m_look.review().value(m_quantity, analyte, place);
    const auto share = value ? shareOf(analyte, *value) : std::nullopt;
    QColor fill = share ? t.heat(*share) : t.field;
    painter.fillRect(rect, fill);
    if (response.state == ResponseState::NotFound) {
        painter.setPen(t.line);
        drawHatch(painter, QRectF(rect), 5, t);
    }
    QFont font = uiFont(11.5);
    font.setStrikeOut(response.state == ResponseState::Excluded);
    painter.setFont(font);
    painter.setPen(share ? t.inkOn(fill) : t.mute);
    painter.drawText(rect, Qt::AlignCenter, cellText(analyte, place));
    if (m_look.review().asksForLook(analyte, place)) {
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.saffron);
        painter.drawPolygon(QPolygonF{QPointF(rect.left(), rect.top()), QPointF(rect.left() + 8, rect.top()),
                                      QPointF(rect.left(), rect.top() + 8)});
    } else if (m_look.review().isAccepted(analyte, place)) {
        painter.setPen(QPen(t.pine, 1.6));
        painter.drawPolyline(QPolygonF{{rect.left() + 2.0, rect.top() + 4.0},
                                       {rect.left() + 4.0, rect.top() + 6.5},
                                       {rect.left() + 8.0, rect.top() + 1.5}});
    }
    const auto* rule = std::get_if<PeakRule>(&m_workspace.batch().method.analyte(analyte).source.rule);
    if (rule && m_workspace.batch().handEdits.contains(Slot{place.carrier, place, rule->channel}) &&
        response.position) {
        painter.setPen(QPen(t.ink, 1));
        painter.setBrush(t.card);
        painter.drawRect(QRectF(rect.right() - 5, rect.top() + 1, 4, 4));
    }
    if (analyte == m_workspace.analyteNumber() && place == m_look.run()) {
        painter.setPen(QPen(t.ink, 2));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(QRectF(rect).adjusted(1, 1, -1, -1));
    }
}

void RunTable::paintEvent(QPaintEvent*) {
    QPainter painter(viewport());
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const int analytes = static_cast<int>(m_ranges.size());
    const int width = viewport()->width(), height = viewport()->height();
    const auto first = static_cast<std::size_t>(horizontalScrollBar()->value() / kColumn);
    painter.setClipRect(kNames, 0, width - kNames, height);
    for (std::size_t column = first; column < m_runs.size() && rectOf(1, column).left() < width; ++column) {
        painter.setClipRect(kNames, kHead, width - kNames, height - kHead);
        for (int analyte = 1; analyte <= analytes; ++analyte) {
            const QRect rect = rectOf(analyte, column);
            if (rect.bottom() > kHead && rect.top() < height) {
                drawCell(painter, analyte, column);
            }
        }
        painter.setClipRect(kNames, 0, width - kNames, kHead);
        drawHead(painter, column);
    }
    painter.setClipRect(0, kHead, kNames, height - kHead);
    for (int analyte = 1; analyte <= analytes; ++analyte) {
        drawName(painter, analyte);
    }
    painter.setClipping(false);
    painter.setFont(uiFont(11.5));
    painter.setPen(t.mute);
    if (m_runs.empty()) {
        painter.drawText(QRect(kNames, kHead, width - kNames, kRow * 2), Qt::AlignCenter,
                         m_filter == RunFilter::ToLookAt ? tr("Nothing is left to look at.")
                                                         : tr("No run of this kind has a role."));
    }
    if (hasFocus()) {
        painter.setPen(QPen(t.plum, 1, Qt::DotLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(viewport()->rect().adjusted(0, 0, -1, -1));
    }
}

void RunTable::mousePressEvent(QMouseEvent* event) {
    const auto cell = cellAt(event->pos());
    if (!cell || event->button() != Qt::LeftButton) {
        return;
    }
    if (event->modifiers().testFlag(Qt::ControlModifier)) {
        m_workspace.select(withDragged(m_workspace.selection().places, {m_runs[cell->column]}));
        return;
    }
    choose(cell->analyte, static_cast<std::ptrdiff_t>(cell->column));
}

void RunTable::mouseDoubleClickEvent(QMouseEvent* event) {
    if (cellAt(event->pos())) {
        Q_EMIT activated();
    }
}

void RunTable::keyPressEvent(QKeyEvent* event) {
    const auto column = static_cast<std::ptrdiff_t>(currentColumn().value_or(0));
    const int analyte = m_workspace.analyteNumber();
    switch (event->key()) {
    case Qt::Key_Left:
        if (!event->modifiers()) {
            return choose(analyte, column - 1);
        }
        break;
    case Qt::Key_Right:
        if (!event->modifiers()) {
            return choose(analyte, column + 1);
        }
        break;
    case Qt::Key_Up:
        return choose(analyte - 1, column);
    case Qt::Key_Down:
        return choose(analyte + 1, column);
    case Qt::Key_Home:
        return choose(analyte, 0);
    case Qt::Key_End:
        return choose(analyte, std::ssize(m_runs) - 1);
    case Qt::Key_PageUp:
        return Q_EMIT pageAsked(-1);
    case Qt::Key_PageDown:
        return Q_EMIT pageAsked(1);
    case Qt::Key_Return:
    case Qt::Key_Enter:
        return Q_EMIT activated();
    default:
        break;
    }
    QAbstractScrollArea::keyPressEvent(event);
}

bool RunTable::viewportEvent(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const auto cell = cellAt(help->pos());
        if (!cell || help->pos().x() < kNames) {
            QToolTip::hideText();
            return true;
        }
        const Place place = m_runs[cell->column];
        QString tip = tr("%1 · %2").arg(text(m_workspace.batch().method.analyte(cell->analyte).name),
                                        text(placeTitle(m_workspace.batch(), place)));
        for (const std::string& reason : m_look.review().reasons(cell->analyte, place)) {
            tip += u'\n' + shown(reason);
        }
        if (const auto* out = m_workspace.batch().exclusion(place, cell->analyte)) {
            tip += u'\n' + tr("Excluded: %1").arg(text(out->reason));
        }
        QToolTip::showText(help->globalPos(), plainTip(tip), this);
        return true;
    }
    return QAbstractScrollArea::viewportEvent(event);
}

QString RunTable::copyText() const {
    QString out = tr("Analyte");
    for (const Place place : m_runs) {
        out += u'\t' + text(shortPlaceName(m_workspace.batch(), place)) + QStringLiteral(" ") +
               text(shortName(m_workspace.batch(), m_workspace.batch().at(place)));
    }
    out += u'\n';
    for (int analyte = 1; analyte <= static_cast<int>(m_ranges.size()); ++analyte) {
        out += text(m_workspace.batch().method.analyte(analyte).name);
        for (const Place place : m_runs) {
            const auto value = m_look.review().value(m_quantity, analyte, place);
            out += u'\t' + (value ? shown(formatNumber(*value)) : QString());
        }
        out += u'\n';
    }
    return out;
}

QString RunTable::statistics() const {
    std::vector<Place> among;
    for (const Place place : m_runs) {
        if (m_workspace.selection().holds(place)) {
            among.push_back(place);
        }
    }
    among = among.size() < 2 ? m_runs : among;
    std::vector<double> values;
    for (const Place place : among) {
        const auto value = m_look.review().value(m_quantity, m_workspace.analyteNumber(), place);
        if (value && !m_workspace.batch().isExcluded(place, m_workspace.analyteNumber())) {
            values.push_back(*value);
        }
    }
    const Description d = describe(values);
    if (!d.mean) {
        return {};
    }
    QString out = tr("%1, %2: n %3 · mean %4")
                      .arg(text(m_workspace.analyte().name), counted(among.size(), tr("run"), tr("runs")))
                      .arg(values.size())
                      .arg(shown(formatFigures(*d.mean, 4)));
    if (d.sd) {
        out += tr(" · SD %1").arg(shown(formatFigures(*d.sd, 3)));
    }
    if (d.cvPercent) {
        out += tr(" · RSD %1").arg(shown(formatPercent(*d.cvPercent)));
    }
    return out;
}

} // namespace nuvat
