// What the plot is made of and how it looks; what it shows is in curve_plot.cpp.
#include "nuvat/report/calibration_figure.h"
#include "plots/axis.h"
#include "plots/curve_plot.h"
#include "theme/style.h"

#include <cmath>

namespace nuvat {

namespace {

QCPScatterStyle pathStyle(const QPainterPath& path, const QPen& pen, const QBrush& brush) {
    return {path, pen, brush, 6};
}

QPainterPath diamond(double r) {
    QPainterPath path(QPointF(0, -r));
    path.lineTo(r, 0);
    path.lineTo(0, r);
    path.lineTo(-r, 0);
    path.closeSubpath();
    return path;
}

QPainterPath crossedRing(double r) {
    QPainterPath path;
    path.addEllipse(QPointF(0, 0), r, r);
    path.moveTo(-r * 1.35, r * 1.35);
    path.lineTo(r * 1.35, -r * 1.35);
    return path;
}

} // namespace

void CurvePlot::build() {
    plotLayout()->clear();
    m_main = new QCPAxisRect(this);
    m_strip = new QCPAxisRect(this);
    plotLayout()->addElement(0, 0, m_main);
    plotLayout()->addElement(1, 0, m_strip);
    plotLayout()->setRowStretchFactor(0, 5.2);
    plotLayout()->setRowStretchFactor(1, 1);
    plotLayout()->setRowSpacing(4);
    auto* margins = new QCPMarginGroup(this);
    m_main->setMarginGroup(QCP::msLeft | QCP::msRight, margins);
    m_strip->setMarginGroup(QCP::msLeft | QCP::msRight, margins);
    m_main->setMinimumMargins(QMargins(44, 22, 12, 36));
    m_strip->setMinimumMargins(QMargins(44, 2, 12, 20));
    m_strip->setMinimumSize(100, 66);
    setInteractions(QCP::iRangeDrag | QCP::iRangeZoom);
    m_main->setRangeDrag(Qt::Horizontal | Qt::Vertical);
    m_main->setRangeZoom(Qt::Horizontal | Qt::Vertical);
    m_strip->setRangeDrag({});
    m_strip->setRangeZoom({});

    m_overlay = std::make_unique<CurveOverlay>(*this, *m_main);
    QCPAxis* x = m_main->axis(QCPAxis::atBottom);
    QCPAxis* y = m_main->axis(QCPAxis::atLeft);
    QCPAxis* sx = m_strip->axis(QCPAxis::atBottom);
    QCPAxis* sy = m_strip->axis(QCPAxis::atLeft);
    m_bandLow = addGraph(x, y);
    m_bandHigh = addGraph(x, y);
    m_bandHigh->setChannelFillGraph(m_bandLow);
    m_curve = addGraph(x, y);
    m_unknowns = addGraph(x, y);
    m_standards = addGraph(x, y);
    m_excluded = addGraph(x, y);
    m_qcs = addGraph(x, y);
    m_selected = addGraph(x, y);
    m_errors = addGraph(sx, sy);
    m_errorsOutside = addGraph(sx, sy);
    for (QCPGraph* points : {m_unknowns, m_standards, m_excluded, m_qcs, m_selected, m_errors, m_errorsOutside}) {
        points->setLineStyle(QCPGraph::lsNone);
    }
    m_unknowns->setAdaptiveSampling(false);

    const auto inMain = [&](QCPAbstractItem* item) {
        item->setClipAxisRect(m_main);
        item->setClipToAxisRect(true);
    };
    for (QCPItemRect** rect : {&m_below, &m_above}) {
        *rect = new QCPItemRect(this);
        inMain(*rect);
        (*rect)->setLayer(QStringLiteral("background")); // below grid and points
        (*rect)->topLeft->setAxisRect(m_main);
        (*rect)->bottomRight->setAxisRect(m_main);
    }
    m_limits = new QCPItemRect(this);
    m_limits->setLayer(QStringLiteral("background"));
    m_limits->setClipAxisRect(m_strip);
    for (QCPItemPosition* position : {m_limits->topLeft, m_limits->bottomRight}) {
        position->setAxisRect(m_strip);
        position->setAxes(sx, sy);
        position->setTypeX(QCPItemPosition::ptAxisRectRatio);
        position->setTypeY(QCPItemPosition::ptPlotCoords);
    }
    m_zeroLine = new QCPItemLine(this);
    m_zeroLine->setLayer(QStringLiteral("background"));
    m_zeroLine->setClipAxisRect(m_strip);
    for (QCPItemPosition* position : {m_zeroLine->start, m_zeroLine->end}) {
        position->setAxisRect(m_strip);
        position->setAxes(sx, sy);
        position->setTypeX(QCPItemPosition::ptAxisRectRatio);
        position->setTypeY(QCPItemPosition::ptPlotCoords);
    }
    m_zeroLine->start->setCoords(0, 0);
    m_zeroLine->end->setCoords(1, 0);
    for (QCPItemText** item : {&m_lloq, &m_uloq, &m_label, &m_yTitle, &m_stripTitle, &m_message}) {
        *item = new QCPItemText(this);
        (*item)->setClipToAxisRect(false);
    }
    for (QCPItemText* item : {m_lloq, m_uloq}) {
        inMain(item);
        item->position->setAxisRect(m_main);
        item->position->setAxes(x, y);
        item->position->setTypeX(QCPItemPosition::ptPlotCoords);
        item->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
    }
    for (auto [item, rect] :
         {std::pair(m_yTitle, m_main), std::pair(m_message, m_main), std::pair(m_stripTitle, m_strip)}) {
        item->position->setAxisRect(rect);
        item->position->setType(QCPItemPosition::ptAxisRectRatio);
    }
    for (QCPItemLine** line : {&m_acrossLine, &m_downLine}) {
        *line = new QCPItemLine(this);
        inMain(*line);
        for (QCPItemPosition* position : {(*line)->start, (*line)->end}) {
            position->setType(QCPItemPosition::ptAbsolute);
        }
    }
    m_marker = new QCPItemEllipse(this);
    inMain(m_marker);
    m_marker->topLeft->setType(QCPItemPosition::ptAbsolute);
    m_marker->bottomRight->setType(QCPItemPosition::ptAbsolute);
    m_label->position->setType(QCPItemPosition::ptAbsolute);
    // What moves with the pointer has a buffer of its own, so that the rest is not painted again for it.
    addLayer(kMarksLayer, layer(QStringLiteral("overlay")), QCustomPlot::limBelow);
    layer(kMarksLayer)->setMode(QCPLayer::lmBuffered);
    for (QCPLayerable* mark :
         std::initializer_list<QCPLayerable*>{m_selected, m_acrossLine, m_downLine, m_marker, m_label}) {
        mark->setLayer(kMarksLayer);
    }

    connect(x, qOverload<const QCPRange&>(&QCPAxis::rangeChanged), sx,
            [sx](const QCPRange& range) { sx->setRange(range); });
    connect(x, qOverload<const QCPRange&>(&QCPAxis::rangeChanged), this, [this, x] { setTicks(x); });
    connect(y, qOverload<const QCPRange&>(&QCPAxis::rangeChanged), this, [this, y] { setTicks(y); });
    connect(this, &QCustomPlot::mouseWheel, this, [this] { m_isFitted = false; });
    // Whatever moved the axes (a wheel, a drag, another size), what stands at a pixel is put there anew before it is
    // painted.
    connect(this, &QCustomPlot::afterLayout, this, [this] {
        placeCursor();
        placeRangeLabels();
        m_overlay->placeNames();
    });
}

void CurvePlot::style() {
    const Theme& t = theme();
    setBackground(QBrush(t.card));
    for (QCPAxisRect* rect : {m_main, m_strip}) {
        for (const auto type : {QCPAxis::atLeft, QCPAxis::atRight, QCPAxis::atTop, QCPAxis::atBottom}) {
            QCPAxis* axis = rect->axis(type);
            if (axis == nullptr) {
                continue;
            }
            styleAxis(*axis);
        }
    }
    m_strip->axis(QCPAxis::atBottom)->setTickLabels(false);
    m_strip->axis(QCPAxis::atBottom)->setBasePen(Qt::NoPen);
    m_strip->axis(QCPAxis::atLeft)->grid()->setVisible(false);
    m_strip->axis(QCPAxis::atBottom)->grid()->setVisible(false);
    m_strip->axis(QCPAxis::atLeft)->setBasePen(Qt::NoPen);

    QColor band = t.plum;
    band.setAlphaF(0.14F);
    m_bandLow->setPen(Qt::NoPen);
    m_bandHigh->setPen(Qt::NoPen);
    m_bandHigh->setBrush(band);
    m_curve->setPen(QPen(t.plum, 2.2));
    setMarkers(1);
    QPainterPath tick(QPointF(0, 0));
    tick.lineTo(0, -9);
    m_unknowns->setScatterStyle(pathStyle(tick, QPen(t.slate, 1.4), Qt::NoBrush));
    m_selected->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(t.ink, 1.8), Qt::NoBrush, 17));
    m_errors->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, t.plum, t.plum, 7));
    m_errorsOutside->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, t.brick, t.brick, 7));
    for (QCPItemRect* rect : {m_below, m_above}) {
        rect->setPen(Qt::NoPen);
        rect->setBrush(QBrush(t.line, Qt::BDiagPattern));
    }
    m_limits->setPen(Qt::NoPen);
    m_limits->setBrush(t.pineSoft);
    m_zeroLine->setPen(QPen(t.line, 1));
    for (QCPItemText* item : {m_lloq, m_uloq, m_yTitle, m_stripTitle}) {
        item->setFont(uiFont(12));
        item->setColor(t.mute);
    }
    m_message->setFont(uiFont(15));
    m_message->setColor(t.ink);
    m_message->setBrush(t.card);
    m_message->setPen(Qt::NoPen);
    m_message->setPadding(QMargins(14, 8, 14, 8));
    m_message->position->setCoords(0.5, 0.5);
    m_yTitle->setPositionAlignment(Qt::AlignLeft | Qt::AlignBottom);
    m_yTitle->position->setCoords(0.004, -0.012);
    m_stripTitle->setPositionAlignment(Qt::AlignLeft | Qt::AlignTop);
    m_stripTitle->position->setCoords(0, 1.06);
    m_label->setFont(uiFont(12));
    m_label->setColor(t.card);
    m_label->setBrush(t.ink);
    m_label->setPen(Qt::NoPen);
    m_label->setPadding(QMargins(10, 6, 10, 6));
    m_label->setTextAlignment(Qt::AlignLeft);
    m_label->setPositionAlignment(Qt::AlignLeft | Qt::AlignBottom);
    for (QCPItemLine* line : {m_acrossLine, m_downLine}) {
        line->setPen(QPen(t.ink, 1.2, Qt::DashLine));
    }
    m_marker->setPen(QPen(t.ink, 1.8));
    m_marker->setBrush(t.card);
    hideCursor();
}

void CurvePlot::setMarkers(double size) {
    const Theme& t = theme();
    m_standards->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(t.card, 1.4), t.plum, 10 * size));
    m_excluded->setScatterStyle(pathStyle(crossedRing(5 * size), QPen(t.brick, 1.8), Qt::NoBrush));
    m_qcs->setScatterStyle(pathStyle(diamond(6.5 * size), QPen(t.card, 1.2), t.saffron));
}

void CurvePlot::setTicks(QCPAxis* axis) {
    const int pixels = axis->orientation() == Qt::Horizontal ? axis->axisRect()->width() : axis->axisRect()->height();
    nuvat::setTicks(*axis, m_shape.zeroX, std::max(3, pixels / 70));
}

} // namespace nuvat
