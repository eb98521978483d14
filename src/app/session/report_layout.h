#pragma once

#include "jobs/job.h"
#include "nuvat/report/report_file.h"
#include "session/workspace.h"

#include <memory>
#include <QTimer>

namespace nuvat {

/// The pages of the report of the open batch, laid out off the UI thread a moment after each change. One for the
/// window: the rail counts its pages, the page of the report paints them.
class ReportLayout : public QObject {
    Q_OBJECT
public:
    explicit ReportLayout(Workspace& workspace);
    /// The newest that is laid out; null while there is none or nothing to report.
    std::shared_ptr<const Report> report() const { return m_report; }
    int pageCount() const { return m_report ? m_report->pageCount() : 0; }
    /// Whether report() is that of an earlier state of the batch, or still to come.
    bool isLate() const { return m_later.isActive() || m_isRunning || m_workspace.isLate(); }

Q_SIGNALS:
    void changed();

private:
    void follow();
    void start();
    void replace(std::shared_ptr<const Report> next);
    Workspace& m_workspace;
    QTimer m_later;
    std::shared_ptr<const Report> m_report;
    bool m_isRunning = false;
};

} // namespace nuvat
