#pragma once

#include "kinds/trace/trace_look.h"
#include "nuvat/report/trace_figure.h"

#include <QWidget>

namespace nuvat {

/// A quantity of the analyte shown, run by run, with the limits that it has to keep. A click looks at the run.
class RunChart : public QWidget {
    Q_OBJECT
public:
    RunChart(Workspace& workspace, QWidget* parent);
    /// @param limits shaded between; absent: there are none
    void show(RunQuantity quantity, const QString& title, std::optional<Stretch> limits);
    std::optional<QPointF> pointOf(Place place) const; ///< nothing where it has no value

Q_SIGNALS:
    void chosen(nuvat::Place place);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;

private:
    TraceAxes axes() const;
    std::optional<double> value(Place place) const;

    Workspace& m_workspace;
    TraceLook& m_look;
    RunQuantity m_quantity = RunQuantity::Time;
    QString m_title;
    std::optional<Stretch> m_limits;
};

} // namespace nuvat
