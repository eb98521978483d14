#pragma once

#include "kinds/trace/run_table.h"

class QButtonGroup;
class QLabel;
class QPushButton;

namespace nuvat {

class Choice;
class RunChart;
class TraceWall;

/// All runs of a batch under review: the table of analytes and runs, the peaks of the analyte shown side by side, and
/// what goes from run to run. What asks for a look is said, and can be accepted with a reason.
class RunReviewView : public QWidget {
    Q_OBJECT
public:
    RunReviewView(Workspace& workspace, QWidget* parent);
    void refresh();
    RunTable* table() const { return m_table; }
    QString facts() const;
    void copy() const;
    /// Goes to the next analyte of a run that asks for a look. @return false: none does
    bool next();
    /// Asks for the reason why what asks for a look may stand, or takes that back.
    void accept();

Q_SIGNALS:
    void oneAsked(); ///< to look at the run alone
    void factsChanged();

private:
    QWidget* makeBar();
    QWidget* makeWall();
    QWidget* makeCharts();
    void showReasons();
    void fillCharts();

    Workspace& m_workspace;
    TraceLook& m_look;
    QButtonGroup* m_filters;
    Choice* m_quantity;
    RunTable* m_table;
    TraceWall* m_wall;
    QLabel *m_title, *m_reasons, *m_page;
    QPushButton *m_next, *m_accept;
    std::vector<RunChart*> m_charts;
};

} // namespace nuvat
