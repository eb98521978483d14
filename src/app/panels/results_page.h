#pragma once

#include "panels/page.h"
#include "panels/result_table_model.h"

#include <tuple>

class QButtonGroup;
class QLabel;
class QMenu;
class QPushButton;
class QStackedLayout;

namespace nuvat {

class Card;
class CarrierView;
class DataTable;
class DecisionPicture;
class ResultSettings;
class Segments;
class SharedProgress;

/// Results by sample, by replicate or as a plate, in the columns that the method chooses; classes among the decision
/// limits.
class ResultsPage : public Page {
    Q_OBJECT
public:
    ResultsPage(Workspace& workspace, QWidget* parent);
    QWidget* mainWidget() const override;
    QString keysHint() const override { return tr("Ctrl+C copy · Space next to review · X exclude"); }
    QString facts() const override;
    void copy() const override;
    bool next() override; ///< to the next result to review
    QWidget* settings() const override;
    void enterSettings() override;
    std::vector<PageAction> actions() override;

private:
    enum class Rows { Sample, Replicate, Plate };
    enum class Filter { All, Unknown, Qc, Review };
    QLayout* makeTop();
    QWidget* makeTable();
    QLayout* makeSummary();
    void showRows(Rows rows);
    void fillColumnsMenu();
    /// Puts columns into the method.
    void chooseColumns(std::vector<std::string> keys, const std::string& label);
    void takeOrder(); ///< of the headings, after one was dragged
    void refreshColumns();
    void refreshDecisions();
    /// Beside each result that of the readings before, found off the UI thread.
    void compareWithBefore(bool isOn);
    void refreshBefore();
    std::vector<ColumnSpec> columnsOfBefore();
    void refresh() override;
    void followSelection() override;
    void applyFilter();
    const SampleResult& at(int row) const;
    const ReplicateResult* replicateAt(int row) const;
    Filter m_filter = Filter::All;
    Rows m_by = Rows::Sample;
    std::vector<ResultRow> m_rows;
    std::vector<QString> m_headings; ///< of the columns that are shown
    std::vector<QPushButton*> m_filters;
    Segments* m_rowsOf;
    QMenu* m_columnsMenu;
    ColumnsModel* m_results;
    DataTable* m_table;
    QStackedLayout* m_stack;
    CarrierView* m_plate;
    QLabel* m_counts;
    Card* m_batchCard;
    QLabel* m_batch;
    Card* m_combinedCard;
    QLabel* m_combined;
    Card* m_decisionCard;
    QLabel* m_classes;
    DecisionPicture* m_picture;
    QLabel* m_empty;
    ResultSettings* m_settings;
    bool m_compares = false;
    std::map<Assignment, double> m_before;               ///< results of the readings before
    std::tuple<std::uint64_t, int, int, int> m_beforeOf; ///< revision, analyte, carrier and bracket of m_before
    std::shared_ptr<SharedProgress> m_beforeJob;
};

} // namespace nuvat
