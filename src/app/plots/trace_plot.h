#pragma once

#include "nuvat/report/trace_figure.h"

#include <memory>
#include <QWidget>

namespace nuvat {

/// One trace of a plot.
struct PlottedTrace {
    std::shared_ptr<const Trace> trace;
    std::shared_ptr<const MeasuredTrace> measured; ///< nullptr: nothing was looked for in it
    TraceStroke stroke;
    QString name; ///< at its end; may be empty
    Place place;
};

/// A name at a peak.
struct PeakLabel {
    double apex = 0;
    QString text;
    QColor colour;
    bool isChosen = false;
};

/// Colours of traces that lie over each other, in turn; they differ in lightness as well.
QColor overlaidColour(std::size_t i);

/// What a drag or a click on the plot does.
enum class TraceTool { Zoom, Line, Split, Join, Remove, Give, Ignore };

/// Traces over x. The wheel zooms at the pointer, dragging zooms to a stretch, Shift or the middle button pans, Z shows
/// all, F fits y to the chosen peak. Starts and ends of the peaks of the first trace can be dragged, and the ends of
/// lines that were drawn; what is dragged is measured and painted at once, and told when the button is let go.
class TracePlot : public QWidget {
    Q_OBJECT
public:
    explicit TracePlot(QWidget* parent);

    /// @param traces the first is the one that is edited; later ones are drawn below it
    void setTraces(std::vector<PlottedTrace> traces, const QString& xTitle, const QString& yTitle);
    void setLabels(std::vector<PeakLabel> labels);
    /// Where a peak is expected, shaded.
    void setExpected(std::optional<Stretch> window);
    void setEditable(bool isEditable);
    void setTool(TraceTool tool);
    TraceTool tool() const { return m_tool; }
    /// The stretch of x; absent: all.
    void setZoom(std::optional<Stretch> zoom);
    /// The two markers; absent: none.
    void setMarkers(std::optional<Stretch> markers);
    std::optional<Stretch> markers() const { return m_markers; }
    void showAll();
    void fitToPeak(); ///< y to the chosen peak, else to what is seen
    /// Ends a drag without doing what it would. @return whether one was on
    bool cancelDrag();

    const std::vector<PlottedTrace>& traces() const { return m_traces; }
    /// Where a value stands; lets tests drag what a person would.
    QPointF pixelOf(double x, double y) const { return QPointF(axes().x(x), axes().y(y)); }
    TraceWindow window() const { return axes().window; }
    QRectF plotArea() const { return area(); }
    QString hoverText() const { return m_hoverText; }
    /// What is dragged now, measured; the first trace's features otherwise.
    const TraceFeatures* features() const;

Q_SIGNALS:
    void zoomed(std::optional<nuvat::Stretch> stretch);
    void drawn(const nuvat::PeakEdit& edit);
    void ignored(const nuvat::Stretch& stretch);
    void markersMoved(const nuvat::Stretch& markers);
    void peakChosen(double apex);
    void traceChosen(nuvat::Place place);

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void leaveEvent(QEvent* event) override;

private:
    /// One end of a peak's base line.
    struct Handle {
        std::size_t peak = 0;
        bool isEnd = false;
        bool isLine = false; ///< drawn: it moves in y as well
        QPointF at;
    };
    enum class Drag { None, Handle, Band, Pan, Line, Marker };

    QRectF area() const;
    TraceAxes axes() const;
    void fitY();
    std::vector<Handle> handles() const;
    std::optional<Handle> handleNear(QPointF position) const;
    std::optional<int> markerNear(QPointF position) const;
    const Peak* peakAt(double x) const;
    double peakWithin(double from, double to) const;
    PeakEdit editOf(const Handle& handle, QPointF position) const;
    void preview(const PeakEdit& edit);
    void beginDrag(QMouseEvent* event);
    void clickWith(QPointF position);
    void finishBand();
    void zoomTo(double low, double high);
    void showHover(QPointF position);
    void drawPeaks(QPainter& painter, const TraceAxes& axes) const;
    void drawHandles(QPainter& painter) const;
    void drawMarkers(QPainter& painter, const TraceAxes& axes) const;
    void drawDrag(QPainter& painter, const TraceAxes& axes) const;
    void drawHover(QPainter& painter, const TraceAxes& axes) const;
    std::optional<QRectF> roomFor(const Peak& peak, double width, const TraceAxes& axes,
                                  const std::vector<QRectF>& taken) const;
    void drawNames(QPainter& painter, const TraceAxes& axes) const;

    std::vector<PlottedTrace> m_traces;
    QString m_xTitle, m_yTitle;
    std::vector<PeakLabel> m_labels;
    std::optional<Stretch> m_expected;
    bool m_isEditable = false;
    TraceTool m_tool = TraceTool::Zoom;
    std::optional<Stretch> m_zoom, m_markers;
    TraceWindow m_window;
    bool m_isYFitted = true; ///< to what is seen; false: to a peak or as it was zoomed
    Drag m_drag = Drag::None;
    QPointF m_pressed, m_pointer;
    TraceWindow m_windowBefore;
    std::optional<Handle> m_handle;
    int m_marker = 0;
    std::optional<PeakEdit> m_pending;
    std::shared_ptr<const MeasuredTrace> m_preview; ///< the first trace with what is being dragged
    QString m_hoverText;
};

} // namespace nuvat
