#pragma once

#include "session/workspace.h"

#include <QWidget>

class QCompleter;
class QLabel;
class QLineEdit;
class QPushButton;

namespace nuvat {

class Choice;
class NumberField;

/// A custom criterion as a row that is edited where it stands; what its quantity is in every place it applies to is
/// shown while it is typed, and names are completed. An existing one changes at once; a new one is added when it is
/// complete.
class CriterionEditor : public QWidget {
    Q_OBJECT
public:
    CriterionEditor(Workspace& workspace, QWidget* parent);
    void beginNew();
    /// @param index in Method::criteria
    void edit(std::size_t index);
    void enterLimit();                                           ///< the keyboard goes there
    std::optional<std::size_t> index() const { return m_index; } ///< nothing: a new one

Q_SIGNALS:
    void closed();
    void wordsChanged(); ///< and with them the height

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void makeRow();
    void makeCompletion();
    void complete();
    void take(const QString& name);
    void fill(const Criterion& criterion, bool hasLimit);
    Criterion typed() const;
    bool isComplete() const;
    void commit();
    void remove();
    void refresh();
    void showNames();
    void showValues();

    Workspace& m_workspace;
    std::optional<std::size_t> m_index;
    QLineEdit* m_title;
    Choice* m_scope;
    QLineEdit* m_quantity;
    Choice* m_comparison;
    QLineEdit* m_limit;
    Choice* m_consequence;
    QPushButton* m_done;
    QPushButton* m_remove;
    QLabel* m_values;
    QLabel* m_names;
    QCompleter* m_completer = nullptr;
};

} // namespace nuvat
