#pragma once

#include "nuvat/batch/standard_plan.h"
#include "session/workspace.h"

#include <QWidget>

namespace nuvat {

/// How the levels are made, as bottle and glasses: what is pipetted from the stock (drawn through) or from another
/// level (dashed). A click, or left and right, selects a level.
class PlanPicture : public QWidget {
    Q_OBJECT
public:
    PlanPicture(Workspace& workspace, QWidget* parent);
    void refresh();
    QSize sizeHint() const override { return {430, 190}; }
    QSize minimumSizeHint() const override { return {300, 176}; }
    /// Where a level stands, by its number; empty when it has no glass.
    QRectF levelRect(int number) const;

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    /// Index among the planned levels of the glass that stands at a position from the left: the highest first.
    std::vector<std::size_t> order() const;
    QRectF glassRect(std::size_t position) const;
    void drawBottle(QPainter& painter) const;
    void drawGlass(QPainter& painter, std::size_t position) const;
    void drawArrows(QPainter& painter) const;
    void select(int number);

    Workspace& m_workspace;
    std::optional<PlannedStandards> m_planned;
    QString m_problem; ///< why there is no plan
};

} // namespace nuvat
