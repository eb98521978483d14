#include "session/report_layout.h"

namespace nuvat {

namespace {
constexpr int kRestMillis = 120; // edits that follow each other faster are laid out once
}

ReportLayout::ReportLayout(Workspace& workspace) : QObject(&workspace), m_workspace(workspace) {
    m_later.setSingleShot(true);
    m_later.setInterval(kRestMillis);
    connect(&m_later, &QTimer::timeout, this, &ReportLayout::start);
    connect(&workspace, &Workspace::changed, this, &ReportLayout::follow);
    connect(&workspace, &Workspace::opened, this, [this] { m_report.reset(); });
}

void ReportLayout::follow() {
    if (m_workspace.isOpen() && m_workspace.evaluation().fit.isUsable()) {
        m_later.start();
        return;
    }
    m_later.stop();
    if (m_report) {
        m_report.reset();
        Q_EMIT changed();
    }
}

void ReportLayout::start() {
    if (m_isRunning) { // it starts again when it is done
        return;
    }
    m_isRunning = true;
    using Made = std::shared_ptr<const Report>;
    runJob<Made>(
        this,
        [now = m_workspace.snapshot()](Progress&) -> Result<Made> {
            return std::make_shared<const Report>(*now.batch, *now.evaluation, now.history, now.timeMillis);
        },
        [this, revision = m_workspace.revision()](Result<Made> made) {
            m_isRunning = false;
            if (revision != m_workspace.revision()) {
                follow();
            } else if (made) {
                // Taking a long report apart is work too.
                QThreadPool::globalInstance()->start([old = std::move(m_report)]() mutable { old.reset(); });
                m_report = std::move(*made);
                Q_EMIT changed();
            } else {
                m_workspace.tell(made.error());
            }
        });
}

} // namespace nuvat
