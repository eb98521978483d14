#pragma once

#include "nuvat/batch/command.h"
#include "nuvat/instrument/connection.h"

#include <optional>

namespace nuvat {

/// What one run is measured with.
struct RunRequest {
    std::string vial; ///< a number; empty: the one that is there
    double dilution = 1;
    std::optional<double> seconds; ///< of the run; absent: as the instrument has it
    bool injects = true;           ///< it is triggered as soon as it is ready; else inject() does it
};

/// A trace of several channels that grows.
struct GrowingRun {
    std::vector<std::string> channels;
    std::string xUnit;
    std::vector<double> x;              ///< 0 at the injection; negative before it
    std::vector<std::vector<double>> y; ///< one a channel
    std::size_t size() const { return x.size(); }
    /// What the batch keeps of it. @param name of the run
    ImportedRun imported(const std::string& name, const std::string& source, const std::string& model) const;
};

/// Measures one run: the samples are asked for by their number, so that one that was lost is asked for again.
class Recorder : public QObject {
    Q_OBJECT
public:
    explicit Recorder(Connection& line, QObject* parent = nullptr);

    bool isRunning() const { return m_phase != Phase::Idle; }
    bool isWaitingForInjection() const { return m_phase == Phase::Waiting; }
    const GrowingRun& run() const { return m_run; }
    /// Wall time of the injection [ms since 1970]; 0 before it.
    std::int64_t injectedMillis() const { return m_injectedMillis; }
    void start(const RunRequest& request);
    void inject();  ///< sets time 0 to now
    void abandon(); ///< ends the run without a word
    void stop();    ///< ends the run; what it has is whole enough for whoever stopped it

Q_SIGNALS:
    void grown();
    /// The run came to its end, or was stopped.
    void finished();
    /// It was cut short: what came so far is in run().
    void failed(const nuvat::Error& error);

private:
    enum class Phase { Idle, Preparing, Waiting, Running };
    void prepare();
    void poll();
    void ask();
    bool take(const std::string& answer);
    void end();
    void giveUp(const Error& error);

    Connection& m_line;
    RunRequest m_request;
    GrowingRun m_run;
    Phase m_phase = Phase::Idle;
    QTimer m_poll;
    bool m_isAsking = false, m_isDone = false, m_isStopping = false;
    int m_garbled = 0; ///< answers in a row that made no sense
    std::int64_t m_injectedMillis = 0;
    unsigned m_serial = 0; ///< answers to an earlier run are not taken
};

} // namespace nuvat
