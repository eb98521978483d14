#include "widgets/controls.h"

#include "theme/style.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPainter>
#include <QPainterPath>
#include <QScrollArea>
#include <QVBoxLayout>
#include <QWheelEvent>

namespace nuvat {

Choice::Choice(QWidget* parent) : QComboBox(parent) {
    setSizeAdjustPolicy(QComboBox::AdjustToContents);
}

QSize Choice::sizeHint() const {
    int width = 0;
    for (int i = 0; i < count(); ++i) {
        width = std::max(width, fontMetrics().horizontalAdvance(itemText(i)));
    }
    return {width + 38, 28};
}

void Choice::wheelEvent(QWheelEvent* event) {
    event->ignore();
}

void Choice::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    painter.setPen(QPen(hasFocus() ? t.plum : underMouse() ? t.mute : t.line, 1));
    painter.setBrush(t.card);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    painter.setPen(isEnabled() ? t.ink : t.mute);
    painter.drawText(rect().adjusted(10, 0, -24, 0), Qt::AlignVCenter | Qt::AlignLeft, currentText());
    QPainterPath arrow;
    const QPointF centre(width() - 15, height() / 2.0);
    arrow.moveTo(centre + QPointF(-4, -2));
    arrow.lineTo(centre + QPointF(4, -2));
    arrow.lineTo(centre + QPointF(0, 3));
    arrow.closeSubpath();
    painter.fillPath(arrow, t.mute);
}

Switch::Switch(QWidget* parent) : QAbstractButton(parent) {
    setCheckable(true);
    setFocusPolicy(Qt::StrongFocus);
    setFixedSize(sizeHint());
}

QSize Switch::sizeHint() const {
    return {30, 18};
}

void Switch::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Up || event->key() == Qt::Key_Down) {
        event->ignore();
    } else {
        QAbstractButton::keyPressEvent(event);
    }
}

void Switch::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    const QRectF track = QRectF(rect()).adjusted(1.5, 1.5, -1.5, -1.5);
    painter.setPen(hasFocus() ? QPen(t.ink, 1) : QPen(Qt::NoPen));
    painter.setBrush(isChecked() ? t.plum : t.mute);
    painter.setOpacity(isEnabled() ? 1 : 0.5);
    painter.drawRoundedRect(track, track.height() / 2, track.height() / 2);
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.card);
    const double radius = track.height() / 2 - 2.5;
    const double x = isChecked() ? track.right() - radius - 2.5 : track.left() + radius + 2.5;
    painter.drawEllipse(QPointF(x, track.center().y()), radius, radius);
}

Card::Card(const QString& title, QWidget* parent) : QFrame(parent) {
    setObjectName(QStringLiteral("card"));
    m_body = new QVBoxLayout(this);
    m_body->setContentsMargins(12, 10, 12, 10);
    m_body->setSpacing(6);
    m_titleRow = new QHBoxLayout;
    m_titleRow->setSpacing(8);
    m_body->addLayout(m_titleRow);
    if (!title.isEmpty()) {
        setTitle(title);
    }
}

void Card::setTitle(const QString& title) {
    if (m_title == nullptr) {
        m_title = makeLabel(title, "heading", this);
        m_titleRow->insertWidget(0, m_title);
        m_titleRow->insertStretch(1);
    }
    m_title->setText(title);
}

QLabel* makeLabel(const QString& text, const char* kind, QWidget* parent) {
    auto* label = new QLabel(text, parent);
    label->setTextFormat(Qt::PlainText); // names and reasons are text, whatever they look like
    label->setProperty("kind", QString::fromLatin1(kind));
    return label;
}

QString plainTip(const QString& text) {
    return Qt::mightBeRichText(text) ? QStringLiteral("<span>%1</span>").arg(text.toHtmlEscaped()) : text;
}

QPushButton* makeButton(const QString& text, const char* kind, const QString& objectName, QWidget* parent) {
    auto* button = new QPushButton(text, parent);
    button->setProperty("kind", QString::fromLatin1(kind));
    button->setObjectName(objectName);
    button->setAutoDefault(false);
    return button;
}

void setPicture(QPushButton* button, const QString& name, int side) {
    constexpr int kToWords = 4;
    const bool isPrimary = button->property("kind").toString() == QStringLiteral("primary");
    button->setIcon(icon(name, isPrimary ? theme().onPlum : theme().ink));
    button->setIconSize(QSize(side + kToWords, side));
}

QLineEdit* makeField(const QString& objectName, int width, QWidget* parent) {
    auto* field = new QLineEdit(parent);
    field->setObjectName(objectName);
    field->setFixedWidth(width);
    return field;
}

bool startsNumber(const QKeyEvent& event) {
    const QString typed = event.text();
    return !(event.modifiers() & (Qt::ControlModifier | Qt::AltModifier)) && typed.size() == 1 &&
           (typed[0].isDigit() || typed[0] == u'.' || typed[0] == u',');
}

QLabel* addScrollingText(Card& card, const QString& objectName) {
    auto* scroll = new QScrollArea(&card);
    scroll->setWidgetResizable(true);
    auto* label = makeLabel({}, "value", scroll);
    label->setObjectName(objectName);
    label->setWordWrap(true);
    label->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    scroll->setWidget(label);
    card.body()->addWidget(scroll);
    return label;
}

} // namespace nuvat
