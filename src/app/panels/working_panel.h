#pragma once

#include "chain/chain.h"
#include "nuvat/batch/working.h"
#include "session/workspace.h"
#include "widgets/text_rows.h"

#include <QFrame>

class QLabel;
class QPlainTextEdit;
class QPushButton;
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
    /// The page that is shown: Layout has checks of its own.
    void setPage(ChainPage page);
    /// All that the Working says, line by line; for tests and for copying.
    QString plainText() const;

Q_SIGNALS:
    void excludeAsked();
    void restoreAsked();
    void pageAsked(nuvat::ChainPage page);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void showEvent(QShowEvent* event) override;

private:
    using Rows = std::vector<TextRow>;
    void addButtons(QVBoxLayout* content);
    void refresh();
    void addTitle(Rows& rows, const QString& title, const QString& subtitle) const;
    void addStep(Rows& rows, const WorkingStep& step) const;
    void addSteps(Rows& rows) const;
    void addInjections(Rows& rows) const;
    void addCriterion(Rows& rows) const;
    void addOverview(Rows& rows) const;
    void addLayoutChecks(Rows& rows) const;
    void showButtons(Rows& rows);
    void showNote();
    void showHistory();
    void commitNote();
    bool isNoteChanged() const;

    Workspace& m_workspace;
    QVBoxLayout* m_top = nullptr; ///< of the settings
    QFrame* m_line = nullptr;     ///< below them
    TextRows* m_rows = nullptr;
    QPushButton *m_exclude = nullptr, *m_restore = nullptr, *m_showPlate = nullptr, *m_showCurve = nullptr;
    QLabel* m_noteHeading = nullptr;
    QPlainTextEdit* m_note = nullptr;
    TextRows* m_history = nullptr;
    std::optional<int> m_noteOf; ///< number of the unknown whose note it is
    ChainPage m_page = ChainPage::Data;
    bool m_isStale = false;
};

} // namespace nuvat
