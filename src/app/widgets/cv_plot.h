#pragma once

#include "session/workspace.h"

#include <QWidget>

namespace nuvat {

/// CV of the replicates of every sample as a row of points with the limit drawn; a click selects the sample.
class CvPlot : public QWidget {
    Q_OBJECT
public:
    CvPlot(Workspace& workspace, QWidget* parent);
    QSize minimumSizeHint() const override { return {200, 90}; }

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    bool event(QEvent* event) override;

private:
    struct Point {
        Assignment group;
        double cv;
        QPointF at;
    };
    std::vector<Point> points() const;
    const Point* nearest(const std::vector<Point>& all, QPointF position) const;
    double top() const;
    QRectF plot() const;
    Workspace& m_workspace;
};

} // namespace nuvat
