#pragma once

#include "nuvat/batch/evaluation.h"
#include "nuvat/workflow/session.h"
#include "session/evaluation_runner.h"

#include <functional>
#include <memory>
#include <QElapsedTimer>
#include <QObject>
#include <QString>
#include <utility>

namespace nuvat {

class ReportLayout;

/// What is selected in the window: one selection, shown by every view.
struct Selection {
    std::vector<Place> places;
    std::optional<Assignment> group; ///< set when all places belong to one replicate group
    std::string criterion;           ///< key of a criterion, when one was selected
    bool operator==(const Selection&) const = default;
    bool holds(Place place) const;
};

/// What a drag with Ctrl makes of a selection: places that were all in it are taken out, others added.
std::vector<Place> withDragged(std::vector<Place> before, const std::vector<Place>& places);

/// A batch with what follows from it, for work off the UI thread: nothing of it changes.
struct Snapshot {
    std::shared_ptr<const Batch> batch;
    std::shared_ptr<const Evaluation> evaluation;
    std::vector<HistoryLine> history;
    std::int64_t timeMillis = 0; ///< when it was taken
};

/// The open batch with what follows from it, and the selection. Owned by the application, outlives the window.
///
/// What is shown is a batch and its evaluation, both of one revision. An edit changes the newest batch at once; it is
/// shown when it has been evaluated, off the UI thread. That is waited for a moment, so that what is quick is there
/// when the edit returns.
class Workspace : public QObject {
    Q_OBJECT
public:
    /// @param patience how long an edit waits for its evaluation; shorter than a frame
    explicit Workspace(QObject* parent = nullptr, std::chrono::milliseconds patience = std::chrono::milliseconds(10));
    ~Workspace() override;

    bool isOpen() const { return m_open.document != nullptr; }
    /// The batch that is shown; an empty one when none is open.
    const Batch& batch() const { return *m_shown.batch; }
    /// The same with every edit: what commands are made from. What is shown may be a moment behind it.
    const Batch& newest() const;
    bool isLate() const { return m_shown.revision != m_asked; } ///< whether it is behind
    /// Waits until what is shown is the newest.
    void settle();
    /// Calls `then` when what is shown is the newest: at once, or when it has been evaluated.
    void afterwards(std::function<void()> then);
    /// Everything that follows from the batch that is shown.
    const Evaluation& wholeEvaluation() const { return *m_shown.evaluation; }
    /// The analyte that the window shows, and what follows for it.
    int analyteNumber() const { return m_analyte; }
    const Analyte& analyte() const { return batch().method.analyte(m_analyte); }
    const AnalyteEvaluation& evaluation() const { return m_shown.evaluation->analyte(m_analyte, m_carrier, m_bracket); }
    /// The same with the line of the sample that was selected last as its curve, by standard addition.
    const AnalyteEvaluation& curve() const;
    /// Which places hold which group.
    const PlaceIndex& index() const { return *m_shown.evaluation->index; }
    void showAnalyte(int number);
    /// The plate or run list that the window shows.
    int carrierNumber() const { return m_carrier; }
    const Carrier& carrier() const { return batch().carriers.at(m_carrier); }
    void showCarrier(int number);
    /// Where each bracket has a curve: shows another of the carrier's. Selecting a run brings up its own.
    void showBracket(int number);
    Snapshot snapshot() const;
    /// Counts up with every change of what is shown, also when another batch is opened.
    std::uint64_t revision() const { return m_shown.revision; }
    /// The pages of its report, which follow by themselves.
    ReportLayout& report() const { return *m_report; }
    Document* document() const { return m_open.document.get(); }
    const OpenBatch& openBatch() const { return m_open; }
    void open(OpenBatch batch);
    void close();
    /// Lets every field that is being typed in keep what it holds, before the batch goes.
    void commitPending();
    bool saveAs(const std::filesystem::path& path);
    bool saveCopy(const std::filesystem::path& path);

    /// Does the command; an Error goes to the notice bar. @return whether it was done
    bool apply(Result<Command> command);
    void undo();
    void redo();

    const Selection& selection() const { return m_selection; }
    void select(const std::vector<Place>& places);
    void selectGroup(Assignment group);
    void selectCriterion(const std::string& key);
    void clearSelection();
    std::optional<Place> hovered() const { return m_hovered; }
    void hover(std::optional<Place> place);

    /// Shows a sentence in the window's notice bar.
    void tell(const QString& sentence, bool isError);
    void tell(const Error& error);
    /// The same with a button that does what usually comes next.
    void offer(const QString& sentence, const QString& buttonText, std::function<void()> action);

Q_SIGNALS:
    void aboutToReplace(); ///< the batch is about to be closed or replaced; commit now, not later
    void opened();         ///< another batch, or none
    void edited();         ///< the newest batch, before it is shown
    void becameLate();     ///< it takes longer than an edit waits
    void changed();        ///< the batch that is shown, and its evaluation
    void selectionChanged();
    void hoverChanged();
    void carrierChanged(); ///< another one is shown
    void noticed(const QString& sentence, bool isError);
    void offered(const QString& sentence, const QString& buttonText, const std::function<void()>& action);

private:
    void replaceDocument(OpenBatch batch);
    void ask();
    void remember(); ///< what was measured, in the batch's file
    void showWhatIsReady(std::chrono::milliseconds patience);
    void show(Evaluated next);
    void followBracket(Place place);
    void setSelection(Selection next);
    OpenBatch m_open;
    Batch m_none;
    EvaluationRunner m_runner;
    std::chrono::milliseconds m_patience;
    bool m_isReplacing = false; ///< what comes next is of another batch
    std::uint64_t m_asked = 0;  ///< revision of the newest
    Evaluated m_shown;
    QElapsedTimer m_sinceShown;
    std::vector<std::function<void()>> m_afterwards;
    ReportLayout* m_report = nullptr;
    int m_analyte = 1;
    int m_carrier = 1;
    int m_bracket = 0; ///< 0: the first
    Selection m_selection;
    int m_lineOf = 0; ///< sample that was selected last
    mutable std::optional<AnalyteEvaluation> m_curve;
    mutable std::pair<const AnalyteEvaluation*, int> m_curveOf; ///< what it was made of, and for which sample
    std::optional<Place> m_hovered;
};

} // namespace nuvat
