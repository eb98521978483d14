#include "kinds/trace/trace_wall.h"

#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace nuvat {

namespace {

constexpr double kHead = 20, kAxis = 16, kGapX = 12, kGapY = 8;

} // namespace

TraceWall::TraceWall(Workspace& workspace, QWidget* parent)
    : QWidget(parent), m_workspace(workspace), m_look(TraceLook::of(workspace)) {
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(300, 200);
    setAccessibleName(tr("Wall of traces"));
    connect(&workspace, &Workspace::changed, this, &TraceWall::follow);
    connect(&workspace, &Workspace::selectionChanged, this, &TraceWall::follow);
    connect(&m_look, &TraceLook::changed, this, qOverload<>(&QWidget::update));
}

/// The page that shows the run which is looked at.
void TraceWall::follow() {
    const int page = m_look.run().row / perPage() * perPage();
    if (page != m_first) {
        m_first = page;
        Q_EMIT pageTurned();
    }
    update();
}

void TraceWall::setGrid(int columns, int rows) {
    m_columns = columns;
    m_rows = rows;
    m_first = m_look.run().row / perPage() * perPage();
    Q_EMIT pageTurned();
    update();
}

void TraceWall::setCommonScale(bool isCommon) {
    m_isCommon = isCommon;
    update();
}

void TraceWall::setWindowOnly(bool isWindowOnly) {
    m_isWindowOnly = isWindowOnly;
    update();
}

void TraceWall::turnPage(int by) {
    const int row = std::clamp(m_first + by * perPage(), 0, std::max(runs() - 1, 0));
    m_workspace.select({Place{row / perPage() * perPage(), 0, m_workspace.carrierNumber()}});
}

QString TraceWall::pageText() const {
    return tr("Runs %1 to %2 of %3").arg(m_first + 1).arg(std::min(m_first + perPage(), runs())).arg(runs());
}

std::optional<QRectF> TraceWall::cellRect(int run) const {
    const int at = run - m_first;
    if (at < 0 || at >= perPage() || run >= runs()) {
        return std::nullopt;
    }
    const double w = (width() - (m_columns - 1) * kGapX) / m_columns;
    const double h = (height() - (m_rows - 1) * kGapY) / m_rows;
    return QRectF(at % m_columns * (w + kGapX), at / m_columns * (h + kGapY), w, h);
}

std::optional<int> TraceWall::runAt(QPointF position) const {
    for (int run = m_first; run < std::min(m_first + perPage(), runs()); ++run) {
        if (cellRect(run)->contains(position)) {
            return run;
        }
    }
    return std::nullopt;
}

/// About the window of the analyte: two widths of it on each side, so that the base can be seen.
std::optional<Stretch> TraceWall::stretch() const {
    if (const auto expected = m_isWindowOnly ? m_look.expected() : std::nullopt) {
        const double width = expected->to - expected->from;
        return Stretch{expected->from - 1.5 * width, expected->to + 1.5 * width};
    }
    return m_look.zoom();
}

std::optional<std::pair<double, double>> TraceWall::commonY() const {
    std::optional<std::pair<double, double>> out;
    for (int run = m_first; m_isCommon && run < std::min(m_first + perPage(), runs()); ++run) {
        const auto trace = m_look.trace({run, 0, m_workspace.carrierNumber()});
        if (!trace || trace->size() < 2) {
            continue;
        }
        const Stretch x = stretch().value_or(Stretch{trace->xAt(0), trace->xAt(trace->size() - 1)});
        if (const auto y = rangeOfY(*trace, x.from, x.to, m_look.sign())) {
            out = out ? std::pair(std::min(out->first, y->first), std::max(out->second, y->second)) : *y;
        }
    }
    return out;
}

TraceWindow TraceWall::windowOf(const Trace& trace, const std::optional<std::pair<double, double>>& common) const {
    const Stretch x = stretch().value_or(Stretch{trace.xAt(0), trace.xAt(trace.size() - 1)});
    const auto y = common ? common : rangeOfY(trace, x.from, x.to, m_look.sign());
    const auto [low, high] = y.value_or(std::pair(0.0, 1.0));
    const double span = high > low ? high - low : 1;
    return {x.from, x.to > x.from ? x.to : x.from + 1, low - 0.06 * span, high + 0.22 * span};
}

void TraceWall::drawHead(QPainter& painter, const QRectF& head, Place place) const {
    const Theme& t = theme();
    const Batch& batch = m_workspace.batch();
    const Assignment group = batch.at(place);
    const Response& response = m_workspace.evaluation().at(place);
    if (group.role != Role::Empty) {
        drawRoleShape(painter, QPointF(head.left() + 10, head.center().y()), 3.6, group.role, t.role(group.role));
    }
    QString value;
    QColor ink = t.mute;
    if (response.state == ResponseState::NotFound) {
        value = tr("not found");
        ink = isOfSample(group.role) || isBlank(group.role) ? t.mute : t.brick; // of these it is an answer
    } else if (response.state == ResponseState::Excluded) {
        value = tr("excluded");
    } else if (batch.handEdits.contains(m_look.slot(place))) {
        value = tr("drawn by hand");
        ink = t.ink;
    } else if (response.raw) {
        value = shown(formatFigures(*response.raw, 4));
    }
    painter.setFont(uiFont(12));
    const double width = painter.fontMetrics().horizontalAdvance(value) + 4.0;
    painter.setPen(ink);
    painter.drawText(head.adjusted(0, 0, -4, 0), Qt::AlignRight | Qt::AlignVCenter, value);
    painter.setFont(uiFont(12, QFont::Bold));
    painter.setPen(t.ink);
    const QRectF name = head.adjusted(20, 0, -width - 6, 0);
    // Narrow cells have the names of places, all of them.
    constexpr double kNameFrom = 150;
    const bool isNarrow = head.width() < kNameFrom && group.role != Role::Empty;
    const QString words = isNarrow ? text(shortName(batch, group)) : m_look.runName(place);
    painter.drawText(
        name, Qt::AlignLeft | Qt::AlignVCenter,
        painter.fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(std::max(name.width(), 0.0))));
}

void TraceWall::drawCell(QPainter& painter, int run, const std::optional<std::pair<double, double>>& common) const {
    const Theme& t = theme();
    const Place place{run, 0, m_workspace.carrierNumber()};
    const QRectF cell = *cellRect(run);
    const bool isChosen = m_workspace.selection().holds(place);
    if (isChosen) {
        painter.setPen(QPen(t.plum, 1.6));
        painter.setBrush(Qt::NoBrush);
        painter.drawRoundedRect(cell.adjusted(1, 1, -1, -1), 5, 5);
    }
    drawHead(painter, QRectF(cell.left() + 2, cell.top() + 2, cell.width() - 4, kHead), place);
    const auto trace = m_look.trace(place);
    if (!trace || trace->size() < 2) {
        return;
    }
    const TraceAxes axes{cell.adjusted(8, kHead + 4, -8, -kAxis), windowOf(*trace, common)};
    if (axes.plot.height() < 10) {
        return;
    }
    drawTraceAxes(painter, axes, {}, {}, t, 0);
    painter.setFont(uiFont(11));
    painter.setPen(t.mute);
    const QRectF numbers(axes.plot.left(), axes.plot.bottom() + 1, axes.plot.width(), kAxis - 2);
    painter.drawText(numbers, Qt::AlignLeft | Qt::AlignTop, tickText(axes.window.xLow, 4));
    painter.drawText(numbers, Qt::AlignRight | Qt::AlignTop, tickText(axes.window.xHigh, 4));
    if (const auto expected = m_look.expected()) {
        QColor tint = t.slate;
        tint.setAlphaF(0.10F);
        const double left = std::max(axes.x(expected->from), axes.plot.left());
        const double right = std::min(axes.x(expected->to), axes.plot.right());
        if (right > left) {
            painter.fillRect(QRectF(left, axes.plot.top(), right - left, axes.plot.height()), tint);
        }
    }
    const auto measured = m_look.measured(place);
    const auto analytes = m_look.analytesOfPeaks(place);
    for (std::size_t i = 0; measured && i < measured->features.peaks.size(); ++i) {
        const bool isOwn = analytes[i] == m_workspace.analyteNumber();
        QColor fill = isOwn ? t.plum : t.mute;
        fill.setAlphaF(isOwn ? 0.3F : 0.1F);
        const TraceStroke line{isOwn ? t.plum : t.mute, 1.1, m_look.sign(), 0};
        drawPeak(painter, axes, *trace, measured->features.peaks, measured->features.peaks[i], fill, line);
    }
    drawTrace(painter, axes, *trace, {t.ink, 1.2, m_look.sign(), 0});
}

void TraceWall::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const auto common = commonY();
    for (int run = m_first; run < std::min(m_first + perPage(), runs()); ++run) {
        drawCell(painter, run, common);
    }
    if (hasFocus()) {
        painter.setPen(QPen(theme().plum, 1, Qt::DotLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    }
}

void TraceWall::mousePressEvent(QMouseEvent* event) {
    if (const auto run = runAt(event->position())) {
        const Place place{*run, 0, m_workspace.carrierNumber()};
        m_workspace.select(event->modifiers().testFlag(Qt::ControlModifier)
                               ? withDragged(m_workspace.selection().places, {place})
                               : std::vector{place});
    }
}

void TraceWall::mouseDoubleClickEvent(QMouseEvent* event) {
    if (const auto run = runAt(event->position())) {
        Q_EMIT activated({*run, 0, m_workspace.carrierNumber()});
    }
}

void TraceWall::keyPressEvent(QKeyEvent* event) {
    const int row = m_look.run().row;
    const auto go = [&](int to) { m_look.stepRun(std::clamp(to, 0, std::max(runs() - 1, 0)) - row); };
    switch (event->key()) {
    case Qt::Key_PageUp:
        return turnPage(-1);
    case Qt::Key_PageDown:
        return turnPage(1);
    case Qt::Key_Left:
        return go(row - 1);
    case Qt::Key_Right:
        return go(row + 1);
    case Qt::Key_Up:
        return go(row - m_columns);
    case Qt::Key_Down:
        return go(row + m_columns);
    case Qt::Key_Home:
        return go(0);
    case Qt::Key_End:
        return go(runs() - 1);
    case Qt::Key_Return:
    case Qt::Key_Enter:
        return Q_EMIT activated(m_look.run());
    default:
        QWidget::keyPressEvent(event);
    }
}

void TraceWall::wheelEvent(QWheelEvent* event) {
    if (event->angleDelta().y() != 0) {
        turnPage(event->angleDelta().y() > 0 ? -1 : 1);
    }
    event->accept();
}

} // namespace nuvat
