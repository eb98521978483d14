#include "nuvat/store/method_file.h"

#include "json_fields.h"
#include "nuvat/batch/layout_transfer.h"
#include "nuvat/batch/validate.h"
#include "nuvat/core/base/replacement_file.h"
#include "nuvat/core/base/text.h"

#include <algorithm>
#include <cctype>
#include <fstream>
#include <iterator>

namespace nuvat {

namespace {

using Json = nlohmann::json;
constexpr const char* kEnding = ".nuvat-method";

template<class Map> Json itemsJson(const Map& items) {
    Json out = Json::array();
    for (const auto& [key, item] : items) {
        JsonWriter writer(out.emplace_back(Json::object()));
        describe(writer, key);
        describe(writer, item);
    }
    return out;
}

template<class Key, class T> void readItems(const Json& json, std::map<Key, T>& out) {
    const std::shared_ptr<PayloadSource> none;
    for (const Json& one : json) {
        JsonReader reader(one, none);
        Key key{};
        T item;
        describe(reader, key);
        describe(reader, item);
        if (auto valid = validate(item); !valid) {
            throw std::runtime_error(valid.error().message);
        }
        out.emplace(key, std::move(item));
    }
}

/// The same but for its revision, which counts how often it was kept.
bool isSameRecipe(MethodFile a, const MethodFile& b) {
    a.method.revision = b.method.revision;
    return a == b;
}

} // namespace

MethodFile methodOf(const Batch& batch) {
    MethodFile out{batch.method, batch.carriers, batch.places, batch.levels, batch.qcs};
    for (auto& [number, carrier] : out.carriers) {
        carrier.name.clear(); // belongs to the batch
    }
    return out;
}

std::string methodText(const MethodFile& file) {
    Json out{{"kind", "nuvat-method"}, {"version", 1}};
    JsonWriter writer(out["method"] = Json::object());
    describe(writer, file.method);
    out["carriers"] = Json::array();
    for (const auto& [number, carrier] : file.carriers) {
        JsonWriter one(out["carriers"].emplace_back(Json::object()));
        describe(one, carrier);
    }
    out["places"] = itemsJson(file.places);
    out["levels"] = itemsJson(file.levels);
    out["qcs"] = itemsJson(file.qcs);
    return out.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<MethodFile> methodFromText(const std::string& text) {
    MethodFile out;
    try {
        Json json = Json::parse(text);
        if (json.at("kind") != "nuvat-method") {
            throw std::runtime_error("it is of another kind");
        }
        for (Json& analyte : json.at("method").at("analytes")) {
            // The first files said nothing of these.
            analyte.emplace("figure", "");
            analyte.emplace("internalStandard", 0);
            analyte.emplace("isInternalBeforeDilution", false);
            analyte.emplace("addedConcentration", nullptr);
            analyte.emplace("qualifiers", "");
            analyte.emplace("suitability", "");
        }
        for (const char* field : {"nameRules", "runRule", "standardPlan"}) {
            json.at("method").emplace(field, "");
        }
        json.at("method").emplace("internalLow", CriteriaLimits{}.internalLow.value());
        json.at("method").emplace("internalHigh", CriteriaLimits{}.internalHigh.value());
        const std::shared_ptr<PayloadSource> none;
        JsonReader reader(json.at("method"), none);
        describe(reader, out.method);
        int number = 0;
        for (const Json& one : json.at("carriers")) {
            JsonReader carrier(one, none);
            describe(carrier, out.carriers[++number]);
            if (auto valid = validate(out.carriers[number]); !valid) {
                return tl::unexpected(valid.error());
            }
        }
        readItems(json.at("places"), out.places);
        readItems(json.at("levels"), out.levels);
        readItems(json.at("qcs"), out.qcs);
    } catch (const std::exception& error) {
        return fail("method.not-read", std::string("The method cannot be read: ") + error.what() + ".",
                    "Save the method again from a batch that has it.");
    }
    if (auto valid = validate(out.method); !valid) {
        return tl::unexpected(valid.error());
    }
    return out;
}

Result<MethodFile> readMethod(const std::filesystem::path& path) {
    std::ifstream stream(path, std::ios::binary);
    const std::string text{std::istreambuf_iterator<char>(stream), {}};
    if (!stream || text.empty()) {
        return fail("method.not-read", path.string() + " cannot be read.", "Choose another file.");
    }
    return methodFromText(text);
}

std::filesystem::path MethodLibrary::pathOf(const std::string& title, int revision) const {
    const std::string name = asFileName(title);
    return m_folder / ((name.empty() ? "method" : name) + "_r" + std::to_string(revision) + kEnding);
}

std::vector<MethodEntry> MethodLibrary::entries() const {
    std::map<std::string, std::vector<int>> found;
    std::error_code error;
    for (const auto& file : std::filesystem::directory_iterator(m_folder, error)) {
        if (file.path().extension() == kEnding) {
            if (const auto method = readMethod(file.path())) {
                found[method->method.title].push_back(method->method.revision);
            }
        }
    }
    std::vector<MethodEntry> out;
    for (auto& [title, revisions] : found) {
        std::ranges::sort(revisions);
        out.push_back({title, revisions});
    }
    return out;
}

Result<MethodFile> MethodLibrary::newest(const std::string& title) const {
    for (const MethodEntry& entry : entries()) {
        if (entry.title == title) {
            return readMethod(pathOf(title, entry.revisions.back()));
        }
    }
    return fail("method.not-read", "There is no method \"" + title + "\" in " + m_folder.string() + ".",
                "Save it from a batch first.");
}

Result<int> MethodLibrary::keep(MethodFile file) const {
    int revision = 1;
    if (const auto last = newest(file.method.title)) {
        if (isSameRecipe(*last, file)) {
            return last->method.revision;
        }
        revision = last->method.revision + 1;
    }
    std::error_code error;
    std::filesystem::create_directories(m_folder, error);
    while (std::filesystem::exists(pathOf(file.method.title, revision), error)) {
        ++revision; // of another title that is the same as a name of a file
    }
    file.method.revision = revision;
    if (auto written = replaceFile(pathOf(file.method.title, revision), methodText(file)); !written) {
        return tl::unexpected(written.error());
    }
    return revision;
}

namespace {

/// "weightFrom" in words: "weight from".
std::string words(const std::string& field) {
    std::string out;
    for (const char c : field) {
        if (c >= 'A' && c <= 'Z') {
            out += ' ';
        }
        out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    }
    return out;
}

std::string valueText(const Json& value) {
    const std::string text = value.is_null()      ? "none"
                             : value.is_string()  ? value.get<std::string>()
                             : value.is_boolean() ? (value.get<bool>() ? "yes" : "no")
                                                  : value.dump();
    constexpr std::size_t kMost = 60;
    return text.empty() ? "none" : text.size() > kMost ? "changed" : text;
}

/// Every field that differs, under the name of what it is in.
void addDifferences(const Json& before, const Json& after, const std::string& in, std::vector<std::string>& out) {
    for (const auto& [field, value] : after.items()) {
        const Json was = before.contains(field) ? before.at(field) : Json(nullptr);
        if (was == value || field == "revision") {
            continue;
        }
        if (!value.is_array() || !was.is_array()) {
            out.push_back(in + words(field) + ": " + valueText(was) + " → " + valueText(value));
            continue;
        }
        for (std::size_t i = 0; i < std::max(was.size(), value.size()); ++i) {
            const std::string title = words(field) + " " + std::to_string(i + 1);
            if (i >= was.size() || i >= value.size()) {
                out.push_back(in + title + (i >= was.size() ? " added" : " removed"));
            } else if (was[i].is_object()) {
                addDifferences(was[i], value[i], in + title + ", ", out);
            } else if (was[i] != value[i]) {
                out.push_back(in + title + ": " + valueText(was[i]) + " → " + valueText(value[i]));
            }
        }
    }
}

Json methodJson(const Method& method) {
    Json out = Json::object();
    JsonWriter writer(out);
    describe(writer, method);
    return out;
}

} // namespace

std::vector<std::string> methodDifferences(const MethodFile& before, const MethodFile& after) {
    std::vector<std::string> out;
    addDifferences(methodJson(before.method), methodJson(after.method), "", out);
    const auto count = [&](const auto& a, const auto& b, const char* what) {
        if (a != b) {
            out.emplace_back(what);
        }
    };
    count(before.carriers, after.carriers, "sizes of plates and lists");
    count(before.places, after.places, "layout of the places");
    count(before.levels, after.levels, "concentrations of the standards");
    count(before.qcs, after.qcs, "names and nominals of QCs");
    return out;
}

Result<Command> useMethod(const Batch& batch, const MethodFile& file) {
    const bool hasReadings = !batch.readings.empty();
    for (const auto& [number, carrier] : file.carriers) {
        const auto found = batch.carriers.find(number);
        const bool isSame = found != batch.carriers.end() && found->second.kind == carrier.kind &&
                            found->second.rows == carrier.rows && found->second.columns == carrier.columns;
        if (hasReadings && (!isSame || batch.carriers.size() != file.carriers.size())) {
            return fail("method.other-carriers",
                        "The method \"" + file.method.title + "\" is for " + std::to_string(file.carriers.size()) +
                            (file.carriers.size() == 1 ? " plate or list" : " plates or lists") +
                            " of other sizes than those of this batch.",
                        "Start a new batch from it, or choose another method.");
        }
    }
    auto command = setMethod(batch, file.method);
    if (!command) {
        return command;
    }
    Batch after = batch;
    after.places = file.places;
    after.levels = file.levels;
    after.qcs = file.qcs;
    const auto layout = layoutChange(batch, after, {});
    if (!layout) {
        return layout;
    }
    command->label = "Method " + file.method.title + ", revision " + std::to_string(file.method.revision);
    for (const auto& [number, carrier] : file.carriers) {
        const auto found = batch.carriers.find(number);
        const auto before = found == batch.carriers.end() ? std::nullopt : std::optional(found->second);
        if (!hasReadings && before != std::optional(carrier)) {
            command->changes.emplace_back(CarrierChange{{number}, before, carrier});
        }
    }
    command->changes.insert(command->changes.end(), layout->changes.begin(), layout->changes.end());
    return command;
}

} // namespace nuvat
