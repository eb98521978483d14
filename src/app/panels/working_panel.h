#pragma once

#include "session/workspace.h"

#include <QFrame>

class QLabel;
class QPlainTextEdit;
class QVBoxLayout;

namespace nuvat {

/// The right panel: how the selected number came about, the checks that touched it, what can be done with it, its note
/// and the history.
class WorkingPanel : public QFrame {
    Q_OBJECT
public:
    WorkingPanel(Workspace& workspace, QWidget* parent);
    /// Takes the settings of a page, which stand above the Working while the page is shown.
    void addSettings(QWidget* settings);
    void showSettings(QWidget* settings); ///< nullptr: none
    /// All that the Working says, line by line; for tests and for copying.
    QString plainText() const;

Q_SIGNALS:
    void excludeAsked();
    void restoreAsked();
    void showAsked(const QString& page); ///< "Layout" or "Curve"

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void rebuild();
    void addTitle(const QString& title, const QString& subtitle);
    void addSteps();
    void addCriterion();
    void addOverview();
    void addActions();
    void addNote();
    void addHistory();
    QLabel* addText(const QString& what, const char* kind);
    void addHeading(const QString& what);
    void addCheck(const QString& title, const QString& found, Outcome outcome);
    void commitNote();
    bool isNoteChanged() const;

    Workspace& m_workspace;
    QVBoxLayout* m_top = nullptr; ///< of the settings
    QFrame* m_line = nullptr;     ///< below them
    QWidget* m_content = nullptr;
    QVBoxLayout* m_layout = nullptr;
    QPlainTextEdit* m_note = nullptr;
    std::optional<int> m_noteOf;
};

} // namespace nuvat
