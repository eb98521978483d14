#pragma once

#include <functional>
#include <QAbstractButton>
#include <QComboBox>
#include <QFrame>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

class QHBoxLayout;
class QVBoxLayout;

class QKeyEvent;

namespace nuvat {

/// A choice from a list, drawn in our style.
class Choice : public QComboBox {
    Q_OBJECT
public:
    explicit Choice(QWidget* parent = nullptr);
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }

protected:
    /// The wheel scrolls what it is over; it never changes a method by the way.
    void wheelEvent(QWheelEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
};

/// An on-off switch.
class Switch : public QAbstractButton {
    Q_OBJECT
public:
    explicit Switch(QWidget* parent = nullptr);
    QSize sizeHint() const override;

protected:
    /// Arrows belong to what the switch stands in.
    void keyPressEvent(QKeyEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
};

/// A surface with a title; fill its layout().
class Card : public QFrame {
    Q_OBJECT
public:
    explicit Card(const QString& title = {}, QWidget* parent = nullptr);
    QVBoxLayout* body() const { return m_body; }
    /// Row of the title; further widgets go to its right end.
    QHBoxLayout* titleRow() const { return m_titleRow; }
    void setTitle(const QString& title);

private:
    QVBoxLayout* m_body;
    QHBoxLayout* m_titleRow;
    QLabel* m_title = nullptr;
};

/// "1 run", "12 runs".
inline QString counted(std::size_t n, const QString& one, const QString& many) {
    return QStringLiteral("%1 %2").arg(n).arg(n == 1 ? one : many);
}

/// What a cell shows for a number that is not defined.
inline QString notDefined() {
    return QStringLiteral("–");
}

QLabel* makeLabel(const QString& text, const char* kind, QWidget* parent);
/// A text in a card that wraps and scrolls.
QLabel* addScrollingText(Card& card, const QString& objectName);
/// A text for a tool tip that shows it as it is, also when it looks like markup.
QString plainTip(const QString& text);
QPushButton* makeButton(const QString& text, const char* kind, const QString& objectName, QWidget* parent);
/// One of our icons before the words of a button, in the colour of the words. @param side in pixels
void setPicture(QPushButton* button, const QString& name, int side = 16);
/// A line for a number; calls `accept` with the text when editing ends and it changed.
QLineEdit* makeField(const QString& objectName, int width, QWidget* parent);

/// Whether a key is the first of a number that someone begins to type.
bool startsNumber(const QKeyEvent& event);

} // namespace nuvat
