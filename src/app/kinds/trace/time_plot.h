#pragma once

#include "kinds/trace/trace_look.h"
#include "nuvat/report/trace_figure.h"

#include <QWidget>

namespace nuvat {

/// Where the peak of the analyte shown came in every run, with the window in which it was looked for: drift shows, and
/// what is about to be lost. A click looks at the run.
class TimePlot : public QWidget {
    Q_OBJECT
public:
    TimePlot(Workspace& workspace, QWidget* parent);
    /// How far times scatter, and how many runs are near the edge of their window or have no peak.
    QString summary() const;
    /// Where a run's peak stands, nothing where there is none; lets tests click what a person would.
    std::optional<QPointF> pointOf(int row) const;

Q_SIGNALS:
    void chosen(nuvat::Place place);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;

private:
    TraceAxes axes() const;
    const Response& responseAt(int row) const;
    int rows() const { return m_workspace.carrier().rows; }
    void drawWindows(QPainter& painter, const TraceAxes& axes) const;
    void drawRun(QPainter& painter, const TraceAxes& axes, int row) const;
    void drawRunNumbers(QPainter& painter, const TraceAxes& axes) const;
    std::optional<int> rowAt(QPointF position) const;

    Workspace& m_workspace;
    TraceLook& m_look;
};

} // namespace nuvat
