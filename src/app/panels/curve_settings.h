#pragma once

#include "panels/method_form.h"

#include <array>

namespace nuvat {

/// What the curve uses besides model and weighting: only what applies to them is shown, and each change is made at
/// once.
class CurveSettings : public MethodForm {
    Q_OBJECT
public:
    CurveSettings(Workspace& workspace, QWidget* parent);
    /// Of the curves that can lie behind; the page fills it.
    QPushButton* others() const { return m_others; }

private:
    void makeFit();
    void makeSource();
    void takeSource(std::size_t chosen);
    void changeKinetic(const std::function<void(KineticRule&)>& edit);
    void refreshKinetic();
    void makeReadingOff();
    void makeReplicates(LiveForm* part);
    void makeInternal(LiveForm* part);
    void makeQualifier(LiveForm* part, std::size_t index);
    void refreshInternal();
    void refreshAddedHere();
    void refreshQualifier(std::size_t index);
    void makeFigure(LiveForm* part);
    void refreshFigure();
    void refresh() override;
    void refreshFit();
    void refreshSource();
    void takeFormula();
    void previewFormula();
    void refreshReadingOff();
    Choice *m_reading, *m_interval, *m_scatter, *m_rangeBy, *m_outliers;
    QLineEdit* m_formula;
    QLabel* m_formulaNote;
    Choice* m_kinetic;
    QWidget *m_kineticRow, *m_kineticTimes;
    NumberField *m_kineticFrom, *m_kineticTo;
    QLabel* m_kept;
    Choice* m_curveOf;
    Segments *m_fitTo, *m_weightFrom, *m_a, *m_d, *m_beyond, *m_average;
    NumberField *m_addition, *m_theta, *m_floor, *m_heldA, *m_heldD, *m_fixedX, *m_fixedY, *m_confidence, *m_precision,
        *m_lloq, *m_uloq, *m_extrapolation, *m_dilution, *m_keepBest;
    Switch *m_blank, *m_band;
    TextField *m_xTitle, *m_yTitle;
    NumberField *m_xLow, *m_xHigh, *m_yLow, *m_yHigh, *m_markerSize;
    QPushButton* m_others;
    QLabel* m_range;
    QWidget *m_readingRow, *m_formulaRow, *m_curveOfRow, *m_additionRow, *m_fitToRow, *m_weightFromRow, *m_thetaRow,
        *m_floorRow, *m_aRow, *m_dRow, *m_fixedRow, *m_handRow, *m_precisionRow, *m_factorRow, *m_blankRow;
    struct QualifierRows {
        Choice* channel;
        NumberField *reference, *tolerance;
        Segments* of;
        QWidget *channelRow, *ratioRow, *ofRow;
    };
    std::array<QualifierRows, 2> m_qualifiers{};
    std::vector<std::string> m_qualifierChannels; ///< of each item of their lists; the first is none
    Choice* m_internal;
    std::vector<int> m_internals; ///< analyte of each item of the list; 0: none
    Segments* m_internalAdded;
    NumberField *m_addedConcentration, *m_addedHere;
    QWidget *m_internalAddedRow, *m_addedRow, *m_addedHereRow;
    std::vector<std::string> m_formulas; ///< of each item of the list but its last
    std::vector<int> m_intervals;        ///< IntervalMethod of each item of the list
};

} // namespace nuvat
