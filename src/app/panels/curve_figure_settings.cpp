// How the figure of the curve is drawn, in the window and in the report.
#include "panels/curve_settings.h"

#include "nuvat/batch/curve_shape.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"

#include <QMenu>

namespace nuvat {

void CurveSettings::makeFigure(LiveForm* part) {
    const auto title = [&](const char* name, const QString& words, std::string FigureSettings::*member) {
        auto* field = line(part, name, words, [this, member](const QString& typed) {
            return change([&](Method&, Analyte& a) { a.figure.*member = typed.trimmed().toStdString(); });
        });
        part->row(words, {field});
        return field;
    };
    m_xTitle = title("figureXTitle", tr("Title of the x axis"), &FigureSettings::xTitle);
    m_yTitle = title("figureYTitle", tr("Title of the y axis"), &FigureSettings::yTitle);
    const auto end = [&](const char* name, const QString& words, std::optional<double> FigureSettings::*member) {
        return number(
            part, name, words, [member](Method&, Analyte& a, auto v) { a.figure.*member = v; }, tr("auto"));
    };
    m_xLow = end("figureXLow", tr("x axis from"), &FigureSettings::xLow);
    m_xHigh = end("figureXHigh", tr("x axis to"), &FigureSettings::xHigh);
    part->row(tr("x axis from, to"), {m_xLow, m_xHigh}, tr("Empty: as the standards ask for"));
    m_yLow = end("figureYLow", tr("y axis from"), &FigureSettings::yLow);
    m_yHigh = end("figureYHigh", tr("y axis to"), &FigureSettings::yHigh);
    part->row(tr("y axis from, to"), {m_yLow, m_yHigh}, tr("Empty: as the standards ask for"));
    m_markerSize = number(part, "figureMarkers", tr("Size of the markers"),
                          [](Method&, Analyte& a, auto v) { a.figure.markerSize = v.value_or(100) / 100; });
    part->row(tr("Markers, %"), {m_markerSize}, tr("Of their usual size"));
    m_band = part->onOff(QStringLiteral("figureBand"), tr("Confidence band"));
    part->row(tr("Confidence band"), {m_band});
    connect(m_band, &QAbstractButton::clicked, this,
            [this](bool isOn) { change([&](Method&, Analyte& a) { a.figure.hasBand = isOn; }); });
    m_others = makeButton(tr("Choose"), "normal", QStringLiteral("otherCurves"), part);
    m_others->setMenu(new QMenu(m_others));
    part->row(tr("Other curves behind"), {m_others}, tr("Curves of other plates and analytes, and kept ones"));
}

void CurveSettings::refreshFigure() {
    const Method& method = m_workspace.batch().method;
    const Analyte& analyte = m_workspace.analyte();
    const FigureSettings& figure = analyte.figure;
    Analyte plain = analyte;
    plain.figure = {};
    m_xTitle->setHeld(text(figure.xTitle));
    m_xTitle->setPlaceholderText(text(concentrationAxisTitle(plain)));
    m_yTitle->setHeld(text(figure.yTitle));
    m_yTitle->setPlaceholderText(text(responseAxisTitle(method, plain)));
    m_xLow->setNumber(figure.xLow);
    m_xHigh->setNumber(figure.xHigh);
    m_yLow->setNumber(figure.yLow);
    m_yHigh->setNumber(figure.yHigh);
    m_markerSize->setNumber(100 * figure.markerSize);
    m_band->setChecked(figure.hasBand);
}

} // namespace nuvat
