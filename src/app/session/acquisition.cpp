#include "session/acquisition.h"

#include "nuvat/batch/run_commands.h"
#include "theme/style.h"

namespace nuvat {

Acquisition& Acquisition::of(Workspace& workspace) {
    auto* found = workspace.findChild<Acquisition*>(QString(), Qt::FindDirectChildrenOnly);
    return *(found ? found : new Acquisition(workspace));
}

Acquisition::Acquisition(Workspace& workspace) : QObject(&workspace), m_workspace(workspace), m_runner(m_line, *this) {
    connect(&m_line, &Connection::stateChanged, this, &Acquisition::changed);
    connect(&m_line, &Connection::lost, this, [this](const Error& error) {
        if (!m_runner.isRunning()) { // else the run says so
            m_workspace.tell(error);
        }
    });
    connect(&m_runner, &ListRunner::runChanged, this, [this] {
        if (m_runner.place()) {
            m_workspace.select({*m_runner.place()});
        }
        Q_EMIT changed();
    });
    connect(&m_runner, &ListRunner::grown, this, &Acquisition::grown);
    connect(&m_runner, &ListRunner::failed, this, [this](const Error& error) { m_workspace.tell(error); });
    connect(&m_runner, &ListRunner::cannotWrite, this, [this](const Error& error) { m_workspace.tell(error); });
    connect(&m_runner, &ListRunner::ended, this,
            [this](const QString& sentence) { m_workspace.tell(sentence, false); });
    connect(&workspace, &Workspace::opened, this, &Acquisition::followBatch);
    followBatch();
}

/// Another batch: what was measured for the one before stays in its journal, and what a journal of this one holds comes
/// back into it.
void Acquisition::followBatch() {
    if (m_runner.isRunning() && (!m_workspace.isOpen() || m_workspace.newest().info.uid != m_uid)) {
        m_runner.abandon();
    }
    if (!m_workspace.isOpen() || m_workspace.openBatch().isReadOnly || m_workspace.openBatch().path.empty()) {
        return;
    }
    std::size_t kept = 0;
    for (const RecoveredRun& run : journalsOf(path(), m_workspace.newest().info.uid)) {
        auto command = keepRecovered(m_workspace.newest(), run, now());
        const bool isNew = command && !command->changes.empty();
        if (!m_workspace.apply(std::move(command))) {
            return;
        }
        kept += isNew ? 1u : 0u;
        std::error_code ignored;
        std::filesystem::remove(run.journal, ignored);
    }
    if (kept > 0) {
        m_workspace.tell(kept == 1 ? tr("A run was being measured when Nuvat ended. What came of it is kept, marked as "
                                        "failed; it can be measured again.")
                                   : tr("%1 runs were being measured when Nuvat ended. What came of them is kept, "
                                        "marked as failed; they can be measured again.")
                                         .arg(kept),
                         false);
    }
}

bool Acquisition::openAt(Connection& line, const QString& place, Workspace& workspace) {
    const QString trimmed = place.trimmed();
    const auto colon = trimmed.lastIndexOf(u':');
    bool isNumber = false;
    const uint port = trimmed.mid(colon + 1).toUInt(&isNumber);
    constexpr uint kHighest = 65535;
    if (colon < 1 || !isNumber || port == 0 || port > kHighest) {
        workspace.tell(
            tr("\"%1\" is no place of an instrument. Type its host and port, for example localhost:5025.").arg(trimmed),
            true);
        return false;
    }
    line.open(trimmed.left(colon), static_cast<quint16>(port));
    return true;
}

void Acquisition::disconnect() {
    m_runner.stop();
    m_line.close();
}

void Acquisition::setMinutes(std::optional<double> minutes) {
    constexpr double kSecondsPerMinute = 60;
    m_minutes = minutes;
    m_runner.setSeconds(minutes ? std::optional(kSecondsPerMinute * *minutes) : std::nullopt);
    Q_EMIT changed();
}

void Acquisition::tellStart(const Result<void>& started) {
    if (!started) {
        m_workspace.tell(started.error());
    }
    Q_EMIT changed();
}

void Acquisition::startList() {
    m_uid = m_workspace.newest().info.uid;
    tellStart(m_runner.startList(m_workspace.carrierNumber()));
}

void Acquisition::startRun(Place place) {
    m_uid = m_workspace.newest().info.uid;
    tellStart(m_runner.startRun(place));
}

void Acquisition::record(const QString& place, const std::string& name, const std::string& vial) {
    PlannedRun run;
    run.name = name;
    run.vial = vial;
    if (!connectTo(place) || !m_workspace.apply(planRuns(m_workspace.newest(), {run}))) {
        return;
    }
    auto* waiting = new QObject(this); // gone when the list has begun
    connect(&m_line, &Connection::stateChanged, waiting, [this, waiting] {
        const bool isReady = m_line.state() == InstrumentState::Idle || m_line.state() == InstrumentState::Ready;
        if (isReady && !m_line.identity().isEmpty() && !m_runner.isRunning()) {
            waiting->deleteLater();
            m_line.QObject::disconnect(waiting);
            startList();
        }
    });
}

std::optional<double> Acquisition::secondsLeft() const {
    constexpr double kSecondsPerMinute = 60;
    if (!m_minutes) {
        return std::nullopt;
    }
    std::size_t planned = 0;
    for (const auto& [place, run] : m_workspace.batch().runs) {
        const bool isWaiting = run.state == RunState::Planned || run.state == RunState::Running;
        planned += place.carrier == m_workspace.carrierNumber() && isWaiting ? 1u : 0u;
    }
    return kSecondsPerMinute * *m_minutes * static_cast<double>(planned);
}

Result<void> Acquisition::apply(const Result<Command>& command) {
    if (!command) {
        return tl::unexpected(command.error());
    }
    if (!m_workspace.isOpen() || m_workspace.newest().info.uid != m_uid) {
        return fail("batch.reading", "The batch that is measured is not open any more.",
                    "Open it again: what came of the run is in it then.");
    }
    // What the document cannot do is told by the workspace itself.
    return m_workspace.apply(command)
               ? Result<void>{}
               : fail("store.cannot-write", "The run could not be kept in the batch.", "It stays in its journal.");
}

void Acquisition::evaluated(std::function<void(const Batch&, const Evaluation&)> then) {
    m_workspace.afterwards(
        [this, then = std::move(then)] { then(m_workspace.batch(), m_workspace.wholeEvaluation()); });
}

std::int64_t Acquisition::now() const {
    return m_workspace.document() ? m_workspace.document()->now() : 0;
}

} // namespace nuvat
