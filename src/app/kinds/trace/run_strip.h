#pragma once

#include "kinds/trace/trace_look.h"

#include <QAbstractScrollArea>

namespace nuvat {

/// The runs, one a line: role, name, and what the analyte shown has there. Chooses which run is looked at.
class RunStrip : public QAbstractScrollArea {
    Q_OBJECT
public:
    RunStrip(Workspace& workspace, QWidget* parent);
    /// What stands at the right end of a line.
    QString valueText(Place place) const;
    QRect rowRect(int row) const;
    QSize sizeHint() const override { return {200, 300}; }

Q_SIGNALS:
    void activated(nuvat::Place place); ///< Enter, or a double-click

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    int rows() const { return m_workspace.carrier().rows; }
    std::optional<int> rowAt(QPoint position) const;
    void choose(int row, Qt::KeyboardModifiers modifiers);
    void follow();
    void drawRow(QPainter& painter, int row) const;

    Workspace& m_workspace;
    TraceLook& m_look;
    int m_row = 0;
    int m_anchor = 0; ///< where a selection with Shift begins
};

} // namespace nuvat
