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

/// A line for a number that is taken when Enter or Tab leaves it. What is no number stays as it was typed, marked; Esc
/// gives back the number that holds.
class NumberField : public QLineEdit {
    Q_OBJECT
public:
    NumberField(const QString& name, int width, QWidget* parent);
    /// The number that holds; what is being typed stays.
    void setNumber(const std::optional<double>& value);
    /// Takes what is typed now, without waiting for the keyboard to leave.
    void commit();
    /// Takes a number, nothing for an empty line. @return whether it holds now
    std::function<bool(std::optional<double>)> take;

Q_SIGNALS:
    void notANumber(const QString& typed);

protected:
    void keyPressEvent(QKeyEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

private:
    QString written(const std::optional<double>& value);
    void setWrong(bool isWrong);
    QString m_holds;
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
    QLineEdit* line(const QString& name, const QString& title);
    Switch* onOff(const QString& name, const QString& title);

private:
    QVBoxLayout* m_layout;
};

} // namespace nuvat
