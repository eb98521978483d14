#include "read_command.h"

#include "columns.h"
#include "nuvat/core/base/checksum.h"
#include "nuvat/core/base/well.h"
#include "nuvat/formats/any_file.h"
#include "options.h"

#include <algorithm>
#include <numeric>

namespace nuvat {

namespace {

Json axisJson(const AxisName& axis, const std::vector<double>& values, const std::vector<std::size_t>& missing) {
    Json out{{"name", axis.name}, {"unit", axis.unit}, {"first", nullptr},
             {"last", nullptr},   {"min", nullptr},    {"max", nullptr}};
    std::optional<double> low, high;
    for (std::size_t i = 0; i < values.size(); ++i) {
        if (std::binary_search(missing.begin(), missing.end(), i)) {
            continue;
        }
        if (!low) {
            out["first"] = values[i];
        }
        out["last"] = values[i];
        low = std::min(low.value_or(values[i]), values[i]);
        high = std::max(high.value_or(values[i]), values[i]);
    }
    out["min"] = optionalNumber(low);
    out["max"] = optionalNumber(high);
    return out;
}

Json traceJson(const FileTrace& trace) {
    Json y = axisJson(trace.yAxis, trace.y, trace.missing);
    double sum = 0; // a missing point is 0 in y
    for (const double value : trace.y) {
        sum += value;
    }
    y["sum"] = sum;
    y["missing"] = trace.missing.size();
    return {{"kind", trace.isTable ? "table" : "trace"},
            {"name", trace.name},
            {"place", trace.place},
            {"points", trace.y.size()},
            {"x", axisJson(trace.xAxis, trace.x, {})},
            {"y", std::move(y)}};
}

Json contentJson(const FileContent& content) {
    Json readings = Json::array();
    for (const FileTrace& trace : content.traces) {
        readings.push_back(traceJson(trace));
    }
    Json header = Json::object();
    for (const auto& [label, text] : content.header) {
        header[label] = text; // of a label that stands several times, the last
    }
    return {{"format", content.format},
            {"readings", std::move(readings)},
            {"header", std::move(header)},
            {"warnings", content.warnings},
            {"status", "ok"}};
}

Json plateJson(const PlateImport& plate) {
    Json wells = Json::object();
    for (std::size_t i = 0; i < plate.wells.size(); ++i) {
        const auto row = static_cast<int>(i) / std::max(plate.columns, 1);
        const auto column = static_cast<int>(i) % std::max(plate.columns, 1);
        const PlateCell& cell = plate.wells[i];
        const std::string place = plate.isRunList ? std::to_string(i + 1) : wellName(row, column);
        wells[place] = cell.value ? Json(*cell.value) : cell.text.empty() ? Json(nullptr) : Json(cell.text);
    }
    return {{"kind", plate.isRunList ? "list" : "grid"},
            {"name", plate.readName},
            {"place", plate.sheet},
            {"rows", plate.rows},
            {"columns", plate.columns},
            {"points", plate.numberCount()},
            {"wells", std::move(wells)}};
}

Json platesJson(const std::vector<PlateImport>& plates) {
    Json readings = Json::array();
    Json warnings = Json::array();
    for (const PlateImport& plate : plates) {
        readings.push_back(plateJson(plate));
        for (const ImportWarning& warning : plate.warnings) {
            warnings.push_back(warning.message);
        }
    }
    Json header = Json::object();
    for (std::size_t i = 0; i < plates.front().headings.size(); ++i) {
        header[std::to_string(i + 1)] = plates.front().headings[i];
    }
    return {{"format", plates.front().sheet.empty() ? "text" : plates.front().encoding},
            {"readings", std::move(readings)},
            {"header", std::move(header)},
            {"warnings", std::move(warnings)},
            {"status", "ok"}};
}

/// How far a sheet goes, and its numbers.
struct SheetFacts {
    int rows = 0, columns = 0;
    std::vector<double> numbers;
    double sum() const { return std::accumulate(numbers.begin(), numbers.end(), 0.0); }
};

SheetFacts factsOf(const Sheet& sheet) {
    SheetFacts out;
    for (const SheetCell& cell : sheet.cells) {
        if (cell.kind == CellKind::Number) {
            out.numbers.push_back(*cell.number);
        }
        out.rows = std::max(out.rows, cell.row + 1);
        out.columns = std::max(out.columns, cell.column + 1);
    }
    return out;
}

/// A sheet that is neither plate nor list nor traces, cell by cell.
Json sheetJson(const Sheet& sheet, const SheetFacts& facts) {
    Json cells = Json::object();
    for (const SheetCell& cell : sheet.cells) {
        cells[cellName(cell.row, cell.column)] = cell.kind == CellKind::Number ? Json(*cell.number) : Json(cell.text);
    }
    Json y = axisJson({}, facts.numbers, {});
    y["sum"] = facts.sum();
    y["missing"] = 0;
    return {{"kind", "table"},    {"name", sheet.name},       {"place", ""},
            {"rows", facts.rows}, {"columns", facts.columns}, {"points", facts.numbers.size()},
            {"y", std::move(y)},  {"wells", std::move(cells)}};
}

/// What was understood of a spreadsheet; a sheet of which nothing was, as it stands.
Json workbookJson(const Workbook& workbook, const std::string& name, const std::string& checksum) {
    Json readings = Json::array(), sheets = Json::array(), warnings = Json::array(), header = Json::object();
    for (const Sheet& sheet : workbook.sheets) {
        const SheetFacts facts = factsOf(sheet);
        sheets.push_back({{"name", sheet.name},
                          {"state", sheet.isHidden ? "hidden" : "visible"},
                          {"rows", facts.rows},
                          {"columns", facts.columns},
                          {"cells", sheet.cells.size()},
                          {"numbers", facts.numbers.size()},
                          {"dates", std::ranges::count(sheet.cells, CellKind::Date, &SheetCell::kind)},
                          {"sum", facts.sum()}});
        const auto content = readSheet(workbook, sheet, name, checksum);
        if (!content) {
            readings.push_back(sheetJson(sheet, facts));
            continue;
        }
        const auto* traces = std::get_if<FileContent>(&*content);
        Json one = traces ? contentJson(*traces) : platesJson(std::get<std::vector<PlateImport>>(*content));
        for (Json& reading : one["readings"]) {
            reading["place"] = sheet.name;
            readings.push_back(std::move(reading));
        }
        for (const auto& [key, value] : one["header"].items()) {
            header[sheet.name + ": " + key] = value;
        }
        warnings.insert(warnings.end(), one["warnings"].begin(), one["warnings"].end());
    }
    return {{"format", workbook.format},   {"readings", std::move(readings)}, {"sheets", std::move(sheets)},
            {"header", std::move(header)}, {"warnings", std::move(warnings)}, {"status", "ok"}};
}

} // namespace

int readCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    const auto options = Options::parse(arguments, {}, {}, 1);
    if (!options || options->places().empty()) {
        return refuse(out, err,
                      options ? Error{"cli.wrong-call", "read needs a file.", "nuvat-cli read FILE"} : options.error());
    }
    const std::string& path = options->places().front();
    TerminalProgress progress("reading " + path);
    auto bytes = readFileBytes(path, progress);
    if (!bytes) {
        return refuse(out, err, bytes.error());
    }
    const std::string name = std::filesystem::path(path).filename().string();
    if (looksLikeZip(*bytes)) {
        const auto workbook = readWorkbook(*bytes, name, progress);
        if (!workbook) {
            return refuse(out, err, workbook.error());
        }
        printJson(out, workbookJson(*workbook, name, fnv1a(*bytes)));
        return 0;
    }
    const auto content = readAnyBytes(std::move(*bytes), name, progress);
    if (!content) {
        return refuse(out, err, content.error());
    }
    const auto* traces = std::get_if<FileContent>(&*content);
    printJson(out, traces ? contentJson(*traces) : platesJson(std::get<std::vector<PlateImport>>(*content)));
    return 0;
}

} // namespace nuvat
