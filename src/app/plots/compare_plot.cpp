#include "plots/compare_plot.h"

#include "nuvat/batch/curve_shape.h"
#include "nuvat/report/calibration_figure.h"
#include "plots/axis.h"
#include "theme/style.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

constexpr int kSamples = 160;

QVector<double> vectorOf(const std::vector<double>& values) {
    return {values.begin(), values.end()};
}

} // namespace

ComparePlot::ComparePlot(QWidget* parent) : QCustomPlot(parent) {
    setObjectName(QStringLiteral("comparePlot"));
    m_inUse = addGraph();
    m_other = addGraph();
    m_standards = addGraph();
    m_standards->setLineStyle(QCPGraph::lsNone);
    m_other->setChannelFillGraph(m_inUse);
    for (QCPItemText** item : {&m_title, &m_inUseName, &m_otherName}) {
        *item = new QCPItemText(this);
        (*item)->setClipToAxisRect(false);
        (*item)->position->setAxisRect(axisRect());
        (*item)->position->setType(QCPItemPosition::ptAxisRectRatio);
        (*item)->setPositionAlignment(Qt::AlignLeft | Qt::AlignBottom);
    }
    m_title->position->setCoords(0, -0.02);
    m_otherName->position->setCoords(0.03, 0.85);
    m_inUseName->position->setCoords(0.03, 0.97);
    style();
}

void ComparePlot::style() {
    const Theme& t = theme();
    setBackground(QBrush(t.card));
    axisRect()->setAutoMargins(QCP::msNone);
    axisRect()->setMargins(QMargins(44, 20, 12, 22));
    for (QCPAxis* axis : {xAxis, yAxis}) {
        styleAxis(*axis);
    }
    m_inUse->setPen(QPen(t.ink, 1.6, Qt::DashLine));
    m_other->setPen(QPen(t.plum, 2.2));
    m_other->setBrush(t.saffronSoft);
    m_standards->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(t.card, 1.2), t.plum, 8));
    for (QCPItemText* item : {m_title, m_inUseName, m_otherName}) {
        item->setFont(uiFont(12));
        item->setColor(t.mute);
    }
    for (QCPItemText* item : {m_inUseName, m_otherName}) {
        item->setBrush(t.card); // the grid goes behind it
        item->setPadding(QMargins(2, 0, 4, 0));
    }
    m_otherName->setColor(t.plum);
    m_otherName->setFont(uiFont(12, QFont::Bold));
}

void ComparePlot::setNames(const QString& inUse, const QString& other) {
    m_inUseName->setText(QStringLiteral("╌╌  %1").arg(inUse));
    m_otherName->setText(other.isEmpty() ? QString() : QStringLiteral("━━  %1").arg(other));
}

void ComparePlot::show(const Batch& batch, const AnalyteEvaluation& evaluation, const Fit* other) {
    const bool isTwo = other != nullptr && other->isUsable();
    const CurveShape inUse = curveShape(batch, evaluation, kSamples);
    CurveShape shape = inUse;
    if (isTwo) {
        AnalyteEvaluation looked = evaluation;
        looked.fit = *other;
        shape = curveShape(batch, looked, kSamples);
    }
    m_inUse->setData(vectorOf(inUse.x), vectorOf(inUse.y), true);
    m_other->setData(isTwo ? vectorOf(shape.x) : QVector<double>(), isTwo ? vectorOf(shape.y) : QVector<double>(),
                     true);
    QVector<double> x;
    QVector<double> y;
    for (const StandardValue& standard : evaluation.standards) {
        if (standard.isUsed) {
            x.push_back(inUse.drawn(standard.x));
            y.push_back(standard.y);
        }
    }
    m_standards->setData(x, y);
    xAxis->setScaleType(inUse.isLogarithmic ? QCPAxis::stLogarithmic : QCPAxis::stLinear);
    xAxis->setRange(inUse.xLow, inUse.xHigh);
    yAxis->setRange(std::min(inUse.yLow, shape.yLow), std::max(inUse.yHigh, shape.yHigh));
    constexpr int kTicks = 4;
    setTicks(*xAxis, inUse.zeroX, kTicks);
    setTicks(*yAxis, std::nullopt, kTicks);
    const Analyte& analyte = batch.method.analyte(evaluation.analyte);
    m_title->setText(text(analyte.responseName) + (batch.method.subtractsBlank ? tr(", blank-corrected") : QString()));
    replot(QCustomPlot::rpQueuedReplot);
}

} // namespace nuvat
