#include "kinds/trace/peak_rule_settings.h"

#include "nuvat/batch/command.h"
#include "nuvat/report/theme.h"

namespace nuvat {

PeakRuleSettings::PeakRuleSettings(Workspace& workspace, QWidget* parent)
    : MethodForm(workspace, QStringLiteral("peakRule"), true, parent), m_look(TraceLook::of(workspace)) {
    m_name = form()->line(QStringLiteral("traceAnalyte"), tr("Name of the analyte"));
    form()->row(tr("Analyte"), {m_name});
    connect(m_name, &QLineEdit::editingFinished, this, &PeakRuleSettings::takeName);
    connect(&workspace, &Workspace::aboutToReplace, this, &PeakRuleSettings::takeName);
    m_kind = form()->choice(QStringLiteral("responseKind"), tr("Response"),
                            {tr("Peak"), tr("Value at x"), tr("Mean of a stretch"), tr("Difference of two"),
                             tr("Slope of a stretch"), tr("Reading in use")});
    form()->row(tr("Response"), {m_kind});
    connect(m_kind, &QComboBox::activated, this, &PeakRuleSettings::setKind);
    m_channel = form()->choice(QStringLiteral("responseChannel"), tr("Channel"), {});
    m_channelRow = form()->row(tr("Channel"), {m_channel});
    connect(m_channel, &QComboBox::activated, this, [this] {
        const std::string channel = m_channel->currentText().toStdString();
        changePeak([&](PeakRule& rule) { rule.channel = channel; });
        changeBand([&](BandRule& rule) { rule.channel = channel; });
        m_look.showChannel(channel);
    });
    makePeak();
    makeBand();
}

void PeakRuleSettings::takeName() {
    if (!m_name->isModified()) {
        return;
    }
    m_name->setModified(false);
    const std::string name = m_name->text().trimmed().toStdString();
    change([&](Method&, Analyte& analyte) { analyte.name = name; });
}

void PeakRuleSettings::makePeak() {
    const auto peakNumber = [this](const char* name, const QString& title, double PeakRule::*field) {
        NumberField* out = number(form(), name, title, [](Method&, Analyte&, std::optional<double>) {});
        out->take = [this, field](std::optional<double> value) {
            return value && changePeak([&](PeakRule& rule) { rule.*field = *value; });
        };
        return out;
    };
    m_expected = peakNumber("peakExpected", tr("Expected at"), &PeakRule::expected);
    m_expectedRow = form()->row(tr("Expected at"), {m_expected});
    m_window = peakNumber("peakWindow", tr("Half of the window"), &PeakRule::window);
    m_windowOf = form()->segments(QStringLiteral("peakWindowOf"), tr("Window in"), {tr("x"), tr("%")});
    m_windowRow = form()->row(tr("Window, ±"), {m_window, m_windowOf}, tr("The ends of the window count as inside"));
    connect(m_windowOf, &Segments::chosen, this,
            [this](int index) { changePeak([&](PeakRule& rule) { rule.windowOf = static_cast<WindowOf>(index); }); });
    m_quantity = form()->choice(QStringLiteral("peakQuantity"), tr("Quantity"),
                                {tr("Area"), tr("Height of the apex"), tr("Charge"), tr("Height of the largest sample"),
                                 tr("Share of all areas, %")});
    m_quantityRow = form()->row(tr("Quantity"), {m_quantity});
    connect(m_quantity, &QComboBox::activated, this, [this](int index) {
        changePeak([&](PeakRule& rule) { rule.quantity = static_cast<PeakQuantity>(index); });
    });
    m_factor = peakNumber("peakFactor", tr("Correction factor"), &PeakRule::factor);
    m_factorRow = form()->row(tr("Correction factor"), {m_factor}, tr("Area times this factor: 1 / relative response"));
    m_pick = form()->choice(QStringLiteral("peakPick"), tr("Of several"),
                            {tr("the nearest"), tr("the largest"), tr("the first"), tr("all as one")});
    m_pickRow = form()->row(tr("Of several peaks"), {m_pick}, tr("Which peak of the window counts"));
    connect(m_pick, &QComboBox::activated, this,
            [this](int index) { changePeak([&](PeakRule& rule) { rule.pick = static_cast<PeakPick>(index); }); });
    m_reference = form()->choice(QStringLiteral("peakReference"), tr("Follows"), {});
    m_referenceRow = form()->row(tr("Follows"), {m_reference},
                                 tr("The window moves as this peak of the same run does, against its mean over the "
                                    "standards"));
    connect(m_reference, &QComboBox::activated, this,
            [this](int index) { changePeak([&](PeakRule& rule) { rule.reference = index; }); });
    m_anyway = form()->onOff(QStringLiteral("peakAnyway"), tr("Measure the window without a peak"));
    m_anywayRow = form()->row(tr("Measure without a peak"), {m_anyway},
                              tr("The window is measured from end to end where no peak is found: for limits of "
                                 "detection"));
    connect(m_anyway, &QAbstractButton::clicked, this,
            [this](bool isOn) { changePeak([&](PeakRule& rule) { rule.isWindowTaken = isOn; }); });
}

void PeakRuleSettings::makeBand() {
    const auto bandNumber = [this](const char* name, const QString& title, double BandRule::*field) {
        NumberField* out = number(form(), name, title, [](Method&, Analyte&, std::optional<double>) {});
        out->take = [this, field](std::optional<double> value) {
            return value && changeBand([&](BandRule& rule) { rule.*field = *value; });
        };
        return out;
    };
    m_from = bandNumber("bandFrom", tr("From"), &BandRule::from);
    m_fromRow = form()->row(tr("At, or from"), {m_from});
    m_to = bandNumber("bandTo", tr("To"), &BandRule::to);
    m_toRow = form()->row(tr("To"), {m_to});
}

int PeakRuleSettings::kindOf(const ResponseRule& rule) {
    if (const auto* band = std::get_if<BandRule>(&rule)) {
        switch (band->quantity) {
        case BandQuantity::Value:
            return Value;
        case BandQuantity::Mean:
            return Mean;
        case BandQuantity::Difference:
            return Difference;
        case BandQuantity::Slope:
            return Slope;
        }
    }
    return std::holds_alternative<PeakRule>(rule) ? Peak : InUse;
}

/// A rule of another kind begins at what is seen of the trace.
void PeakRuleSettings::setKind(int kind) {
    const auto trace = m_look.trace(m_look.run());
    Stretch seen = m_look.zoom().value_or(Stretch{0, 1});
    if (!m_look.zoom() && trace && trace->size() > 1) {
        seen = {trace->xAt(0), trace->xAt(trace->size() - 1)};
    }
    const double middle = (seen.from + seen.to) / 2, width = seen.to - seen.from;
    change([&](Method&, Analyte& analyte) {
        const auto* peak = std::get_if<PeakRule>(&analyte.source.rule);
        const double at = peak ? peak->expected : middle;
        if (kind == InUse) {
            analyte.source.rule = ValueRule{};
        } else if (kind == Peak) {
            PeakRule rule;
            rule.channel = m_look.channel();
            rule.expected = middle;
            rule.window = width / 20;
            analyte.source.rule = rule;
        } else {
            constexpr std::array<BandQuantity, 4> kQuantities{BandQuantity::Value, BandQuantity::Mean,
                                                              BandQuantity::Difference, BandQuantity::Slope};
            const auto quantity = kQuantities.at(static_cast<std::size_t>(kind - Value));
            const double to = quantity == BandQuantity::Value ? at : std::min(at + width / 10, seen.to);
            const auto* had = std::get_if<BandRule>(&analyte.source.rule);
            analyte.source.rule =
                BandRule{m_look.channel(), had ? had->from : at, had && had->to > had->from ? had->to : to, quantity};
        }
    });
}

bool PeakRuleSettings::changePeak(const std::function<void(PeakRule&)>& edit) {
    if (!std::holds_alternative<PeakRule>(
            m_workspace.newest().method.analyte(m_workspace.analyteNumber()).source.rule)) {
        return false;
    }
    return change([&](Method&, Analyte& analyte) { edit(std::get<PeakRule>(analyte.source.rule)); });
}

bool PeakRuleSettings::changeBand(const std::function<void(BandRule&)>& edit) {
    if (!std::holds_alternative<BandRule>(
            m_workspace.newest().method.analyte(m_workspace.analyteNumber()).source.rule)) {
        return false;
    }
    return change([&](Method&, Analyte& analyte) { edit(std::get<BandRule>(analyte.source.rule)); });
}

void PeakRuleSettings::showPeak(const PeakRule& rule) {
    m_expected->setNumber(rule.expected);
    m_window->setNumber(rule.window);
    m_windowOf->setCurrent(static_cast<int>(rule.windowOf));
    m_quantity->setCurrentIndex(static_cast<int>(rule.quantity));
    m_pick->setCurrentIndex(static_cast<int>(rule.pick));
    m_anyway->setChecked(rule.isWindowTaken);
    m_factor->setNumber(rule.factor);
    m_reference->clear();
    m_reference->addItem(tr("nothing"));
    for (const Analyte& analyte : m_workspace.batch().method.analytes) {
        m_reference->addItem(text(analyte.name));
    }
    m_reference->setCurrentIndex(rule.reference);
}

void PeakRuleSettings::refresh() {
    const Analyte& analyte = m_workspace.analyte();
    const ResponseRule& rule = analyte.source.rule;
    setTitle(tr("How this analyte is read"), {});
    if (!m_name->isModified()) { // what is being typed stays
        m_name->setText(text(analyte.name));
    }
    m_kind->setCurrentIndex(kindOf(rule));
    m_channel->clear();
    for (const std::string& channel : m_look.channels()) {
        m_channel->addItem(text(channel));
    }
    const auto* peak = std::get_if<PeakRule>(&rule);
    const auto* band = std::get_if<BandRule>(&rule);
    m_channel->setCurrentText(text(peak ? peak->channel : band ? band->channel : m_look.channel()));
    m_channelRow->setVisible((peak || band) && m_channel->count() > 1);
    for (QWidget* row : {m_expectedRow, m_windowRow, m_quantityRow, m_pickRow, m_anywayRow}) {
        row->setVisible(peak != nullptr);
    }
    m_factorRow->setVisible(peak && peak->quantity == PeakQuantity::AreaPercent);
    m_referenceRow->setVisible(peak && m_workspace.batch().method.analytes.size() > 1);
    m_fromRow->setVisible(band != nullptr);
    m_toRow->setVisible(band && band->quantity != BandQuantity::Value);
    if (peak) {
        showPeak(*peak);
    } else if (band) {
        m_from->setNumber(band->from);
        m_to->setNumber(band->to);
    }
}

} // namespace nuvat
