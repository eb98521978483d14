#pragma once

#include "models/columns_model.h"
#include "panels/page.h"

class QButtonGroup;
class QLabel;
class QPushButton;

namespace nuvat {

class Card;
class DataTable;

/// Results by sample: response, read-off, CV, dilution, result with interval, status.
class ResultsPage : public Page {
    Q_OBJECT
public:
    ResultsPage(Workspace& workspace, QWidget* parent);
    QWidget* mainWidget() const override;
    QString keysHint() const override { return tr("Ctrl+C copy · Space next to review · X exclude"); }
    QString facts() const override;
    void copy() const override;
    bool next() override; ///< to the next result to review

private:
    QLayout* makeTop();
    QWidget* makeTable();
    QLayout* makeSummary();
    std::vector<ColumnSpec> columnsOfResults();
    enum class Filter { All, Unknown, Qc, Review };
    void refresh() override;
    void followSelection() override;
    void applyFilter();
    const SampleResult& at(int row) const;
    Filter m_filter = Filter::All;
    std::vector<std::size_t> m_rows; ///< indices into the evaluation's results
    std::vector<QPushButton*> m_filters;
    ColumnsModel* m_results;
    DataTable* m_table;
    QLabel* m_counts;
    QLabel* m_batch;
    Card* m_combinedCard;
    QLabel* m_combined;
    QLabel* m_empty;
};

} // namespace nuvat
