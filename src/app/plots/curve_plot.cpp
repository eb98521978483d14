#include "plots/curve_plot.h"

#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <cmath>
#include <QToolTip>

namespace nuvat {

namespace {

constexpr double kNear = 9; // pixels within which a point is meant

} // namespace

CurvePlot::CurvePlot(Workspace& workspace, QWidget* parent) : QCustomPlot(parent), m_workspace(workspace) {
    setObjectName(QStringLiteral("curvePlot"));
    setAccessibleName(tr("Calibration curve"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumSize(360, 260);
    build();
    style();
    connect(&workspace, &Workspace::changed, this, [this] {
        m_isStale = !isVisible();
        if (!m_isStale) {
            refresh();
        }
    });
    connect(&workspace, &Workspace::opened, this, [this] {
        m_isFitted = true;
        m_keptOthers.clear();
        m_wantedOthers.clear();
        hideCursor();
    });
    const auto mark = [this] {
        if (isVisible()) {
            showSelection();
            layer(kMarksLayer)->replot();
        }
    };
    connect(&workspace, &Workspace::selectionChanged, this, mark);
    connect(&workspace, &Workspace::hoverChanged, this, mark);
    refresh();
}

void CurvePlot::showEvent(QShowEvent* event) {
    QCustomPlot::showEvent(event);
    if (m_isStale) {
        m_isStale = false;
        refresh();
    } else {
        showSelection();
        replot(QCustomPlot::rpQueuedReplot);
    }
}

void CurvePlot::fitAxes() {
    m_isFitted = true;
    QCPAxis* x = m_main->axis(QCPAxis::atBottom);
    QCPAxis* y = m_main->axis(QCPAxis::atLeft);
    x->setRange(m_shape.xLow, m_shape.xHigh);
    y->setRange(m_shape.yLow, m_shape.yHigh);
    setTicks(x);
    setTicks(y);
    fillPoints();
    replot(QCustomPlot::rpQueuedReplot);
}

void CurvePlot::refresh() {
    const bool wasLogarithmic = m_shape.isLogarithmic;
    m_shape = curveShape(m_workspace.batch(), m_workspace.curve(), 300);
    QCPAxis* x = m_main->axis(QCPAxis::atBottom);
    QCPAxis* sx = m_strip->axis(QCPAxis::atBottom);
    for (QCPAxis* axis : {x, sx}) {
        axis->setScaleType(m_shape.isLogarithmic ? QCPAxis::stLogarithmic : QCPAxis::stLinear);
    }
    const Analyte& analyte = m_workspace.analyte();
    x->setLabel(text(concentrationAxisTitle(analyte)));
    m_yTitle->setText(text(responseAxisTitle(m_workspace.batch().method, analyte)));
    setMarkers(analyte.figure.markerSize);
    m_bandHigh->setVisible(analyte.figure.hasBand);
    const auto list = [](const std::vector<double>& values) { return QVector<double>(values.begin(), values.end()); };
    m_curve->setData(list(m_shape.x), list(m_shape.y), true);
    m_bandLow->setData(list(m_shape.x), list(m_shape.low), true);
    m_bandHigh->setData(list(m_shape.x), list(m_shape.high), true);
    const Fit& fit = m_workspace.curve().fit;
    m_message->setVisible(!fit.isUsable());
    m_message->setText(m_workspace.curve().levels.empty()
                           ? tr("Assign standards under Layout to see the curve.")
                           : text(fit.message.size() > 70 && fit.message.find(", ", 40) != std::string::npos
                                      ? std::string(fit.message).replace(fit.message.find(", ", 40), 2, ",\n")
                                      : fit.message));
    hideCursor();
    placeRange();
    fillErrors();
    showOthers();
    if (m_isFitted || wasLogarithmic != m_shape.isLogarithmic) {
        fitAxes();
    } else {
        fillPoints();
    }
    showSelection();
    replot(QCustomPlot::rpQueuedReplot);
}

void CurvePlot::placeRange() {
    const Range& range = m_workspace.curve().range;
    QCPAxis* x = m_main->axis(QCPAxis::atBottom);
    QCPAxis* y = m_main->axis(QCPAxis::atLeft);
    for (QCPAbstractItem* item : std::initializer_list<QCPAbstractItem*>{m_below, m_lloq}) {
        item->setVisible(range.lloq.has_value());
    }
    for (QCPAbstractItem* item : std::initializer_list<QCPAbstractItem*>{m_above, m_uloq}) {
        item->setVisible(range.uloq.has_value());
    }
    const double far = m_shape.isLogarithmic ? 1e-12 : -1e12;
    const auto put = [&](QCPItemRect* rect, double from, double to) {
        for (QCPItemPosition* position : {rect->topLeft, rect->bottomRight}) {
            position->setAxes(x, y);
            position->setTypeX(QCPItemPosition::ptPlotCoords);
            position->setTypeY(QCPItemPosition::ptAxisRectRatio);
        }
        rect->topLeft->setCoords(from, 0);
        rect->bottomRight->setCoords(to, 1);
    };
    if (range.lloq) {
        put(m_below, far, *range.lloq);
        m_lloq->setText(tr("LLOQ %1").arg(shown(formatFigures(*range.lloq, 3))));
    }
    if (range.uloq) {
        put(m_above, *range.uloq, 1e12);
        m_uloq->setText(tr("ULOQ %1").arg(shown(formatFigures(*range.uloq, 3))));
    }
}

/// Each limit's label stands beside its line, inside the range, where it covers the fewest points.
void CurvePlot::placeRangeLabels() {
    const Range& range = m_workspace.curve().range;
    const auto place = [&](QCPItemText* label, double x, bool isRight) {
        constexpr int kBeside = 5;
        const QSizeF size = QFontMetricsF(label->font()).size(0, label->text());
        const double line = toPixel(x, 0).x();
        const double left = isRight ? line + kBeside : line - kBeside - size.width();
        int fewest = 1000;
        for (const double ratio : {0.03, 0.97 - size.height() / std::max(m_main->height(), 1), 0.12, 0.85}) {
            const double top = m_main->top() + ratio * m_main->height();
            if (const int count = covered(QRectF(QPointF(left, top), size)); count < fewest) {
                fewest = count;
                label->position->setCoords(x, ratio);
            }
        }
        label->setPositionAlignment((isRight ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignTop);
        label->setPadding(isRight ? QMargins(kBeside, 0, 0, 0) : QMargins(0, 0, kBeside, 0));
    };
    if (range.lloq) {
        place(m_lloq, *range.lloq, true);
    }
    if (range.uloq) {
        place(m_uloq, *range.uloq, false);
    }
}

void CurvePlot::fillPoints() {
    const AnalyteEvaluation& evaluation = m_workspace.curve();
    QVector<double> x, y, outX, outY, qcX, qcY, rug, rugY;
    for (const StandardValue& standard : evaluation.standards) {
        (standard.isUsed ? x : outX).append(m_shape.drawn(standard.x));
        (standard.isUsed ? y : outY).append(standard.y);
    }
    const double floor = m_main->axis(QCPAxis::atLeft)->range().lower;
    for (const SampleResult& result : evaluation.results) {
        for (const ReplicateResult& replicate : result.replicates) {
            if (result.nominal && replicate.state == ResponseState::Used) {
                qcX.append(*result.nominal);
                qcY.append(*replicate.response);
            }
        }
        const auto marked = markedX(evaluation, result);
        if (result.group.role == Role::Unknown && marked && (*marked > 0 || !m_shape.isLogarithmic)) {
            rug.append(*marked);
            rugY.append(floor);
        }
    }
    m_standards->setData(x, y);
    m_excluded->setData(outX, outY);
    m_qcs->setData(qcX, qcY);
    m_unknowns->setData(rug, rugY);
}

void CurvePlot::fillErrors() {
    const AnalyteEvaluation& evaluation = m_workspace.curve();
    const CriteriaLimits& limits = m_workspace.batch().method.limits;
    constexpr double kUsualLimit = 15; // of the strip's scale where the criteria have none
    const double limit = limits.backCalculated.value_or(kUsualLimit);
    QVector<double> x, y, outX, outY;
    double most = limit * 1.3;
    for (const StandardValue& standard : evaluation.standards) {
        if (!standard.isUsed || !standard.errorPercent) {
            continue;
        }
        double allowed = limit;
        for (const LevelValue& level : evaluation.levels) {
            allowed = level.number == standard.level ? level.limitPercent : allowed;
        }
        const bool isOutside = limits.backCalculated && allowed > 0 && std::abs(*standard.errorPercent) > allowed;
        // Far outside is drawn at the edge of the strip; the number stands in the table.
        const double drawn = std::clamp(*standard.errorPercent, -limit * 2.2, limit * 2.2);
        most = std::max(most, std::abs(drawn) * 1.15);
        (isOutside ? outX : x).append(m_shape.drawn(standard.x));
        (isOutside ? outY : y).append(drawn);
    }
    const bool hasLimits = limits.backCalculated && evaluation.additions.empty();
    m_limits->setVisible(hasLimits);
    m_errors->setData(x, y);
    m_errorsOutside->setData(outX, outY);
    QCPAxis* sy = m_strip->axis(QCPAxis::atLeft);
    sy->setRange(-most, most);
    QSharedPointer<QCPAxisTickerText> ticker(new QCPAxisTickerText);
    const QString limitText = shown(formatNumber(limit));
    ticker->addTick(-limit, QStringLiteral("\u2212%1 %").arg(limitText));
    ticker->addTick(0, QStringLiteral("0 %"));
    ticker->addTick(limit, QStringLiteral("+%1 %").arg(limitText));
    sy->setTicker(ticker);
    m_limits->topLeft->setCoords(0, limit);
    m_limits->bottomRight->setCoords(1, -limit);
    const QString lowest = shown(formatNumber(limits.backCalculatedAtLowest));
    const QString highest = shown(formatNumber(limits.backCalculatedAtHighest));
    const QString ends = lowest == highest ? tr("±%1 % at the ends").arg(lowest)
                                           : tr("±%1 % at the lowest, ±%2 % at the highest").arg(lowest, highest);
    m_stripTitle->setText(!evaluation.additions.empty() ? tr("Back-calculated error of each addition")
                          : limits.backCalculated
                              ? tr("Back-calculated error of each standard; limits ±%1 % (%2)").arg(limitText, ends)
                              : tr("Back-calculated error of each standard; the criteria set no limit"));
}

int CurvePlot::errorsOutside() const {
    return m_errorsOutside->data()->size();
}

void CurvePlot::showSelection() {
    QVector<double> x, y;
    const AnalyteEvaluation& evaluation = m_workspace.curve();
    const auto isMarked = [&](Place place) {
        return m_workspace.selection().holds(place) || m_workspace.hovered() == place;
    };
    for (const StandardValue& standard : evaluation.standards) {
        if (isMarked(standard.place)) {
            x.append(m_shape.drawn(standard.x));
            y.append(standard.y);
        }
    }
    const SampleResult* sample = nullptr;
    for (const SampleResult& result : evaluation.results) {
        for (const ReplicateResult& replicate : result.replicates) {
            if (isMarked(replicate.place) && replicate.response && result.nominal) {
                x.append(*result.nominal);
                y.append(*replicate.response);
            }
        }
        if (m_workspace.selection().group == result.group) {
            sample = &result;
        }
    }
    m_selected->setData(x, y);
    if (!m_isCursorOn) {
        if (sample != nullptr && sample->response.mean && sample->readOff.x) {
            showCursor(*sample->response.mean);
        } else {
            hideCursor();
        }
    }
}

QPointF CurvePlot::toPixel(double x, double y) const {
    return {m_main->axis(QCPAxis::atBottom)->coordToPixel(m_shape.drawn(x)),
            m_main->axis(QCPAxis::atLeft)->coordToPixel(y)};
}

std::optional<QPointF> CurvePlot::pixelOf(Place place) const {
    for (const StandardValue& standard : m_workspace.curve().standards) {
        if (standard.place == place) {
            return toPixel(standard.x, standard.y);
        }
    }
    return std::nullopt;
}

std::optional<Place> CurvePlot::pointNear(QPointF position) const {
    std::optional<Place> best;
    double nearest = kNear;
    const auto offer = [&](Place place, double x, double y) {
        const QPointF at = toPixel(x, y);
        const double distance = std::hypot(at.x() - position.x(), at.y() - position.y());
        if (distance < nearest) {
            nearest = distance;
            best = place;
        }
    };
    for (const StandardValue& standard : m_workspace.curve().standards) {
        offer(standard.place, standard.x, standard.y);
    }
    for (const SampleResult& result : m_workspace.curve().results) {
        for (const ReplicateResult& replicate : result.replicates) {
            if (result.nominal && replicate.response) {
                offer(replicate.place, *result.nominal, *replicate.response);
            }
        }
    }
    return best;
}

QString CurvePlot::pointText(Place place) const {
    const Batch& batch = m_workspace.batch();
    QString out = text(shortName(batch, batch.at(place)) + " · " + placeName(batch, place));
    const Response& value = m_workspace.curve().at(place);
    if (value.value) {
        out += tr(" · response %1").arg(shown(formatFigures(*value.value, 4)));
    }
    for (const StandardValue& standard : m_workspace.curve().standards) {
        if (standard.place == place) {
            out += QStringLiteral(" · ") + shown(formatFigures(standard.x, 4) + " " + m_workspace.analyte().unit);
            if (standard.errorPercent) {
                out += tr(" · error %1")
                           .arg(shown((*standard.errorPercent > 0 ? "+" : "") + formatPercent(*standard.errorPercent)));
            }
        }
    }
    const auto* excluded = batch.exclusion(place, m_workspace.analyteNumber());
    return excluded == nullptr ? out : out + tr(" · excluded: %1").arg(text(excluded->reason));
}

void CurvePlot::mousePressEvent(QMouseEvent* event) {
    m_pressed = event->position();
    QCustomPlot::mousePressEvent(event);
}

void CurvePlot::mouseMoveEvent(QMouseEvent* event) {
    QCustomPlot::mouseMoveEvent(event);
    if (event->buttons() != Qt::NoButton) {
        if ((event->position() - m_pressed).manhattanLength() > 4) {
            m_isFitted = false;
            m_unknowns->data()->clear();
            fillPoints();
        }
        return;
    }
    const auto place = pointNear(event->position());
    m_workspace.hover(place);
    if (place) {
        QToolTip::showText(event->globalPosition().toPoint(), plainTip(pointText(*place)), this);
    } else {
        QToolTip::hideText();
    }
    if (m_isCursorOn && m_main->rect().contains(event->position().toPoint())) {
        showCursor(m_main->axis(QCPAxis::atLeft)->pixelToCoord(event->position().y()));
        replot(QCustomPlot::rpQueuedReplot);
    }
}

void CurvePlot::mouseReleaseEvent(QMouseEvent* event) {
    QCustomPlot::mouseReleaseEvent(event);
    if (event->button() != Qt::LeftButton || (event->position() - m_pressed).manhattanLength() > 4) {
        return;
    }
    if (const auto place = pointNear(event->position())) {
        m_workspace.select({*place});
    } else if (takeOther(event->position())) {
        return;
    } else if (!m_isCursorOn) {
        m_workspace.clearSelection();
    }
}

void CurvePlot::mouseDoubleClickEvent(QMouseEvent* event) {
    if (const auto place = pointNear(event->position())) {
        Q_EMIT pointActivated(*place);
    } else {
        QCustomPlot::mouseDoubleClickEvent(event);
    }
}

void CurvePlot::leaveEvent(QEvent* event) {
    QCustomPlot::leaveEvent(event);
    m_workspace.hover(std::nullopt);
}

} // namespace nuvat
