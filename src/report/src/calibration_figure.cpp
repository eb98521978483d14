#include "nuvat/report/calibration_figure.h"

#include "nuvat/core/base/number.h"
#include "nuvat/report/trace_figure.h"

#include <cmath>
#include <QPainterPath>

namespace nuvat {

namespace {

/// From values to the painter's units.
struct Axes {
    QRectF plot;
    const CurveShape& shape;
    double x(double value) const {
        const double v = shape.drawn(value);
        const double share = shape.isLogarithmic ? std::log(v / shape.xLow) / std::log(shape.xHigh / shape.xLow)
                                                 : (v - shape.xLow) / (shape.xHigh - shape.xLow);
        return plot.left() + share * plot.width();
    }
    double y(double value) const {
        return plot.bottom() - (value - shape.yLow) / (shape.yHigh - shape.yLow) * plot.height();
    }
};

void drawGrid(QPainter& painter, const Axes& axes, const Batch& batch, const AnalyteEvaluation& evaluation,
              const Theme& theme, const FigureOptions& options) {
    const CurveShape& shape = axes.shape;
    painter.setFont(uiFont(options.textPixels));
    const QFontMetricsF metrics(painter.font());
    const QPen grid(theme.line, options.lineWidth / 2);
    for (const double tick : roundTicks(shape.yLow, shape.yHigh, 5)) {
        const double y = axes.y(tick);
        painter.setPen(grid);
        painter.drawLine(QPointF(axes.plot.left(), y), QPointF(axes.plot.right(), y));
        painter.setPen(theme.mute);
        painter.drawText(QRectF(axes.plot.left() - 10 * options.textPixels, y - metrics.height(),
                                9.4 * options.textPixels, 2 * metrics.height()),
                         Qt::AlignRight | Qt::AlignVCenter, tickText(tick, 3));
    }
    auto ticks = shape.isLogarithmic ? logTicks(shape.xLow, shape.xHigh) : roundTicks(shape.xLow, shape.xHigh, 6);
    const auto label = [&](double at, const QString& what) {
        painter.setPen(grid);
        painter.drawLine(QPointF(at, axes.plot.top()), QPointF(at, axes.plot.bottom()));
        painter.setPen(theme.mute);
        painter.drawText(QRectF(at - 5 * options.textPixels, axes.plot.bottom() + 0.3 * options.textPixels,
                                10 * options.textPixels, metrics.height()),
                         Qt::AlignHCenter | Qt::AlignTop, what);
    };
    for (const double tick : ticks) {
        if (!shape.zeroX || tick > *shape.zeroX * 1.8) {
            label(axes.x(tick), tickText(tick, 3));
        }
    }
    if (shape.zeroX) {
        label(axes.x(*shape.zeroX), QStringLiteral("0"));
    }
    const Analyte& analyte = analyteOf(batch, evaluation);
    painter.drawText(
        QRectF(axes.plot.left(), axes.plot.bottom() + 1.5 * options.textPixels, axes.plot.width(), metrics.height()),
        Qt::AlignRight | Qt::AlignTop, text(concentrationAxisTitle(analyte)));
    painter.drawText(QRectF(axes.plot.left() + 0.4 * options.textPixels, axes.plot.top() - 1.4 * options.textPixels,
                            axes.plot.width(), metrics.height()),
                     Qt::AlignLeft | Qt::AlignTop, text(responseAxisTitle(batch.method, analyte)));
}

void drawOutsideOfRange(QPainter& painter, const Axes& axes, const AnalyteEvaluation& evaluation, const Theme& theme,
                        const FigureOptions& options) {
    const Range& range = evaluation.range;
    if (!range.lloq || !range.uloq) {
        return;
    }
    const double step = 0.9 * options.textPixels;
    QRectF left = axes.plot;
    left.setRight(axes.x(*range.lloq));
    QRectF right = axes.plot;
    right.setLeft(axes.x(*range.uloq));
    drawHatch(painter, left, step, theme);
    drawHatch(painter, right, step, theme);
}

void drawCurve(QPainter& painter, const Axes& axes, const Theme& theme, const FigureOptions& options) {
    const CurveShape& shape = axes.shape;
    if (shape.x.empty()) {
        return;
    }
    if (options.hasBand) {
        QPainterPath band(QPointF(axes.x(shape.x[0]), axes.y(shape.high[0])));
        for (std::size_t i = 1; i < shape.x.size(); ++i) {
            band.lineTo(axes.x(shape.x[i]), axes.y(shape.high[i]));
        }
        for (std::size_t i = shape.x.size(); i-- > 0;) {
            band.lineTo(axes.x(shape.x[i]), axes.y(shape.low[i]));
        }
        QColor tint = theme.plum;
        tint.setAlphaF(0.14F);
        painter.fillPath(band, tint);
    }
    QPainterPath curve(QPointF(axes.x(shape.x[0]), axes.y(shape.y[0])));
    for (std::size_t i = 1; i < shape.x.size(); ++i) {
        curve.lineTo(axes.x(shape.x[i]), axes.y(shape.y[i]));
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.plum, options.lineWidth));
    painter.drawPath(curve);
}

void drawPoints(QPainter& painter, const Axes& axes, const AnalyteEvaluation& evaluation, const Theme& theme,
                const FigureOptions& options) {
    for (const StandardValue& standard : evaluation.standards) {
        const QPointF at(axes.x(standard.x), axes.y(standard.y));
        if (standard.isUsed) {
            drawRoleShape(painter, at, options.pointRadius, Role::Standard, theme.plum);
        } else {
            drawExcluded(painter, at, options.pointRadius * 1.1, theme.brick);
        }
    }
    for (const SampleResult& result : evaluation.results) {
        for (const ReplicateResult& replicate : result.replicates) {
            if (result.nominal && replicate.state == ResponseState::Used) {
                drawRoleShape(painter, QPointF(axes.x(*result.nominal), axes.y(*replicate.response)),
                              options.pointRadius * 1.1, result.group.role, theme.saffron);
            }
        }
        const auto marked = markedX(evaluation, result);
        if (options.hasUnknowns && result.group.role == Role::Unknown && marked) {
            const double at = *marked;
            if (at > axes.shape.xLow && at < axes.shape.xHigh) {
                painter.setPen(QPen(theme.slate, options.lineWidth * 0.6));
                painter.drawLine(QPointF(axes.x(at), axes.plot.bottom()),
                                 QPointF(axes.x(at), axes.plot.bottom() - 0.8 * options.textPixels));
            }
        }
    }
}

} // namespace

QString tickText(double value, int figures) {
    std::string out = formatFigures(value, figures);
    if (out.find('.') != std::string::npos && out.find('e') == std::string::npos) {
        out.erase(out.find_last_not_of('0') + 1);
        if (out.back() == '.') {
            out.pop_back();
        }
    }
    return shown(out);
}

namespace {

QPolygonF diamond(QPointF centre, double r) {
    return QPolygonF({{centre.x(), centre.y() - r},
                      {centre.x() + r, centre.y()},
                      {centre.x(), centre.y() + r},
                      {centre.x() - r, centre.y()}});
}

QRectF square(QPointF centre, double half) {
    return {centre.x() - half, centre.y() - half, 2 * half, 2 * half};
}

void drawPlus(QPainter& painter, QPointF centre, double arm) {
    painter.drawLine(centre - QPointF(arm, 0), centre + QPointF(arm, 0));
    painter.drawLine(centre - QPointF(0, arm), centre + QPointF(0, arm));
}

/// Roles without a button of their own: the shape of what they are akin to, as an outline with a mark.
void drawOtherRole(QPainter& painter, QPointF centre, double radius, Role role, const QColor& colour) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(colour, radius * 0.36));
    switch (role) {
    case Role::DoubleBlank:
        painter.drawEllipse(centre, radius * 0.85, radius * 0.85);
        painter.drawEllipse(centre, radius * 0.3, radius * 0.3);
        break;
    case Role::ReagentBlank:
        painter.drawEllipse(centre, radius * 0.85, radius * 0.85);
        painter.drawLine(centre + QPointF(-radius, radius) * 0.55, centre + QPointF(radius, -radius) * 0.55);
        break;
    case Role::NegativeControl:
        painter.drawRoundedRect(square(centre, radius * 0.8), radius * 0.3, radius * 0.3);
        painter.drawLine(centre - QPointF(radius * 0.4, 0), centre + QPointF(radius * 0.4, 0));
        break;
    case Role::CheckStandard:
        painter.drawPolygon(diamond(centre, radius));
        break;
    case Role::Spike:
        painter.drawRoundedRect(square(centre, radius * 0.8), radius * 0.3, radius * 0.3);
        drawPlus(painter, centre, radius * 0.4);
        break;
    case Role::Addition:
        drawPlus(painter, centre, radius * 0.9);
        break;
    default:
        break;
    }
}

} // namespace

void drawRoleShape(QPainter& painter, QPointF centre, double radius, Role role, const QColor& colour) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(colour);
    switch (role) {
    case Role::Standard:
        painter.drawEllipse(centre, radius, radius);
        break;
    case Role::Blank:
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(colour, radius * 0.45));
        painter.drawEllipse(centre, radius * 0.75, radius * 0.75);
        break;
    case Role::Qc:
        painter.drawPolygon(diamond(centre, radius * 1.2));
        break;
    case Role::Unknown:
        painter.drawRoundedRect(square(centre, radius * 0.9), radius * 0.4, radius * 0.4);
        break;
    default:
        drawOtherRole(painter, centre, radius, role, colour);
        break;
    }
    painter.restore();
}

void drawExcluded(QPainter& painter, QPointF centre, double radius, const QColor& colour) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(colour, radius * 0.4));
    painter.drawEllipse(centre, radius, radius);
    painter.drawLine(centre + QPointF(-radius * 1.3, radius * 1.3), centre + QPointF(radius * 1.3, -radius * 1.3));
    painter.restore();
}

void drawCalibration(QPainter& painter, const QRectF& area, const Batch& batch, const AnalyteEvaluation& evaluation,
                     const Theme& theme, const FigureOptions& given) {
    FigureOptions options = given;
    const FigureSettings& figure = analyteOf(batch, evaluation).figure;
    options.pointRadius *= figure.markerSize;
    options.hasBand = options.hasBand && figure.hasBand;
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    const CurveShape shape = curveShape(batch, evaluation, 160);
    QRectF plot = area;
    if (options.hasAxes) {
        plot.adjust(3.6 * options.textPixels, 1.7 * options.textPixels, -0.5 * options.textPixels,
                    -3.1 * options.textPixels);
    }
    const Axes axes{plot, shape};
    if (options.hasAxes) {
        drawOutsideOfRange(painter, axes, evaluation, theme, options);
        drawGrid(painter, axes, batch, evaluation, theme, options);
    } else {
        painter.setPen(QPen(theme.line, 1));
        painter.drawLine(plot.bottomLeft(), plot.bottomRight());
        painter.drawLine(plot.topLeft(), plot.bottomLeft());
    }
    painter.save();
    painter.setClipRect(plot.adjusted(0, -options.pointRadius, options.pointRadius, options.pointRadius),
                        Qt::IntersectClip);
    drawCurve(painter, axes, theme, options);
    if (options.hasAxes) {
        drawPoints(painter, axes, evaluation, theme, options);
    }
    if (options.markX && evaluation.fit.isUsable()) {
        const QPointF at(axes.x(*options.markX), axes.y(response(evaluation.fit, *options.markX)));
        painter.setPen(QPen(theme.ink, 1, Qt::DashLine));
        painter.drawLine(QPointF(plot.left(), at.y()), at);
        painter.drawLine(at, QPointF(at.x(), plot.bottom()));
        painter.setPen(QPen(theme.ink, 1.5));
        painter.setBrush(theme.card);
        painter.drawEllipse(at, options.pointRadius, options.pointRadius);
    }
    painter.restore();
    painter.restore();
}

} // namespace nuvat
