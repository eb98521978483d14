// What an analyte is divided by, and which channels confirm it.
#include "nuvat/batch/internal_standard.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "panels/curve_settings.h"
#include "theme/style.h"

#include <algorithm>

namespace nuvat {

namespace {

/// Fills a list anew only where its items are others: laying it out costs a good part of a frame.
void setItems(Choice& choice, const QStringList& items) {
    QStringList before;
    for (int i = 0; i < choice.count(); ++i) {
        before << choice.itemText(i);
    }
    if (before != items) {
        choice.clear();
        choice.addItems(items);
    }
}

} // namespace

void CurveSettings::makeInternal(LiveForm* part) {
    m_internal = part->choice(QStringLiteral("internalStandard"), tr("Internal standard"), {});
    part->row(tr("Internal standard"), {m_internal},
              tr("The analyte that every run was given in a known amount; responses are divided by its own"));
    connect(m_internal, &QComboBox::activated, this, [this](int index) {
        const int chosen = m_internals.at(static_cast<std::size_t>(index));
        change([&](Method&, Analyte& a) { a.internal.analyte = chosen; });
    });
    m_internalAdded =
        part->segments(QStringLiteral("internalAdded"), tr("When it was added"), {tr("after"), tr("before")});
    m_internalAddedRow = part->row(tr("Added … dilution"), {m_internalAdded},
                                   tr("Added before samples were diluted, the ratio carries the dilution already"));
    connect(m_internalAdded, &Segments::chosen, this,
            [this](int index) { change([&](Method&, Analyte& a) { a.internal.isBeforeDilution = index == 1; }); });
    m_addedConcentration = number(
        part, "addedConcentration", tr("Concentration of this internal standard in every run"),
        [](Method&, Analyte& a, auto v) { a.addedConcentration = v; }, tr("the same"));
    m_addedRow = part->row(tr("In every run"), {m_addedConcentration},
                           tr("This analyte is an internal standard: what runs hold of it that say no other"));
    m_addedHere = numberTaken(
        part, "addedHere", tr("Concentration of the internal standard in what is selected"),
        [this](std::optional<double> value) {
            const int internal = internalOf(m_workspace.newest().method, m_workspace.analyteNumber());
            return internal != 0 &&
                   m_workspace.apply(setAdded(m_workspace.newest(), m_workspace.selection().places, internal, value));
        });
    m_addedHereRow =
        part->row(tr("In the selected runs"), {m_addedHere},
                  tr("What they hold of the internal standard, where it is not the usual; empty: the usual"));
    connect(&m_workspace, &Workspace::selectionChanged, this, &CurveSettings::refreshAddedHere);
    for (std::size_t i = 0; i < m_qualifiers.size(); ++i) {
        makeQualifier(part, i);
    }
}

void CurveSettings::makeQualifier(LiveForm* part, std::size_t index) {
    QualifierRows& rows = m_qualifiers[index];
    const QString number = QString::number(index + 1);
    rows.channel = part->choice(QStringLiteral("qualifier") + number, tr("Channel of qualifier %1").arg(number), {});
    rows.channelRow = part->row(tr("Qualifier %1").arg(number), {rows.channel},
                                tr("Another channel of this analyte; its response goes with the quantifier's in one "
                                   "ratio"));
    connect(rows.channel, &QComboBox::activated, this, [this, index](int item) {
        const std::string channel = item == 0 ? std::string() : m_qualifierChannels.at(static_cast<std::size_t>(item));
        change([&](Method&, Analyte& a) {
            if (item == 0) {
                a.qualifiers.erase(a.qualifiers.begin() + static_cast<std::ptrdiff_t>(index));
            } else {
                a.qualifiers.resize(std::max(a.qualifiers.size(), index + 1));
                a.qualifiers[index].channel = channel;
            }
        });
    });
    // One that was taken away meanwhile is left alone.
    const auto edit = [index](Analyte& a, const auto& how) {
        if (index < a.qualifiers.size()) {
            how(a.qualifiers[index]);
        }
    };
    using Take = std::function<void(Qualifier&, std::optional<double>)>;
    const auto field = [&](const char* name, const QString& title, const QString& whenEmpty, const Take& take) {
        auto* made = this->number(
            part, (name + std::to_string(index + 1)).c_str(), title,
            [edit, take](Method&, Analyte& a, auto v) { edit(a, [&](Qualifier& q) { take(q, v); }); }, whenEmpty);
        made->setMaximumWidth(64);
        return made;
    };
    rows.reference = field("qualifierReference", tr("Ratio of qualifier %1, percent").arg(number), tr("mean"),
                           [](Qualifier& q, auto v) { q.reference = v; });
    rows.tolerance = field("qualifierTolerance", tr("Tolerance of the ratio of qualifier %1").arg(number), {},
                           [](Qualifier& q, auto v) { q.tolerance = v.value_or(Qualifier{}.tolerance); });
    rows.ratioRow = part->row(tr("Ratio, %, ±"), {rows.reference, rows.tolerance},
                              tr("Empty: the mean of the standards; and by how much a run may differ from it"));
    rows.of = part->segments(QStringLiteral("qualifierOf") + number, tr("The tolerance is in"),
                             {tr("% of it"), tr("points")});
    rows.ofRow = part->row(tr("± is in"), {rows.of}, tr("Percent of the ratio, or percentage points"));
    connect(rows.of, &Segments::chosen, this, [this, edit](int item) {
        change([&](Method&, Analyte& a) {
            edit(a, [&](Qualifier& q) { q.toleranceOf = item == 0 ? ToleranceOf::Relative : ToleranceOf::Absolute; });
        });
    });
}

void CurveSettings::refreshInternal() {
    const Batch& batch = m_workspace.batch();
    const Method& method = batch.method;
    const Analyte& analyte = m_workspace.analyte();
    const int own = m_workspace.analyteNumber();
    m_internals = {0};
    QStringList names{tr("none")};
    for (int number = 1; number <= static_cast<int>(method.analytes.size()); ++number) {
        if (number != own) {
            m_internals.push_back(number);
            names << text(method.analyte(number).name);
        }
    }
    setItems(*m_internal, names);
    const int internal = internalOf(method, own);
    m_internal->setCurrentIndex(static_cast<int>(std::ranges::find(m_internals, internal) - m_internals.begin()));
    m_internal->setEnabled(m_internals.size() > 1);
    m_internalAddedRow->setVisible(internal != 0);
    m_internalAdded->setCurrent(analyte.internal.isBeforeDilution ? 1 : 0);
    m_addedRow->setVisible(isInternalStandard(method, own));
    m_addedConcentration->setNumber(analyte.addedConcentration);
    refreshAddedHere();
    m_qualifierChannels = {""};
    const auto ownChannels = batch.channelsOf(own);
    for (const std::string& channel : batch.channels()) {
        if (!channel.empty() && std::ranges::find(ownChannels, channel) == ownChannels.end()) {
            m_qualifierChannels.push_back(channel);
        }
    }
    for (std::size_t i = 0; i < m_qualifiers.size(); ++i) {
        refreshQualifier(i);
    }
}

/// Runs that are not all alike show nothing, and take what is typed all together.
void CurveSettings::refreshAddedHere() {
    const Batch& batch = m_workspace.batch();
    const int internal = internalOf(batch.method, m_workspace.analyteNumber());
    const auto& places = m_workspace.selection().places;
    m_addedHereRow->setVisible(internal != 0 && !places.empty() &&
                               batch.method.analyte(internal).addedConcentration.has_value());
    if (internal != 0) {
        const auto here = addedIn(batch, places, internal);
        m_addedHere->setNumber(here);
        m_addedHere->setPlaceholderText(here ? QString() : tr("several"));
    }
}

void CurveSettings::refreshQualifier(std::size_t index) {
    QualifierRows& rows = m_qualifiers[index];
    const auto& qualifiers = m_workspace.analyte().qualifiers;
    const Qualifier* qualifier = index < qualifiers.size() ? &qualifiers[index] : nullptr;
    if (qualifier != nullptr &&
        std::ranges::find(m_qualifierChannels, qualifier->channel) == m_qualifierChannels.end()) {
        m_qualifierChannels.push_back(qualifier->channel); // of a method whose channels this batch has not
    }
    QStringList names{tr("none")};
    for (std::size_t i = 1; i < m_qualifierChannels.size(); ++i) {
        names << text(m_qualifierChannels[i]);
    }
    setItems(*rows.channel, names);
    if (qualifier == nullptr) {
        rows.channel->setCurrentIndex(0);
    } else {
        const auto found = std::ranges::find(m_qualifierChannels, qualifier->channel);
        rows.channel->setCurrentIndex(static_cast<int>(found - m_qualifierChannels.begin()));
        rows.reference->setNumber(qualifier->reference);
        rows.tolerance->setNumber(qualifier->tolerance);
        rows.of->setCurrent(qualifier->toleranceOf == ToleranceOf::Relative ? 0 : 1);
        const auto& values = m_workspace.evaluation().qualifiers;
        const auto mean = index < values.size() ? values[index].ofStandards.mean : std::nullopt;
        rows.reference->setPlaceholderText(mean ? shown(formatFigures(*mean, 4)) : tr("mean"));
    }
    const bool isOffered = m_qualifierChannels.size() > 1 || qualifier != nullptr;
    rows.channelRow->setVisible(isOffered && index <= qualifiers.size());
    rows.ratioRow->setVisible(qualifier != nullptr);
    rows.ofRow->setVisible(qualifier != nullptr);
}

} // namespace nuvat
