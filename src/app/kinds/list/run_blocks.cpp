#include "kinds/list/run_blocks.h"

#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <QApplication>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>

namespace nuvat {

namespace {

constexpr int kHeading = 28, kRow = 22, kMargin = 4;

QString stateText(RunState state) {
    switch (state) {
    case RunState::Planned:
        return RunBlocks::tr("planned");
    case RunState::Running:
        return RunBlocks::tr("running");
    case RunState::Done:
        return RunBlocks::tr("done");
    case RunState::Failed:
        return RunBlocks::tr("failed");
    case RunState::SetAside:
        return RunBlocks::tr("set aside");
    }
    return {};
}

QString whatText(const Batch& batch, Place place) {
    const Assignment group = batch.at(place);
    const std::string& unit = batch.method.analyte().unit;
    const auto level = group.role == Role::Standard ? batch.concentration(group.number) : batch.nominal(group, 1);
    if (level) {
        return shown(formatNumber(*level)) + u' ' + text(unit);
    }
    const double dilution = batch.dilution(group);
    return dilution == 1 ? QString() : QStringLiteral("÷ ") + shown(formatNumber(dilution));
}

} // namespace

QString spanText(double seconds) {
    const int minutes = static_cast<int>(std::lround(seconds / 60));
    return minutes < 60 ? RunBlocks::tr("%1 min").arg(minutes)
                        : RunBlocks::tr("%1 h %2 min").arg(minutes / 60).arg(minutes % 60);
}

QString blockTitle(const Batch& batch, int carrier, const RunBlock& block) {
    switch (block.kind) {
    case RunBlockKind::Blank:
        return text(batch.runs.contains({block.first, 0, carrier}) &&
                            !batch.runs.at({block.first, 0, carrier}).name.empty()
                        ? batch.runs.at({block.first, 0, carrier}).name
                        : std::string("Blank"));
    case RunBlockKind::Standards:
        return RunBlocks::tr("Standards");
    case RunBlockKind::Samples: {
        bool hasSample = false, hasQc = false;
        for (int row = block.first; row < block.first + block.count; ++row) {
            const Role role = batch.at({row, 0, carrier}).role;
            hasSample = hasSample || isOfSample(role);
            hasQc = hasQc || hasNominal(role);
        }
        return !hasSample ? RunBlocks::tr("QCs") : hasQc ? RunBlocks::tr("Samples and QCs") : RunBlocks::tr("Samples");
    }
    case RunBlockKind::Other:
        return RunBlocks::tr("Without a role");
    }
    return {};
}

RunBlocks::RunBlocks(Workspace& workspace, QWidget* parent) : QAbstractScrollArea(parent), m_workspace(workspace) {
    setObjectName(QStringLiteral("runBlocks"));
    setFrameShape(QFrame::NoFrame);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Run list in blocks"));
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    verticalScrollBar()->setSingleStep(kRow);
    viewport()->setMouseTracking(true);
    connect(&workspace, &Workspace::selectionChanged, viewport(), qOverload<>(&QWidget::update));
}

void RunBlocks::setSeconds(std::optional<double> byRun) {
    m_seconds = byRun;
    viewport()->update();
}

void RunBlocks::refresh() {
    const Batch& batch = m_workspace.batch();
    m_blocks = blocksOf(batch, m_workspace.carrierNumber());
    m_lines.clear();
    int top = kMargin;
    for (std::size_t block = 0; block < m_blocks.size(); ++block) {
        m_lines.push_back({block, std::nullopt, top});
        top += kHeading;
        for (int i = 0; !isFolded(block) && i < m_blocks[block].count; ++i) {
            m_lines.push_back({block, m_blocks[block].first + i, top});
            top += kRow;
        }
    }
    verticalScrollBar()->setRange(0, std::max(0, top + kMargin - viewport()->height()));
    verticalScrollBar()->setPageStep(viewport()->height());
    viewport()->update();
}

void RunBlocks::bringUp(int row) {
    const QRect area = rowRect(row);
    if (area.isValid() && (area.top() < 0 || area.bottom() > viewport()->height())) {
        verticalScrollBar()->setValue(verticalScrollBar()->value() + area.top() - 2 * kHeading);
    }
}

void RunBlocks::resizeEvent(QResizeEvent* event) {
    QAbstractScrollArea::resizeEvent(event);
    refresh();
}

QRect RunBlocks::lineRect(std::size_t line) const {
    const Line& one = m_lines[line];
    return {2, one.top - verticalScrollBar()->value(), viewport()->width() - 6, one.row ? kRow : kHeading};
}

QRect RunBlocks::headingRect(std::size_t block) const {
    for (std::size_t i = 0; i < m_lines.size(); ++i) {
        if (m_lines[i].block == block && !m_lines[i].row) {
            return lineRect(i);
        }
    }
    return {};
}

QRect RunBlocks::rowRect(int row) const {
    for (std::size_t i = 0; i < m_lines.size(); ++i) {
        if (m_lines[i].row == row) {
            return lineRect(i);
        }
    }
    return {};
}

std::optional<std::size_t> RunBlocks::lineAt(QPoint position) const {
    for (std::size_t i = 0; i < m_lines.size(); ++i) {
        if (lineRect(i).contains(position)) {
            return i;
        }
    }
    return std::nullopt;
}

int RunBlocks::rowBefore(QPoint position) const {
    const auto line = lineAt({viewport()->width() / 2, position.y()});
    if (!line) {
        return position.y() < 0 || m_blocks.empty() ? 0 : m_blocks.back().first + m_blocks.back().count;
    }
    const RunBlock& block = m_blocks[m_lines[*line].block];
    const bool isLower = position.y() > lineRect(*line).center().y();
    if (m_lines[*line].row) {
        return *m_lines[*line].row + (isLower ? 1 : 0);
    }
    return isLower && isFolded(m_lines[*line].block) ? block.first + block.count : block.first;
}

void RunBlocks::fold(std::size_t block) {
    const int first = m_blocks[block].first;
    if (m_folded.erase(first) == 0) {
        m_folded.insert(first);
    }
    refresh();
}

void RunBlocks::select(int first, int count) {
    std::vector<Place> places;
    for (int row = first; row < first + count; ++row) {
        places.push_back({row, 0, m_workspace.carrierNumber()});
    }
    m_workspace.select(places);
}

RunBlocks::Moved RunBlocks::selected() const {
    Moved out;
    for (const Place place : m_workspace.selection().places) {
        if (place.carrier != m_workspace.carrierNumber()) {
            continue;
        }
        if (out.count > 0 && place.row != out.first + out.count) {
            return {out.first, 0}; // they do not follow each other
        }
        out.first = out.count == 0 ? place.row : out.first;
        ++out.count;
    }
    return out;
}

void RunBlocks::move(Moved what, int before) {
    const int carrier = m_workspace.carrierNumber();
    if (!m_workspace.apply(moveRuns(m_workspace.newest(), carrier, what.first, what.count, before))) {
        return;
    }
    const int first = before < what.first ? before : before - what.count;
    m_workspace.afterwards([this, first, count = what.count] { select(first, count); });
}

void RunBlocks::moveBy(int by) {
    const Moved what = selected();
    const int rows = m_workspace.carrier().rows;
    if (what.count == 0) {
        m_workspace.tell(tr("Choose a run, or a block by its heading, to move it."), false);
        return;
    }
    const int before = by < 0 ? what.first - 1 : what.first + what.count + 1;
    if (before >= 0 && before <= rows) {
        move(what, before);
    }
}

void RunBlocks::removeSelected() {
    m_workspace.apply(removeRuns(m_workspace.newest(), m_workspace.selection().places));
}

void RunBlocks::mousePressEvent(QMouseEvent* event) {
    const auto line = lineAt(event->position().toPoint());
    if (!line || event->button() != Qt::LeftButton) {
        return;
    }
    const Line& hit = m_lines[*line];
    constexpr int kArrow = 44; // grip and arrow before the words
    if (!hit.row && event->position().x() > 18 && event->position().x() < kArrow) {
        fold(hit.block);
        return;
    }
    m_pressed = event->position().toPoint();
    if (!hit.row) {
        select(m_blocks[hit.block].first, m_blocks[hit.block].count);
        return;
    }
    const Moved now = selected();
    if (event->modifiers().testFlag(Qt::ShiftModifier) && now.count > 0) {
        const int from = std::min(now.first, *hit.row), to = std::max(now.first + now.count - 1, *hit.row);
        select(from, to - from + 1);
    } else if (*hit.row < now.first || *hit.row >= now.first + now.count) {
        select(*hit.row, 1); // pressed within what is selected drags all of it
    }
}

void RunBlocks::mouseMoveEvent(QMouseEvent* event) {
    const QPoint position = event->position().toPoint();
    if (m_pressed && !m_dragged && (position - *m_pressed).manhattanLength() >= QApplication::startDragDistance()) {
        const Moved what = selected();
        m_dragged = what.count > 0 ? std::optional(what) : std::nullopt;
    }
    if (m_dragged) {
        m_dropBefore = rowBefore(position);
        viewport()->setCursor(Qt::ClosedHandCursor);
        viewport()->update();
        return;
    }
    const auto line = lineAt(position);
    viewport()->setCursor(line && !m_lines[*line].row ? Qt::OpenHandCursor : Qt::ArrowCursor);
}

void RunBlocks::mouseReleaseEvent(QMouseEvent* event) {
    const auto what = std::exchange(m_dragged, std::nullopt);
    const auto before = std::exchange(m_dropBefore, std::nullopt);
    const bool wasPressed = m_pressed.has_value();
    m_pressed.reset();
    viewport()->setCursor(Qt::ArrowCursor);
    viewport()->update();
    if (what && before) {
        if (*before < what->first || *before > what->first + what->count) {
            move(*what, *before);
        }
        return;
    }
    const auto line = lineAt(event->position().toPoint());
    if (wasPressed && line && m_lines[*line].row && !event->modifiers().testFlag(Qt::ShiftModifier)) {
        select(*m_lines[*line].row, 1);
    }
}

void RunBlocks::mouseDoubleClickEvent(QMouseEvent* event) {
    if (const auto line = lineAt(event->position().toPoint()); line && !m_lines[*line].row) {
        fold(m_lines[*line].block);
    }
}

void RunBlocks::keyPressEvent(QKeyEvent* event) {
    const int by = event->key() == Qt::Key_Down ? 1 : event->key() == Qt::Key_Up ? -1 : 0;
    if (by != 0 && event->modifiers().testFlag(Qt::AltModifier)) {
        moveBy(by);
        return;
    }
    if (by != 0) {
        const Moved now = selected();
        const int row = now.count == 0 ? 0 : std::clamp(now.first + by, 0, m_workspace.carrier().rows - 1);
        select(row, 1);
        bringUp(row);
        return;
    }
    if (event->key() == Qt::Key_Delete) {
        removeSelected();
        return;
    }
    QAbstractScrollArea::keyPressEvent(event);
}

void RunBlocks::drawHeading(QPainter& painter, QRect area, std::size_t block) const {
    const Theme& t = theme();
    const RunBlock& what = m_blocks[block];
    painter.setPen(t.line);
    painter.setBrush(t.rail);
    painter.drawRoundedRect(area.adjusted(0, 2, -1, -2), 5, 5);
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.mute);
    for (int i = 0; i < 6; ++i) { // a grip
        painter.drawEllipse(QPointF(area.left() + 9 + 4 * (i % 2), area.center().y() - 4 + 4 * (i / 2)), 1.1, 1.1);
    }
    painter.setPen(QPen(t.ink, 1.5));
    const QPointF arrow(area.left() + 29, area.center().y() + 0.5);
    painter.drawPolyline(isFolded(block)
                             ? QPolygonF{arrow + QPointF(-2, -4), arrow + QPointF(2, 0), arrow + QPointF(-2, 4)}
                             : QPolygonF{arrow + QPointF(-4, -2), arrow + QPointF(0, 2), arrow + QPointF(4, -2)});
    painter.setFont(uiFont(13, QFont::Bold));
    painter.setPen(t.ink);
    painter.drawText(area.adjusted(44, 0, -150, 0), static_cast<int>(Qt::AlignVCenter),
                     blockTitle(m_workspace.batch(), m_workspace.carrierNumber(), what));
    painter.setFont(uiFont(12));
    painter.setPen(t.mute);
    const QString count = counted(static_cast<std::size_t>(what.count), tr("run"), tr("runs")) +
                          (m_seconds ? QStringLiteral(" · ") + spanText(what.count * *m_seconds) : QString());
    painter.drawText(area.adjusted(0, 0, -10, 0), static_cast<int>(Qt::AlignVCenter) | static_cast<int>(Qt::AlignRight),
                     count);
}

void RunBlocks::drawRun(QPainter& painter, QRect area, int row) const {
    const Theme& t = theme();
    const Batch& batch = m_workspace.batch();
    const Place place{row, 0, m_workspace.carrierNumber()};
    const Assignment group = batch.at(place);
    if (m_workspace.selection().holds(place)) {
        painter.fillRect(area, t.plumSoft);
    }
    const auto found = batch.runs.find(place);
    const Run run = found == batch.runs.end() ? Run{} : found->second;
    const auto put = [&](int left, int right, const QString& words, bool isRight = false) {
        const QRect cell(area.left() + left, area.top(), right - left, area.height());
        painter.drawText(
            cell, static_cast<int>(Qt::AlignVCenter) | static_cast<int>(isRight ? Qt::AlignRight : Qt::AlignLeft),
            painter.fontMetrics().elidedText(words, Qt::ElideRight, cell.width()));
    };
    const int end = area.width() - 8;
    painter.setFont(uiFont(12));
    painter.setPen(t.mute);
    put(4, 34, QString::number(row + 1), true);
    drawRoleShape(painter, QPointF(area.left() + 48, area.center().y() + 0.5), 4, group.role, t.role(group.role));
    const bool isWaiting = run.state == RunState::Planned || run.state == RunState::Running;
    painter.setPen(isWaiting ? t.ink : t.mute);
    const std::string name = shortName(batch, group);
    const bool hasOwnName = !run.name.empty() && run.name != name && group.role != Role::Standard;
    put(60, end - 216,
        group.role == Role::Empty ? text(run.name)
                                  : text(name) + (hasOwnName ? QStringLiteral("  ") + text(run.name) : QString()));
    painter.setPen(t.mute);
    put(end - 212, end - 150, run.vial.empty() ? QString() : tr("vial %1").arg(text(run.vial)));
    put(end - 146, end - 66, whatText(batch, place));
    painter.setPen(run.state == RunState::Failed ? t.brick : t.mute);
    put(end - 62, end, stateText(run.state), true);
}

void RunBlocks::paintEvent(QPaintEvent*) {
    QPainter painter(viewport());
    painter.setRenderHint(QPainter::Antialiasing);
    for (std::size_t i = 0; i < m_lines.size(); ++i) {
        const QRect area = lineRect(i);
        if (area.bottom() < 0 || area.top() > viewport()->height()) {
            continue;
        }
        m_lines[i].row ? drawRun(painter, area, *m_lines[i].row) : drawHeading(painter, area, m_lines[i].block);
    }
    if (m_dropBefore) {
        QRect at = rowRect(*m_dropBefore);
        if (!at.isValid()) {
            at = rowRect(*m_dropBefore - 1).translated(0, kRow);
        }
        painter.setPen(QPen(theme().plum, 2));
        painter.drawLine(at.left(), at.top(), at.right(), at.top());
    }
    if (hasFocus() && selected().count == 0) { // else what is selected shows where the keyboard is
        painter.setPen(QPen(theme().plum, 1, Qt::DotLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(viewport()->rect().adjusted(0, 0, -1, -1));
    }
}

RunTimeline::RunTimeline(Workspace& workspace, QWidget* parent) : QWidget(parent), m_workspace(workspace) {
    setObjectName(QStringLiteral("runTimeline"));
    setAccessibleName(tr("When runs are measured"));
    setFixedHeight(sizeHint().height());
    connect(&workspace, &Workspace::selectionChanged, this, qOverload<>(&QWidget::update));
}

void RunTimeline::setSeconds(std::optional<double> byRun) {
    m_seconds = byRun;
    update();
}

void RunTimeline::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const Batch& batch = m_workspace.batch();
    const int rows = m_workspace.carrier().rows;
    const double step = (width() - 8.0) / std::max(1, rows);
    for (int row = 0; row < rows; ++row) {
        const Place place{row, 0, m_workspace.carrierNumber()};
        const Role role = batch.at(place).role;
        const auto run = batch.runs.find(place);
        const bool isDone = run == batch.runs.end() || run->second.state == RunState::Done;
        const bool isSample = isOfSample(role);
        const QRectF bar(4 + step * row, isSample ? 10 : 4, std::max(1.0, step - (step > 4 ? 1 : 0)),
                         isSample ? 14 : 20);
        painter.fillRect(bar, isDone ? t.role(role) : t.roleSoft(role));
        if (!isDone && step > 3) {
            painter.setPen(QPen(t.role(role), 1));
            painter.setBrush(Qt::NoBrush);
            painter.drawRect(bar.adjusted(0.5, 0.5, -0.5, -0.5));
        }
        if (m_workspace.selection().holds(place)) {
            painter.setPen(QPen(t.ink, 1.8));
            painter.setBrush(Qt::NoBrush);
            painter.drawRect(bar.adjusted(-1, -2, 1, 2));
        }
    }
    painter.setFont(uiFont(11));
    painter.setPen(t.mute);
    constexpr int kLabel = 74;
    const int every = std::max(1, static_cast<int>(std::ceil(kLabel / step)));
    for (int row = 0; row < rows; row += every) {
        const QString words = m_seconds ? spanText(row * *m_seconds) : QString::number(row + 1);
        const double x = 4 + step * row;
        if (x < width() - kLabel + 8) {
            painter.drawText(QPointF(x, height() - 4.0), row == 0 ? (m_seconds ? tr("start") : tr("run 1")) : words);
        }
    }
}

void RunTimeline::mousePressEvent(QMouseEvent* event) {
    const int rows = m_workspace.carrier().rows;
    const int row = static_cast<int>((event->position().x() - 4) / ((width() - 8.0) / std::max(1, rows)));
    if (row >= 0 && row < rows) {
        m_workspace.select({Place{row, 0, m_workspace.carrierNumber()}});
    }
}

} // namespace nuvat
