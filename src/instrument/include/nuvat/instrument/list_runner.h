#pragma once

#include "nuvat/instrument/recorder.h"
#include "nuvat/workflow/run_journal.h"

#include <memory>

namespace nuvat {

/// The batch whose list is measured, and what follows from it.
class RunHost {
public:
    virtual ~RunHost() = default;
    virtual const Batch& batch() const = 0;
    /// Does a command. @return its Error
    virtual Result<void> apply(const Result<Command>& command) = 0;
    /// Calls `then` with the evaluation of the batch as it is now, at once or later.
    virtual void evaluated(std::function<void(const Batch&, const Evaluation&)> then) = 0;
    virtual std::int64_t now() const = 0;
    /// File of the batch, beside which runs that grow are written; empty: it has none.
    virtual std::filesystem::path path() const = 0;
};

/// Measures the planned runs of a list one after the other, or one of them. What was received is written every second
/// to a journal beside the batch, and into the batch when a run ends, also when it was cut.
class ListRunner : public QObject {
    Q_OBJECT
public:
    ListRunner(Connection& line, RunHost& host, QObject* parent = nullptr);
    ~ListRunner() override;

    bool isRunning() const { return m_place.has_value(); }
    bool isWaitingForInjection() const { return m_recorder.isWaitingForInjection(); }
    std::optional<Place> place() const { return m_place; } ///< of the run that is measured
    const GrowingRun& run() const { return m_recorder.run(); }
    void setInjects(bool itself) { m_injects = itself; }
    void setSeconds(std::optional<double> seconds) { m_seconds = seconds; }
    /// Measures from the next planned run of a list to the last. @return instrument.absent, runs.none
    Result<void> startList(int carrier);
    /// Measures one run, whatever its state. @return instrument.absent, layout.place
    Result<void> startRun(Place place);
    void inject() { m_recorder.inject(); }
    void stop(); ///< ends the run and the list; what it has is kept
    /// Ends both without touching the batch, which is not there any more: the run stays in its journal.
    void abandon();

Q_SIGNALS:
    void grown();
    void runChanged();                           ///< another run, or none
    void ended(const QString& sentence);         ///< the list, or the run that was asked for
    void failed(const nuvat::Error& error);      ///< it stopped before its end, and why
    void cannotWrite(const nuvat::Error& error); ///< the journal; it is tried again every second

private:
    Result<void> begin(Place place);
    void write();
    void keep(RunState state);
    void judge(Place place);
    void goOn();
    void cease();

    Connection& m_line;
    RunHost& m_host;
    Recorder m_recorder;
    QTimer m_writing;
    std::unique_ptr<RunJournal> m_journal;
    std::optional<Place> m_place;
    std::filesystem::path m_path; ///< of the batch when the run began
    std::string m_uid;
    bool m_isList = false, m_injects = true, m_isStopping = false, m_hasSaidDisk = false;
    std::optional<double> m_seconds;
    std::optional<Place> m_repeated; ///< the run that is measured is a repeat
    int m_measured = 0;
};

} // namespace nuvat
