#include "widgets/live_form.h"

#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QStyle>
#include <QVBoxLayout>

namespace nuvat {

namespace {
constexpr int kRowHeight = 25;
} // namespace

Segments::Segments(const QStringList& items, QWidget* parent) : QWidget(parent), m_group(new QButtonGroup(this)) {
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    for (int i = 0; i < items.size(); ++i) {
        auto* button = makeButton(items[i], "segment", QString(), this);
        button->setCheckable(true);
        button->setProperty("place", i == 0                  ? QStringLiteral("first")
                                     : i + 1 == items.size() ? QStringLiteral("last")
                                                             : QStringLiteral("between"));
        m_group->addButton(button, i);
        layout->addWidget(button);
    }
    connect(m_group, &QButtonGroup::idClicked, this, &Segments::chosen);
}

void Segments::setCurrent(int index) {
    if (QAbstractButton* button = m_group->button(index)) {
        button->setChecked(true);
    }
}

int Segments::current() const {
    return m_group->checkedId();
}

TextField::TextField(QWidget* parent) : QLineEdit(parent) {}

void TextField::setHeld(const QString& held) {
    const bool isTyping = (hasFocus() || property("isWrong").toBool()) && text() != m_holds;
    m_holds = held;
    if (!isTyping) {
        setText(held);
        setCursorPosition(0); // a long one shows its beginning
        setWrong(false);
    }
}

void TextField::keyPressEvent(QKeyEvent* event) {
    if (takeText && (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)) {
        commit();
        selectAll();
    } else if (takeText && event->key() == Qt::Key_Escape && text() != m_holds) {
        setText(m_holds);
        setWrong(false);
    } else {
        QLineEdit::keyPressEvent(event);
    }
}

void TextField::focusOutEvent(QFocusEvent* event) {
    QLineEdit::focusOutEvent(event);
    commit();
}

void TextField::commit() {
    if (!takeText) {
        return;
    }
    const QString typed = text().trimmed(), before = m_holds;
    if (typed == m_holds) {
        setWrong(false);
        return;
    }
    setWrong(!takeText(typed));
    if (property("isWrong").toBool()) {
        return;
    }
    if (m_holds == before) { // what it does has still to be evaluated
        m_holds = written(typed);
    }
    setText(m_holds); // as it is written elsewhere
}

void TextField::setWrong(bool isWrong) {
    if (property("isWrong").toBool() != isWrong) {
        setProperty("isWrong", isWrong);
        style()->unpolish(this);
        style()->polish(this);
    }
}

NumberField::NumberField(const QString& name, int width, QWidget* parent) : TextField(parent) {
    setObjectName(name);
    setProperty("kind", QStringLiteral("compact"));
    setFixedSize(width, kRowHeight);
    setAlignment(Qt::AlignRight);
    takeText = [this](const QString& typed) { return takeNumber(typed); };
}

/// As the field shows it; a number such as 200/3 as far as the field goes: what is not typed anew is not taken.
QString NumberField::written(const std::optional<double>& value) {
    constexpr std::size_t kMostCharacters = 7;
    std::string digits = value ? formatNumber(*value) : std::string();
    setToolTip(digits.size() > kMostCharacters ? shown(digits) : QString());
    return shown(digits.size() > kMostCharacters ? formatFigures(*value, 4) : digits);
}

bool NumberField::takeNumber(const QString& typed) {
    const auto value = parseTyped(typed.toStdString());
    if (!value && !typed.isEmpty()) {
        Q_EMIT notANumber(typed);
        return false;
    }
    return take(value);
}

QString NumberField::written(const QString& taken) {
    return written(parseTyped(taken.toStdString()));
}

LiveForm::LiveForm(QWidget* parent) : QWidget(parent), m_layout(new QVBoxLayout(this)) {
    m_layout->setContentsMargins(0, 0, 0, 0);
    m_layout->setSpacing(3);
}

QWidget* LiveForm::row(const QString& title, const std::vector<QWidget*>& controls, const QString& remark) {
    auto* out = new QWidget(this);
    auto* layout = new QHBoxLayout(out);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(6);
    layout->addWidget(makeLabel(title, "value", out));
    layout->addStretch(1);
    for (QWidget* control : controls) {
        control->setParent(out);
        layout->addWidget(control);
    }
    out->setToolTip(remark);
    m_layout->addWidget(out);
    return out;
}

Segments* LiveForm::segments(const QString& name, const QString& title, const QStringList& items) {
    auto* out = new Segments(items, this);
    out->setObjectName(name);
    out->setAccessibleName(title);
    return out;
}

Choice* LiveForm::choice(const QString& name, const QString& title, const QStringList& items) {
    auto* out = new Choice(this);
    out->setObjectName(name);
    out->setAccessibleName(title);
    out->setFixedHeight(kRowHeight);
    out->addItems(items);
    return out;
}

NumberField* LiveForm::number(const QString& name, const QString& title, const QString& whenEmpty) {
    constexpr int kWidth = 72;
    constexpr int kShort = 9;
    constexpr int kWide = 92; // for the words that stand in an empty one
    auto* out = new NumberField(name, whenEmpty.size() < kShort ? kWidth : kWide, this);
    out->setAccessibleName(title);
    out->setPlaceholderText(whenEmpty);
    return out;
}

TextField* LiveForm::line(const QString& name, const QString& title) {
    auto* out = new TextField(this);
    out->setObjectName(name);
    out->setAccessibleName(title);
    out->setProperty("kind", QStringLiteral("compact"));
    out->setFixedHeight(kRowHeight);
    out->setMinimumWidth(150);
    return out;
}

Switch* LiveForm::onOff(const QString& name, const QString& title) {
    auto* out = new Switch(this);
    out->setObjectName(name);
    out->setAccessibleName(title);
    return out;
}

} // namespace nuvat
