#include "nuvat/instrument/list_runner.h"

#include "nuvat/batch/run_commands.h"
#include "nuvat/batch/run_review.h"
#include "nuvat/workflow/fields.h"

namespace nuvat {

namespace {

constexpr int kWriteMillis = 1000;

} // namespace

ListRunner::ListRunner(Connection& line, RunHost& host, QObject* parent)
    : QObject(parent), m_line(line), m_host(host), m_recorder(line) {
    m_writing.setInterval(kWriteMillis);
    connect(&m_writing, &QTimer::timeout, this, &ListRunner::write);
    connect(&m_recorder, &Recorder::grown, this, &ListRunner::grown);
    connect(&m_recorder, &Recorder::finished, this, [this] {
        const Place place = *m_place;
        keep(RunState::Done);
        if (m_isList && !m_isStopping) {
            judge(place);
        } else {
            cease();
            Q_EMIT ended(m_isStopping ? tr("Stopped. What was measured is kept.") : tr("The run is measured."));
        }
    });
    connect(&m_recorder, &Recorder::failed, this, [this](const Error& error) {
        keep(RunState::Failed);
        cease();
        Q_EMIT failed(error);
    });
}

ListRunner::~ListRunner() {
    m_recorder.disconnect(this);
    if (m_place) { // the window was closed: what came so far stays in the journal, and comes back
        write();
    }
}

Result<void> ListRunner::startList(int carrier) {
    const auto next = nextPlanned(m_host.batch(), carrier);
    if (!next) {
        return fail("runs.none", "No run of this list is planned.",
                    "Plan further runs, or choose one to measure again.");
    }
    m_isList = true;
    m_measured = 0;
    m_repeated.reset();
    return begin(*next);
}

Result<void> ListRunner::startRun(Place place) {
    if (!m_host.batch().holds(place)) {
        return fail("layout.place", "There is no such run in this batch.", "Choose one of the list.");
    }
    m_isList = false;
    return begin(place);
}

Result<void> ListRunner::begin(Place place) {
    if (!m_line.isOpen()) {
        return fail("instrument.absent", "No instrument is connected.", "Choose host and port, and connect.");
    }
    const auto done = m_host.apply(setRunState(m_host.batch(), place, RunState::Running));
    if (!done) {
        return done;
    }
    m_isStopping = false;
    m_place = place;
    const Batch& batch = m_host.batch();
    m_path = m_host.path();
    m_uid = batch.info.uid;
    const auto run = batch.runs.find(place);
    const Run known = run == batch.runs.end() ? Run{} : run->second;
    // A vial is diluted by the instrument only where the sample is planned again for it.
    const Assignment group = batch.at(place);
    const bool isAgain = group.role == Role::Unknown && group.preparation > 1;
    const double before = batch.dilution({group.role, group.number, 1});
    m_recorder.start({known.vial, isAgain ? batch.dilution(group) / before : 1, m_seconds, m_injects});
    m_journal.reset();
    m_writing.start();
    Q_EMIT runChanged();
    return {};
}

void ListRunner::write() {
    if (!m_place || m_path.empty() || m_recorder.run().channels.empty()) {
        return;
    }
    if (!m_journal) {
        const Batch& batch = m_host.batch();
        const auto run = batch.runs.find(*m_place);
        m_journal = std::make_unique<RunJournal>(
            m_path,
            JournalHead{m_uid, *m_place, run == batch.runs.end() ? "" : run->second.name, m_line.model().toStdString(),
                        m_recorder.run().xUnit, m_recorder.run().channels, m_recorder.injectedMillis()});
    }
    const auto written = m_journal->write(m_recorder.injectedMillis(), m_recorder.run().x, m_recorder.run().y);
    if (!written && !std::exchange(m_hasSaidDisk, true)) {
        Q_EMIT cannotWrite(written.error());
    }
    m_hasSaidDisk = m_hasSaidDisk && !written;
}

void ListRunner::keep(RunState state) {
    m_writing.stop();
    const GrowingRun& run = m_recorder.run();
    const Batch& batch = m_host.batch();
    const auto known = batch.runs.find(*m_place);
    const std::string name = known == batch.runs.end() ? "" : known->second.name;
    if (run.size() < 3) { // nothing that could be measured
        const RunState back = state == RunState::Failed ? RunState::Failed : RunState::Planned;
        if (const auto done = m_host.apply(setRunState(batch, *m_place, back)); !done) {
            Q_EMIT cannotWrite(done.error());
        }
        if (m_journal) {
            m_journal->remove();
        }
        return;
    }
    write(); // what the batch cannot take is in the journal
    const auto kept = m_host.apply(recordRun(
        batch, *m_place, run.imported(name, runFileName(batch, *m_place, m_host.now()), m_line.model().toStdString()),
        state, m_recorder.injectedMillis(), m_host.now()));
    if (!kept) {
        Q_EMIT cannotWrite(kept.error());
    } else if (m_journal) {
        m_journal->remove();
    }
    m_journal.reset();
    ++m_measured;
}

void ListRunner::judge(Place place) {
    m_host.evaluated([this, place](const Batch& batch, const Evaluation& evaluation) {
        if (m_place != place) {
            return; // stopped meanwhile
        }
        const std::string why = runFailure(batch, evaluation, place);
        const AfterFailure rule = batch.method.runRule.afterFailure;
        if (why.empty() || rule == AfterFailure::GoOn) {
            goOn();
            return;
        }
        const bool isRepeat = m_repeated == place;
        if (rule == AfterFailure::Stop || isRepeat) {
            cease();
            Q_EMIT failed(Error{"runs.failed", placeTitle(batch, place) + " does not hold: " + why,
                                "The list has stopped, as the method says. Mend it, then start the list again."});
            return;
        }
        if (const auto repeated = m_host.apply(repeatRun(m_host.batch(), place, why, m_host.now())); !repeated) {
            cease();
            Q_EMIT failed(repeated.error());
            return;
        }
        m_repeated = Place{place.row + 1, place.column, place.carrier};
        goOn();
    });
}

void ListRunner::goOn() {
    const int carrier = m_place->carrier;
    auto next = nextPlanned(m_host.batch(), carrier);
    if (!next && m_host.batch().method.runRule.dilutesAbove) {
        m_host.evaluated([this, carrier](const Batch& batch, const Evaluation& evaluation) {
            if (!m_place) {
                return;
            }
            const auto again = planDilutedAgain(batch, evaluation, 1);
            const bool isMore = again && m_host.apply(again);
            const auto planned = isMore ? nextPlanned(m_host.batch(), carrier) : std::nullopt;
            if (planned) {
                if (const auto begun = begin(*planned); begun) {
                    return;
                }
            }
            const int measured = m_measured;
            cease();
            Q_EMIT ended(measured == 1 ? tr("The list is measured: 1 run.")
                                       : tr("The list is measured: %1 runs.").arg(measured));
        });
        return;
    }
    if (!next) {
        const int measured = m_measured;
        cease();
        Q_EMIT ended(measured == 1 ? tr("The list is measured: 1 run.")
                                   : tr("The list is measured: %1 runs.").arg(measured));
        return;
    }
    if (const auto begun = begin(*next); !begun) {
        cease();
        Q_EMIT failed(begun.error());
    }
}

void ListRunner::stop() {
    m_isStopping = true;
    if (m_recorder.isRunning()) {
        m_recorder.stop();
    } else if (m_place) {
        cease();
        Q_EMIT ended(tr("Stopped. What was measured is kept."));
    }
}

void ListRunner::abandon() {
    if (!m_place) {
        return;
    }
    write();
    m_recorder.abandon();
    m_journal.reset();
    cease();
}

void ListRunner::cease() {
    m_place.reset();
    m_isList = false;
    m_writing.stop();
    Q_EMIT runChanged();
}

} // namespace nuvat
