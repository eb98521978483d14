#pragma once

#include "jobs/job.h"
#include "nuvat/batch/compare_fits.h"
#include "panels/page.h"

class QHBoxLayout;
class QLabel;
class QLineEdit;
class QPushButton;
class QStackedWidget;

namespace nuvat {

class Choice;
class ColumnsModel;
class CompareView;
class CurvePlot;
class CurveSettings;
class LineChoice;
class DataTable;

/// The curve: model, weighting and axis chosen on it, standards with their back-calculated errors, parameters.
class CurvePage : public Page {
    Q_OBJECT
public:
    CurvePage(Workspace& workspace, QWidget* parent);
    QWidget* mainWidget() const override;
    QString keysHint() const override;
    QString facts() const override;
    QWidget* settings() const override;
    void copy() const override; ///< the plot as a picture
    QWidget* picture() const override;
    void enterSettings() override;
    std::vector<PageAction> actions() override;
    CurvePlot* plot() const { return m_plot; }
    /// Shows the comparison of models, or the curve again.
    void showComparison(bool isShown);

protected:
    void keyPressEvent(QKeyEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

private:
    QLayout* makeTop();
    QLayout* makeViewSwitch();
    QLayout* makeReadOff();
    Choice* addChoice(QHBoxLayout* row, const QString& title, const char* name);
    QWidget* makeStandards();
    QWidget* makeParameters();
    void connectAll();
    const StandardValue& standardAt(int row) const;
    void refresh() override;
    void followSelection() override;
    void lookForBest();
    void toggleReadOff();
    void fillOthers();
    void toggleOthers();
    void zoomToFit();
    void offer(const std::vector<ComparedFit>& fits);
    QWidget* makeOffer();
    void setAnalyteFrom(const std::function<void(Analyte&)>& change);
    LineChoice* m_lineOf;
    std::vector<QWidget*> m_ofCommonCurve; ///< hidden where each sample has a line of its own
    int m_shownSample = 0;
    Choice* m_model;
    Choice* m_weighting;
    Choice* m_axis;
    QPushButton* m_readOff;
    QLineEdit *m_response, *m_concentration;
    CurvePlot* m_plot;
    CurveSettings* m_settings;
    std::vector<QWidget*> m_whereRoom; ///< hidden where the page is narrow
    QPushButton* m_showsCurve;
    QPushButton* m_showsComparison;
    QStackedWidget* m_views;
    CompareView* m_compare;
    QLabel* m_quality;
    QWidget* m_offer; ///< of a model that is determined, where the one in use is not
    QLabel* m_offerWords;
    QPushButton* m_offerTake;
    FitOptions m_offered;
    std::shared_ptr<SharedProgress> m_search;
    int m_searches = 0; ///< only the last one counts
    ColumnsModel* m_standards;
    DataTable* m_standardsTable;
    ColumnsModel* m_parameters;
};

} // namespace nuvat
