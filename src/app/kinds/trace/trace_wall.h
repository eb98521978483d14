#pragma once

#include "kinds/trace/trace_look.h"
#include "nuvat/report/trace_figure.h"

#include <QWidget>

namespace nuvat {

/// Runs as small traces side by side, as many as were chosen; up and down pages go through the others. A click chooses
/// a run, a double-click or Enter looks at it alone.
class TraceWall : public QWidget {
    Q_OBJECT
public:
    TraceWall(Workspace& workspace, QWidget* parent);
    void setGrid(int columns, int rows);
    /// All on one scale, or each on its own.
    void setCommonScale(bool isCommon);
    /// Only the stretch about the analyte shown, or all of the trace.
    void setWindowOnly(bool isWindowOnly);
    void turnPage(int by);
    int firstRun() const { return m_first; }
    /// "Runs 13 to 24 of 48".
    QString pageText() const;
    /// Where the small trace of a run stands; nothing when another page shows it.
    std::optional<QRectF> cellRect(int run) const;

Q_SIGNALS:
    void activated(nuvat::Place place);
    void pageTurned();

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

private:
    int runs() const { return m_workspace.carrier().rows; }
    int perPage() const { return m_columns * m_rows; }
    void follow();
    std::optional<int> runAt(QPointF position) const;
    std::optional<Stretch> stretch() const;
    std::optional<std::pair<double, double>> commonY() const;
    TraceWindow windowOf(const Trace& trace, const std::optional<std::pair<double, double>>& common) const;
    void drawCell(QPainter& painter, int run, const std::optional<std::pair<double, double>>& common) const;
    void drawHead(QPainter& painter, const QRectF& head, Place place) const;

    Workspace& m_workspace;
    TraceLook& m_look;
    int m_columns = 4, m_rows = 3;
    int m_first = 0;
    bool m_isCommon = true;
    bool m_isWindowOnly = true;
};

} // namespace nuvat
