#include "widgets/series_picture.h"

#include "nuvat/core/base/number.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <cmath>
#include <QApplication>
#include <QClipboard>
#include <QKeyEvent>
#include <QLineEdit>
#include <QLocale>
#include <QMouseEvent>
#include <QPainter>

namespace nuvat {

SeriesPicture::SeriesPicture(Workspace& workspace, QWidget* parent)
    : QWidget(parent), m_workspace(workspace), m_editor(new QLineEdit(this)) {
    setObjectName(QStringLiteral("seriesPicture"));
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Levels of the standards"));
    setToolTip(tr("Double-click a level, or press a digit, to type its concentration"));
    m_editor->setObjectName(QStringLiteral("levelEditor"));
    m_editor->hide();
    connect(&workspace, &Workspace::changed, this, qOverload<>(&QWidget::update));
    m_editor->installEventFilter(this);
}

std::vector<int> SeriesPicture::numbers() const {
    return m_workspace.index().numbersOf(Role::Standard);
}

QRectF SeriesPicture::levelRect(int index) const {
    const auto count = static_cast<double>(std::max<std::size_t>(numbers().size(), 1));
    const double w = std::min(66.0, width() / count);
    return {index * w, 0, w, static_cast<double>(height())};
}

void SeriesPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const Batch& batch = m_workspace.batch();
    const auto levels = numbers();
    if (levels.empty()) {
        painter.setPen(t.mute);
        painter.drawText(rect(), Qt::AlignCenter | Qt::TextWordWrap,
                         tr("No standards yet: select wells and press 1, or take Standard above and paint."));
        return;
    }
    double highest = 0;
    double lowest = 0;
    const auto concentration = [&](int number) { return batch.concentration(number, m_workspace.analyteNumber()); };
    for (const int number : levels) {
        const double c = concentration(number).value_or(0);
        highest = std::max(highest, c);
        lowest = c > 0 && (lowest == 0 || c < lowest) ? c : lowest;
    }
    const double base = height() - 38;
    for (std::size_t i = 0; i < levels.size(); ++i) {
        const QRectF area = levelRect(static_cast<int>(i));
        const auto c = concentration(levels[i]);
        // Heights by logarithm, so that the lowest level can be seen beside the highest.
        const double share = c && *c > 0 && highest > lowest ? std::log(*c / lowest) / std::log(highest / lowest) : 1;
        const double h = c ? (*c > 0 ? 4 + share * (base - 10) : 1) : 0;
        const bool isOne = isAnchor(batch, {levels[i], m_workspace.analyteNumber()});
        painter.setPen(isOne ? QPen(t.plum, 1.2, Qt::DashLine) : QPen(Qt::NoPen));
        painter.setBrush(!c ? t.field : isOne ? t.card : t.heat(0.25 + 0.75 * share));
        painter.drawRoundedRect(QRectF(area.left() + 2, base - h, std::min(40.0, area.width() - 20), h), 3, 3);
        if (isOne && h > 30) {
            painter.setFont(uiFont(11));
            painter.drawText(QRectF(area.left(), base - h, 44, 24), Qt::AlignCenter, tr("anchor"));
        }
        painter.setPen(c ? t.ink : t.outcome(Outcome::Review));
        painter.setFont(uiFont(12.5, QFont::Bold));
        painter.drawText(QRectF(area.left() - 4, base + 3, std::min(40.0, area.width() - 20) + 12, 17),
                         Qt::AlignHCenter, c ? shown(formatFigures(*c, 3)) : tr("type"));
        painter.setFont(uiFont(11.5));
        painter.setPen(t.mute);
        painter.drawText(QRectF(area.left() - 4, base + 19, std::min(40.0, area.width() - 20) + 12, 16),
                         Qt::AlignHCenter, QStringLiteral("S%1").arg(levels[i]));
        if (i + 1 < levels.size() && c && area.width() > 50) {
            if (const auto next = concentration(levels[i + 1]); next && *next > 0 && *c > 0) {
                const bool isDown = *next < *c;
                const double step = isDown ? *c / *next : *next / *c;
                painter.setFont(uiFont(11));
                painter.drawText(QRectF(area.left() + 40, base - 16, area.width() - 36, 15), Qt::AlignHCenter,
                                 (isDown ? QStringLiteral("÷") : QStringLiteral("×")) +
                                     shown(formatNumber(std::round(step * 1000) / 1000)));
            }
        }
        if (hasFocus() && static_cast<int>(i) == m_current) {
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(t.plum, 1, Qt::DotLine));
            painter.drawRoundedRect(QRectF(area.left() - 3, base + 2, std::min(40.0, area.width() - 20) + 10, 34), 4,
                                    4);
        }
    }
}

void SeriesPicture::mousePressEvent(QMouseEvent* event) {
    const auto levels = numbers();
    for (int i = 0; i < static_cast<int>(levels.size()); ++i) {
        if (levelRect(i).contains(event->position())) {
            m_current = i;
            m_workspace.selectGroup({Role::Standard, levels[static_cast<std::size_t>(i)]});
        }
    }
    update();
}

void SeriesPicture::mouseDoubleClickEvent(QMouseEvent* event) {
    for (int i = 0; i < static_cast<int>(numbers().size()); ++i) {
        if (levelRect(i).contains(event->position())) {
            edit(i);
        }
    }
}

bool SeriesPicture::event(QEvent* event) {
    // A digit here begins a concentration; the keys of the roles are for the plate.
    if (event->type() == QEvent::ShortcutOverride && startsNumber(*static_cast<QKeyEvent*>(event)) &&
        !numbers().empty()) {
        event->accept();
        return true;
    }
    return QWidget::event(event);
}

void SeriesPicture::keyPressEvent(QKeyEvent* event) {
    const int count = static_cast<int>(numbers().size());
    if (event->key() == Qt::Key_Left || event->key() == Qt::Key_Right) {
        goTo(m_current + (event->key() == Qt::Key_Left ? -1 : 1));
    } else if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter || event->key() == Qt::Key_F2) &&
               m_current < count) {
        edit(m_current);
    } else if (startsNumber(*event) && m_current < count) {
        edit(m_current);
        m_editor->setText(event->text());
    } else {
        QWidget::keyPressEvent(event);
    }
}

bool SeriesPicture::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        return editorKey(static_cast<QKeyEvent*>(event));
    }
    // Looking elsewhere keeps what was typed; a menu of the field itself does not count.
    if (event->type() == QEvent::FocusOut && m_edited >= 0 &&
        static_cast<QFocusEvent*>(event)->reason() != Qt::PopupFocusReason && !commit()) {
        closeEditor();
    }
    return QWidget::eventFilter(watched, event);
}

bool SeriesPicture::editorKey(QKeyEvent* event) {
    if (event->matches(QKeySequence::Paste)) {
        const QString clip = QApplication::clipboard()->text();
        if (!clip.trimmed().contains(u'\n')) {
            return false; // one number goes into the field
        }
        closeEditor();
        setFocus();
        paste(clip);
        return true;
    }
    switch (event->key()) {
    case Qt::Key_Escape:
        closeEditor();
        setFocus();
        return true;
    case Qt::Key_Tab:
    case Qt::Key_Backtab:
    case Qt::Key_Return:
    case Qt::Key_Enter: {
        if (!commit()) {
            return true; // the notice says why; the text stays to be corrected
        }
        const int next = m_current + (event->key() == Qt::Key_Backtab ? -1 : 1);
        setFocus();
        if (next >= 0 && next < static_cast<int>(numbers().size())) {
            edit(next);
        }
        return true;
    }
    default:
        return false;
    }
}

/// Keeps what the field holds. @return false when it is no concentration; the field stays open
bool SeriesPicture::commit() {
    const int number = m_edited;
    const QString typed = m_editor->text().trimmed();
    const auto value = parseTyped(typed.toStdString());
    if (!value && !typed.isEmpty()) {
        m_workspace.tell(tr("\"%1\" is not a number; the concentration of S%2 stays as it was.").arg(typed).arg(number),
                         true);
        return false;
    }
    if (!m_workspace.apply(setLevel(m_workspace.newest(), number, value, m_workspace.analyteNumber()))) {
        return false;
    }
    closeEditor();
    return true;
}

void SeriesPicture::closeEditor() {
    m_edited = -1; // first: hiding takes the focus away, which keeps what is still being edited
    m_editor->hide();
}

void SeriesPicture::paste(const QString& column) {
    const auto levels = numbers();
    if (levels.empty()) {
        m_workspace.tell(tr("There are no standards to give concentrations; assign them on the plate first."), true);
        return;
    }
    const int first = levels[static_cast<std::size_t>(std::clamp(m_current, 0, static_cast<int>(levels.size()) - 1))];
    m_workspace.apply(pasteLevels(m_workspace.newest(), first, column.toStdString(), m_workspace.analyteNumber()));
}

void SeriesPicture::goTo(int index) {
    m_current = std::clamp(index, 0, std::max(0, static_cast<int>(numbers().size()) - 1));
    update();
}

void SeriesPicture::edit(int index) {
    const int number = numbers().at(static_cast<std::size_t>(index));
    const auto typed = m_workspace.newest().concentration(number, m_workspace.analyteNumber());
    goTo(index);
    m_edited = number;
    constexpr int kWidth = 76;
    const int left = std::clamp(static_cast<int>(levelRect(index).left()) - 8, 0, std::max(0, width() - kWidth));
    m_editor->setGeometry(left, height() - 40, kWidth, 28);
    m_editor->setText(typed ? shown(formatNumber(*typed)) : QString());
    m_editor->show();
    m_editor->setFocus();
    m_editor->selectAll();
}

} // namespace nuvat
