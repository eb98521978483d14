#include "columns.h"

#include "nuvat/core/base/well.h"

#include <fstream>

namespace nuvat {

namespace {
constexpr DelimitedLimits kLimits{.mostBytes = 256u << 20, .mostCells = 8'000'000};
}

tl::unexpected<Error> wrongCall(std::string why) {
    return fail("cli.wrong-call", std::move(why));
}

int explain(std::ostream& err, const Error& error) {
    err << "nuvat-cli: " << error.text() << " [" << error.code << "]\n";
    return error.code == "cli.wrong-call" ? 2 : 1;
}

Json optionalNumber(const std::optional<double>& value) {
    return value ? Json(*value) : Json(nullptr);
}

Result<std::size_t> Columns::find(const std::string& name) const {
    const auto& heading = table.rows.front().cells;
    for (std::size_t i = 0; i < heading.size(); ++i) {
        if (trimmed(heading[i]) == name) {
            return i;
        }
    }
    return fail("fit.column-missing", source + " has no column \"" + name + "\" in its first line.",
                "Name the columns with their options.");
}

Result<double> Columns::number(const DelimitedRow& row, std::size_t column) const {
    const auto value = column < row.cells.size() ? parseNumber(row.cells[column], table.numbers) : std::nullopt;
    if (!value) {
        return fail("fit.not-a-number",
                    source + ", line " + std::to_string(row.line) + ", cell " + std::to_string(column + 1) + ": \"" +
                        (column < row.cells.size() ? row.cells[column] : std::string()) + "\" is not a number.",
                    "Correct it, or leave the line out with --include.");
    }
    return *value;
}

Result<Columns> readColumns(const std::string& path) {
    std::ifstream stream(path, std::ios::binary);
    if (!stream) {
        return fail("import.not-found", path + " cannot be opened: there is no such file, or you may not read it.",
                    "Choose another file.");
    }
    NoProgress progress;
    auto table = readDelimited(stream, path, progress, kLimits);
    if (!table) {
        return tl::unexpected(table.error());
    }
    return Columns{path, std::move(*table)};
}

} // namespace nuvat
