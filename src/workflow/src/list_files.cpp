#include "nuvat/workflow/list_files.h"

#include "list_headings.h"
#include "nuvat/batch/name_rules.h"
#include "nuvat/core/base/text.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace nuvat {

namespace {

enum AnalyteField { Name, Time, Window, Quantifier, QualifierOf, Ratio, Internal, Added, Start, Factor, Levels, Unit };

const std::vector<ListField>& analyteFields() {
    static const std::vector<ListField> fields{
        {Name, {"name", "analyte", "compound", "substance"}},
        {Time, {"time", "retention time", "expected time", "expected", "rt"}},
        {Window, {"window", "half window", "time window"}},
        {Quantifier, {"quantifier", "channel", "quantifier channel"}},
        {QualifierOf, {"qualifier", "qualifiers", "qualifier 1", "qualifier 2", "qualifier 3"}},
        {Ratio, {"ratio", "ratio %", "ion ratio", "qualifier ratio", "ratio 1", "ratio 2", "ratio 3"}},
        {Internal, {"internal standard", "is", "istd"}},
        {Added, {"added", "added concentration"}},
        {Start, {"start", "first level", "level 1", "top", "highest level"}},
        {Factor, {"factor", "divided by", "dilution factor"}},
        {Levels, {"levels", "number of levels"}},
        {Unit, {"unit", "units"}},
    };
    return fields;
}

Result<ListedAnalyte> analyteOf(const ListTable& table, std::size_t row) {
    ListedAnalyte out;
    out.name = table.text(row, Name);
    out.quantifier = table.text(row, Quantifier);
    out.internal = table.text(row, Internal);
    out.unit = table.text(row, Unit);
    if (out.unit.empty()) {
        out.unit = table.unit(Start);
    }
    std::optional<double> levels;
    const std::array<std::pair<int, std::optional<double>*>, 6> numbers{{{Time, &out.time},
                                                                         {Window, &out.window},
                                                                         {Added, &out.added},
                                                                         {Start, &out.first},
                                                                         {Factor, &out.factor},
                                                                         {Levels, &levels}}};
    for (const auto& [field, target] : numbers) {
        auto value = table.number(row, field);
        if (!value) {
            return tl::unexpected(value.error());
        }
        *target = *value;
    }
    if (levels) {
        out.levels = static_cast<int>(std::lround(*levels));
    }
    const auto ratios = table.texts(row, Ratio);
    const auto channels = table.texts(row, QualifierOf);
    for (std::size_t i = 0; i < channels.size(); ++i) {
        if (!channels[i].empty()) {
            const auto ratio = i < ratios.size() ? parseCell(ratios[i], {}) : std::nullopt;
            out.qualifiers.push_back({channels[i], ratio});
        }
    }
    return out;
}

enum RunField { RunName, Vial, RoleOf, LevelOf, DilutionOf, Injections, Volume };

const std::vector<ListField>& runFields() {
    static const std::vector<ListField> fields{
        {RunName, {"name", "sample", "sample name", "run"}},
        {Vial, {"vial", "position", "pos"}},
        {RoleOf, {"role", "type", "sample type"}},
        {LevelOf, {"level", "concentration", "nominal"}},
        {DilutionOf, {"dilution", "dilution factor", "factor"}},
        {Injections, {"injections", "replicates", "inj"}},
        {Volume, {"volume", "injection volume"}},
    };
    return fields;
}

Result<Role> roleOfRow(const ListTable& table, std::size_t row, const std::string& source,
                       const std::vector<NameRule>& rules) {
    const std::string text = lowerCase(table.text(row, RoleOf));
    if (!text.empty()) {
        for (const Role role : rolesInUse()) {
            if (text == name(role) || text == lowerCase(roleWord(role))) {
                return role;
            }
        }
        if (text == "sample") {
            return Role::Unknown;
        }
        return fail("list.role",
                    "Line " + std::to_string(table.line(row)) + " of " + source + ": " + excerpt(text) + " is no role.",
                    "Use standard, blank, QC, check standard or unknown.");
    }
    const auto named = roleOfName(rules.empty() ? usualNameRules() : rules, table.text(row, RunName));
    return named ? named->role : Role::Unknown;
}

} // namespace

Result<std::vector<ListedAnalyte>> analytesFromText(const std::string& bytes, const std::string& source) {
    const auto table = ListTable::read(bytes, source, analyteFields(), Name);
    if (!table) {
        return tl::unexpected(table.error());
    }
    std::vector<ListedAnalyte> out;
    for (std::size_t row = 0; row < table->rows(); ++row) {
        auto analyte = analyteOf(*table, row);
        if (!analyte) {
            return tl::unexpected(analyte.error());
        }
        out.push_back(std::move(*analyte));
    }
    return out;
}

bool isListOfAnalytes(const std::string& text) {
    const auto table = ListTable::read(text, "pasted block", analyteFields(), Name);
    return table && table->rows() > 0;
}

bool isListOfRuns(const std::string& text) {
    const auto hasField = [&](int field) {
        return ListTable::read(text, "pasted block", runFields(), field).has_value();
    };
    return hasField(RunName) && (hasField(Vial) || hasField(RoleOf));
}

Result<std::vector<PlannedRun>> runsFromText(const std::string& bytes, const std::string& source,
                                             const std::vector<NameRule>& rules) {
    const auto table = ListTable::read(bytes, source, runFields(), RunName);
    if (!table) {
        return tl::unexpected(table.error());
    }
    std::vector<PlannedRun> out;
    for (std::size_t row = 0; row < table->rows(); ++row) {
        PlannedRun run;
        run.name = table->text(row, RunName);
        run.vial = table->text(row, Vial);
        const auto role = roleOfRow(*table, row, source, rules);
        const auto level = table->number(row, LevelOf), dilution = table->number(row, DilutionOf),
                   injections = table->number(row, Injections), volume = table->number(row, Volume);
        for (const auto* one : {&level, &dilution, &injections, &volume}) {
            if (!*one) {
                return tl::unexpected(one->error());
            }
        }
        if (!role) {
            return tl::unexpected(role.error());
        }
        run.role = *role;
        run.level = *level;
        run.dilution = dilution->value_or(1);
        run.microlitres = *volume;
        constexpr double kMostInjections = 999;
        const double count = std::clamp(std::round(injections->value_or(1)), 1.0, kMostInjections);
        out.insert(out.end(), static_cast<std::size_t>(count), run);
    }
    return out;
}

} // namespace nuvat
