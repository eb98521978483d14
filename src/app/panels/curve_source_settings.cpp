// What responses are read from, and which curve they are read off.
#include "nuvat/batch/kinetics.h"
#include "nuvat/batch/value_formula.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "panels/curve_settings.h"
#include "panels/formula_preview.h"
#include "theme/style.h"

#include <algorithm>
#include <QLayout>

namespace nuvat {

namespace {

/// What a kept curve was fitted to, and how long it is good.
QString keptWords(const KeptCurve& kept) {
    QString out = CurveSettings::tr("%1 points of %2 (%3, revision %4), kept on %5")
                      .arg(kept.x.size())
                      .arg(text(kept.batch), text(kept.method))
                      .arg(kept.revision)
                      .arg(timeText(kept.keptMillis));
    return kept.validDays ? out + CurveSettings::tr(", valid for %1 days").arg(shown(formatNumber(*kept.validDays)))
                          : out;
}

} // namespace

void CurveSettings::makeSource() {
    m_reading = form()->choice(QStringLiteral("analyteReading"), tr("Responses from"), {});
    m_readingRow = form()->row(tr("Responses from"), {m_reading});
    connect(m_reading, &QComboBox::activated, this, [this](int index) { takeSource(static_cast<std::size_t>(index)); });
    m_formula = form()->line(QStringLiteral("responseFormula"), tr("Formula of the response"));
    m_formula->setPlaceholderText(tr("450 nm − 620 nm"));
    m_formulaRow =
        form()->row(tr("Formula"), {m_formula}, tr("Over the names of what was read, with + − × ÷ and functions"));
    m_formulaNote = makeLabel({}, "small", form());
    m_formulaNote->setObjectName(QStringLiteral("formulaPreview"));
    m_formulaNote->setWordWrap(true);
    form()->layout()->addWidget(m_formulaNote);
    connect(m_formula, &QLineEdit::editingFinished, this, &CurveSettings::takeFormula);
    connect(m_formula, &QLineEdit::textChanged, this, &CurveSettings::previewFormula);
    m_kinetic = form()->choice(QStringLiteral("kineticQuantity"), tr("Taken over time"),
                               {tr("value at a time"), tr("mean"), tr("change"), tr("rate")}); // as BandQuantity
    m_kineticRow = form()->row(tr("Taken"), {m_kinetic}, tr("A rate is the slope of the straight line, per second"));
    connect(m_kinetic, &QComboBox::activated, this, [this](int index) {
        changeKinetic([&](KineticRule& rule) { rule.quantity = static_cast<BandQuantity>(index); });
    });
    const auto time = [this](const char* name, const QString& title, double KineticRule::*member) {
        return number(form(), name, title, [member](Method&, Analyte& a, std::optional<double> v) {
            if (auto* rule = std::get_if<KineticRule>(&a.source.rule); rule != nullptr && v) {
                rule->*member = *v;
            }
        });
    };
    m_kineticFrom = time("kineticFrom", tr("From, s"), &KineticRule::from);
    m_kineticTo = time("kineticTo", tr("To, s"), &KineticRule::to);
    m_kineticTimes = form()->row(tr("From, to, s"), {m_kineticFrom, m_kineticTo},
                                 tr("Seconds after the start, as the names of the reads say"));
}

void CurveSettings::changeKinetic(const std::function<void(KineticRule&)>& edit) {
    change([&](Method&, Analyte& a) {
        if (auto* rule = std::get_if<KineticRule>(&a.source.rule)) {
            edit(*rule);
        }
    });
}

/// A reading, what was read over time (begun with the rate over all of it), or a formula that is yet to be typed.
void CurveSettings::takeSource(std::size_t chosen) {
    const auto timed = timedChannels(m_workspace.batch());
    if (chosen < m_formulas.size()) {
        change([&](Method&, Analyte& a) { a.source.rule = ValueRule{m_formulas[chosen]}; });
    } else if (chosen - m_formulas.size() < timed.size()) {
        const TimedChannel& one = timed[chosen - m_formulas.size()];
        change([&](Method&, Analyte& a) {
            a.source.rule = KineticRule{one.of, one.reads.front().first, one.reads.back().first};
        });
    } else {
        m_formulaRow->show();
        m_formula->setFocus(Qt::TabFocusReason);
    }
}

void CurveSettings::refreshKinetic() {
    const auto* rule = std::get_if<KineticRule>(&m_workspace.analyte().source.rule);
    m_kineticRow->setVisible(rule != nullptr);
    m_kineticTimes->setVisible(rule != nullptr);
    if (rule != nullptr) {
        m_kinetic->setCurrentIndex(static_cast<int>(rule->quantity));
        m_kineticFrom->setNumber(rule->from);
        m_kineticTo->setNumber(rule->to);
        m_kineticTo->setVisible(rule->quantity != BandQuantity::Value);
    }
}

/// What responses are read from: the reading in use, one by its name, what was read over time, or a formula.
void CurveSettings::refreshSource() {
    const Batch& batch = m_workspace.batch();
    const AnalyteSource& source = m_workspace.analyte().source;
    const std::string& formula = valueFormula(source.rule);
    m_reading->clear();
    m_formulas = {""};
    m_reading->addItem(batch.info.channel.empty() ? tr("the reading in use")
                                                  : tr("%1, in use").arg(text(batch.info.channel)));
    const auto timed = timedChannels(batch);
    for (const std::string& channel : batch.channels()) {
        const auto time = readTime(channel); // its reads stand under one name
        if (!channel.empty() && (!time || timedChannel(timed, time->of) == nullptr)) {
            m_formulas.push_back(channel);
            m_reading->addItem(text(channel));
        }
    }
    for (const TimedChannel& one : timed) {
        m_reading->addItem(one.of.empty() ? tr("what was read over time") : tr("%1 over time").arg(text(one.of)));
    }
    m_reading->addItem(tr("a formula"));
    const auto* kinetic = std::get_if<KineticRule>(&source.rule);
    const auto found = std::find(m_formulas.begin(), m_formulas.end(), formula);
    const bool isFormula = found == m_formulas.end();
    const auto overTime =
        std::ranges::find(timed, kinetic == nullptr ? std::string() : kinetic->channel, &TimedChannel::of);
    m_reading->setCurrentIndex(kinetic != nullptr
                                   ? static_cast<int>(m_formulas.size()) + static_cast<int>(overTime - timed.begin())
                               : isFormula ? m_reading->count() - 1
                                           : static_cast<int>(found - m_formulas.begin()));
    const bool isOfTrace =
        std::holds_alternative<PeakRule>(source.rule) || std::holds_alternative<BandRule>(source.rule);
    m_readingRow->setVisible(!isOfTrace && (m_formulas.size() > 2 || !formula.empty() || !timed.empty()));
    refreshKinetic();
    if (!m_formula->hasFocus()) {
        m_formula->setText(isFormula ? text(formula) : QString());
        m_formulaRow->setVisible(isFormula);
        previewFormula();
    }
    const auto& kept = m_workspace.analyte().kept;
    m_curveOf->clear();
    const auto offer = [this](CurveOf curve, const QString& title) {
        m_curveOf->addItem(title, static_cast<int>(curve));
    };
    offer(CurveOf::Batch, tr("all standards"));
    offer(CurveOf::Carrier, tr("standards of each plate"));
    if (source.curve == CurveOf::Bracket || !bracketsOf(batch).empty()) {
        offer(CurveOf::Bracket, tr("standards before and after"));
    }
    offer(CurveOf::Sample, tr("additions to each sample"));
    offer(CurveOf::None, tr("none: response is result"));
    if (kept) {
        offer(CurveOf::Kept, tr("kept: %1").arg(text(kept->name)));
    }
    m_curveOf->setCurrentIndex(m_curveOf->findData(static_cast<int>(source.curve)));
    m_kept->setText(source.curve == CurveOf::Kept && kept ? keptWords(*kept) : QString());
    m_kept->setVisible(!m_kept->text().isEmpty());
    m_addition->setNumber(source.additionStandard);
    m_additionRow->setVisible(source.curve == CurveOf::Sample);
    m_curveOfRow->setVisible(kept || batch.carriers.size() > 1 || batch.hasTraces() ||
                             !m_workspace.index().groupsOf(Role::Addition).empty());
}

/// While it is typed: what it gives where something is selected, or else in the first places with a role.
void CurveSettings::previewFormula() {
    const std::string typed = m_formula->text().trimmed().toStdString();
    const Batch& batch = m_workspace.batch();
    const auto& selected = m_workspace.selection().places;
    const auto preview =
        typed.empty() ? FormulaPreview() : previewOf(batch, typed, selected.empty() ? placesOf(batch) : selected);
    m_formulaNote->setText(preview.words);
    m_formulaNote->setStyleSheet(preview.isWrong ? QStringLiteral("color: %1;").arg(theme().brick.name()) : QString());
    m_formulaNote->setVisible(!preview.words.isEmpty());
}

/// A formula that cannot be read stays as it was typed, and the notice bar says why.
void CurveSettings::takeFormula() {
    const std::string typed = m_formula->text().trimmed().toStdString();
    if (typed == valueFormula(m_workspace.analyte().source.rule)) {
        return;
    }
    if (const auto parsed = ValueFormula::parse(typed, m_workspace.batch().channels()); !typed.empty() && !parsed) {
        m_workspace.tell(parsed.error());
        return;
    }
    change([&](Method&, Analyte& a) { a.source.rule = ValueRule{typed}; });
}

} // namespace nuvat
