#include "panels/samples_card.h"

#include "models/columns_model.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/theme.h"
#include "widgets/data_table.h"

#include <QVBoxLayout>

namespace nuvat {

namespace {
Sample sampleOf(const Batch& batch, Assignment group) {
    const auto found = batch.samples.find(group.number);
    return found == batch.samples.end() ? Sample{} : found->second;
}
} // namespace

SamplesCard::SamplesCard(Workspace& workspace, QWidget* parent)
    : Card(tr("QC and samples"), parent), m_workspace(workspace) {
    body()->setContentsMargins(8, 10, 4, 8);
    m_count = makeLabel({}, "mute", this);
    titleRow()->addWidget(m_count);
    const auto always = [](int) { return true; };
    m_samples = new ColumnsModel(
        {{tr("Place"), false, 70, [this](int row) { return text(shortName(m_workspace.batch(), groupAt(row))); },
          [this](int row, int role) {
              return role == cell::kShape  ? QVariant(static_cast<int>(groupAt(row).role))
                     : role == cell::kBold ? QVariant(true)
                                           : QVariant();
          }},
         {tr("Sample"),
          false,
          0,
          [this](int row) { return nameText(row); },
          {},
          always,
          [this](int row, const QString& typed) { return editName(row, typed); }},
         {tr("Dilution"),
          true,
          110,
          [this](int row) { return valueText(row); },
          {},
          always,
          [this](int row, const QString& typed) { return editValue(row, typed); }},
         numberColumn(tr("Volume"), &Sample::volume),
         numberColumn(tr("Mass"), &Sample::mass),
         numberColumn(tr("Added"), &Sample::added),
         commentColumn()},
        [this] { return static_cast<int>(m_groups.size()); }, this);
    m_table = new DataTable(m_samples, QStringLiteral("samplesTable"), this);
    body()->addWidget(m_table);
    body()->addWidget(makeLabel(tr("Ctrl+V pastes a column of names from the selected place on"), "small", this));
    connect(m_table, &DataTable::rowChosen, this, [this](int row) { m_workspace.selectGroup(groupAt(row)); });
}

Assignment SamplesCard::groupAt(int row) const {
    const auto index = static_cast<std::size_t>(row);
    return index < m_groups.size() ? m_groups[index] : Assignment{};
}

/// The name is that of analyte 1, the nominal that of the analyte shown.
QcSample SamplesCard::knownOf(const Batch& batch, Assignment group) const {
    const auto found = batch.qcs.find({group.number, 1, group.role});
    QcSample known = found == batch.qcs.end() ? QcSample{} : found->second;
    known.nominal = batch.nominal(group, m_workspace.analyteNumber());
    return known;
}

QString SamplesCard::nameText(int row) const {
    const Assignment group = groupAt(row);
    return text(hasNominal(group.role) ? knownOf(m_workspace.newest(), group).name
                                       : sampleOf(m_workspace.newest(), group).name);
}

bool SamplesCard::editName(int row, const QString& typed) {
    const Assignment group = groupAt(row);
    const std::string name = typed.trimmed().toStdString();
    if (hasNominal(group.role)) {
        QcSample known = knownOf(m_workspace.newest(), group);
        known.name = name;
        known.nominal = m_workspace.newest().nominal(group, 1); // the name stands with analyte 1
        return m_workspace.apply(setQc(m_workspace.newest(), group.number, known, 1, group.role));
    }
    Sample sample = sampleOf(m_workspace.newest(), group);
    sample.name = name;
    return m_workspace.apply(setSample(m_workspace.newest(), group.number, sample));
}

QString SamplesCard::valueText(int row) const {
    const Assignment group = groupAt(row);
    if (!hasNominal(group.role)) {
        return QStringLiteral("× ") + shown(formatNumber(m_workspace.newest().dilution(group)));
    }
    const auto nominal = knownOf(m_workspace.newest(), group).nominal;
    return nominal ? shown(formatNumber(*nominal)) + QStringLiteral(" ") + text(m_workspace.analyte().unit)
                   : tr("type nominal");
}

bool SamplesCard::editValue(int row, const QString& typed) {
    QString plain = typed;
    plain.remove(text(m_workspace.analyte().unit));
    const Assignment group = groupAt(row);
    const auto value = hasNominal(group.role) ? parseTyped(plain.toStdString()) : parseDilution(plain.toStdString());
    if (!value && !hasNominal(group.role)) {
        m_workspace.tell(
            tr("\"%1\" is no dilution; %2 stays as it was. Type a factor, for example 10, or parts: 1 + 9.")
                .arg(typed, text(shortName(m_workspace.batch(), group))),
            true);
        return false;
    }
    if (!value) {
        m_workspace.tell(
            tr("\"%1\" is not a number; %2 stays as it was.").arg(typed, text(shortName(m_workspace.batch(), group))),
            true);
        return false;
    }
    if (hasNominal(group.role)) {
        QcSample known = knownOf(m_workspace.newest(), group);
        known.nominal = value;
        return m_workspace.apply(
            setQc(m_workspace.newest(), group.number, known, m_workspace.analyteNumber(), group.role));
    }
    return m_workspace.apply(setDilution(m_workspace.newest(), group, *value));
}

ColumnSpec SamplesCard::numberColumn(const QString& heading, std::optional<double> Sample::*member) {
    return {heading,
            true,
            56,
            [this, member](int row) {
                const auto value = sampleOf(m_workspace.newest(), groupAt(row)).*member;
                return !isOfSample(groupAt(row).role) ? QString() : value ? shown(formatNumber(*value)) : notDefined();
            },
            {},
            [this](int row) { return isOfSample(groupAt(row).role); },
            [this, member, heading](int row, const QString& typed) {
                const bool isEmpty = typed.trimmed().isEmpty() || typed.trimmed() == notDefined();
                const auto value = isEmpty ? std::nullopt : parseTyped(typed.toStdString());
                if (!isEmpty && !value) {
                    m_workspace.tell(tr("%1: \"%2\" is not a number.").arg(heading, typed), true);
                    return false;
                }
                Sample sample = sampleOf(m_workspace.newest(), groupAt(row));
                sample.*member = value;
                return m_workspace.apply(setSample(m_workspace.newest(), groupAt(row).number, sample));
            }};
}

ColumnSpec SamplesCard::commentColumn() {
    return {tr("Comment"),
            false,
            84,
            [this](int row) { return text(sampleOf(m_workspace.newest(), groupAt(row)).note); },
            {},
            [this](int row) { return isOfSample(groupAt(row).role); },
            [this](int row, const QString& typed) {
                Sample sample = sampleOf(m_workspace.newest(), groupAt(row));
                sample.note = typed.trimmed().toStdString();
                return m_workspace.apply(setSample(m_workspace.newest(), groupAt(row).number, sample));
            }};
}

/// Volume and mass are there where a formula asks for them, what was added where there are spikes.
void SamplesCard::showColumns() {
    const auto& derived = m_workspace.batch().method.analytes;
    const auto uses = [&](const std::string& name) {
        return std::ranges::any_of(derived, [&](const Analyte& analyte) {
            return std::ranges::any_of(analyte.derived, [&](const DerivedValue& value) {
                return value.formula.find(name) != std::string::npos;
            });
        });
    };
    const bool hasVolume = uses("volume"), hasMass = uses("mass");
    const bool hasSpikes = !m_workspace.index().groupsOf(Role::Spike).empty();
    constexpr int kWide = 430; // of the card: room for a comment beside the name
    const bool hasRoom = width() > kWide && !hasVolume && !hasMass && !hasSpikes;
    m_table->showColumns({true, true, true, hasVolume, hasMass, hasSpikes, hasRoom});
}

void SamplesCard::refresh() {
    m_groups.clear();
    for (const Role role : {Role::Qc, Role::CheckStandard, Role::Unknown, Role::Spike}) {
        const auto groups = m_workspace.index().groupsOf(role);
        m_groups.insert(m_groups.end(), groups.begin(), groups.end());
    }
    m_samples->refresh();
    showColumns();
    std::size_t named = 0;
    const auto unknowns = m_workspace.index().numbersOf(Role::Unknown);
    for (const int number : unknowns) {
        named += sampleOf(m_workspace.batch(), {Role::Unknown, number}).name.empty() ? 0u : 1u;
    }
    m_count->setText(tr("%1 of %2 named").arg(named).arg(unknowns.size()));
}

void SamplesCard::followSelection() {
    const auto group = m_workspace.selection().group;
    int wanted = -1;
    for (int row = 0; group && row < m_samples->rowCount(); ++row) {
        wanted = groupAt(row) == *group ? row : wanted;
    }
    m_table->showRow(wanted);
}

void SamplesCard::pasteNames(const QString& names) {
    nameSamples(m_workspace, names.toStdString());
}

void nameSamples(Workspace& workspace, const std::string& names) {
    const auto unknowns = workspace.index().numbersOf(Role::Unknown);
    if (unknowns.empty()) {
        workspace.tell(SamplesCard::tr("There are no unknowns to name; assign them on the plate first."), true);
        return;
    }
    const auto group = workspace.selection().group;
    const int first = group && group->role == Role::Unknown ? group->number : unknowns.front();
    workspace.apply(pasteSampleNames(workspace.newest(), first, names));
}

} // namespace nuvat
