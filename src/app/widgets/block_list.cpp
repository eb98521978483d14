#include "widgets/block_list.h"

#include "nuvat/report/report_file.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <utility>

namespace nuvat {

namespace {

QString switchName(const BlockList::Row& row, std::size_t index) {
    const QString name = QStringLiteral("block_") + QString::fromStdString(row.key);
    return row.key == kPageBreak ? name + QString::number(index) : name;
}

} // namespace

BlockList::BlockList(QWidget* parent) : QWidget(parent), m_layout(new QVBoxLayout(this)) {
    setObjectName(QStringLiteral("blockList"));
    m_layout->setContentsMargins(0, 0, 0, 0);
    m_layout->setSpacing(0);
}

void BlockList::setRows(std::vector<Row> rows) {
    if (rows == m_rows) {
        return;
    }
    const QWidget* focused = QApplication::focusWidget();
    const QString name = focused != nullptr && isAncestorOf(focused) ? focused->objectName() : QString();
    m_rows = std::move(rows);
    for (QWidget* widget : m_widgets) {
        m_layout->removeWidget(widget);
        widget->hide();
        widget->deleteLater(); // it may be the one whose click is being handled
        for (QWidget* child : widget->findChildren<QWidget*>()) {
            child->setObjectName(QString());
        }
    }
    m_widgets.clear();
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
        addRow(i);
    }
    if (auto* again = name.isEmpty() ? nullptr : findChild<QWidget*>(name)) {
        again->setFocus(Qt::OtherFocusReason);
    }
}

void BlockList::addRow(std::size_t index) {
    const Row& row = m_rows[index];
    auto* widget = new QWidget(this);
    auto* layout = new QHBoxLayout(widget);
    layout->setContentsMargins(16, 2, 2, 2);
    auto* word = makeLabel(row.title, row.isIn && row.key != kPageBreak ? "value" : "mute", widget);
    word->setAttribute(Qt::WA_TransparentForMouseEvents);
    word->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    auto* words = new QVBoxLayout;
    words->setSpacing(0);
    words->addWidget(word);
    if (auto* options = makeOptions(index, widget)) {
        words->addWidget(options, 0, Qt::AlignLeft);
    }
    layout->addLayout(words, 1);
    auto* onOff = new Switch(widget);
    onOff->setObjectName(switchName(row, index));
    onOff->setAccessibleName(row.title);
    onOff->setChecked(row.isIn);
    onOff->setEnabled(row.key != "heading");
    connect(onOff, &QAbstractButton::clicked, this, [this, index](bool isOn) { Q_EMIT switched(index, isOn); });
    layout->addWidget(onOff);
    m_layout->addWidget(widget);
    m_widgets.push_back(widget);
}

QWidget* BlockList::makeOptions(std::size_t index, QWidget* parent) {
    const Row& row = m_rows[index];
    const auto block = std::ranges::find(reportBlocks(), row.key, &ReportBlock::key);
    if (!row.isIn || block == reportBlocks().end() || block->options.empty()) {
        return nullptr;
    }
    const auto current = std::ranges::find(block->options, row.option, &BlockOption::key);
    const auto& now = current == block->options.end() ? block->options.front() : *current;
    auto* button =
        makeButton(tr(now.title), "option", QStringLiteral("option_") + QString::fromStdString(row.key), parent);
    button->setAccessibleName(tr("%1: %2").arg(row.title, tr(now.title)));
    auto* menu = new QMenu(button);
    for (const BlockOption& option : block->options) {
        auto* action = menu->addAction(tr(option.title));
        action->setCheckable(true);
        action->setChecked(&option == &now);
        connect(action, &QAction::triggered, this, [this, index, key = option.key] { Q_EMIT chosen(index, key); });
    }
    button->setMenu(menu);
    return button;
}

std::size_t BlockList::countIn() const {
    return static_cast<std::size_t>(std::ranges::count_if(m_rows, &Row::isIn));
}

QRect BlockList::rowRect(std::size_t index) const {
    return m_widgets.at(index)->geometry();
}

std::optional<std::size_t> BlockList::rowAt(int y) const {
    for (std::size_t i = 0; i < m_widgets.size(); ++i) {
        if (y < m_widgets[i]->geometry().bottom()) {
            return i;
        }
    }
    return std::nullopt;
}

/// The heading stays first; blocks that are left out have no place.
void BlockList::mousePressEvent(QMouseEvent* event) {
    const auto row = rowAt(event->pos().y());
    m_dragged = row && *row > 0 && *row < countIn() ? row : std::nullopt;
    m_target = m_dragged;
}

void BlockList::mouseMoveEvent(QMouseEvent* event) {
    if (m_dragged) {
        m_target = std::clamp<std::size_t>(rowAt(event->pos().y()).value_or(countIn() - 1), 1, countIn() - 1);
        setCursor(Qt::ClosedHandCursor);
        update();
    }
}

void BlockList::mouseReleaseEvent(QMouseEvent*) {
    const auto from = std::exchange(m_dragged, std::nullopt), to = std::exchange(m_target, std::nullopt);
    unsetCursor();
    update();
    if (from && to && *from != *to) {
        Q_EMIT moved(*from, *to);
    }
}

void BlockList::keyPressEvent(QKeyEvent* event) {
    const bool isUp = event->key() == Qt::Key_Up, isDown = event->key() == Qt::Key_Down;
    if (event->modifiers().testFlag(Qt::AltModifier) && (isUp || isDown)) {
        const QWidget* focused = QApplication::focusWidget();
        for (std::size_t i = 1; i < countIn(); ++i) {
            const bool isHere = focused != nullptr && m_widgets[i]->isAncestorOf(focused);
            if (isHere && (isUp ? i > 1 : i + 1 < countIn())) {
                Q_EMIT moved(i, isUp ? i - 1 : i + 1);
                return;
            }
        }
        return;
    }
    QWidget::keyPressEvent(event);
}

void BlockList::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    for (std::size_t i = 0; i < m_widgets.size(); ++i) {
        const QRectF area = m_widgets[i]->geometry();
        if (m_dragged == i) {
            painter.fillRect(area, t.plumSoft);
        }
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.mute);
        for (int dot = 0; i > 0 && m_rows[i].isIn && dot < 6; ++dot) { // the heading is not moved
            painter.drawEllipse(QPointF(area.left() + 4 + 4 * (dot % 2), area.center().y() - 4 + 4 * (dot / 2)), 1.1,
                                1.1);
        }
    }
    if (m_dragged && m_target && *m_dragged != *m_target) {
        const QRect area = m_widgets[*m_target]->geometry();
        const int y = *m_target > *m_dragged ? area.bottom() + 1 : area.top();
        painter.setPen(QPen(t.plum, 2));
        painter.drawLine(2, y, width() - 2, y);
    }
}

} // namespace nuvat
