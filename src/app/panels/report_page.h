#pragma once

#include "nuvat/report/report_file.h"
#include "panels/page.h"

#include <optional>

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

Q_SIGNALS:
    void pdfAsked();
    void csvAsked();

protected:
    void showEvent(QShowEvent* event) override;

private:
    void refresh();
    std::vector<Switch*> m_switches;
    PagesView* m_pages;
    bool m_isStale = true;
};

} // namespace nuvat
