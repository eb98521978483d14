#pragma once

#include "nuvat/batch/other_curves.h"

#include <qcustomplot.h>
#include <set>

namespace nuvat {

/// Other curves behind the one of a plot: thin, each in a line of its own with its name at the end.
class CurveOverlay {
public:
    CurveOverlay(QCustomPlot& plot, QCPAxisRect& rect) : m_plot(plot), m_rect(rect) {}
    /// Draws those that are wanted. @param shape of the curve that is shown
    void show(const std::vector<OtherCurve>& curves, const std::set<std::string>& wanted, const CurveShape& shape);
    /// The curve whose name stands at a position of the plot; empty where none does.
    std::string nameAt(QPointF position) const;
    /// Where the name of a curve stands; empty when it is not drawn.
    QRectF areaOf(const std::string& name) const;
    void placeNames(); ///< after the axes have moved

private:
    struct Line {
        std::string name;
        QCPGraph* graph = nullptr;
        QCPItemText* label = nullptr;
    };
    QCustomPlot& m_plot;
    QCPAxisRect& m_rect;
    std::vector<Line> m_lines;
};

} // namespace nuvat
