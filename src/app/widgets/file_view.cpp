#include "widgets/file_view.h"

#include "nuvat/core/base/number.h"
#include "nuvat/report/theme.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QPainter>
#include <QScrollBar>
#include <QToolTip>

namespace nuvat {

namespace {

constexpr int kLine = 22;
constexpr int kGutter = 44;
constexpr int kHead = 20;
constexpr int kNarrow = 48;
constexpr int kWide = 150;

} // namespace

FileView::FileView(QWidget* parent) : QAbstractScrollArea(parent) {
    setFrameShape(QFrame::NoFrame);
    setFocusPolicy(Qt::StrongFocus);
    setObjectName(QStringLiteral("importFile"));
    setAccessibleName(tr("The file as it stands"));
    viewport()->setMouseTracking(false);
    verticalScrollBar()->setSingleStep(kLine);
    horizontalScrollBar()->setSingleStep(kNarrow);
    connect(verticalScrollBar(), &QScrollBar::valueChanged, viewport(), qOverload<>(&QWidget::update));
    connect(horizontalScrollBar(), &QScrollBar::valueChanged, viewport(), qOverload<>(&QWidget::update));
}

void FileView::show(std::shared_ptr<const PlateFile> file, const std::vector<PlateImport>& reads, std::size_t shown) {
    const bool isOther = m_file != file;
    m_file = std::move(file);
    m_shown = shown;
    understand(reads, shown);
    if (isOther) {
        measureColumns();
        m_from = m_to = {};
        verticalScrollBar()->setValue(0);
        horizontalScrollBar()->setValue(0);
    }
    updateBars();
    viewport()->update();
    Q_EMIT markChanged();
}

void FileView::understand(const std::vector<PlateImport>& reads, std::size_t shown) {
    m_marks.clear();
    for (std::size_t i = 0; i < reads.size(); ++i) {
        if (i != shown && m_file != nullptr && reads[i].file == m_file) {
            markRead(reads[i], i, false);
        }
    }
    if (shown < reads.size()) {
        markRead(reads[shown], shown, true);
    }
}

void FileView::markRead(const PlateImport& read, std::size_t index, bool isShown) {
    double low = 1e300, high = -1e300;
    for (const PlateCell& well : read.wells) {
        low = std::min(low, well.value.value_or(low));
        high = std::max(high, well.value.value_or(high));
    }
    for (std::size_t i = 0; i < read.wells.size(); ++i) {
        const PlateCell& well = read.wells[i];
        if (well.line == 0) {
            continue;
        }
        const int row = static_cast<int>(i) / read.columns, column = static_cast<int>(i) % read.columns;
        const QString place = read.isRunList ? tr("run %1").arg(row + 1) : text(wellName(row, column));
        Mark mark{CellMeaning::Value, index, 0.5, place};
        if (well.value) {
            mark.share = high > low ? (*well.value - low) / (high - low) : 0.5;
        } else if (!well.text.empty()) {
            mark.meaning = CellMeaning::Unusable;
            mark.words = tr("%1: no number, unusable").arg(place);
        }
        if (!isShown) {
            mark.meaning = CellMeaning::OfAnotherRead;
            mark.words = tr("%1 of read %2").arg(place).arg(index + 1);
        }
        m_marks[{well.line, well.column}] = mark;
        if (isShown && read.labelColumn > 0) {
            m_marks[{well.line, read.labelColumn}] = {CellMeaning::Label, index, 0,
                                                      read.isRunList ? tr("name of a sample")
                                                      : read.isList  ? tr("name of a well")
                                                                     : tr("row letter")};
        }
        if (isShown && read.headingLine > 0 && read.isList && !read.isRunList &&
            parseWellName(cellText(read.headingLine, well.column))) { // times against wells
            m_marks[{read.headingLine, well.column}] = {CellMeaning::ColumnNumber, index, 0, tr("name of a well")};
        }
        if (isShown && read.headingLine > 0 && !read.isList) {
            m_marks[{read.headingLine, well.column}] = {CellMeaning::ColumnNumber, index, 0, tr("column number")};
        }
    }
    if (isShown && read.nameLine > 0) {
        m_marks[{read.nameLine, read.nameColumn}] = {CellMeaning::ReadName, index, 0, tr("name of the read")};
    }
    if (isShown && read.unitLine > 0) {
        const bool isBoth = read.unitLine == read.nameLine && read.unitColumn == read.nameColumn;
        m_marks[{read.unitLine, read.unitColumn}] = {CellMeaning::ReadName, index, 0,
                                                     isBoth ? tr("name of the read, and unit of its values")
                                                            : tr("unit of the values")};
    }
}

std::string_view FileView::cellText(int line, int cell) const {
    const auto& rows = m_file->table.rows;
    const auto row = std::ranges::lower_bound(rows, line, {}, &DelimitedRow::line);
    const auto at = static_cast<std::size_t>(cell) - 1;
    return row == rows.end() || row->line != line || at >= row->cells.size() ? std::string_view() : row->cells[at];
}

void FileView::measureColumns() {
    constexpr int kMeasured = 2000;
    m_lefts.assign(1, kGutter);
    const QFontMetrics metrics(uiFont(12));
    std::vector<int> widths;
    for (int row = 0; row < std::min(rowCount(), kMeasured); ++row) {
        const DelimitedRow& line = m_file->table.rows[static_cast<std::size_t>(row)];
        widths.resize(std::max(widths.size(), line.cells.size()), kNarrow);
        const auto isFilled = [](const std::string& cell) { return !trimmed(cell).empty(); };
        const auto last = std::find_if(line.cells.rbegin(), line.cells.rend(), isFilled);
        const auto filled = static_cast<std::size_t>(line.cells.rend() - last);
        for (std::size_t c = 0; c < filled; ++c) {
            // A sentence runs over what is free beside it.
            if (c + 1 < filled || markAt(line.line, static_cast<int>(c) + 1) != nullptr) {
                widths[c] = std::clamp(metrics.horizontalAdvance(text(line.cells[c]).trimmed()) + 14, widths[c], kWide);
            }
        }
    }
    for (const int width : widths) {
        m_lefts.push_back(m_lefts.back() + width);
    }
}

void FileView::updateBars() {
    verticalScrollBar()->setPageStep(viewport()->height() - kHead);
    verticalScrollBar()->setRange(0, std::max(0, kHead + rowCount() * kLine - viewport()->height()));
    horizontalScrollBar()->setPageStep(viewport()->width());
    horizontalScrollBar()->setRange(0, m_lefts.empty() ? 0 : std::max(0, m_lefts.back() - viewport()->width() + 8));
}

void FileView::resizeEvent(QResizeEvent*) {
    updateBars();
}

const FileView::Mark* FileView::markAt(int line, int cell) const {
    const auto found = m_marks.find({line, cell});
    return found == m_marks.end() ? nullptr : &found->second;
}

QString FileView::meaningText(int line, int cell) const {
    const Mark* mark = markAt(line, cell);
    return mark == nullptr ? QString() : mark->words;
}

QRect FileView::areaOf(Spot spot) const {
    const auto c = static_cast<std::size_t>(spot.cell);
    return {m_lefts[c] - horizontalScrollBar()->value(), kHead + spot.row * kLine - verticalScrollBar()->value(),
            m_lefts[c + 1] - m_lefts[c], kLine};
}

QRect FileView::cellArea(int line, int cell) const {
    const auto& rows = m_file->table.rows;
    const auto found = std::ranges::find(rows, line, &DelimitedRow::line);
    return areaOf({static_cast<int>(found - rows.begin()), cell - 1});
}

std::optional<FileView::Spot> FileView::spotAt(const QPoint& at) const {
    if (rowCount() == 0 || cellCount() < 1) {
        return std::nullopt;
    }
    const int x = at.x() + horizontalScrollBar()->value();
    const auto right = std::upper_bound(m_lefts.begin(), m_lefts.end(), x);
    const int cell = static_cast<int>(right - m_lefts.begin()) - 1;
    const int row = (at.y() - kHead + verticalScrollBar()->value()) / kLine;
    return Spot{std::clamp(row, 0, rowCount() - 1), std::clamp(cell, 0, cellCount() - 1)};
}

std::optional<CellBlock> FileView::marked() const {
    if (rowCount() == 0 || cellCount() < 1) {
        return std::nullopt;
    }
    const auto& rows = m_file->table.rows;
    const auto [top, bottom] = std::minmax(m_from.row, m_to.row);
    const auto [left, right] = std::minmax(m_from.cell, m_to.cell);
    const int line = rows[static_cast<std::size_t>(top)].line;
    return CellBlock{m_file->table.sheet, line, left + 1, rows[static_cast<std::size_t>(bottom)].line - line + 1,
                     right - left + 1};
}

QString FileView::markedText() const {
    const DelimitedRow& row = m_file->table.rows[static_cast<std::size_t>(m_from.row)];
    const auto cell = static_cast<std::size_t>(m_from.cell);
    return cell < row.cells.size() ? text(row.cells[cell]).trimmed() : QString();
}

void FileView::moveTo(Spot spot, bool isExtended) {
    m_to = {std::clamp(spot.row, 0, rowCount() - 1), std::clamp(spot.cell, 0, cellCount() - 1)};
    m_from = isExtended ? m_from : m_to;
    const QRect area = areaOf(m_to);
    QScrollBar *down = verticalScrollBar(), *across = horizontalScrollBar();
    down->setValue(down->value() + std::min(0, area.top() - kHead) +
                   std::max(0, area.bottom() - viewport()->height() + 1));
    across->setValue(across->value() + std::min(0, area.left() - kGutter) +
                     std::max(0, area.right() - viewport()->width() + 1));
    viewport()->update();
    Q_EMIT markChanged();
}

void FileView::mousePressEvent(QMouseEvent* event) {
    const auto spot = spotAt(event->pos());
    if (event->button() != Qt::LeftButton || !spot) {
        return;
    }
    moveTo(*spot, event->modifiers().testFlag(Qt::ShiftModifier));
    const Mark* mark = markAt(m_file->table.rows[static_cast<std::size_t>(spot->row)].line, spot->cell + 1);
    if (mark != nullptr && mark->meaning == CellMeaning::OfAnotherRead) {
        Q_EMIT readClicked(mark->read);
    }
}

void FileView::mouseMoveEvent(QMouseEvent* event) {
    if (const auto spot = spotAt(event->pos()); spot && event->buttons().testFlag(Qt::LeftButton)) {
        moveTo(*spot, true);
    }
}

void FileView::keyPressEvent(QKeyEvent* event) {
    if (rowCount() == 0) {
        return;
    }
    if (event->key() == Qt::Key_Escape && (m_from.row != m_to.row || m_from.cell != m_to.cell)) {
        moveTo(m_to, false); // the mark is given up first, the preview by the next Esc
        return;
    }
    const int page = std::max(1, (viewport()->height() - kHead) / kLine - 1);
    Spot to = m_to;
    switch (event->key()) {
    case Qt::Key_Up:
        --to.row;
        break;
    case Qt::Key_Down:
        ++to.row;
        break;
    case Qt::Key_Left:
        --to.cell;
        break;
    case Qt::Key_Right:
        ++to.cell;
        break;
    case Qt::Key_PageUp:
        to.row -= page;
        break;
    case Qt::Key_PageDown:
        to.row += page;
        break;
    case Qt::Key_Home:
        to.cell = 0;
        break;
    case Qt::Key_End:
        to.cell = cellCount() - 1;
        break;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        Q_EMIT taken();
        return;
    default:
        QAbstractScrollArea::keyPressEvent(event);
        return;
    }
    moveTo(to, event->modifiers().testFlag(Qt::ShiftModifier));
}

void FileView::focusInEvent(QFocusEvent*) {
    viewport()->update();
}

void FileView::focusOutEvent(QFocusEvent*) {
    viewport()->update();
}

bool FileView::viewportEvent(QEvent* event) {
    if (event->type() != QEvent::ToolTip) {
        return QAbstractScrollArea::viewportEvent(event);
    }
    const auto* help = static_cast<QHelpEvent*>(event);
    if (const auto spot = spotAt(help->pos())) {
        const DelimitedRow& row = m_file->table.rows[static_cast<std::size_t>(spot->row)];
        const QString meaning = meaningText(row.line, spot->cell + 1);
        const QString place = tr("line %1, cell %2").arg(row.line).arg(spot->cell + 1);
        QToolTip::showText(help->globalPos(), plainTip(meaning.isEmpty() ? tr("%1: not imported").arg(place)
                                                                         : place + QStringLiteral(": ") + meaning));
    }
    return true;
}

void FileView::paintEvent(QPaintEvent*) {
    QPainter painter(viewport());
    painter.fillRect(viewport()->rect(), theme().card);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(uiFont(12));
    if (rowCount() == 0) {
        return;
    }
    const int first = verticalScrollBar()->value() / kLine;
    const int last = std::min(rowCount() - 1, first + viewport()->height() / kLine + 1);
    painter.save();
    painter.setClipRect(QRect(kGutter, kHead, viewport()->width() - kGutter, viewport()->height() - kHead));
    for (int row = first; row <= last; ++row) {
        drawRow(painter, row);
    }
    drawMarked(painter);
    painter.restore();
    drawHeads(painter);
}

void FileView::drawRow(QPainter& painter, int row) const {
    const DelimitedRow& line = m_file->table.rows[static_cast<std::size_t>(row)];
    for (int cell = 0; cell < static_cast<int>(line.cells.size()) && cell < cellCount(); ++cell) {
        QRect area = areaOf({row, cell});
        const QString words = text(line.cells[static_cast<std::size_t>(cell)]).trimmed();
        const Mark* mark = markAt(line.line, cell + 1);
        const bool canRun = mark == nullptr || mark->meaning == CellMeaning::ReadName;
        for (auto next = static_cast<std::size_t>(cell) + 1; canRun && area.width() < viewport()->width(); ++next) {
            if (next < line.cells.size() && !trimmed(line.cells[next]).empty()) {
                break; // a sentence runs over what is free beside it
            }
            area.setRight(area.right() + kNarrow);
        }
        if (area.left() < viewport()->width()) {
            drawCell(painter, area, words, mark);
        }
    }
}

void FileView::drawCell(QPainter& painter, const QRect& area, const QString& words, const Mark* mark) const {
    const Theme& t = theme();
    const QRectF box = QRectF(area).adjusted(1, 1, -1, -1);
    const QRect inner = area.adjusted(6, 0, -4, 0);
    int align = Qt::AlignVCenter | Qt::AlignLeft;
    painter.setPen(t.mute);
    painter.setFont(uiFont(
        12, mark != nullptr && (mark->meaning == CellMeaning::Label || mark->meaning == CellMeaning::ColumnNumber)
                ? QFont::Bold
                : QFont::Normal));
    switch (mark == nullptr ? CellMeaning::ReadName : mark->meaning) {
    case CellMeaning::Value: {
        const QColor fill = t.heat(mark->share);
        painter.fillRect(box, fill);
        painter.setPen(t.inkOn(fill));
        align = Qt::AlignCenter;
        break;
    }
    case CellMeaning::Unusable:
        painter.setPen(QPen(t.brick, 1, Qt::DashLine));
        painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
        painter.setPen(t.brick);
        align = Qt::AlignCenter;
        break;
    case CellMeaning::OfAnotherRead:
        painter.setPen(t.line);
        painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
        painter.setPen(t.ink);
        align = Qt::AlignCenter;
        break;
    case CellMeaning::ColumnNumber:
        painter.fillRect(QRectF(box.left(), box.bottom() - 2, box.width(), 2), t.plum);
        painter.setPen(t.plum);
        align = Qt::AlignCenter;
        break;
    case CellMeaning::Label:
        painter.fillRect(QRectF(box.right() - 2, box.top(), 2, box.height()), t.plum);
        painter.setPen(t.plum);
        break;
    case CellMeaning::ReadName:
        if (mark != nullptr) {
            const double wide = std::min(painter.fontMetrics().horizontalAdvance(words) + 10.0, box.width());
            painter.fillRect(QRectF(box.left() + 1, box.top() + 1, wide, box.height() - 2), t.plumSoft);
            painter.setPen(t.ink);
        }
        break;
    }
    painter.drawText(inner, align, painter.fontMetrics().elidedText(words, Qt::ElideRight, inner.width()));
}

/// Numbers of lines and cells, which stay when the file is scrolled.
void FileView::drawHeads(QPainter& painter) const {
    const Theme& t = theme();
    painter.setFont(uiFont(11));
    painter.fillRect(QRect(0, 0, viewport()->width(), kHead), t.card);
    painter.fillRect(QRect(0, 0, kGutter, viewport()->height()), t.card);
    painter.setPen(t.mute);
    for (int cell = 0; cell < cellCount(); ++cell) {
        const QRect area = areaOf({0, cell});
        if (area.left() >= kGutter - 2) {
            painter.drawText(QRect(area.left(), 0, area.width(), kHead), Qt::AlignCenter, QString::number(cell + 1));
        }
    }
    for (int row = verticalScrollBar()->value() / kLine; row < rowCount(); ++row) {
        const int top = kHead + row * kLine - verticalScrollBar()->value();
        if (top > viewport()->height()) {
            break;
        }
        if (top >= kHead - 2) {
            painter.drawText(QRect(0, top, kGutter - 10, kLine), Qt::AlignVCenter | Qt::AlignRight,
                             QString::number(m_file->table.rows[static_cast<std::size_t>(row)].line));
        }
    }
    painter.setPen(t.line);
    painter.drawLine(0, kHead, viewport()->width(), kHead);
    painter.drawLine(kGutter - 4, 0, kGutter - 4, viewport()->height());
}

void FileView::drawMarked(QPainter& painter) const {
    const bool isOne = m_from.row == m_to.row && m_from.cell == m_to.cell;
    if (isOne && !hasFocus()) {
        return;
    }
    const QRect area = areaOf(m_from).united(areaOf(m_to));
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme().ink, isOne ? 1.0 : 1.8, isOne ? Qt::SolidLine : Qt::DashLine));
    painter.drawRect(QRectF(area).adjusted(0.5, 0.5, -0.5, -0.5));
}

} // namespace nuvat
