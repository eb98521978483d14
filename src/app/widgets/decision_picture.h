#pragma once

#include "session/workspace.h"

#include <QWidget>

namespace nuvat {

/// The unknowns in rising order with their intervals, and the decision limits across them. Those that are not decided
/// are open and in the colour of a review. A click selects the sample.
class DecisionPicture : public QWidget {
    Q_OBJECT
public:
    DecisionPicture(Workspace& workspace, QWidget* parent);
    void refresh();
    QSize minimumSizeHint() const override { return {200, 90}; }
    /// Where a sample is drawn; lets tests click it.
    std::optional<QPointF> pointOf(int sample) const;

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    bool event(QEvent* event) override;

private:
    struct Mark {
        int sample = 0;
        double value = 0, low = 0, high = 0;
        bool isDecided = true;
        QString words;
    };
    QRectF area() const;
    double xOf(std::size_t index) const;
    double yOf(double value) const;
    const Mark* markAt(QPointF position) const;
    Workspace& m_workspace;
    std::vector<Mark> m_marks; ///< by value
    std::vector<double> m_limits;
    double m_low = 0, m_high = 1;
    int m_room = 0; ///< at the right, for the limits
};

} // namespace nuvat
