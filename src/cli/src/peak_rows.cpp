#include "peak_rows.h"

#include <map>

namespace nuvat {

const std::vector<std::pair<std::string, std::string>>& peakColumnOptions() {
    static const std::vector<std::pair<std::string, std::string>> options{
        {"--injection", "injection"},
        {"--name", "name"},
        {"--role", "role"},
        {"--level", "level"},
        {"--analyte", "analyte"},
        {"--internal-standard", "internal_standard"},
        {"--nominal", "nominal_concentration"},
        {"--internal-concentration", "is_concentration"},
        {"--time", "retention_min"},
        {"--area", "quantifier_area"},
        {"--qualifier", "qualifier_area"},
        {"--internal-time", "is_retention_min"},
        {"--internal-area", "is_area"},
        {"--dilution", "dilution"},
    };
    return options;
}

namespace {

/// The columns of a table, those that it has not as nothing.
class PeakColumns {
public:
    static Result<PeakColumns> of(const ColumnTable& table, const Options& options) {
        PeakColumns out(table);
        for (const auto& [option, usual] : peakColumnOptions()) {
            const bool isNeeded = option == "--analyte" || option == "--area" || option == "--role" ||
                                  option == "--injection" || options.has(option);
            const auto found = table.find(options.text(option, usual));
            if (!found && isNeeded) {
                return tl::unexpected(found.error());
            }
            if (found) {
                out.m_columns[option] = *found;
            }
        }
        return out;
    }

    std::string text(std::size_t row, const std::string& option) const {
        const auto found = m_columns.find(option);
        return found == m_columns.end() ? std::string() : std::string(m_table.cell(row, found->second));
    }
    /// Nothing where the cell is empty. @return fit.not-a-number
    Result<std::optional<double>> number(std::size_t row, const std::string& option) const {
        const auto found = m_columns.find(option);
        if (found == m_columns.end() || m_table.cell(row, found->second).empty()) {
            return std::optional<double>();
        }
        const auto value = m_table.number(row, found->second);
        return value ? Result<std::optional<double>>(*value) : tl::unexpected(value.error());
    }
    int line(std::size_t row) const { return m_table.line(row); }

private:
    explicit PeakColumns(const ColumnTable& table) : m_table(table) {}
    const ColumnTable& m_table;
    std::map<std::string, std::size_t> m_columns;
};

} // namespace

Result<std::vector<PeakRow>> readPeakRows(const Options& options) {
    const auto table = readColumns(options.text("--in"));
    if (!table) {
        return tl::unexpected(table.error());
    }
    const auto columns = PeakColumns::of(*table, options);
    if (!columns) {
        return tl::unexpected(columns.error());
    }
    std::vector<PeakRow> out;
    for (std::size_t i = 0; i < table->rowCount(); ++i) {
        PeakRow row;
        row.line = columns->line(i);
        row.injection = columns->text(i, "--injection");
        row.name = columns->text(i, "--name");
        row.level = columns->text(i, "--level");
        row.analyte = columns->text(i, "--analyte");
        row.internalStandard = columns->text(i, "--internal-standard");
        const std::string word = columns->text(i, "--role");
        const auto role = roleFromName(word);
        if (!role && !word.empty()) {
            return fail("peaks.role", "Line " + std::to_string(row.line) + ": the role \"" + word + "\" is unknown.",
                        "There are standard, blank, double-blank, qc, check-standard and unknown.");
        }
        row.role = role.value_or(Role::Empty);
        std::optional<double> dilution;
        for (const auto& [option, value] : {std::pair<const char*, std::optional<double>*>{"--nominal", &row.nominal},
                                            {"--internal-concentration", &row.internalConcentration},
                                            {"--time", &row.time},
                                            {"--area", &row.area},
                                            {"--qualifier", &row.qualifierArea},
                                            {"--internal-time", &row.internalTime},
                                            {"--internal-area", &row.internalArea},
                                            {"--dilution", &dilution}}) {
            const auto number = columns->number(i, option);
            if (!number) {
                return tl::unexpected(number.error());
            }
            *value = *number;
        }
        row.dilution = dilution.value_or(1);
        if (!(row.dilution > 0) || (row.internalConcentration && !(*row.internalConcentration > 0))) {
            return fail("peaks.factor",
                        "Line " + std::to_string(row.line) +
                            ": a dilution and a concentration of internal standard have to be above 0.",
                        "Correct the cell, or leave it empty.");
        }
        out.push_back(std::move(row));
    }
    return out;
}

} // namespace nuvat
