#pragma once

#include "chain/chain.h"
#include "session/workspace.h"

#include <functional>
#include <QKeySequence>
#include <QWidget>
#include <vector>

namespace nuvat {

/// Something that can be done on a page, while it is shown.
struct PageAction {
    QString id;
    QString text;
    QList<QKeySequence> keys;
    std::function<void()> run;
};

/// A page of the chain. It is made when it is first shown, and follows the batch while it is shown: what changes
/// meanwhile is made up for when it comes back.
class Page : public QWidget {
    Q_OBJECT
public:
    explicit Page(Workspace& workspace, QWidget* parent);
    /// The few keys that matter here, for the right end of the status line.
    virtual QString keysHint() const = 0;
    /// Facts about the page when nothing is selected, for its left end.
    virtual QString facts() const { return {}; }
    /// Whether these facts matter more than those of the selection.
    virtual bool factsComeFirst() const { return false; }
    /// What gets the keyboard when the page is shown.
    virtual QWidget* mainWidget() const { return nullptr; }
    /// What can be set here, for the top of the side panel; and the keyboard to its first field.
    /// What is saved as a picture, as it is seen; nullptr: nothing.
    virtual QWidget* picture() const { return nullptr; }
    virtual QWidget* settings() const { return nullptr; }
    virtual void enterSettings() {}
    /// What can be done here; asked once.
    virtual std::vector<PageAction> actions() { return {}; }
    /// What Ctrl+C copies here.
    virtual void copy() const {}
    /// Takes what is pasted; false: it is not for this page.
    virtual bool paste(const QString&) { return false; }
    /// Esc ends what is being done here; false: nothing is.
    virtual bool escape() { return false; }
    /// Space goes on to what comes next here; false: nothing does.
    virtual bool next() { return false; }

Q_SIGNALS:
    void factsChanged();
    void actionAsked(const QString& id); ///< one of the window's actions
    void pageAsked(nuvat::ChainPage page);
    void settingsAsked();

protected:
    /// Shows the batch as it is now.
    virtual void refresh() = 0;
    /// Shows what is selected now.
    virtual void followSelection() {}
    void showEvent(QShowEvent* event) override;

    Workspace& m_workspace;

private:
    bool m_isStale = true;
    bool m_isSelectionStale = true;
};

} // namespace nuvat
