#pragma once

#include "plots/trace_plot.h"
#include "session/workspace.h"

#include "nuvat/batch/run_review.h"
#include "nuvat/core/signal/trace.h"

#include <memory>

namespace nuvat {

/// What the pages of traces have in common: the channel and the stretch of x that they show. One for each workspace.
class TraceLook : public QObject {
    Q_OBJECT
public:
    static TraceLook& of(Workspace& workspace);

    /// The channel that was chosen, else that of the analyte shown, else the first.
    std::string channel() const;
    void showChannel(const std::string& channel);
    /// The channels of the list that is shown.
    std::vector<std::string> channels() const;

    /// The stretch that is shown; absent: all. It stays from run to run.
    std::optional<Stretch> zoom() const { return m_zoom; }
    void setZoom(std::optional<Stretch> zoom);

    /// The run that is looked at: the first that is selected, else the first of the list.
    Place run() const;
    /// The next or the one before.
    void stepRun(int by);
    Slot slot(Place place) const { return {place.carrier, place, channel()}; }
    /// nullptr when nothing was read there, or it is no trace.
    std::shared_ptr<const Trace> trace(Place place) const;
    std::shared_ptr<const MeasuredTrace> measured(Place place) const;
    /// The analyte that each peak of a run is taken for; 0: none.
    std::vector<int> analytesOfPeaks(Place place) const;
    /// The names of the analytes at the peaks of a run, that of the analyte shown marked.
    std::vector<PeakLabel> peakLabels(Place place) const;
    /// The stretch in which the analyte shown is expected; nothing where it is no peak of this channel.
    std::optional<Stretch> expected() const;
    /// The name of a run as it is shown: its sample, else its file's, else its number.
    QString runName(Place place) const;
    /// -1 where the rule turns the trace around.
    double sign() const { return rule().isCathodicPositive ? -1 : 1; }
    /// What the batch that is shown holds for a review; made when it is first asked for.
    const RunReview& review() const;
    const SignalRule& rule() const { return m_workspace.batch().method.signal(channel()); }

Q_SIGNALS:
    void changed();

private:
    explicit TraceLook(Workspace& workspace);
    Workspace& m_workspace;
    std::string m_channel; ///< empty: that of the analyte
    std::optional<Stretch> m_zoom;
    mutable Snapshot m_reviewed; ///< what the review looks at
    mutable std::uint64_t m_reviewedRevision = 0;
    mutable std::unique_ptr<RunReview> m_review;
};

} // namespace nuvat
