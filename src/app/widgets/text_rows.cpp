#include "widgets/text_rows.h"

#include "nuvat/batch/working.h"
#include "theme/style.h"

#include <algorithm>
#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QTextLayout>

namespace nuvat {

namespace {

constexpr double kStepIndent = 21;
constexpr double kRing = 4.5;
constexpr double kTintPad = 7;
constexpr double kMarkGap = 8;
constexpr double kMarkHeight = 20;

QFont fontOf(TextRow::Kind kind) {
    switch (kind) {
    case TextRow::Kind::Heading:
    case TextRow::Kind::Strong:
        return uiFont(13, QFont::Bold);
    case TextRow::Kind::Small:
        return uiFont(12);
    case TextRow::Kind::Result:
        return uiFont(15, QFont::Bold);
    default:
        return uiFont(13);
    }
}

QColor colourOf(TextRow::Kind kind) {
    const bool isQuiet = kind == TextRow::Kind::Small || kind == TextRow::Kind::Mute;
    return isQuiet ? theme().mute : theme().ink;
}

QString markText(Outcome outcome) {
    return text(outcomeWord(outcome));
}

QFont markFont() {
    return uiFont(12, QFont::Bold);
}

double markWidth(Outcome outcome) {
    constexpr double kBeside = 14; // of its word
    return QFontMetricsF(markFont()).horizontalAdvance(markText(outcome)) + kBeside;
}

} // namespace

/// Where a row stands, with its text broken into lines.
struct TextRows::Laid {
    std::unique_ptr<QTextLayout> layout;
    QRectF area;    ///< of the row, tint included
    QPointF textAt; ///< top left of the text
    double textHeight = 0;
    double right = 0; ///< width of what stands beside the text
};

TextRows::TextRows(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::ClickFocus);
    setCursor(Qt::IBeamCursor);
}

TextRows::~TextRows() = default;

void TextRows::setRows(std::vector<TextRow> rows) {
    if (rows == m_rows) {
        return;
    }
    // A row that stays at its place keeps its layout, whatever changes around it.
    std::vector<Laid> laid(rows.size());
    for (std::size_t i = 0; i < std::min(rows.size(), m_rows.size()); ++i) {
        if (rows[i] == m_rows[i]) {
            laid[i] = std::move(m_laid[i]);
        }
    }
    m_rows = std::move(rows);
    m_laid = std::move(laid);
    m_mark.reset();
    layOut();
    setAccessibleDescription(plainText());
    update();
}

QString TextRows::plainText() const {
    QStringList lines;
    for (const TextRow& row : m_rows) {
        lines << row.text;
        if (!row.right.isEmpty()) {
            lines << row.right;
        }
        if (row.outcome) {
            lines << markText(*row.outcome);
        }
    }
    return lines.join(u'\n');
}

QRectF TextRows::areaOf(const QString& text) const {
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
        if (m_rows[i].text == text) {
            return {m_laid[i].textAt, QSizeF(m_laid[i].layout->maximumWidth(), m_laid[i].textHeight)};
        }
    }
    return {};
}

void TextRows::layOut() {
    if (m_laidWidth != width()) {
        m_laid.clear();
        m_laid.resize(m_rows.size());
        m_laidWidth = width();
    }
    double y = 0;
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
        const TextRow& row = m_rows[i];
        Laid& laid = m_laid[i];
        const double pad = row.kind == TextRow::Kind::Highlight ? kTintPad : 0;
        const double left = row.isStep ? kStepIndent : pad;
        if (!laid.layout) {
            const QFontMetricsF metrics(fontOf(row.kind));
            laid.right = row.right.isEmpty() ? 0 : metrics.horizontalAdvance(row.right) + kMarkGap;
            laid.right += row.outcome ? markWidth(*row.outcome) + kMarkGap : 0;
            laid.layout = std::make_unique<QTextLayout>(row.text, fontOf(row.kind));
            QTextOption option;
            option.setWrapMode(QTextOption::WrapAtWordBoundaryOrAnywhere);
            laid.layout->setTextOption(option);
            laid.layout->setCacheEnabled(true);
            laid.layout->beginLayout();
            double height = 0;
            for (QTextLine line = laid.layout->createLine(); line.isValid(); line = laid.layout->createLine()) {
                line.setLeadingIncluded(true);
                line.setLineWidth(std::max(20.0, width() - left - pad - laid.right));
                line.setPosition({0, height});
                height += std::ceil(line.height());
            }
            laid.layout->endLayout();
            laid.textHeight = height;
            laid.area.setHeight(std::max(height, row.outcome ? kMarkHeight : 0.0) + 2 * pad);
        }
        y += row.above;
        laid.area = QRectF(0, y, width(), laid.area.height());
        laid.textAt = {left, y + (laid.area.height() - laid.textHeight) / 2};
        y += laid.area.height();
    }
    setFixedHeight(static_cast<int>(std::ceil(y)));
}

void TextRows::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    if (event->size().width() != m_laidWidth) {
        layOut();
    }
}

void TextRows::paintEvent(QPaintEvent* event) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    // The line between the rings runs from the first step to the last.
    std::vector<QPointF> rings;
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
        if (m_rows[i].opensStep) {
            rings.emplace_back(7, m_laid[i].area.top() + 9);
        }
    }
    if (!rings.empty()) {
        painter.setPen(QPen(t.line, 2));
        painter.drawLine(rings.front(), rings.back());
        painter.setPen(QPen(t.plum, 2));
        painter.setBrush(t.card);
        for (const QPointF ring : rings) {
            painter.drawEllipse(ring, kRing, kRing);
        }
    }
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
        if (m_laid[i].area.intersects(event->rect())) {
            drawRow(painter, i);
        }
    }
}

void TextRows::drawRow(QPainter& painter, std::size_t index) const {
    const TextRow& row = m_rows[index];
    const Laid& laid = m_laid[index];
    const Theme& t = theme();
    if (row.kind == TextRow::Kind::Highlight) {
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.saffronSoft);
        painter.drawRoundedRect(laid.area, 6, 6);
    }
    QList<QTextLayout::FormatRange> marked;
    if (m_mark && m_mark->row == index) {
        QTextCharFormat format;
        format.setBackground(t.plum);
        format.setForeground(t.onPlum);
        marked.append({std::min(m_mark->from, m_mark->to), std::abs(m_mark->to - m_mark->from), format});
    }
    painter.setPen(colourOf(row.kind));
    laid.layout->draw(&painter, laid.textAt, marked);
    double right = laid.area.right();
    const QRectF& line = laid.area;
    if (row.outcome) {
        painter.setFont(markFont());
        const double w = markWidth(*row.outcome);
        const QRectF pill(right - w, line.center().y() - 9, w, 18);
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.outcomeSoft(*row.outcome));
        painter.drawRoundedRect(pill, 4, 4);
        painter.setPen(t.outcome(*row.outcome));
        painter.drawText(pill, Qt::AlignCenter, markText(*row.outcome));
        right -= w + kMarkGap;
    }
    if (!row.right.isEmpty()) {
        painter.setFont(fontOf(row.kind));
        painter.setPen(t.ink);
        painter.drawText(QRectF(0, line.top(), right, line.height()), Qt::AlignRight | Qt::AlignVCenter, row.right);
    }
}

std::optional<std::pair<std::size_t, int>> TextRows::positionAt(QPointF point) const {
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
        const Laid& laid = m_laid[i];
        if (point.y() < laid.area.top() || point.y() >= laid.area.bottom()) {
            continue;
        }
        const QPointF at = point - laid.textAt;
        for (int l = 0; l < laid.layout->lineCount(); ++l) {
            const QTextLine line = laid.layout->lineAt(l);
            if (at.y() < line.y() + line.height() || l + 1 == laid.layout->lineCount()) {
                return std::pair(i, line.xToCursor(at.x()));
            }
        }
    }
    return std::nullopt;
}

void TextRows::mark(std::optional<Mark> mark) {
    m_mark = mark;
    update();
}

void TextRows::mousePressEvent(QMouseEvent* event) {
    const auto at = positionAt(event->position());
    if (event->button() == Qt::LeftButton) {
        mark(at ? std::optional(Mark{at->first, at->second, at->second}) : std::nullopt);
    }
}

void TextRows::mouseMoveEvent(QMouseEvent* event) {
    if (!m_mark || !event->buttons().testFlag(Qt::LeftButton)) {
        return;
    }
    // A drag that leaves the row takes it to its end on that side.
    const auto at = positionAt(event->position());
    const bool isBelow = event->position().y() >= m_laid[m_mark->row].area.bottom();
    const auto length = static_cast<int>(m_rows[m_mark->row].text.size());
    m_mark->to = at && at->first == m_mark->row ? at->second : isBelow ? length : 0;
    update();
}

void TextRows::mouseDoubleClickEvent(QMouseEvent* event) {
    if (const auto at = positionAt(event->position())) {
        const QString& text = m_rows[at->first].text;
        int from = at->second;
        int to = at->second;
        const auto isPart = [&](int i) { return !text.at(i).isSpace(); }; // numbers keep their signs and units
        while (from > 0 && isPart(from - 1)) {
            --from;
        }
        while (to < text.size() && isPart(to)) {
            ++to;
        }
        mark(Mark{at->first, from, to});
    }
}

QString TextRows::selectedText() const {
    return m_mark
               ? m_rows[m_mark->row].text.mid(std::min(m_mark->from, m_mark->to), std::abs(m_mark->to - m_mark->from))
               : QString();
}

void TextRows::copySelected() const {
    QApplication::clipboard()->setText(selectedText());
}

void TextRows::contextMenuEvent(QContextMenuEvent* event) {
    QMenu menu(this);
    QAction* copy = menu.addAction(tr("Copy the selected text"));
    copy->setEnabled(!selectedText().isEmpty());
    QAction* all = menu.addAction(tr("Copy all of this"));
    const QAction* chosen = menu.exec(event->globalPos());
    if (chosen == copy) {
        copySelected();
    } else if (chosen == all) {
        QApplication::clipboard()->setText(plainText());
    }
}

/// Ctrl+C is an action of the window too; with text selected here it is for that text.
bool TextRows::event(QEvent* event) {
    if (event->type() == QEvent::ShortcutOverride && static_cast<QKeyEvent*>(event)->matches(QKeySequence::Copy) &&
        !selectedText().isEmpty()) {
        event->accept();
        return true;
    }
    return QWidget::event(event);
}

void TextRows::keyPressEvent(QKeyEvent* event) {
    if (event->matches(QKeySequence::Copy) && !selectedText().isEmpty()) {
        copySelected();
    } else {
        QWidget::keyPressEvent(event);
    }
}

void TextRows::focusOutEvent(QFocusEvent* event) {
    // The context menu takes the focus for a moment and is about the marked text.
    if (event->reason() != Qt::PopupFocusReason) {
        mark(std::nullopt);
    }
    QWidget::focusOutEvent(event);
}

} // namespace nuvat
