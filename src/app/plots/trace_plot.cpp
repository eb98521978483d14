#include "plots/trace_plot.h"

#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"

#include <algorithm>
#include <cmath>
#include <QMouseEvent>
#include <QWheelEvent>

namespace nuvat {

namespace {

constexpr double kText = 12;
constexpr double kLeft = 62, kTop = 10, kRight = 12, kBottom = 40;
constexpr double kNear = 9; ///< pixels within which a handle is taken
constexpr double kLeastBand = 5;

QString figures(double value, int count = 5) {
    return shown(formatFigures(value, count));
}

/// The lowest and highest y between two x, without what is ignored: a solvent would press all else flat.
std::optional<std::pair<double, double>> seenY(const PlottedTrace& one, double low, double high) {
    std::optional<std::pair<double, double>> out;
    const auto add = [&](double from, double to) {
        const auto y = from < to ? rangeOfY(*one.trace, from, to, one.stroke.scale) : std::nullopt;
        if (y) {
            out = out ? std::pair(std::min(out->first, y->first), std::max(out->second, y->second)) : *y;
        }
    };
    double from = low;
    if (one.measured) {
        for (const Stretch& ignored : one.measured->rules.signal.peaks.ignored) { // in their order
            add(from, std::min(ignored.from, high));
            from = std::max(from, ignored.to);
        }
    }
    add(from, high);
    return out ? out : rangeOfY(*one.trace, low, high, one.stroke.scale);
}

} // namespace

TracePlot::TracePlot(QWidget* parent) : QWidget(parent) {
    setMouseTracking(true);
    setFocusPolicy(Qt::NoFocus); // its keys are the page's, and arrows stay with the runs
    setMinimumSize(240, 140);
    setAccessibleName(tr("Traces"));
}

void TracePlot::setTraces(std::vector<PlottedTrace> traces, const QString& xTitle, const QString& yTitle) {
    const bool isSame = !m_traces.empty() && !traces.empty() && m_traces.front().trace == traces.front().trace;
    const bool canGoOn = !traces.empty() && traces.front().measured && traces.front().trace;
    if (!canGoOn && m_drag != Drag::None) {
        cancelDrag();
    }
    m_traces = std::move(traces);
    m_xTitle = xTitle;
    m_yTitle = yTitle;
    if (!isSame) {
        cancelDrag();
        m_isYFitted = true;
    }
    m_preview.reset();
    fitY();
    update();
}

void TracePlot::setLabels(std::vector<PeakLabel> labels) {
    m_labels = std::move(labels);
    update();
}

void TracePlot::setExpected(std::optional<Stretch> window) {
    m_expected = window;
    update();
}

void TracePlot::setEditable(bool isEditable) {
    m_isEditable = isEditable;
    update();
}

void TracePlot::setTool(TraceTool tool) {
    m_tool = tool;
    setCursor(tool == TraceTool::Zoom ? Qt::ArrowCursor : Qt::CrossCursor);
    update();
}

void TracePlot::setZoom(std::optional<Stretch> zoom) {
    m_zoom = zoom;
    fitY();
    update();
}

void TracePlot::setMarkers(std::optional<Stretch> markers) {
    m_markers = markers;
    update();
}

const TraceFeatures* TracePlot::features() const {
    const auto& measured = m_preview ? m_preview : m_traces.empty() ? nullptr : m_traces.front().measured;
    return measured && measured->problem.empty() ? &measured->features : nullptr;
}

QRectF TracePlot::area() const {
    return QRectF(rect()).adjusted(kLeft, kTop, -kRight, -kBottom);
}

TraceAxes TracePlot::axes() const {
    return {area(), m_window};
}

/// All of x unless it is zoomed, and of y what is seen of all traces, unless it was fitted to a peak.
void TracePlot::fitY() {
    std::optional<TraceWindow> whole;
    for (const PlottedTrace& one : m_traces) {
        if (!one.trace || one.trace->size() < 2) {
            continue;
        }
        const double low = m_zoom ? m_zoom->from : one.trace->xAt(0);
        const double high = m_zoom ? m_zoom->to : one.trace->xAt(one.trace->size() - 1);
        const auto y = seenY(one, low, high);
        const double offset = one.stroke.offset;
        const TraceWindow own{low, high, y ? y->first + offset : 0, y ? y->second + offset : 1};
        whole = whole ? TraceWindow{std::min(whole->xLow, own.xLow), std::max(whole->xHigh, own.xHigh),
                                    std::min(whole->yLow, own.yLow), std::max(whole->yHigh, own.yHigh)}
                      : own;
    }
    if (!whole) {
        m_window = {};
        return;
    }
    const double span = whole->yHigh > whole->yLow ? whole->yHigh - whole->yLow : std::max(std::abs(whole->yHigh), 1.0);
    m_window.xLow = whole->xLow;
    m_window.xHigh = whole->xHigh > whole->xLow ? whole->xHigh : whole->xLow + 1;
    if (m_isYFitted) {
        m_window.yLow = whole->yLow - 0.06 * span;
        m_window.yHigh = whole->yHigh + 0.14 * span;
    }
}

void TracePlot::showAll() {
    m_isYFitted = true;
    setZoom(std::nullopt);
}

void TracePlot::fitToPeak() {
    const TraceFeatures* found = features();
    const auto chosen = std::ranges::find_if(m_labels, &PeakLabel::isChosen);
    const Peak* peak = nullptr;
    for (std::size_t i = 0; found && i < found->peaks.size(); ++i) {
        const bool isChosen =
            chosen == m_labels.end()
                ? found->peaks[i].apex > m_window.xLow && found->peaks[i].apex < m_window.xHigh &&
                      (!peak || found->peaks[i].height > peak->height)
                : std::abs(found->peaks[i].apex - chosen->apex) < 1e-9 + 1e-9 * std::abs(chosen->apex);
        peak = isChosen ? &found->peaks[i] : peak;
    }
    if (peak == nullptr) {
        m_isYFitted = true;
        fitY();
    } else {
        const double low = std::min({peak->startY, peak->endY, peak->apexY});
        const double high = std::max({peak->startY, peak->endY, peak->apexY});
        m_isYFitted = false;
        m_window.yLow = low - 0.12 * (high - low);
        m_window.yHigh = high + 0.22 * (high - low);
    }
    update();
}

void TracePlot::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    update();
}

std::vector<TracePlot::Handle> TracePlot::handles() const {
    std::vector<Handle> out;
    const TraceFeatures* found = features();
    if (!m_isEditable || found == nullptr || m_traces.empty()) {
        return out;
    }
    const auto& edits = (m_preview ? m_preview : m_traces.front().measured)->rules.edits;
    const TraceAxes where = axes();
    const double tolerance = (m_window.xHigh - m_window.xLow) * 1e-9;
    for (std::size_t i = 0; i < found->peaks.size(); ++i) {
        const Peak& peak = found->peaks[i];
        const bool isLine = std::ranges::any_of(edits, [&](const PeakEdit& edit) {
            return edit.kind == PeakEditKind::Line && std::abs(edit.from - peak.start) <= tolerance &&
                   std::abs(edit.to - peak.end) <= tolerance;
        });
        for (const bool isEnd : {false, true}) {
            const double x = isEnd ? peak.end : peak.start;
            if (x >= m_window.xLow && x <= m_window.xHigh) {
                out.push_back({i, isEnd, isLine, {where.x(x), where.y(isEnd ? peak.endY : peak.startY)}});
            }
        }
    }
    return out;
}

/// Of several as near, that of the chosen peak.
std::optional<TracePlot::Handle> TracePlot::handleNear(QPointF position) const {
    std::optional<Handle> best;
    double least = kNear;
    for (const Handle& handle : handles()) {
        const double distance = std::hypot(handle.at.x() - position.x(), handle.at.y() - position.y());
        if (distance < least) {
            least = distance;
            best = handle;
        }
    }
    return best;
}

std::optional<int> TracePlot::markerNear(QPointF position) const {
    if (!m_markers || !area().adjusted(0, -4, 0, 4).contains(position)) {
        return std::nullopt;
    }
    const double first = std::abs(axes().x(m_markers->from) - position.x());
    const double second = std::abs(axes().x(m_markers->to) - position.x());
    return std::min(first, second) > kNear ? std::nullopt : std::optional(first <= second ? 0 : 1);
}

const Peak* TracePlot::peakAt(double x) const {
    const Peak* best = nullptr;
    if (const TraceFeatures* found = features()) {
        for (const Peak& peak : found->peaks) {
            const bool isIn = peak.start <= x && x <= peak.end;
            best = isIn && (!best || peak.end - peak.start < best->end - best->start) ? &peak : best;
        }
    }
    return best;
}

/// The apex of the highest peak of the trace between two x; without one their middle.
double TracePlot::peakWithin(double from, double to) const {
    const Peak* highest = nullptr;
    for (const Peak& peak : m_traces.front().measured->features.peaks) {
        const bool isIn = peak.apex > from && peak.apex < to;
        highest = isIn && (!highest || peak.height > highest->height) ? &peak : highest;
    }
    return highest ? highest->apex : (from + to) / 2;
}

PeakEdit TracePlot::editOf(const Handle& handle, QPointF position) const {
    // The peak as it was when the drag began: what is dragged must not run away from itself.
    const Peak& peak = m_traces.front().measured->features.peaks.at(handle.peak);
    const TraceAxes where = axes();
    const double x = std::clamp(where.valueX(position.x()), m_window.xLow, m_window.xHigh);
    PeakEdit edit{handle.isLine ? PeakEditKind::Line : PeakEditKind::Bounds, peak.apex, peak.start, peak.end, 0, 0};
    const double room = (m_window.xHigh - m_window.xLow) * 1e-4;
    (handle.isEnd ? edit.to : edit.from) = handle.isEnd ? std::max(x, edit.from + room) : std::min(x, edit.to - room);
    if (handle.isLine) {
        edit.fromY = handle.isEnd ? peak.startY : where.valueY(position.y());
        edit.toY = handle.isEnd ? where.valueY(position.y()) : peak.endY;
    }
    return edit;
}

/// Measures the first trace with what is being drawn.
void TracePlot::preview(const PeakEdit& edit) {
    const PlottedTrace& first = m_traces.front();
    m_pending = edit;
    TraceRules rules{first.measured->rules.signal, first.measured->rules.edits, {}}; // no more is painted
    rules.edits.push_back(edit);
    m_preview = std::make_shared<const MeasuredTrace>(
        measureTrace(first.measured->payload, first.trace, rules, first.measured.get()));
    update();
}

bool TracePlot::cancelDrag() {
    const bool wasOn = m_drag != Drag::None;
    if (m_drag == Drag::Pan) {
        m_window = m_windowBefore;
    }
    m_drag = Drag::None;
    m_handle.reset();
    m_pending.reset();
    m_preview.reset();
    update();
    return wasOn;
}

void TracePlot::mousePressEvent(QMouseEvent* event) {
    if (m_traces.empty() || m_drag != Drag::None) {
        return;
    }
    m_pressed = m_pointer = event->position();
    m_windowBefore = m_window;
    if (event->button() == Qt::MiddleButton ||
        (event->button() == Qt::LeftButton && event->modifiers().testFlag(Qt::ShiftModifier))) {
        m_drag = Drag::Pan;
    } else if (event->button() == Qt::LeftButton) {
        beginDrag(event);
    }
}

void TracePlot::beginDrag(QMouseEvent* event) {
    const bool hasTrace = m_isEditable && m_traces.front().measured && m_traces.front().trace;
    if (const auto marker = markerNear(m_pressed); marker && m_tool == TraceTool::Zoom) {
        m_drag = Drag::Marker;
        m_marker = *marker;
    } else if (const auto handle = handleNear(m_pressed); handle && hasTrace && m_tool == TraceTool::Zoom) {
        m_drag = Drag::Handle;
        m_handle = handle;
        Q_EMIT peakChosen(features()->peaks.at(handle->peak).apex);
    } else if (area().adjusted(-4, -4, 4, 4).contains(m_pressed)) {
        m_drag = m_tool == TraceTool::Line && hasTrace ? Drag::Line : Drag::Band;
    }
    event->accept();
}

void TracePlot::mouseMoveEvent(QMouseEvent* event) {
    m_pointer = event->position();
    const TraceAxes where = axes();
    switch (m_drag) {
    case Drag::None:
        break;
    case Drag::Handle:
        if (m_handle->peak >= m_traces.front().measured->features.peaks.size()) {
            cancelDrag(); // an undo meanwhile took the peak away
        } else if ((m_pointer - m_pressed).manhattanLength() > 2 || m_pending) {
            preview(editOf(*m_handle, m_pointer));
        }
        break;
    case Drag::Line:
        if (std::abs(m_pointer.x() - m_pressed.x()) > kLeastBand) {
            const bool isForth = m_pointer.x() > m_pressed.x();
            const QPointF left = isForth ? m_pressed : m_pointer, right = isForth ? m_pointer : m_pressed;
            const double from = where.valueX(left.x()), to = where.valueX(right.x());
            preview(
                {PeakEditKind::Line, peakWithin(from, to), from, to, where.valueY(left.y()), where.valueY(right.y())});
        }
        break;
    case Drag::Marker: {
        const double x = std::clamp(where.valueX(m_pointer.x()), m_window.xLow, m_window.xHigh);
        Stretch next = *m_markers;
        (m_marker == 0 ? next.from : next.to) = x;
        if (next.from > next.to) { // one goes past the other
            std::swap(next.from, next.to);
            m_marker = 1 - m_marker;
        }
        m_markers = next;
        Q_EMIT markersMoved(next);
        break;
    }
    case Drag::Pan: {
        const double dx = (m_pressed.x() - m_pointer.x()) / area().width() * (m_window.xHigh - m_window.xLow);
        const double dy = (m_pointer.y() - m_pressed.y()) / area().height() * (m_window.yHigh - m_window.yLow);
        m_window = {m_windowBefore.xLow + dx, m_windowBefore.xHigh + dx, m_windowBefore.yLow + dy,
                    m_windowBefore.yHigh + dy};
        m_isYFitted = false;
        break;
    }
    case Drag::Band:
        break;
    }
    showHover(m_pointer);
    update();
}

void TracePlot::mouseReleaseEvent(QMouseEvent*) {
    const Drag was = m_drag;
    m_drag = Drag::None;
    m_handle.reset();
    if (was == Drag::Pan) {
        zoomTo(m_window.xLow, m_window.xHigh);
    } else if (was == Drag::Band) {
        finishBand();
    } else if ((was == Drag::Handle || was == Drag::Line) && m_pending) {
        const PeakEdit edit = *m_pending;
        m_pending.reset();
        Q_EMIT drawn(edit);
    }
    m_preview.reset();
    update();
}

/// A drag over a stretch, or a click where it is hardly one.
void TracePlot::finishBand() {
    const bool isClick = std::abs(m_pointer.x() - m_pressed.x()) < kLeastBand;
    const TraceAxes where = axes();
    const auto inside = [&](double at) { return std::clamp(where.valueX(at), m_window.xLow, m_window.xHigh); };
    const double low = inside(std::min(m_pressed.x(), m_pointer.x()));
    const double high = inside(std::max(m_pressed.x(), m_pointer.x()));
    if (isClick) {
        clickWith(m_pressed);
    } else if (m_tool == TraceTool::Ignore) {
        Q_EMIT ignored({low, high});
    } else if (m_tool == TraceTool::Join && m_isEditable) {
        Q_EMIT drawn({PeakEditKind::Join, (low + high) / 2, low, high, 0, 0});
    } else {
        zoomTo(low, high);
    }
}

void TracePlot::clickWith(QPointF position) {
    const double x = axes().valueX(position.x());
    const Peak* peak = peakAt(x);
    if (m_isEditable && m_tool == TraceTool::Split) {
        Q_EMIT drawn({PeakEditKind::Split, x, x, x, 0, 0});
    } else if (m_isEditable && m_tool == TraceTool::Remove && peak) {
        Q_EMIT drawn({PeakEditKind::Remove, peak->apex, peak->apex, peak->apex, 0, 0});
    } else if (m_isEditable && m_tool == TraceTool::Give && peak) {
        Q_EMIT drawn({PeakEditKind::Give, peak->apex, peak->apex, peak->apex, 0, 0});
    } else if (m_traces.size() > 1) {
        const PlottedTrace* nearest = nullptr;
        double least = 12;
        for (const PlottedTrace& one : m_traces) {
            const auto y = one.trace
                               ? rangeOfY(*one.trace, x, x + (m_window.xHigh - m_window.xLow) / 200, one.stroke.scale)
                               : std::nullopt;
            const double distance = y ? std::abs(axes().y(y->second + one.stroke.offset) - position.y()) : 1e9;
            nearest = distance < least ? &one : nearest;
            least = std::min(distance, least);
        }
        if (nearest) {
            Q_EMIT traceChosen(nearest->place);
        }
    } else if (peak) {
        Q_EMIT peakChosen(peak->apex);
    }
}

void TracePlot::zoomTo(double low, double high) {
    if (!(high > low) || m_traces.empty()) {
        return;
    }
    m_zoom = Stretch{low, high};
    fitY();
    Q_EMIT zoomed(m_zoom);
}

void TracePlot::wheelEvent(QWheelEvent* event) {
    const double turns = event->angleDelta().y() / 120.0;
    if (m_traces.empty() || turns == 0) {
        return;
    }
    const double factor = std::pow(0.8, turns);
    const TraceAxes where = axes();
    if (event->modifiers().testFlag(Qt::ControlModifier)) {
        const double y = where.valueY(event->position().y());
        m_isYFitted = false;
        m_window.yLow = y - (y - m_window.yLow) * factor;
        m_window.yHigh = y + (m_window.yHigh - y) * factor;
        update();
    } else {
        const double x = where.valueX(event->position().x());
        zoomTo(x - (x - m_window.xLow) * factor, x + (m_window.xHigh - x) * factor);
    }
    event->accept();
}

void TracePlot::leaveEvent(QEvent*) {
    m_pointer = {};
    m_hoverText.clear();
    update();
}

void TracePlot::showHover(QPointF position) {
    m_hoverText.clear();
    if (m_traces.empty() || !area().contains(position)) {
        return;
    }
    const TraceAxes where = axes();
    const double x = where.valueX(position.x());
    const Trace& trace = *m_traces.front().trace;
    m_hoverText = QStringLiteral("x %1   y %2").arg(figures(x), figures(where.valueY(position.y()), 4));
    if (const auto y = rangeOfY(trace, x, x + (m_window.xHigh - m_window.xLow) / 500)) {
        m_hoverText = QStringLiteral("%1 %2   %3 %4")
                          .arg(figures(x), text(trace.xUnit), figures(y->second, 4), text(trace.yUnit));
    }
    if (const Peak* peak = m_traces.size() == 1 || m_isEditable ? peakAt(x) : nullptr) {
        m_hoverText += tr("   peak at %1, height %2, area %3")
                           .arg(figures(peak->apex), figures(peak->height, 4), figures(peak->area, 4));
    }
    const bool isOnHandle = m_tool == TraceTool::Zoom && (handleNear(position) || markerNear(position));
    setCursor(m_tool != TraceTool::Zoom ? Qt::CrossCursor : isOnHandle ? Qt::SizeHorCursor : Qt::ArrowCursor);
}

} // namespace nuvat
