#pragma once

#include "nuvat/batch/evaluation.h"

#include <qcustomplot.h>

namespace nuvat {

/// Two curves over the same standards: the one in use dashed, the one looked at drawn through, shaded where they part.
class ComparePlot : public QCustomPlot {
    Q_OBJECT
public:
    explicit ComparePlot(QWidget* parent);
    /// @param other nullptr: only the curve in use
    void show(const Batch& batch, const AnalyteEvaluation& evaluation, const Fit* other);
    /// What the two curves are called, in use first.
    void setNames(const QString& inUse, const QString& other);
    QSize minimumSizeHint() const override { return {200, 120}; }

private:
    void style();
    QCPGraph *m_inUse, *m_other, *m_standards;
    QCPItemText *m_title, *m_inUseName, *m_otherName;
};

} // namespace nuvat
