#include "read_command.h"

#include "columns.h"
#include "nuvat/core/base/well.h"
#include "nuvat/formats/any_file.h"
#include "options.h"

#include <algorithm>

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
            {"place", ""},
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
    return {{"format", "text"},
            {"readings", std::move(readings)},
            {"header", std::move(header)},
            {"warnings", std::move(warnings)},
            {"status", "ok"}};
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
    const auto content = readAnyFile(path, progress);
    if (!content) {
        return refuse(out, err, content.error());
    }
    const auto* traces = std::get_if<FileContent>(&*content);
    printJson(out, traces ? contentJson(*traces) : platesJson(std::get<std::vector<PlateImport>>(*content)));
    return 0;
}

} // namespace nuvat
