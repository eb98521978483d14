// The read-off cursor of the curve's plot, and the curves behind it.
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/distributions.h"
#include "plots/curve_plot.h"
#include "theme/style.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

/// How many points and samples of the curve an area covers.
int CurvePlot::covered(const QRectF& area) const {
    int count = 0;
    for (const StandardValue& standard : m_workspace.curve().standards) {
        count += area.adjusted(-6, -6, 6, 6).contains(toPixel(standard.x, standard.y)) ? 1 : 0;
    }
    for (std::size_t i = 0; i < m_shape.x.size(); i += 5) {
        count += area.contains(toPixel(m_shape.x[i], m_shape.y[i])) ? 1 : 0;
    }
    return count;
}

void CurvePlot::findOthers() {
    m_others = otherCurves(m_workspace.batch(), m_workspace.wholeEvaluation(), m_workspace.evaluation());
    m_others.insert(m_others.end(), m_keptOthers.begin(), m_keptOthers.end());
}

/// They are looked for only while some are wanted: a kept one is fitted for it, and this follows every edit.
void CurvePlot::showOthers() {
    m_others.clear();
    if (!m_wantedOthers.empty()) {
        findOthers();
    }
    m_overlay->show(m_others, m_wantedOthers, m_shape);
}

std::vector<std::string> CurvePlot::otherNames() {
    findOthers();
    std::vector<std::string> out;
    for (const OtherCurve& one : m_others) {
        out.push_back(one.name);
    }
    return out;
}

void CurvePlot::showOther(const std::string& name, bool isShown) {
    isShown ? void(m_wantedOthers.insert(name)) : void(m_wantedOthers.erase(name));
    showOthers();
    replot(QCustomPlot::rpQueuedReplot);
}

void CurvePlot::addKept(const KeptCurve& kept) {
    OtherCurve one = otherCurve(kept);
    std::erase_if(m_keptOthers, [&](const OtherCurve& other) { return other.name == one.name; });
    m_wantedOthers.insert(one.name);
    m_keptOthers.push_back(std::move(one));
    showOthers();
    replot(QCustomPlot::rpQueuedReplot);
}

/// A click on the name of another curve brings that one up; the one that was shown stays behind it.
bool CurvePlot::takeOther(QPointF position) {
    const auto found = std::ranges::find(m_others, m_overlay->nameAt(position), &OtherCurve::name);
    if (found == m_others.end() || found->analyte == 0) {
        return false;
    }
    const OtherCurve taken = *found;
    const int analyte = m_workspace.analyteNumber(), carrier = m_workspace.evaluation().carrier,
              bracket = m_workspace.evaluation().bracket;
    m_wantedOthers.erase(taken.name);
    m_workspace.showAnalyte(taken.analyte);
    if (taken.carrier != 0) {
        m_workspace.showCarrier(taken.carrier);
    }
    if (taken.bracket != 0) {
        m_workspace.showBracket(taken.bracket);
    }
    findOthers();
    for (const OtherCurve& one : m_others) {
        if (one.analyte == analyte && one.carrier == carrier && one.bracket == bracket) {
            showOther(one.name, true);
            break;
        }
    }
    return true;
}

void CurvePlot::setCursorOn(bool isOn) {
    m_isCursorOn = isOn;
    setCursor(isOn ? Qt::CrossCursor : Qt::ArrowCursor);
    hideCursor();
    showSelection();
    replot(QCustomPlot::rpQueuedReplot);
}

void CurvePlot::readOffAt(double response) {
    showCursor(response);
    replot(QCustomPlot::rpQueuedReplot);
}

void CurvePlot::readOffConcentration(double concentration) {
    const AnalyteEvaluation& evaluation = m_workspace.curve();
    const Fit& fit = evaluation.fit;
    const bool isDefined = fit.isUsable() && (concentration >= 0 || !isLogistic(fit.model));
    const double y = isDefined ? response(fit, concentration) : NAN;
    QString what = tr("%1 %2").arg(shown(formatFigures(concentration, 4)), text(m_workspace.analyte().unit));
    if (std::isfinite(y)) {
        const double t = fit.df > 0 ? studentFactor(m_workspace.batch().method.confidence, fit.df) : 0;
        const double half = t * responseSe(fit, concentration);
        what += tr("\nResponse %1 (%2)")
                    .arg(shown(formatFigures(y, std::max(4, figuresForInterval(y, half)))),
                         shown(intervalText(y, y - half, y + half)));
        const Range& range = evaluation.range;
        if ((range.lloq && concentration < *range.lloq) || (range.uloq && concentration > *range.uloq)) {
            what += tr(" · outside the range");
        }
    } else {
        what += tr("\nno response: the curve is not defined there");
    }
    m_cursorResponse = std::isfinite(y) ? y : 0;
    m_cursorX = std::isfinite(y) ? std::optional(concentration) : std::nullopt;
    setCursorText(what);
    replot(QCustomPlot::rpQueuedReplot);
}

QString CurvePlot::readOffText() const {
    return m_label->visible() ? m_label->text() : QString();
}

void CurvePlot::showCursor(double y) {
    const AnalyteEvaluation& evaluation = m_workspace.curve();
    const Batch& batch = m_workspace.batch();
    const ReadOff read = readOff(evaluation.fit, y, readOffOptions(batch, evaluation));
    QString what = tr("Response %1").arg(shown(formatFigures(y, 4)));
    // A selected sample shows its own numbers, those of the mean of its replicates.
    const SampleResult* sample =
        m_isCursorOn || !m_workspace.selection().group ? nullptr : evaluation.result(*m_workspace.selection().group);
    const ReadOff& shownRead = sample != nullptr ? sample->readOff : read;
    if (sample != nullptr) {
        what = text(shortName(batch, sample->group)) + QStringLiteral(" · ") + what;
    }
    if (shownRead.status == ReadOffStatus::Ok && read.x) {
        what += QStringLiteral("\n%1 %2 (%3)")
                    .arg(shown(concentrationText(shownRead)), text(m_workspace.analyte().unit),
                         shown(intervalText(*shownRead.x, shownRead.low, shownRead.high)));
        const Range& range = evaluation.range;
        if ((range.lloq && *shownRead.x < *range.lloq) || (range.uloq && *shownRead.x > *range.uloq)) {
            what += tr(" · outside the range");
        }
    } else {
        what += read.status == ReadOffStatus::AboveCurve   ? tr("\nabove the curve: no concentration")
                : read.status == ReadOffStatus::BelowCurve ? tr("\nbelow the curve: no concentration")
                                                           : tr("\nno curve to read it off");
    }
    m_cursorResponse = y;
    m_cursorX = shownRead.status == ReadOffStatus::Ok ? read.x : std::nullopt;
    setCursorText(what);
}

void CurvePlot::setCursorText(const QString& words) {
    m_label->setText(words);
    m_acrossLine->setVisible(true);
    m_downLine->setVisible(m_cursorX.has_value());
    m_marker->setVisible(m_cursorX.has_value());
    m_label->setVisible(true);
    placeCursor();
}

/// Puts lines, ring and label of the cursor where its response and concentration are now.
void CurvePlot::placeCursor() {
    if (!m_label->visible()) {
        return;
    }
    const double y = m_main->axis(QCPAxis::atLeft)->coordToPixel(m_cursorResponse);
    const double x = m_cursorX ? toPixel(*m_cursorX, m_cursorResponse).x() : m_main->left() + m_main->width() / 2.0;
    const QPointF at(x, y);
    m_acrossLine->start->setCoords(m_main->left(), y);
    m_acrossLine->end->setCoords(at);
    m_downLine->start->setCoords(at);
    m_downLine->end->setCoords(x, m_main->bottom());
    m_marker->topLeft->setCoords(at - QPointF(4.5, 4.5));
    m_marker->bottomRight->setCoords(at + QPointF(4.5, 4.5));
    placeLabel(at);
}

QPointF CurvePlot::cursorPixel() const {
    return m_acrossLine->end->pixelPosition();
}

/// Beside the point, in the quarter where it covers the fewest points and stays on the plot.
void CurvePlot::placeLabel(QPointF at) {
    const QFontMetricsF metrics(m_label->font());
    const QSizeF size =
        metrics.boundingRect(QRectF(0, 0, 1000, 1000), Qt::AlignLeft, m_label->text()).size() + QSizeF(24, 16);
    int fewest = 1000;
    for (const bool isAbove : {true, false}) {
        for (const bool isRight : {true, false}) {
            const QPointF corner = at + QPointF(isRight ? 10 : -10, isAbove ? -10 : 10);
            const QRectF area(isRight ? corner.x() : corner.x() - size.width(),
                              isAbove ? corner.y() - size.height() : corner.y(), size.width(), size.height());
            const int count = covered(area) + (QRectF(m_main->rect()).contains(area) ? 0 : 100);
            if (count < fewest) {
                fewest = count;
                m_label->setPositionAlignment((isRight ? Qt::AlignLeft : Qt::AlignRight) |
                                              (isAbove ? Qt::AlignBottom : Qt::AlignTop));
                m_label->position->setCoords(corner);
            }
        }
    }
}

void CurvePlot::hideCursor() {
    for (QCPAbstractItem* item : std::initializer_list<QCPAbstractItem*>{m_acrossLine, m_downLine, m_marker, m_label}) {
        item->setVisible(false);
    }
}

} // namespace nuvat
