#pragma once

#include "nuvat/core/base/error.h"
#include "widgets/controls.h"

#include <functional>
#include <optional>
#include <vector>

class QButtonGroup;

namespace nuvat {

/// Two or three choices side by side, one of them taken.
class Segments : public QWidget {
    Q_OBJECT
public:
    Segments(const QStringList& items, QWidget* parent);
    void setCurrent(int index); ///< without chosen()
    int current() const;

Q_SIGNALS:
    void chosen(int index);

private:
    QButtonGroup* m_group;
};

/// A line that is taken when Enter or Tab leaves it. What is refused stays as it was typed, marked; Esc gives back what
/// holds.
class TextField : public QLineEdit {
    Q_OBJECT
public:
    explicit TextField(QWidget* parent);
    /// The text that holds; what is being typed, or was refused, stays.
    void setHeld(const QString& held);
    /// Takes what is typed now, without waiting for the keyboard to leave.
    void commit();
    /// Takes a text. @return whether it holds now. A line without it is an ordinary one.
    std::function<bool(const QString&)> takeText;

protected:
    void keyPressEvent(QKeyEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    /// A text that was taken, as it is shown.
    virtual QString written(const QString& taken) { return taken; }

private:
    void setWrong(bool isWrong);
    QString m_holds;
};

/// The same for a number.
class NumberField : public TextField {
    Q_OBJECT
public:
    NumberField(const QString& name, int width, QWidget* parent);
    /// The number that holds.
    void setNumber(const std::optional<double>& value) { setHeld(written(value)); }
    /// Takes a number, nothing for an empty line. @return whether it holds now
    std::function<bool(std::optional<double>)> take;

Q_SIGNALS:
    void notANumber(const QString& typed);

protected:
    QString written(const QString& taken) override;

private:
    QString written(const std::optional<double>& value);
    bool takeNumber(const QString& typed);
};

/// Rows of a title and controls at its right, each of which does what it says at once. Rows that do not apply are
/// hidden; nothing is built anew, so that the keyboard stays where it is.
class LiveForm : public QWidget {
    Q_OBJECT
public:
    explicit LiveForm(QWidget* parent);
    /// A row, to be shown or hidden as a whole. @param remark its tool tip
    QWidget* row(const QString& title, const std::vector<QWidget*>& controls, const QString& remark = {});

    Segments* segments(const QString& name, const QString& title, const QStringList& items);
    Choice* choice(const QString& name, const QString& title, const QStringList& items);
    NumberField* number(const QString& name, const QString& title, const QString& whenEmpty = {});
    TextField* line(const QString& name, const QString& title);
    Switch* onOff(const QString& name, const QString& title);

private:
    QVBoxLayout* m_layout;
};

} // namespace nuvat
