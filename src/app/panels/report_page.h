#pragma once

#include "panels/page.h"
#include "session/report_layout.h"

class QLabel;
class QScrollArea;

namespace nuvat {

class PagesView;
class Switch;

/// What goes into the report, with a live preview of its pages.
class ReportPage : public Page {
    Q_OBJECT
public:
    ReportPage(Workspace& workspace, QWidget* parent);
    QString keysHint() const override { return tr("Ctrl+E save as PDF · Ctrl+Shift+E results as CSV"); }
    QString facts() const override;

private:
    QWidget* makeBlocks();
    void refresh() override;
    void showPages();
    std::vector<Switch*> m_switches;
    PagesView* m_pages;
};

} // namespace nuvat
