#pragma once

#include "nuvat/batch/curve_shape.h"
#include "plots/curve_overlay.h"
#include "session/workspace.h"

#include <qcustomplot.h>

namespace nuvat {

/// Layer of the curve's plot for what moves with the pointer.
inline const QString kMarksLayer = QStringLiteral("marks");

/// The calibration: curve with band, standards, QC and unknowns above, back-calculated errors of the standards below.
/// A click selects a point, a double-click or X excludes or restores it; the wheel zooms at the pointer, dragging pans,
/// Z fits. With the read-off cursor the pointer's response is read off the curve. Other curves can lie behind it.
class CurvePlot : public QCustomPlot {
    Q_OBJECT
public:
    CurvePlot(Workspace& workspace, QWidget* parent);

    void refresh();
    /// Fits the axes to the standards.
    void fitAxes();
    void setCursorOn(bool isOn);
    bool isCursorOn() const { return m_isCursorOn; }
    /// Puts the read-off cursor at a response and keeps it there until the pointer moves on the plot.
    void readOffAt(double response);
    /// Puts it at a concentration and says the response of the curve there.
    void readOffConcentration(double concentration);
    /// Curves that can be laid behind, by name; those of the batch and kept ones of files.
    std::vector<std::string> otherNames();
    void showOther(const std::string& name, bool isShown);
    bool isOtherShown(const std::string& name) const { return m_wantedOthers.contains(name); }
    /// A kept curve from a file, shown at once. It stays until another batch is opened.
    void addKept(const KeptCurve& kept);
    /// Where the name of another curve stands, for tests to click it.
    QRectF otherArea(const std::string& name) const { return m_overlay->areaOf(name); }
    /// What the read-off label says now; empty when it is hidden.
    QString readOffText() const;
    QPointF toPixel(double x, double y) const; ///< of a concentration and a response
    QPointF cursorPixel() const;               ///< where the ring of the read-off cursor stands
    int errorsOutside() const;                 ///< standards that the strip shows beyond their level's limit
    /// Position of a standard's point in pixels; lets tests click it.
    std::optional<QPointF> pixelOf(Place place) const;
    /// What hovering a point says: its place, response, concentration and error.
    QString pointText(Place place) const;
    QCPAxisRect* mainRect() const { return m_main; }

Q_SIGNALS:
    void pointActivated(nuvat::Place place); ///< double-click: exclude or restore

protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void showEvent(QShowEvent* event) override;

private:
    void build();
    void style();
    void setMarkers(double size);
    void setTicks(QCPAxis* axis);
    void placeRange();
    void fillPoints();
    void fillErrors();
    void findOthers();
    void showOthers();
    bool takeOther(QPointF position);
    void setCursorText(const QString& words);
    void showSelection();
    void showCursor(double response);
    void placeCursor();
    void placeLabel(QPointF at);
    void placeRangeLabels();
    int covered(const QRectF& area) const;
    void hideCursor();
    std::optional<Place> pointNear(QPointF position) const;

    Workspace& m_workspace;
    CurveShape m_shape;
    bool m_isStale = false; ///< changed while it was hidden
    bool m_isFitted = true; ///< axes follow the data until a person zooms or pans
    bool m_isCursorOn = false;
    double m_cursorResponse = 0;
    std::optional<double> m_cursorX; ///< absent: the curve has no concentration for the response
    QPointF m_pressed;
    std::unique_ptr<CurveOverlay> m_overlay;
    std::vector<OtherCurve> m_others, m_keptOthers; ///< of the batch, and of files
    std::set<std::string> m_wantedOthers;
    QCPAxisRect* m_main = nullptr;
    QCPAxisRect* m_strip = nullptr;
    QCPGraph *m_bandLow = nullptr, *m_bandHigh = nullptr, *m_curve = nullptr, *m_standards = nullptr,
             *m_excluded = nullptr, *m_qcs = nullptr, *m_unknowns = nullptr, *m_selected = nullptr;
    QCPGraph *m_errors = nullptr, *m_errorsOutside = nullptr;
    QCPItemRect *m_below = nullptr, *m_above = nullptr, *m_limits = nullptr;
    QCPItemText *m_lloq = nullptr, *m_uloq = nullptr, *m_label = nullptr, *m_yTitle = nullptr, *m_stripTitle = nullptr,
                *m_message = nullptr;
    QCPItemLine *m_acrossLine = nullptr, *m_downLine = nullptr, *m_zeroLine = nullptr;
    QCPItemEllipse* m_marker = nullptr;
};

} // namespace nuvat
