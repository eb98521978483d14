#pragma once

#include "nuvat/batch/evaluation.h"
#include "nuvat/workflow/session.h"

#include <functional>
#include <memory>
#include <QObject>
#include <QString>

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
class Workspace : public QObject {
    Q_OBJECT
public:
    explicit Workspace(QObject* parent = nullptr);

    bool isOpen() const { return m_open.document != nullptr; }
    /// The batch that is open; an empty one when none is.
    const Batch& batch() const;
    /// Everything that follows from the batch.
    const Evaluation& wholeEvaluation() const { return *m_evaluation; }
    /// The analyte that the window shows, and what follows for it.
    int analyteNumber() const { return m_analyte; }
    const Analyte& analyte() const { return batch().method.analyte(m_analyte); }
    const AnalyteEvaluation& evaluation() const { return m_evaluation->analyte(m_analyte, m_carrier); }
    /// Which places hold which group.
    const PlaceIndex& index() const { return *m_evaluation->index; }
    void showAnalyte(int number);
    /// The plate or run list that the window shows.
    int carrierNumber() const { return m_carrier; }
    const Carrier& carrier() const { return batch().carriers.at(m_carrier); }
    void showCarrier(int number);
    Snapshot snapshot() const;
    /// Counts up with every change of what is shown, also when another batch is opened.
    std::uint64_t revision() const { return m_revision; }
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
    void changed();        ///< the batch and its evaluation
    void selectionChanged();
    void hoverChanged();
    void carrierChanged(); ///< another one is shown
    void noticed(const QString& sentence, bool isError);
    void offered(const QString& sentence, const QString& buttonText, const std::function<void()>& action);

private:
    void replaceDocument(OpenBatch batch);
    void recompute();
    void evaluateAgain();
    void setSelection(Selection next);
    OpenBatch m_open;
    Batch m_none;
    Evaluator m_evaluator; // computes only what an edit touched
    std::shared_ptr<const Evaluation> m_evaluation;
    std::uint64_t m_revision = 0;
    ReportLayout* m_report = nullptr;
    int m_analyte = 1;
    int m_carrier = 1;
    Selection m_selection;
    std::optional<Place> m_hovered;
};

} // namespace nuvat
