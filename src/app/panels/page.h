#pragma once

#include "session/workspace.h"

#include <QWidget>

namespace nuvat {

/// A page of the chain.
class Page : public QWidget {
    Q_OBJECT
public:
    explicit Page(Workspace& workspace, QWidget* parent) : QWidget(parent), m_workspace(workspace) {
        setObjectName(QStringLiteral("page"));
    }
    /// The few keys that matter here, for the right end of the status line.
    virtual QString keysHint() const = 0;
    /// Facts about the page when nothing is selected, for its left end.
    virtual QString facts() const { return {}; }
    /// What Ctrl+C copies here.
    virtual void copy() const {}
    /// What gets the keyboard when the page is shown.
    virtual QWidget* mainWidget() const { return nullptr; }
    /// What can be set here, for the top of the side panel.
    virtual QWidget* settings() const { return nullptr; }

Q_SIGNALS:
    void factsChanged();

protected:
    Workspace& m_workspace;
};

} // namespace nuvat
