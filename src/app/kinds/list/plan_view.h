#pragma once

#include "nuvat/batch/standard_plan.h"
#include "session/workspace.h"

#include <functional>
#include <QWidget>

class QLabel;

namespace nuvat {

class Card;
class Choice;
class ColumnsModel;
class DataTable;
class LiveForm;
class NumberField;
class PlanPicture;
class RunBlocks;
class RunTimeline;
class TextField;
class TextRows;

/// How the standards are made and in which order runs are measured: the levels from the stock, the run list in blocks,
/// what is looked at before it starts, and what follows when something fails.
class PlanView : public QWidget {
    Q_OBJECT
public:
    PlanView(Workspace& workspace, QWidget* parent);
    void refresh();
    RunBlocks* blocks() const { return m_blocks; }

Q_SIGNALS:
    void actionAsked(const QString& id);

private:
    QWidget* makeStandards();
    QWidget* makeList();
    QWidget* makeChecks();
    QWidget* makeRules();
    NumberField* addNumber(QLayout* to, const QString& name, const QString& title,
                           const std::function<void(StandardPlan&, double)>& set);
    /// Changes the plan, or begins one. @return whether it was taken
    bool changePlan(const std::function<void(StandardPlan&)>& change);
    bool changeMethod(const std::function<void(Method&)>& change);
    void refreshStandards();
    void refreshChecks();
    void refreshRules();
    QString fileExample() const;

    Workspace& m_workspace;
    NumberField *m_stock = nullptr, *m_volume = nullptr, *m_least = nullptr;
    QLabel *m_stockUnit = nullptr, *m_volumeUnit = nullptr, *m_leastUnit = nullptr, *m_needed = nullptr,
           *m_warning = nullptr, *m_count = nullptr, *m_toLookAt = nullptr, *m_example = nullptr;
    Choice* m_way = nullptr;
    PlanPicture* m_picture = nullptr;
    DataTable* m_table = nullptr;
    ColumnsModel* m_model = nullptr;
    std::optional<PlannedStandards> m_planned;
    RunBlocks* m_blocks = nullptr;
    RunTimeline* m_timeline = nullptr;
    TextRows* m_checks = nullptr;
    LiveForm* m_rules = nullptr;
    Choice *m_keepBest = nullptr, *m_afterFailure = nullptr, *m_above = nullptr;
    TextField* m_fileName = nullptr;
};

} // namespace nuvat
