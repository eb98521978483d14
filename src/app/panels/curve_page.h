#pragma once

#include "panels/page.h"

class QLabel;
class QLineEdit;
class QPushButton;

namespace nuvat {

class Choice;
class ColumnsModel;
class CurvePlot;
class DataTable;

/// The curve: model, weighting and axis chosen on it, standards with their back-calculated errors, parameters.
class CurvePage : public Page {
    Q_OBJECT
public:
    CurvePage(Workspace& workspace, QWidget* parent);
    QWidget* mainWidget() const override;
    QString keysHint() const override { return tr("X exclude or restore · R read off · Z zoom to fit"); }
    QString facts() const override;
    void copy() const override; ///< the plot as a picture
    void toggleReadOff();
    void fit();
    CurvePlot* plot() const { return m_plot; }

Q_SIGNALS:
    void excludeAsked(nuvat::Place place);

private:
    void refresh();
    void setAnalyteFrom(const std::function<void(Analyte&)>& change);
    Choice* m_model;
    Choice* m_weighting;
    Choice* m_axis;
    QPushButton* m_readOff;
    QLineEdit* m_response;
    CurvePlot* m_plot;
    QLabel* m_quality;
    ColumnsModel* m_standards;
    DataTable* m_standardsTable;
    ColumnsModel* m_parameters;
};

} // namespace nuvat
