#pragma once

#include "panels/page.h"

class QLabel;
class QPushButton;

namespace nuvat {

class Card;
class Choice;
class ColumnsModel;
class CvPlot;
class DataTable;

/// The acceptance criteria: what was found, against which limit, and where.
class ChecksPage : public Page {
    Q_OBJECT
public:
    ChecksPage(Workspace& workspace, QWidget* parent);
    QWidget* mainWidget() const override;
    QString keysHint() const override { return tr("Enter shows where on the plate · Space next to review"); }
    QString facts() const override;
    void copy() const override;
    void nextToReview();

Q_SIGNALS:
    void showAsked(const QString& page);

protected:
    void paintEvent(QPaintEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

private:
    void refresh();
    void refreshButtons();
    void overrideSelected();
    const CriterionResult* selectedCriterion() const;
    int analyteOf(const CriterionResult& criterion) const; ///< 0: of the batch
    void resizeRows();
    std::vector<const CriterionResult*> shownCriteria() const;
    Card* m_head;
    QLabel* m_verdict;
    QLabel* m_words;
    Choice* m_set;
    QPushButton* m_own;
    QPushButton* m_override;
    ColumnsModel* m_criteria;
    DataTable* m_table;
};

} // namespace nuvat
