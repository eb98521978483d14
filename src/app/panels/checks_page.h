#pragma once

#include "models/columns_model.h"
#include "panels/page.h"

class QLabel;
class QPushButton;

namespace nuvat {

class Card;
class Choice;
class CriterionEditor;
class CvPlot;
class DataTable;
class LimitsSettings;

/// The acceptance criteria: what was found, against which limit, and where.
class ChecksPage : public Page {
    Q_OBJECT
public:
    ChecksPage(Workspace& workspace, QWidget* parent);
    QWidget* mainWidget() const override;
    QString keysHint() const override { return tr("Enter where on the plate · Space next to review · L limit"); }
    QString facts() const override;
    void copy() const override;
    QWidget* settings() const override;
    std::vector<PageAction> actions() override;
    bool next() override; ///< to the next criterion to review

protected:
    void paintEvent(QPaintEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

private:
    QWidget* makeHead();
    QWidget* makeTable();
    std::vector<ColumnSpec> columnsOfCriteria();
    void connectAll();
    const CriterionResult& criterionAt(int row) const;
    void refresh() override;
    void followSelection() override;
    /// The keyboard goes to the limit of the selected criterion, or to its row when it is a custom one.
    void changeLimit();
    void refreshButtons();
    void overrideSelected();
    void showEditor();
    const CriterionResult* selectedCriterion() const;
    int analyteOf(const CriterionResult& criterion) const; ///< 0: of the batch
    void resizeRows();
    int editorHeight() const;
    std::vector<const CriterionResult*> shownCriteria() const;
    Card* m_head;
    QLabel* m_verdict;
    QLabel* m_words;
    Choice* m_set;
    QPushButton* m_own;
    CriterionEditor* m_editor;
    LimitsSettings* m_limits;
    QPushButton* m_override;
    ColumnsModel* m_criteria;
    DataTable* m_table;
    QStringList m_laidOut; ///< width and texts that the heights of the rows are for
};

} // namespace nuvat
