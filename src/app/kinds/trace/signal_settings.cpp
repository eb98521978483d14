#include "kinds/trace/signal_settings.h"

#include "nuvat/batch/command.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/units.h"
#include "nuvat/report/theme.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <QRegularExpression>

namespace nuvat {

namespace {

constexpr std::array<BaselineKind, 7> kBaselines{BaselineKind::Straight,   BaselineKind::Valleys,
                                                 BaselineKind::Horizontal, BaselineKind::Tangent,
                                                 BaselineKind::Polynomial, BaselineKind::AsymmetricLeastSquares,
                                                 BaselineKind::None};
constexpr std::array<int, 4> kWindows{0, 5, 9, 17}; ///< samples of the smoothing; 0: none

} // namespace

std::optional<std::vector<Stretch>> stretchesFrom(const QString& typed) {
    std::vector<Stretch> out;
    for (const QString& part : typed.split(u';', Qt::SkipEmptyParts)) {
        static const QRegularExpression between(QStringLiteral("^\\s*(\\S+?)\\s*(?:to|:|–|…)\\s*(\\S+)\\s*$"));
        const auto match = between.match(part);
        const auto number = [&](int group) {
            return parseNumber(match.captured(group).replace(u',', u'.').replace(u'−', u'-').toStdString());
        };
        if (part.trimmed().isEmpty()) {
            continue;
        }
        if (!match.hasMatch() || !number(1) || !number(2) || *number(1) == *number(2)) {
            return std::nullopt;
        }
        out.push_back({std::min(*number(1), *number(2)), std::max(*number(1), *number(2))});
    }
    std::ranges::sort(out, {}, &Stretch::from);
    return out;
}

QString stretchesText(const std::vector<Stretch>& stretches) {
    QStringList out;
    for (const Stretch& one : stretches) {
        out << SignalSettings::tr("%1 to %2").arg(shown(formatNumber(one.from)), shown(formatNumber(one.to)));
    }
    return out.join(QStringLiteral("; "));
}

SignalSettings::SignalSettings(Workspace& workspace, QWidget* parent)
    : MethodForm(workspace, QStringLiteral("signal"), true, parent), m_look(TraceLook::of(workspace)) {
    makeFinding();
    makeBaseline();
    makeFurther(addPart(QStringLiteral("signalFurther"), tr("Further rules")));
}

bool SignalSettings::changeSignal(const SignalEdit& edit) {
    const Batch& batch = m_workspace.newest();
    SignalRule rule = batch.method.signal(m_look.channel());
    edit(rule);
    return m_workspace.apply(setSignal(batch, m_look.channel(), rule));
}

NumberField* SignalSettings::signalNumber(LiveForm* form, const char* name, const QString& title,
                                          const std::function<bool(SignalRule&, std::optional<double>)>& take,
                                          const QString& whenEmpty) {
    NumberField* out = number(
        form, name, title, [](Method&, Analyte&, std::optional<double>) {}, whenEmpty);
    out->take = [this, take](std::optional<double> value) {
        bool isTaken = false;
        return changeSignal([&](SignalRule& rule) { isTaken = take(rule, value); }) && isTaken;
    };
    return out;
}

Switch* SignalSettings::signalSwitch(LiveForm* form, const char* name, const QString& title, const QString& remark,
                                     const std::function<void(SignalRule&, bool)>& edit) {
    Switch* out = form->onOff(QString::fromLatin1(name), title);
    form->row(title, {out}, remark);
    connect(out, &QAbstractButton::clicked, this,
            [this, edit](bool isOn) { changeSignal([&](SignalRule& rule) { edit(rule, isOn); }); });
    return out;
}

void SignalSettings::makeFinding() {
    const auto needed = [](double& field) {
        return [&field](std::optional<double> value) {
            field = value.value_or(field);
            return value.has_value();
        };
    };
    m_height = signalNumber(form(), "leastHeight", tr("Least height"),
                            [needed](SignalRule& r, auto v) { return needed(r.peaks.leastHeight.value)(v); });
    m_heightIn = form()->segments(QStringLiteral("leastHeightIn"), tr("Least height in"), {tr("× noise"), tr("in y")});
    form()->row(tr("Least height"), {m_height, m_heightIn}, tr("Above the local baseline"));
    connect(m_heightIn, &Segments::chosen, this, [this](int index) {
        const auto measured = m_look.measured(m_look.run());
        const double sigma = measured ? measured->features.noise.sigma : 0;
        changeSignal([&](SignalRule& rule) { // the same height, said in the other way
            HeightLimit& limit = rule.peaks.leastHeight;
            if (limit.isInNoise != (index == 0) && sigma > 0) {
                limit.value = index == 0 ? limit.value / sigma : limit.value * sigma;
            }
            limit.isInNoise = index == 0;
        });
    });
    m_width = signalNumber(
        form(), "leastWidth", tr("Least width"),
        [](SignalRule& r, auto v) { return r.peaks.leastWidth = v.value_or(0), true; }, tr("any"));
    form()->row(tr("Least width"), {m_width}, tr("At half height, in the unit of x"));
    m_area = signalNumber(
        form(), "leastArea", tr("Least area"),
        [](SignalRule& r, auto v) { return r.peaks.leastArea = v.value_or(0), true; }, tr("any"));
    form()->row(tr("Least area"), {m_area});
    m_valley = signalNumber(form(), "leastValley", tr("Least valley"),
                            [needed](SignalRule& r, auto v) { return needed(r.peaks.leastValley.value)(v); });
    form()->row(tr("Least valley, × noise"), {m_valley},
                tr("How far the trace must fall between two peaks to part them"));
    m_smoothing = form()->choice(QStringLiteral("smoothing"), tr("Smoothing"),
                                 {tr("Off"), tr("Light, 5 points"), tr("Medium, 9 points"), tr("Strong, 17 points")});
    form()->row(tr("Smoothing"), {m_smoothing},
                tr("For finding peaks; areas and heights are of the trace as measured"));
    connect(m_smoothing, &QComboBox::activated, this, [this](int index) {
        changeSignal([&](SignalRule& rule) {
            const int window = kWindows.at(static_cast<std::size_t>(index));
            rule.peaks.smoothing = window > 0 ? std::optional(Smoothing{window, 2}) : std::nullopt;
        });
    });
    m_ignored = form()->line(QStringLiteral("ignored"), tr("Ignored"));
    m_ignored->setPlaceholderText(tr("0 to 2.4; 9 to 10"));
    form()->row(tr("Ignored"), {m_ignored}, tr("Stretches of x in which nothing is looked for"));
    connect(m_ignored, &QLineEdit::editingFinished, this, &SignalSettings::takeIgnored);
}

void SignalSettings::makeBaseline() {
    m_baseline = form()->choice(QStringLiteral("baseline"), tr("Baseline"),
                                {tr("Straight"), tr("Valley to valley"), tr("Horizontal"), tr("Tangent"),
                                 tr("Polynomial"), tr("Asymmetric least squares"), tr("None: from 0")});
    form()->row(tr("Baseline"), {m_baseline});
    connect(m_baseline, &QComboBox::activated, this, [this](int index) {
        changeSignal(
            [&](SignalRule& rule) { rule.peaks.baseline.kind = kBaselines.at(static_cast<std::size_t>(index)); });
    });
    m_order = signalNumber(form(), "baselineOrder", tr("Order"), [](SignalRule& r, auto v) {
        const bool isOne = v && *v == std::floor(*v) && std::abs(*v) < 100;
        r.peaks.baseline.order = isOne ? static_cast<int>(*v) : 0; // which the method refuses
        return isOne;
    });
    m_orderRow = form()->row(tr("Order"), {m_order});
    m_through = form()->line(QStringLiteral("baselineThrough"), tr("Through"));
    m_through->setPlaceholderText(tr("all that is no peak"));
    m_throughRow = form()->row(tr("Through"), {m_through}, tr("Stretches that the polynomial goes through"));
    connect(m_through, &QLineEdit::editingFinished, this, &SignalSettings::takeStretches);
    m_lambda = signalNumber(form(), "baselineLambda", tr("Stiffness λ"), [](SignalRule& r, auto v) {
        r.peaks.baseline.lambda = v.value_or(0);
        return v.has_value();
    });
    m_lambdaRow = form()->row(tr("Stiffness λ"), {m_lambda});
    m_asymmetry = signalNumber(form(), "baselineAsymmetry", tr("Asymmetry p"), [](SignalRule& r, auto v) {
        r.peaks.baseline.asymmetry = v.value_or(0);
        return v.has_value();
    });
    m_asymmetryRow = form()->row(tr("Asymmetry p"), {m_asymmetry});
    m_skim = form()->choice(QStringLiteral("skim"), tr("Riders on a tail"),
                            {tr("Dropped"), tr("Tangent skim"), tr("Double tangent"), tr("Exponential skim")});
    form()->row(tr("Riders on a tail"), {m_skim}, tr("A small peak on the tail of a large one"));
    connect(m_skim, &QComboBox::activated, this, [this](int index) {
        changeSignal([&](SignalRule& rule) { rule.peaks.skim = static_cast<SkimKind>(index); });
    });
    m_skimRatio = signalNumber(form(), "skimRatio", tr("Skimmed from a ratio of"), [](SignalRule& r, auto v) {
        r.peaks.skimRatio = v.value_or(r.peaks.skimRatio);
        return v.has_value();
    });
    m_skimRatioRow =
        form()->row(tr("From a height ratio of"), {m_skimRatio}, tr("Height of the large peak over that of the rider"));
}

void SignalSettings::makeFurther(LiveForm* form) {
    m_negative = signalSwitch(form, "negativePeaks", tr("Negative peaks as well"), {},
                              [](SignalRule& rule, bool isOn) { rule.peaks.isNegative = isOn; });
    m_shoulders =
        signalSwitch(form, "shoulders", tr("Shoulders as well"), tr("Peaks without a valley, by the second derivative"),
                     [](SignalRule& rule, bool isOn) { rule.peaks.hasShoulders = isOn; });
    m_smoothedArea = form->onOff(QStringLiteral("smoothedArea"), tr("Areas from the smoothed trace"));
    m_smoothedAreaRow = form->row(tr("Areas from the smoothed trace"), {m_smoothedArea});
    connect(m_smoothedArea, &QAbstractButton::clicked, this,
            [this](bool isOn) { changeSignal([&](SignalRule& rule) { rule.peaks.isAreaSmoothed = isOn; }); });
    m_deadTime = signalNumber(
        form, "deadTime", tr("Dead time"), [](SignalRule& r, auto v) { return r.peaks.deadTime = v, true; },
        tr("none"));
    form->row(tr("Dead time"), {m_deadTime}, tr("For retention factors"));
    m_scanRate = signalNumber(
        form, "scanRate", tr("Scan rate"), [](SignalRule& r, auto v) { return r.scanRate = v, true; }, tr("none"));
    m_scanRateRow = form->row(tr("Scan rate, V/s"), {m_scanRate}, tr("Makes a charge of an area over potential"));
    m_cathodic = form->onOff(QStringLiteral("cathodicPositive"), tr("Cathodic current counts positive"));
    m_cathodicRow = form->row(tr("Cathodic counts positive"), {m_cathodic},
                              tr("The file counts cathodic current as positive: the trace is turned around"));
    connect(m_cathodic, &QAbstractButton::clicked, this,
            [this](bool isOn) { changeSignal([&](SignalRule& rule) { rule.isCathodicPositive = isOn; }); });
}

void SignalSettings::takeIgnored() {
    const auto typed = stretchesFrom(m_ignored->text());
    if (!typed) {
        m_workspace.tell(
            tr("Ignored: \"%1\" is no list of stretches; type for example 0 to 2.4; 9 to 10.").arg(m_ignored->text()),
            true);
        return;
    }
    if (stretchesText(*typed) != stretchesText(m_look.rule().peaks.ignored)) {
        changeSignal([&](SignalRule& rule) { rule.peaks.ignored = *typed; });
    }
}

void SignalSettings::takeStretches() {
    const auto typed = stretchesFrom(m_through->text());
    if (!typed) {
        m_workspace.tell(
            tr("Through: \"%1\" is no list of stretches; type for example 0 to 1; 8 to 9.").arg(m_through->text()),
            true);
        return;
    }
    if (stretchesText(*typed) != stretchesText(m_look.rule().peaks.baseline.through)) {
        changeSignal([&](SignalRule& rule) { rule.peaks.baseline.through = *typed; });
    }
}

void SignalSettings::refresh() {
    const SignalRule& rule = m_look.rule();
    const PeakRules& peaks = rule.peaks;
    setTitle(tr("How peaks are found"), tr("In all runs at once; what is drawn by hand stays."));
    m_height->setNumber(peaks.leastHeight.value);
    m_heightIn->setCurrent(peaks.leastHeight.isInNoise ? 0 : 1);
    m_valley->setNumber(peaks.leastValley.value);
    m_width->setNumber(peaks.leastWidth > 0 ? std::optional(peaks.leastWidth) : std::nullopt);
    m_area->setNumber(peaks.leastArea > 0 ? std::optional(peaks.leastArea) : std::nullopt);
    const int window = peaks.smoothing ? peaks.smoothing->window : 0;
    const auto known = std::ranges::find(kWindows, window);
    m_smoothing->setCurrentIndex(known == kWindows.end() ? -1 : static_cast<int>(known - kWindows.begin()));
    if (!m_ignored->hasFocus()) {
        m_ignored->setText(stretchesText(peaks.ignored));
    }
    if (!m_through->hasFocus()) {
        m_through->setText(stretchesText(peaks.baseline.through));
    }
    const auto kind = std::ranges::find(kBaselines, peaks.baseline.kind);
    m_baseline->setCurrentIndex(kind == kBaselines.end() ? -1 : static_cast<int>(kind - kBaselines.begin()));
    m_order->setNumber(peaks.baseline.order);
    m_lambda->setNumber(peaks.baseline.lambda);
    m_asymmetry->setNumber(peaks.baseline.asymmetry);
    const bool isPolynomial = peaks.baseline.kind == BaselineKind::Polynomial;
    const bool isStiff = peaks.baseline.kind == BaselineKind::AsymmetricLeastSquares;
    m_orderRow->setVisible(isPolynomial);
    m_throughRow->setVisible(isPolynomial);
    m_lambdaRow->setVisible(isStiff);
    m_asymmetryRow->setVisible(isStiff);
    m_skim->setCurrentIndex(static_cast<int>(peaks.skim));
    m_skimRatio->setNumber(peaks.skimRatio);
    m_skimRatioRow->setVisible(peaks.skim != SkimKind::None);
    m_negative->setChecked(peaks.isNegative);
    m_shoulders->setChecked(peaks.hasShoulders);
    m_smoothedArea->setChecked(peaks.isAreaSmoothed);
    m_smoothedAreaRow->setVisible(peaks.smoothing.has_value());
    m_deadTime->setNumber(peaks.deadTime);
    m_scanRate->setNumber(rule.scanRate);
    m_cathodic->setChecked(rule.isCathodicPositive);
    const auto trace = m_look.trace(m_look.run());
    const bool isOverPotential = trace && converted(1, unitSymbol(trace->xUnit), "V").has_value();
    m_scanRateRow->setVisible(isOverPotential);
    m_cathodicRow->setVisible(isOverPotential);
}

} // namespace nuvat
