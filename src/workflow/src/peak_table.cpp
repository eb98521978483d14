#include "nuvat/workflow/peak_table.h"

#include <algorithm>
#include <map>
#include <set>

namespace nuvat {

namespace {

/// Names in the order in which they come first.
class Names {
public:
    int numberOf(const std::string& name) {
        const auto [found, isNew] = m_numbers.emplace(name, static_cast<int>(m_names.size()) + 1);
        if (isNew) {
            m_names.push_back(name);
        }
        return found->second;
    }
    const std::vector<std::string>& all() const { return m_names; }

private:
    std::map<std::string, int> m_numbers;
    std::vector<std::string> m_names;
};

std::string qualifierChannel(const std::string& analyte) {
    return analyte + " qualifier";
}

class Maker {
public:
    Maker(const std::vector<PeakRow>& rows, const PeakTableRules& rules) : m_rows(rows), m_rules(rules) {}

    Result<PeakTableBatch> make() {
        if (m_rows.empty()) {
            return fail("peaks.empty", "The table of peaks has no rows.", "Choose a file that holds peaks.");
        }
        for (const PeakRow& row : m_rows) {
            m_analytes.numberOf(row.analyte);
            m_runs.numberOf(row.injection);
        }
        if (m_rules.response != PeakResponse::Area) {
            for (const PeakRow& row : m_rows) { // after the analytes themselves
                if (!row.internalStandard.empty()) {
                    m_analytes.numberOf(row.internalStandard);
                }
            }
        }
        m_out.batch.carriers = {{1, {CarrierKind::RunList, "", static_cast<int>(m_runs.all().size()), 1}}};
        for (const PeakRow& row : m_rows) {
            if (auto added = add(row); !added) {
                return tl::unexpected(added.error());
            }
        }
        addAnalytes();
        addReadings();
        return std::move(m_out);
    }

private:
    Assignment groupOf(const PeakRow& row) {
        if (!isCounted(row.role)) {
            return {row.role, 0};
        }
        return {row.role, m_groups[row.role].numberOf(row.level.empty() ? row.name : row.level)};
    }

    Result<void> add(const PeakRow& row) {
        const Place place{m_runs.numberOf(row.injection) - 1, 0};
        const int analyte = m_analytes.numberOf(row.analyte);
        m_out.rows.push_back({analyte, place});
        if (!m_seen.emplace(analyte, place).second) {
            return fail("peaks.twice",
                        "Line " + std::to_string(row.line) + ": " + row.analyte + " stands twice in run " +
                            row.injection + ".",
                        "Give each run and analyte one line.");
        }
        Batch& batch = m_out.batch;
        const Assignment group = groupOf(row);
        if (group.role != Role::Empty) {
            batch.places[place] = group;
        }
        batch.runs[place].name = row.name;
        if (auto named = addGroup(row, group, analyte); !named) {
            return named;
        }
        set(row.analyte, place, row.area);
        set(qualifierChannel(row.analyte), place, row.qualifierArea);
        if (!row.internalStandard.empty()) {
            set(row.internalStandard, place, row.internalArea);
            m_internal[analyte] = m_analytes.numberOf(row.internalStandard);
            if (row.internalConcentration && m_rules.response == PeakResponse::Ratio) {
                batch.runs[place].added[m_internal[analyte]] = *row.internalConcentration;
            }
        }
        m_hasQualifier[analyte] = m_hasQualifier[analyte] || row.qualifierArea.has_value();
        return {};
    }

    Result<void> addGroup(const PeakRow& row, Assignment group, int analyte) {
        Batch& batch = m_out.batch;
        if (group.role == Role::Unknown) {
            Sample& sample = batch.samples[group.number];
            sample.name = row.level.empty() ? row.name : row.level;
            sample.dilution = row.dilution;
        } else if (hasNominal(group.role)) {
            batch.qcs[{group.number, analyte, group.role}] = {row.level, row.nominal};
        } else if (group.role == Role::Standard) {
            auto& level = batch.levels[{group.number, analyte}];
            if (level.concentration && row.nominal && *level.concentration != *row.nominal) {
                return fail("peaks.nominal",
                            "Line " + std::to_string(row.line) + ": " + row.name +
                                " has another nominal concentration than the other standards of level " + row.level +
                                ".",
                            "Standards of one level have one concentration.");
            }
            level.concentration = row.nominal;
        }
        return {};
    }

    void set(const std::string& channel, Place place, const std::optional<double>& value) {
        auto& values = m_channels[plain(channel)];
        values.resize(m_runs.all().size());
        if (value) {
            values[static_cast<std::size_t>(place.row)] = value;
        }
    }

    void addAnalytes() {
        Method& method = m_out.batch.method;
        method.analytes.clear();
        method.subtractsBlank = false;
        const int count = static_cast<int>(m_analytes.all().size());
        for (int number = 1; number <= count; ++number) {
            Analyte analyte;
            analyte.name = m_analytes.all()[static_cast<std::size_t>(number) - 1];
            analyte.source.rule = ValueRule{quoted(analyte.name)};
            analyte.fit = m_rules.fit;
            analyte.average = AverageOf::Concentrations;
            analyte.range.by = RangeBy::Levels;
            if (m_rules.response != PeakResponse::Area && m_internal.contains(number)) {
                analyte.internal.analyte = m_internal.at(number);
            }
            if (m_hasQualifier[number]) {
                analyte.qualifiers = {m_rules.qualifier};
                analyte.qualifiers.front().channel = plain(qualifierChannel(analyte.name));
            }
            method.analytes.push_back(std::move(analyte));
        }
        for (const auto& [number, internal] : m_internal) {
            if (m_rules.response == PeakResponse::Ratio) {
                method.analyte(internal).addedConcentration = 1; // so that the axis is the ratio of concentrations
            }
        }
    }

    /// A name as a formula of responses takes it.
    static std::string plain(std::string channel) {
        std::ranges::replace(channel, '"', '\'');
        return channel;
    }
    static std::string quoted(const std::string& channel) { return '"' + plain(channel) + '"'; }

    void addReadings() {
        Batch& batch = m_out.batch;
        int number = 0;
        for (const auto& [channel, values] : m_channels) {
            Grid grid{static_cast<int>(values.size()), 1, {}};
            for (const auto& value : values) {
                grid.wells.push_back({value, {}, 0, 0});
            }
            Reading reading;
            reading.source = "peaks";
            reading.slot.channel = channel;
            reading.payload = Payload::of(std::move(grid));
            batch.readings[++number] = std::move(reading);
            batch.inUse[batch.readings[number]->slot] = number;
        }
    }

    const std::vector<PeakRow>& m_rows;
    const PeakTableRules& m_rules;
    PeakTableBatch m_out;
    Names m_analytes, m_runs;
    std::map<Role, Names> m_groups;
    std::set<std::pair<int, Place>> m_seen;
    std::map<int, int> m_internal;
    std::map<int, bool> m_hasQualifier;
    std::map<std::string, std::vector<std::optional<double>>> m_channels;
};

} // namespace

Result<PeakTableBatch> batchOfPeaks(const std::vector<PeakRow>& rows, const PeakTableRules& rules) {
    return Maker(rows, rules).make();
}

} // namespace nuvat
