#include "plots/axis.h"

#include "nuvat/batch/curve_shape.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"

namespace nuvat {

void styleAxis(QCPAxis& axis) {
    const Theme& t = theme();
    axis.setTickLabelFont(uiFont(12));
    axis.setTickLabelColor(t.mute);
    axis.setLabelFont(uiFont(12));
    axis.setLabelColor(t.mute);
    axis.setBasePen(QPen(t.line, 1));
    axis.setTickPen(Qt::NoPen);
    axis.setSubTickPen(Qt::NoPen);
    axis.grid()->setPen(QPen(t.line, 1));
    axis.grid()->setZeroLinePen(Qt::NoPen);
    axis.grid()->setSubGridVisible(false);
    axis.setTickLabelPadding(6);
}

void setTicks(QCPAxis& axis, const std::optional<double>& zero, int wanted) {
    const QCPRange range = axis.range();
    const bool isLogarithmic = axis.scaleType() == QCPAxis::stLogarithmic;
    QSharedPointer<QCPAxisTickerText> ticker(new QCPAxisTickerText);
    for (const double tick :
         isLogarithmic ? logTicks(range.lower, range.upper) : roundTicks(range.lower, range.upper, wanted)) {
        if (!(isLogarithmic && zero && tick < *zero * 1.8)) {
            ticker->addTick(tick, tickText(tick, 4));
        }
    }
    if (isLogarithmic && zero) {
        ticker->addTick(*zero, QStringLiteral("0"));
    }
    axis.setTicker(ticker);
}

} // namespace nuvat
