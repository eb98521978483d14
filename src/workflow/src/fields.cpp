#include "nuvat/workflow/fields.h"

#include "nuvat/core/base/text.h"

#include <algorithm>
#include <array>
#include <ctime>
#include <optional>

namespace nuvat {

namespace {

std::string timeText(std::int64_t millis, const char* format) {
    const std::time_t seconds = static_cast<std::time_t>(millis / 1000);
    std::tm local{};
    localtime_r(&seconds, &local);
    std::array<char, 64> out{};
    return {out.data(), std::strftime(out.data(), out.size(), format, &local)};
}

std::string padded(int number, std::size_t digits) {
    const std::string all = std::to_string(number);
    return std::string(digits - std::min(digits, all.size()), '0') + all;
}

std::optional<std::string> valueOf(const std::string& name, const FieldValues& values) {
    const Batch& batch = values.batch;
    if (name == "batch") {
        return batch.info.title;
    }
    if (name == "laboratory") {
        return batch.info.laboratory;
    }
    if (name == "uid") {
        return batch.info.uid;
    }
    if (name == "method") {
        return batch.method.title;
    }
    if (name == "revision") {
        return std::to_string(batch.method.revision);
    }
    if (name == "date") {
        return timeText(values.millis, "%Y-%m-%d");
    }
    if (name == "time") {
        return timeText(values.millis, "%Y-%m-%d %H:%M");
    }
    if (name == "page" || name == "pages") {
        return std::to_string(name == "page" ? values.page : values.pages);
    }
    if (name == "number") {
        return padded(values.number, 4);
    }
    if (!values.run) {
        return std::nullopt;
    }
    const auto run = batch.runs.find(*values.run);
    if (name == "run") {
        return padded(values.run->row + 1, 3);
    }
    if (name == "name" || name == "vial") {
        return run == batch.runs.end() ? std::string() : name == "name" ? run->second.name : run->second.vial;
    }
    return std::nullopt;
}

} // namespace

const std::vector<FieldName>& pageFields() {
    static const std::vector<FieldName> fields{{"laboratory", "name of the laboratory"},
                                               {"batch", "title of the batch"},
                                               {"method", "title of the method"},
                                               {"revision", "revision of the method"},
                                               {"date", "date of printing"},
                                               {"time", "date and time of printing"},
                                               {"uid", "mark of the batch"},
                                               {"page", "number of the page"},
                                               {"pages", "number of pages"}};
    return fields;
}

const std::vector<FieldName>& fileFields() {
    static const std::vector<FieldName> fields{
        {"date", "date of today"},         {"batch", "title of the batch"},
        {"method", "title of the method"}, {"revision", "revision of the method"},
        {"uid", "mark of the batch"},      {"number", "running number, 0001 and on"}};
    return fields;
}

const std::vector<FieldName>& runFields() {
    static const std::vector<FieldName> fields{
        {"date", "date of today"},    {"batch", "title of the batch"},          {"method", "title of the method"},
        {"uid", "mark of the batch"}, {"run", "number of the run, 001 and on"}, {"name", "name of the run"},
        {"vial", "its vial"}};
    return fields;
}

std::string runFileName(const Batch& batch, Place run, std::int64_t millis) {
    const std::string& pattern = batch.method.runRule.fileName;
    FieldValues values{batch, millis};
    values.run = run;
    const std::string name = asFileName(fillFields(pattern.empty() ? "{date}_{batch}_{run}" : pattern, values));
    return name.empty() ? "run-" + padded(run.row + 1, 3) : name;
}

std::string fillFields(const std::string& pattern, const FieldValues& values) {
    std::string out;
    for (std::size_t i = 0; i < pattern.size();) {
        const std::size_t end = pattern[i] == '{' ? pattern.find('}', i) : std::string::npos;
        const auto value =
            end == std::string::npos ? std::nullopt : valueOf(pattern.substr(i + 1, end - i - 1), values);
        out += value ? *value : pattern.substr(i, 1);
        i = value ? end + 1 : i + 1;
    }
    return out;
}

std::string exportFileName(const Batch& batch, std::int64_t millis, const std::filesystem::path& folder,
                           const std::string& ending) {
    const std::string pattern = batch.method.fileName.empty() ? "{date}_{batch}" : batch.method.fileName;
    const bool isNumbered = pattern.find("{number}") != std::string::npos;
    for (int number = 1;; ++number) {
        std::string name = asFileName(fillFields(pattern, {batch, millis, 1, 1, number}));
        name += name.empty() || name.back() == '_' ? "batch" : "";
        name += !isNumbered && number > 1 ? "-" + std::to_string(number) : "";
        std::error_code error;
        if (folder.empty() || !std::filesystem::exists(folder / (name + ending), error)) {
            return name + ending;
        }
    }
}

} // namespace nuvat
