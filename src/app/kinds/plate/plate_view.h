#pragma once

#include "kinds/plate/plate_values.h"
#include "kinds/plate/well_face.h"
#include "kinds/reading_kind.h"

#include <QPixmap>
#include <QWidget>

namespace nuvat {

/// The plate: wells with heat and numbers, with roles, or with responses. Selects by dragging, by headings and with
/// Ctrl; with a brush, dragging paints. Keys: arrows, Shift extends, Ctrl+A.
class PlateView : public QWidget, public KindView {
    Q_OBJECT
public:
    PlateView(Workspace& workspace, ViewMode mode, QWidget* parent);

    QWidget* widget() override { return this; }
    void setMode(ViewMode mode) override;
    void setQuantity(PlateQuantity quantity) override;
    ViewMode mode() const { return m_mode; }
    void setScale(std::optional<double> low, std::optional<double> high) override;
    std::optional<std::pair<double, double>> valueRange() const override;
    void setBrush(std::optional<Role> brush) override;

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
    void resizeEvent(QResizeEvent* event) override;
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
    int rows() const; ///< of the carrier that is shown
    int columns() const;
    Place at(int row, int column) const;
    bool isHere(Place place) const; ///< on the carrier that is shown
    /// Row -1: column headings; column -1: row headings.
    std::optional<Place> placeAt(QPointF position) const;
    std::vector<Place> between(Place from, Place to) const;
    void finishDrag();
    QRectF cellRect(Place place) const;
    void stale();
    void updateWell(std::optional<Place> place);
    void updateSelection();
    WellFace heatFace(Place place) const;
    WellFace roleFace(Place place) const;
    std::vector<WellFace> faces();
    void refreshPicture();
    void drawCells(const QRegion& dirty);
    void drawJoints(QPainter& painter, Place place) const;
    void drawMarks(QPainter& painter, const QRegion& region) const;
    std::size_t indexOf(Place place) const;
    std::optional<double> heatValue(Place place) const;
    bool isDerived() const; ///< shows more than readings
    const PlateValues& values() const;
    QString numberText(double value) const;

    Workspace& m_workspace;
    ViewMode m_mode;
    PlateQuantity m_quantity = PlateQuantity::Reading;
    mutable std::optional<PlateValues> m_values; ///< of a quantity that is derived; absent when stale
    std::optional<double> m_low;
    std::optional<double> m_high;
    std::pair<double, double> m_paintedScale{0, 1}; ///< ends of the scale in the picture
    std::vector<WellFace> m_faces;                  ///< in the picture, row by row
    QPixmap m_picture;                              ///< headings and faces; marks are painted over it
    int m_pictureColumns = 0;
    bool m_isPictureStale = true;
    std::vector<Place> m_marked; ///< selected when it was last painted
    std::optional<Place> m_hovered;
    std::optional<Role> m_brush;
    std::optional<Place> m_dragFrom;
    std::optional<Place> m_dragTo;
    std::vector<Place> m_before; // selection that Ctrl adds to
    Place m_cursor{0, 0};
};

} // namespace nuvat
