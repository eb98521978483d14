#include "panels/page.h"

namespace nuvat {

Page::Page(Workspace& workspace, QWidget* parent) : QWidget(parent), m_workspace(workspace) {
    setObjectName(QStringLiteral("page"));
    const auto follow = [this] {
        m_isStale = !isVisible();
        if (!m_isStale) {
            refresh();
        }
    };
    connect(&workspace, &Workspace::changed, this, follow);
    connect(&workspace, &Workspace::carrierChanged, this, follow);
    connect(&workspace, &Workspace::selectionChanged, this, [this] {
        m_isSelectionStale = !isVisible();
        if (!m_isSelectionStale) {
            followSelection();
        }
    });
}

void Page::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (m_isStale) {
        m_isStale = false;
        m_isSelectionStale = true; // rows that are new have to find what is selected
        refresh();
    }
    if (m_isSelectionStale) {
        m_isSelectionStale = false;
        followSelection();
    }
}

} // namespace nuvat
