#include "panels/curve_settings.h"

#include "nuvat/batch/value_formula.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"

#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

bool isOfY(const FitOptions& fit) {
    return !isInterpolation(fit.model) &&
           (fit.weighting == Weighting::InverseY || fit.weighting == Weighting::InverseY2);
}

} // namespace

CurveSettings::CurveSettings(Workspace& workspace, QWidget* parent)
    : MethodForm(workspace, QStringLiteral("curveSettings"), true, parent) {
    makeFit();
    makeReadingOff();
    makeReplicates(addPart(QStringLiteral("replicateSettings"), tr("Replicates and dilutions")));
    makeInternal(addPart(QStringLiteral("internalSettings"), tr("Internal standard, qualifiers")));
    makeFigure(addPart(QStringLiteral("figureSettings"), tr("Figure")));
}

void CurveSettings::makeFit() {
    makeSource();
    m_curveOf = form()->choice(QStringLiteral("curveOf"), tr("Curve"), {});
    m_curveOfRow =
        form()->row(tr("Curve from"), {m_curveOf},
                    tr("One curve from the standards of all plates and lists, one for each from its own, one "
                       "for each stretch of runs from the standards before and after it, or standard "
                       "addition: a line for each sample"));
    m_kept = makeLabel({}, "small", form());
    m_kept->setObjectName(QStringLiteral("keptCurve"));
    m_kept->setWordWrap(true);
    form()->layout()->addWidget(m_kept);
    connect(m_curveOf, &QComboBox::activated, this, [this](int index) {
        const auto chosen = static_cast<CurveOf>(m_curveOf->itemData(index).toInt());
        change([&](Method&, Analyte& a) { a.source.curve = chosen; });
    });
    m_addition = number(
        form(), "additionStandard", tr("Added solution"),
        [](Method&, Analyte& a, std::optional<double> value) { a.source.additionStandard = value; }, tr("none"));
    m_additionRow = form()->row(tr("Added solution"), {m_addition},
                                tr("Its concentration, where the volume grows by what is added: responses are "
                                   "corrected for it. Empty: all volumes are equal"));
    m_fitTo = form()->segments(QStringLiteral("fitTo"), tr("Fitted to"), {tr("each replicate"), tr("level means")});
    m_fitToRow = form()->row(tr("Fitted to"), {m_fitTo});
    connect(m_fitTo, &Segments::chosen, this,
            [this](int index) { change([&](Method&, Analyte& a) { a.fit.fitTo = static_cast<FitTo>(index); }); });
    m_weightFrom =
        form()->segments(QStringLiteral("weightFrom"), tr("y in the weights"), {tr("read"), tr("mean"), tr("fitted")});
    m_weightFromRow = form()->row(tr("y in the weights"), {m_weightFrom},
                                  tr("The response of the point, the mean of its level, or the response of the curve"));
    connect(m_weightFrom, &Segments::chosen, this, [this](int index) {
        change([&](Method&, Analyte& a) { a.fit.weightFrom = static_cast<WeightSource>(index); });
    });
    m_floor = number(
        form(), "weightFloor", tr("Floor of y"), [](Method&, Analyte& a, auto v) { a.fit.weightFloor = v; },
        tr("from scatter"));
    m_floorRow = form()->row(tr("Floor of y, share of largest"), {m_floor},
                             tr("y counts as at least this share of the largest; empty: found from the scatter"));
    m_theta = number(
        form(), "theta", tr("Exponent of the variance"), [](Method&, Analyte& a, auto v) { a.fit.theta = v; },
        tr("estimated"));
    m_thetaRow = form()->row(tr("Exponent of the variance"), {m_theta},
                             tr("0: the same SD everywhere, 1: the same CV; empty: estimated from the replicates"));
    const auto held = [this](const char* name, const char* field, const char* parameter, const QString& title,
                             auto member, Segments*& choice, NumberField*& value) {
        choice = form()->segments(QString::fromLatin1(name), title, {tr("fitted"), tr("held at")});
        value = number(form(), field, title, [member](Method&, Analyte& a, auto v) { a.fit.*member = v; });
        connect(choice, &Segments::chosen, this, [this, member, parameter, value](int index) {
            const Fit& fit = m_workspace.evaluation().fit;
            const double now = fit.isUsable() ? fit.parameter(parameter) : 0; // to begin with
            change([&](Method&, Analyte& a) { a.fit.*member = index == 1 ? std::optional(now) : std::nullopt; });
            if (index == 1) { // it can be typed into when it is shown
                m_workspace.afterwards([value] { value->setFocus(Qt::TabFocusReason); });
            }
        });
        return form()->row(title, {choice, value});
    };
    m_aRow = held("holdA", "heldA", "a", tr("At zero, a"), &FitOptions::heldA, m_a, m_heldA);
    m_dRow = held("holdD", "heldD", "d", tr("At ∞, d"), &FitOptions::heldD, m_d, m_heldD);
    m_fixedX = number(form(), "fixedX", tr("Fixed point, concentration"),
                      [](Method&, Analyte& a, auto v) { a.fit.fixedX = v.value_or(0); });
    m_fixedY = number(form(), "fixedY", tr("Fixed point, response"),
                      [](Method&, Analyte& a, auto v) { a.fit.fixedY = v.value_or(0); });
    m_fixedRow = form()->row(tr("Fixed point x, y"), {m_fixedX, m_fixedY});
}

void CurveSettings::makeReadingOff() {
    m_rangeBy = form()->choice(QStringLiteral("rangeBy"), tr("Range"),
                               {tr("from the criteria"), tr("from precision"), tr("by hand"), tr("all levels")});
    m_range = makeLabel({}, "value", form());
    m_range->setObjectName(QStringLiteral("rangeNow"));
    form()->row(tr("Range"), {m_rangeBy, m_range});
    connect(m_rangeBy, &QComboBox::activated, this, [this](int index) {
        const Range now = m_workspace.evaluation().range;
        change([&](Method&, Analyte& a) {
            a.range.by = static_cast<RangeBy>(index);
            const bool needsBoth = a.range.by == RangeBy::Hand && (!a.range.lloq || !a.range.uloq);
            a.range.lloq = needsBoth ? now.lloq : a.range.lloq; // a range by hand begins as the one there is
            a.range.uloq = needsBoth ? now.uloq : a.range.uloq;
        });
    });
    m_lloq = number(form(), "lloq", tr("LLOQ"), [](Method&, Analyte& a, auto v) { a.range.lloq = v; });
    m_uloq = number(form(), "uloq", tr("ULOQ"), [](Method&, Analyte& a, auto v) { a.range.uloq = v; });
    m_handRow = form()->row(tr("LLOQ and ULOQ"), {m_lloq, m_uloq});
    m_precision = number(form(), "precision", tr("Relative SE, at most"), [](Method&, Analyte& a, auto v) {
        constexpr double kUsual = 20;
        a.range.precisionPercent = v.value_or(kUsual);
    });
    m_precisionRow = form()->row(tr("Relative SE at most, %"), {m_precision});
    m_beyond = form()->segments(QStringLiteral("beyond"), tr("Beyond the range"), {tr("no number"), tr("marked")});
    form()->row(tr("Beyond the range"), {m_beyond}, tr("Results beyond the range are not given, or given and marked"));
    connect(m_beyond, &Segments::chosen, this, [this](int index) {
        constexpr double kUsual = 2;
        change([&](Method&, Analyte& a) { a.range.extrapolation = index == 1 ? kUsual : 1; });
    });
    m_extrapolation = number(form(), "extrapolation", tr("Beyond it, by a factor of"),
                             [](Method&, Analyte& a, auto v) { a.range.extrapolation = v.value_or(1); });
    m_factorRow = form()->row(tr("Up to a factor of"), {m_extrapolation});
    m_interval = form()->choice(QStringLiteral("interval"), tr("Interval by"), {});
    form()->row(tr("Interval"), {m_interval});
    connect(m_interval, &QComboBox::activated, this, [this](int index) {
        change([&](Method&, Analyte& a) {
            a.interval = static_cast<IntervalMethod>(m_intervals[static_cast<std::size_t>(index)]);
        });
    });
    m_confidence = number(form(), "confidence", tr("Confidence"), [](Method& m, Analyte&, auto v) {
        constexpr double kUsual = 95;
        m.confidence = v.value_or(kUsual) / 100;
    });
    form()->row(tr("Confidence, %"), {m_confidence}, tr("Of every interval of the method"));
    m_scatter = form()->choice(QStringLiteral("scatter"), tr("Scatter of a sample"),
                               {tr("the batch's replicates"), tr("the curve"), tr("its own replicates")});
    form()->row(tr("Scatter from"), {m_scatter}, tr("Which scatter of readings stands in the interval of a sample"));
    connect(m_scatter, &QComboBox::activated, this,
            [this](int index) { change([&](Method&, Analyte& a) { a.scatter = static_cast<ScatterFrom>(index); }); });
    m_blank = form()->onOff(QStringLiteral("blankInInterval"), tr("Blank's share in the interval"));
    m_blankRow = form()->row(tr("Blank's share in the interval"), {m_blank});
    connect(m_blank, &QAbstractButton::clicked, this,
            [this](bool isOn) { change([&](Method& m, Analyte&) { m.blankEntersInterval = isOn; }); });
}

void CurveSettings::makeReplicates(LiveForm* part) {
    m_average = part->segments(QStringLiteral("average"), tr("Averaged are"), {tr("concentrations"), tr("responses")});
    part->row(tr("Averaged are"), {m_average});
    connect(m_average, &Segments::chosen, this,
            [this](int index) { change([&](Method&, Analyte& a) { a.average = static_cast<AverageOf>(index); }); });
    m_dilution = number(part, "dilutionSe", tr("SE of a dilution"),
                        [](Method& m, Analyte&, auto v) { m.dilutionRelativeSe = v.value_or(0) / 100; });
    part->row(tr("SE of a dilution, %"), {m_dilution}, tr("Relative standard uncertainty of a dilution factor"));
    m_keepBest = number(
        part, "keepBest", tr("Replicates kept"),
        [](Method& m, Analyte&, std::optional<double> value) {
            const double keep = value.value_or(0);
            constexpr int kNone = -1; // what the method's own rule refuses
            m.replicates.keepBest = keep == std::floor(keep) && std::abs(keep) < 1e6 ? static_cast<int>(keep) : kNone;
        },
        tr("all"));
    part->row(tr("Replicates kept"), {m_keepBest}, tr("Those with the smallest SD; empty: all"));
    m_outliers = part->choice(QStringLiteral("outlierTest"), tr("Outlier test"),
                              {tr("none"), tr("Grubbs, 5 %"), tr("Dixon, 5 %")});
    part->row(tr("Outlier test"), {m_outliers}, tr("Sets replicates aside by itself, visibly"));
    connect(m_outliers, &QComboBox::activated, this, [this](int index) {
        change([&](Method& m, Analyte&) { m.replicates.outlierTest = static_cast<OutlierTest>(index); });
    });
}

void CurveSettings::refresh() {
    const FitOptions& fit = m_workspace.analyte().fit;
    setTitle(tr("Curve settings"), tr("Only what %1 uses, live.").arg(text(fitTitle(fit))));
    refreshFit();
    refreshReadingOff();
    refreshInternal();
    refreshFigure();
    const Method& method = m_workspace.batch().method;
    m_average->setCurrent(static_cast<int>(m_workspace.analyte().average));
    m_dilution->setNumber(100 * method.dilutionRelativeSe);
    m_keepBest->setNumber(method.replicates.keepBest > 0 ? std::optional<double>(method.replicates.keepBest)
                                                         : std::nullopt);
    m_outliers->setCurrentIndex(static_cast<int>(method.replicates.outlierTest));
}

void CurveSettings::refreshFit() {
    const Analyte& analyte = m_workspace.analyte();
    const FitOptions& options = analyte.fit;
    refreshSource();
    m_fitTo->setCurrent(static_cast<int>(options.fitTo));
    // Interpolations go through the level means in any case, lines of additions through each replicate.
    m_fitToRow->setVisible(!isInterpolation(options.model) && analyte.source.curve != CurveOf::Sample);
    m_weightFrom->setCurrent(static_cast<int>(options.weightFrom));
    m_weightFromRow->setVisible(isOfY(options));
    m_floor->setNumber(options.weightFloor);
    m_floorRow->setVisible(isOfY(options));
    m_theta->setNumber(options.theta);
    m_thetaRow->setVisible(options.weighting == Weighting::Variance && !isInterpolation(options.model));
    const Fit& fit = m_workspace.evaluation().fit;
    const auto showHeld = [&](const std::optional<double>& held, const char* name, Segments* choice, NumberField* field,
                              QWidget* row) {
        choice->setCurrent(held ? 1 : 0);
        field->setNumber(held);
        const bool isKnown = isLogistic(options.model) && fit.isUsable();
        field->setPlaceholderText(isKnown ? shown(formatFigures(fit.parameter(name), 4)) : QString());
        field->setEnabled(held.has_value());
        row->setVisible(isLogistic(options.model));
    };
    showHeld(options.heldA, "a", m_a, m_heldA, m_aRow);
    showHeld(options.heldD, "d", m_d, m_heldD, m_dRow);
    m_fixedX->setNumber(options.fixedX);
    m_fixedY->setNumber(options.fixedY);
    m_fixedRow->setVisible(options.model == Model::LineFixedPoint);
}

void CurveSettings::refreshReadingOff() {
    const Analyte& analyte = m_workspace.analyte();
    const Method& method = m_workspace.batch().method;
    m_rangeBy->setCurrentIndex(static_cast<int>(analyte.range.by));
    const Range& range = m_workspace.evaluation().range;
    const bool isByHand = analyte.range.by == RangeBy::Hand;
    m_range->setText(
        !range.lloq || !range.uloq
            ? tr("none")
            : tr("%1 to %2").arg(shown(formatFigures(*range.lloq, 3)), shown(formatFigures(*range.uloq, 3))));
    m_range->setVisible(!isByHand);
    m_lloq->setNumber(analyte.range.lloq);
    m_uloq->setNumber(analyte.range.uloq);
    m_handRow->setVisible(isByHand);
    m_precision->setNumber(analyte.range.precisionPercent);
    m_precisionRow->setVisible(analyte.range.by == RangeBy::Precision);
    m_beyond->setCurrent(analyte.range.extrapolation > 1 ? 1 : 0);
    m_extrapolation->setNumber(analyte.range.extrapolation);
    m_factorRow->setVisible(analyte.range.extrapolation > 1);
    m_interval->clear();
    m_intervals.clear();
    for (const IntervalMethod one :
         {IntervalMethod::Propagation, IntervalMethod::LogPropagation, IntervalMethod::Fieller,
          IntervalMethod::Inversion, IntervalMethod::Profile, IntervalMethod::Bootstrap}) {
        if (isDefinedFor(one, analyte.fit.model)) {
            m_interval->addItem(text(intervalTitle(one)));
            m_intervals.push_back(static_cast<int>(one));
        }
    }
    // Where the model does not know the one that is set, propagation is used.
    const auto found = std::find(m_intervals.begin(), m_intervals.end(), static_cast<int>(analyte.interval));
    m_interval->setCurrentIndex(found == m_intervals.end() ? 0 : static_cast<int>(found - m_intervals.begin()));
    m_confidence->setNumber(100 * method.confidence);
    m_scatter->setCurrentIndex(static_cast<int>(analyte.scatter));
    m_blank->setChecked(method.blankEntersInterval);
    m_blankRow->setVisible(method.subtractsBlank);
}

} // namespace nuvat
