#include "session/report_layout.h"

#include <utility>

namespace nuvat {

namespace {

constexpr int kRestMillis = 120; // edits that follow each other faster are laid out once

/// Taking a long report apart is work too, and left to the pool once nobody here holds it. The pointer itself is handed
/// over, since a copy that stayed here might be the last.
void retire(std::shared_ptr<const Report> report) {
    auto* last = new std::shared_ptr<const Report>(std::move(report));
    QThreadPool::globalInstance()->start([last] { delete last; });
}

} // namespace

ReportLayout::ReportLayout(Workspace& workspace) : QObject(&workspace), m_workspace(workspace) {
    m_later.setSingleShot(true);
    m_later.setInterval(kRestMillis);
    connect(&m_later, &QTimer::timeout, this, &ReportLayout::start);
    connect(&workspace, &Workspace::changed, this, &ReportLayout::follow);
    // Pages of the batch that was open are never shown under the name of the next one.
    connect(&workspace, &Workspace::opened, this, [this] { replace(nullptr); });
}

void ReportLayout::replace(std::shared_ptr<const Report> next) {
    std::shared_ptr<const Report> old = std::exchange(m_report, std::move(next));
    if (old != m_report) {
        Q_EMIT changed();
        retire(std::move(old));
    }
}

void ReportLayout::follow() {
    if (m_workspace.isOpen() && m_workspace.evaluation().fit.isUsable()) {
        m_later.start();
        return;
    }
    m_later.stop();
    replace(nullptr);
}

void ReportLayout::start() {
    if (m_isRunning || m_workspace.isLate()) { // it starts again when it is done, or shown
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
                retire(std::move(made).value_or(nullptr));
                follow();
            } else if (made) {
                replace(std::move(*made));
            } else {
                m_workspace.tell(made.error());
            }
        });
}

} // namespace nuvat
