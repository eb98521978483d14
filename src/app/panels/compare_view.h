#pragma once

#include "jobs/job.h"
#include "nuvat/batch/compare_fits.h"
#include "session/workspace.h"

#include <QWidget>

class QLabel;
class QPushButton;

namespace nuvat {

class ColumnsModel;
class ComparePlot;
class DataTable;

/// All usual models and weightings for the standards in use, best first, and what the one looked at would make of the
/// samples. Nothing is changed before it is taken.
class CompareView : public QWidget {
    Q_OBJECT
public:
    CompareView(Workspace& workspace, QWidget* parent);
    bool isRunning() const { return m_progress != nullptr; }

protected:
    void showEvent(QShowEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    QWidget* makeFitsCard();
    QWidget* makeCurvesCard();
    QWidget* makeChangesCard();
    void start();
    void finish(std::vector<ComparedFit> fits);
    void lookAt(int row);
    void showCurves(const ComparedFit* one);
    void take();
    const ComparedFit* lookedAt() const;
    Workspace& m_workspace;
    std::vector<ComparedFit> m_fits;
    double m_lowestAicc = 0;             ///< of those that are ranked
    std::vector<ResultChange> m_changes; ///< of the fit looked at, the largest first
    int m_row = -1;
    int m_run = 0; ///< counts the comparisons that were started; only the last one is shown
    bool m_isStale = true;
    std::shared_ptr<SharedProgress> m_progress;
    ColumnsModel* m_model = nullptr;
    ColumnsModel* m_changesModel = nullptr;
    DataTable* m_table = nullptr;
    QLabel* m_state = nullptr;
    QLabel* m_words = nullptr;
    QLabel* m_checks = nullptr;
    ComparePlot* m_plot = nullptr;
    QPushButton* m_take = nullptr;
};

} // namespace nuvat
