#pragma once

#include "session/workspace.h"

#include <QWidget>

namespace nuvat {

/// The plate: wells with heat and numbers, with roles, or with responses. Selects by dragging, by headings and with
/// Ctrl; with a brush, dragging paints. Keys: arrows, Shift extends, Ctrl+A.
class PlateView : public QWidget {
    Q_OBJECT
public:
    enum class Mode { Heat, Number, HeatAndNumber, Roles, Responses };
    PlateView(Workspace& workspace, Mode mode, QWidget* parent);

    void setMode(Mode mode);
    Mode mode() const { return m_mode; }
    /// Ends of the heat scale; absent: lowest and highest value on the plate.
    void setScale(std::optional<double> low, std::optional<double> high);
    /// Lowest and highest value on the plate, or nothing.
    std::optional<std::pair<double, double>> valueRange() const;
    /// With a brush, a finished drag emits painted() instead of selecting.
    void setBrush(std::optional<Role> brush);
    std::optional<Role> brush() const { return m_brush; }

    /// Area of a well in widget coordinates; lets tests click a well, and places tool tips.
    QRectF wellRect(Place place) const;
    QRectF rowHeadingRect(int row) const;
    QRectF columnHeadingRect(int column) const;
    /// What the well shows as text, line by line.
    QStringList wellTexts(Place place) const;

    QSize sizeHint() const override { return {740, 380}; }
    QSize minimumSizeHint() const override { return {420, 220}; }

Q_SIGNALS:
    void painted(const std::vector<nuvat::Place>& places);
    void wellActivated(nuvat::Place place); ///< double-click or Enter

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

private:
    struct Grid {
        double left, top, cellWidth, cellHeight;
    };
    Grid grid() const;
    /// Row -1: column headings; column -1: row headings.
    std::optional<Place> placeAt(QPointF position) const;
    std::vector<Place> between(Place from, Place to) const;
    void finishDrag();
    void drawWell(QPainter& painter, Place place) const;
    void drawHeat(QPainter& painter, Place place, const QRectF& area) const;
    void drawRole(QPainter& painter, Place place, const QRectF& area) const;
    void drawBonds(QPainter& painter) const;
    std::optional<double> heatValue(Place place) const;

    Workspace& m_workspace;
    Mode m_mode;
    std::optional<double> m_low;
    std::optional<double> m_high;
    std::pair<double, double> m_paintedScale{0, 1}; // ends of the scale in the picture being painted
    std::optional<Role> m_brush;
    std::optional<Place> m_dragFrom;
    std::optional<Place> m_dragTo;
    std::vector<Place> m_before; // selection that Ctrl adds to
    Place m_cursor{0, 0};
};

/// The scale of a heat map, with a handle at each end.
class HeatScale : public QWidget {
    Q_OBJECT
public:
    explicit HeatScale(QWidget* parent);
    /// Ends of what can be chosen; the chosen range is reset to it.
    void setRange(double low, double high);
    double low() const { return m_low; }
    double high() const { return m_high; }
    QSize sizeHint() const override { return {184, 34}; }

Q_SIGNALS:
    void scaleChanged(double low, double high);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    double xOf(double value) const;
    void move(double x);
    double m_least = 0, m_most = 1, m_low = 0, m_high = 1;
    bool m_movesHigh = true;
};

} // namespace nuvat
