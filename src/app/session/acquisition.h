#pragma once

#include "nuvat/instrument/list_runner.h"
#include "session/workspace.h"

namespace nuvat {

/// The instrument of a window, and the list that is measured with it. One for each workspace.
class Acquisition : public QObject, private RunHost {
    Q_OBJECT
public:
    static Acquisition& of(Workspace& workspace);

    Connection& line() { return m_line; }
    ListRunner& runner() { return m_runner; }
    /// Connects to "host:port". @return false: it is no such text, and that was said
    bool connectTo(const QString& place) { return openAt(m_line, place, m_workspace); }
    /// The same for a line of its own.
    static bool openAt(Connection& line, const QString& place, Workspace& workspace);
    void disconnect();
    void startList();
    void startRun(Place place);
    /// Connects, plans one run more, and measures what is planned as soon as the instrument answers.
    void record(const QString& place, const std::string& name, const std::string& vial);
    /// Seconds of planned runs of the list shown, as far as the length of a run is known.
    std::optional<double> secondsLeft() const;
    void setMinutes(std::optional<double> minutes);
    std::optional<double> minutes() const { return m_minutes; }

Q_SIGNALS:
    void changed(); ///< state of the line or of the list
    void grown();

private:
    explicit Acquisition(Workspace& workspace);
    const Batch& batch() const override { return m_workspace.newest(); }
    Result<void> apply(const Result<Command>& command) override;
    void evaluated(std::function<void(const Batch&, const Evaluation&)> then) override;
    std::int64_t now() const override;
    std::filesystem::path path() const override { return m_workspace.openBatch().path; }
    void followBatch();
    void tellStart(const Result<void>& started);

    Workspace& m_workspace;
    Connection m_line;
    ListRunner m_runner;
    std::string m_uid; ///< of the batch that is measured
    std::optional<double> m_minutes;
};

} // namespace nuvat
