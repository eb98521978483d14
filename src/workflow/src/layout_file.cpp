#include "nuvat/workflow/layout_file.h"

#include "nuvat/batch/layout_transfer.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/progress.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "nuvat/formats/delimited_table.h"

#include <cmath>
#include <map>

namespace nuvat {

namespace {

std::string cell(const std::optional<double>& value) {
    return value ? formatNumber(*value) : std::string();
}

/// "nominal", or of several analytes "nominal Patulin".
std::string nominalHeading(const Batch& batch, int analyte) {
    return batch.method.analytes.size() == 1 ? "nominal" : "nominal " + batch.method.analyte(analyte).name;
}

std::optional<double> nominalOf(const Batch& batch, Assignment group, int analyte) {
    return group.role == Role::Standard ? batch.concentration(group.number, analyte) : batch.nominal(group, analyte);
}

std::string nameOf(const Batch& batch, Assignment group) {
    if (hasNominal(group.role)) {
        const auto found = batch.qcs.find({group.number, 1, group.role});
        return found == batch.qcs.end() ? "" : found->second.name;
    }
    const auto found = batch.samples.find(group.number);
    return isOfSample(group.role) && found != batch.samples.end() ? found->second.name : "";
}

/// A layout that is being read.
class LayoutReader {
public:
    LayoutReader(const Batch& batch, const DelimitedTable& table, std::string name)
        : m_before(batch), m_after(batch), m_table(table), m_name(std::move(name)) {
        m_after.places.clear();
    }

    Result<Batch> read() {
        if (auto found = findColumns(); !found) {
            return tl::unexpected(found.error());
        }
        for (std::size_t i = m_heading + 1; i < m_table.rows.size(); ++i) {
            m_row = &m_table.rows[i];
            if (auto taken = takeRow(); !taken) {
                return tl::unexpected(taken.error());
            }
        }
        return std::move(m_after);
    }

private:
    Result<void> findColumns() {
        for (m_heading = 0; m_heading < m_table.rows.size(); ++m_heading) {
            m_columns.clear();
            const auto& cells = m_table.rows[m_heading].cells;
            for (std::size_t i = 0; i < cells.size(); ++i) {
                m_columns.emplace(upperCase(std::string(trimmed(cells[i]))), i);
            }
            if (m_columns.contains("WELL") && m_columns.contains("ROLE")) {
                return {};
            }
        }
        return fail("layout-file.columns", m_name + " has no line of headings with \"well\" and \"role\".",
                    "Export a layout to see which columns there are.");
    }

    std::string text(const std::string& heading) const {
        const auto found = m_columns.find(upperCase(heading));
        return found == m_columns.end() || found->second >= m_row->cells.size()
                   ? std::string()
                   : std::string(trimmed(m_row->cells[found->second]));
    }

    std::string where() const { return m_name + ", line " + std::to_string(m_row->line) + ": "; }

    Result<std::optional<double>> number(const std::string& heading) const {
        const std::string given = text(heading);
        if (given.empty()) {
            return std::optional<double>();
        }
        if (const auto value = parseCell(given, m_table.numbers)) {
            return std::optional(*value);
        }
        return fail("layout-file.number", where() + "\"" + given + "\" under " + heading + " is not a number.",
                    "Correct it, or leave the cell empty.");
    }

    Result<Place> place() const {
        const std::string well = text("well"), carrier = text("carrier");
        for (const auto& [key, one] : m_before.carriers) {
            if (!carrier.empty() && carrier != std::to_string(key) && carrier != carrierName(m_before.carriers, key)) {
                continue;
            }
            for (int row = 0; one.kind == CarrierKind::RunList && row < one.rows; ++row) {
                const Place run{row, 0, key};
                if (placeNameWithin(m_before.carriers, run) == well) {
                    return run;
                }
            }
            if (const auto position = parseWellName(well); position && one.holds(position->row, position->column)) {
                return Place{position->row, position->column, key};
            }
        }
        return fail("layout-file.well",
                    where() + "there is no \"" + well + "\"" + (carrier.empty() ? "" : " on " + carrier) +
                        " in this batch.",
                    "Correct the well, or make the plate first.");
    }

    Result<void> takeRow() {
        const std::string roleText = text("role");
        if (text("well").empty() && roleText.empty()) {
            return {}; // a line between
        }
        const auto at = place();
        if (!at) {
            return tl::unexpected(at.error());
        }
        const auto role = roleFromName(lowerCase(roleText));
        if (!role && !roleText.empty()) {
            return fail("layout-file.role", where() + "\"" + roleText + "\" is no role.",
                        "Roles are standard, blank, qc, unknown and those that an exported layout shows.");
        }
        if (!role || *role == Role::Empty) {
            return {};
        }
        const auto counted = number("number"), preparation = number("preparation");
        if (!counted || !preparation) {
            return tl::unexpected(!counted ? counted.error() : preparation.error());
        }
        const double which = counted->value_or(0), step = preparation->value_or(1);
        constexpr double kMost = 1e6;
        const bool isWhole = which == std::floor(which) && step == std::floor(step) && which < kMost && step < kMost;
        if (!isWhole || (isCounted(*role) ? which < 1 : which != 0) || step < 1) {
            return fail("layout-file.number",
                        where() + (isCounted(*role) ? "a role that is counted needs a whole number from 1 on."
                                                    : "blanks are not counted."),
                        "Correct the number or the preparation.");
        }
        const Assignment group{*role, static_cast<int>(which), isOfSample(*role) ? static_cast<int>(step) : 1};
        if (!m_after.places.emplace(*at, group).second) {
            return fail("layout-file.twice", where() + "the well " + text("well") + " stands in an earlier line too.",
                        "Remove one of the two lines.");
        }
        return takeDetails(group);
    }

    Result<void> takeDetails(Assignment group) {
        const int analytes = static_cast<int>(m_before.method.analytes.size());
        for (int analyte = 1; analyte <= analytes; ++analyte) {
            const auto nominal = number(nominalHeading(m_before, analyte));
            if (!nominal) {
                return tl::unexpected(nominal.error());
            }
            if (*nominal && group.role == Role::Standard) {
                m_after.levels[{group.number, analyte}].concentration = *nominal;
            } else if (*nominal && hasNominal(group.role)) {
                m_after.qcs[{group.number, analyte, group.role}].nominal = *nominal;
            }
        }
        if (hasNominal(group.role) && !text("name").empty()) {
            m_after.qcs[{group.number, 1, group.role}].name = text("name");
        }
        return isOfSample(group.role) ? takeSample(group) : Result<void>{};
    }

    Result<void> takeSample(Assignment group) {
        Sample& sample = m_after.samples[group.number];
        const auto dilution = number("dilution"), volume = number("volume"), mass = number("mass"),
                   added = number("added");
        for (const auto* one : {&dilution, &volume, &mass, &added}) {
            if (!*one) {
                return tl::unexpected(one->error());
            }
        }
        if (*dilution && group.role == Role::Unknown && group.preparation > 1) {
            m_after.preparations[{group.number, group.preparation}].dilution = **dilution;
        } else if (*dilution) {
            sample.dilution = **dilution;
        }
        sample.volume = *volume ? *volume : sample.volume;
        sample.mass = *mass ? *mass : sample.mass;
        sample.added = *added ? *added : sample.added;
        sample.name = text("name").empty() ? sample.name : text("name");
        sample.note = text("comment").empty() ? sample.note : text("comment");
        return {};
    }

    const Batch& m_before;
    Batch m_after;
    const DelimitedTable& m_table;
    std::string m_name;
    std::size_t m_heading = 0;
    std::map<std::string, std::size_t> m_columns;
    const DelimitedRow* m_row = nullptr;
};

} // namespace

std::string layoutCsv(const Batch& batch) {
    const int analytes = static_cast<int>(batch.method.analytes.size());
    std::string out = "carrier,well,role,number,preparation,name";
    for (int analyte = 1; analyte <= analytes; ++analyte) {
        out += "," + csvCell(nominalHeading(batch, analyte));
    }
    out += ",dilution,volume,mass,added,comment\n";
    for (const auto& [place, group] : batch.places) {
        out += std::to_string(place.carrier) + "," + placeNameWithin(batch.carriers, place) + "," +
               std::string(name(group.role)) + "," + (isCounted(group.role) ? std::to_string(group.number) : "") + "," +
               std::to_string(group.preparation) + "," + csvCell(nameOf(batch, group));
        for (int analyte = 1; analyte <= analytes; ++analyte) {
            out += "," + cell(nominalOf(batch, group, analyte));
        }
        const auto found = batch.samples.find(group.number);
        const bool isSample = isOfSample(group.role);
        const Sample sample = isSample && found != batch.samples.end() ? found->second : Sample{};
        out += "," + (isSample ? formatNumber(batch.dilution(group)) : std::string()) + "," + cell(sample.volume) +
               "," + cell(sample.mass) + "," + cell(sample.added) + "," + csvCell(sample.note) + "\n";
    }
    return out;
}

Result<Command> readLayoutCsv(const Batch& batch, std::istream& stream, const std::string& name) {
    NoProgress progress;
    const auto table = readDelimited(stream, name, progress);
    if (!table) {
        return tl::unexpected(table.error());
    }
    const auto after = LayoutReader(batch, *table, name).read();
    if (!after) {
        return tl::unexpected(after.error());
    }
    return layoutChange(batch, *after, "Layout taken from " + name);
}

} // namespace nuvat
