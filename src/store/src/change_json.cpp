#include "change_json.h"

#include <nlohmann/json.hpp>
#include <stdexcept>

namespace nuvat {

namespace {

using Json = nlohmann::json;

template<class T> Json optionalJson(const std::optional<T>& value) {
    return value ? Json(*value) : Json(nullptr);
}
std::optional<double> optionalNumber(const Json& json) {
    return json.is_null() ? std::nullopt : std::optional(json.get<double>());
}
template<class Enum> Enum enumFrom(std::optional<Enum> value) {
    if (!value) {
        throw std::runtime_error("unknown name");
    }
    return *value;
}

Json toJson(const BatchInfo& v) {
    return {{"uid", v.uid},
            {"title", v.title},
            {"laboratory", v.laboratory},
            {"readingInUse", v.readingInUse},
            {"rows", v.rows},
            {"columns", v.columns},
            {"note", v.note}};
}
void fromJson(const Json& j, BatchInfo& v) {
    v = {j.at("uid"),  j.at("title"),   j.at("laboratory"), j.at("readingInUse"),
         j.at("rows"), j.at("columns"), j.at("note")};
}

Json toJson(const Method& v) {
    const CriteriaLimits& l = v.limits;
    return {{"title", v.title},
            {"revision", v.revision},
            {"analyte", v.analyte},
            {"unit", v.unit},
            {"responseName", v.responseName},
            {"model", name(v.model)},
            {"weighting", name(v.weighting)},
            {"isConcentrationLogarithmic", v.isConcentrationLogarithmic},
            {"subtractsBlank", v.subtractsBlank},
            {"blankEntersInterval", v.blankEntersInterval},
            {"confidence", v.confidence},
            {"criteriaName", v.criteriaName},
            {"limits",
             {l.backCalculated, l.backCalculatedAtEnds, l.levelsWithin, l.levelsAtLeast, l.standardCv, l.unknownCv,
              l.qcRecovery, l.rSquared}},
            {"reportBlocks", v.reportBlocks}};
}
void fromJson(const Json& j, Method& v) {
    v.title = j.at("title");
    v.revision = j.at("revision");
    v.analyte = j.at("analyte");
    v.unit = j.at("unit");
    v.responseName = j.at("responseName");
    v.model = enumFrom(modelFromName(j.at("model").get<std::string>()));
    v.weighting = enumFrom(weightingFromName(j.at("weighting").get<std::string>()));
    v.isConcentrationLogarithmic = j.at("isConcentrationLogarithmic");
    v.subtractsBlank = j.at("subtractsBlank");
    v.blankEntersInterval = j.at("blankEntersInterval");
    v.confidence = j.at("confidence");
    v.criteriaName = j.at("criteriaName");
    const Json& l = j.at("limits");
    v.limits = {l.at(0), l.at(1), l.at(2), l.at(3), l.at(4), l.at(5), l.at(6), l.at(7)};
    v.reportBlocks = j.at("reportBlocks").get<std::vector<std::string>>();
}

Json toJson(const Reading& v) {
    Json wells = Json::array();
    for (const ReadingWell& well : v.wells) {
        wells.push_back({optionalJson(well.value), well.text, well.line, well.column});
    }
    return {{"source", v.source},
            {"checksum", v.checksum},
            {"understood", v.understood},
            {"readName", v.readName},
            {"takenInMillis", v.takenInMillis},
            {"rows", v.rows},
            {"columns", v.columns},
            {"wells", wells}};
}
void fromJson(const Json& j, Reading& v) {
    v.source = j.at("source");
    v.checksum = j.at("checksum");
    v.understood = j.at("understood");
    v.readName = j.at("readName");
    v.takenInMillis = j.at("takenInMillis");
    v.rows = j.at("rows");
    v.columns = j.at("columns");
    for (const Json& well : j.at("wells")) {
        v.wells.push_back({optionalNumber(well.at(0)), well.at(1), well.at(2), well.at(3)});
    }
}

Json toJson(const Assignment& v) {
    return {{"role", name(v.role)}, {"number", v.number}};
}
void fromJson(const Json& j, Assignment& v) {
    v = {enumFrom(roleFromName(j.at("role").get<std::string>())), j.at("number")};
}
Json toJson(const Level& v) {
    return {{"concentration", optionalJson(v.concentration)}};
}
void fromJson(const Json& j, Level& v) {
    v = {optionalNumber(j.at("concentration"))};
}
Json toJson(const QcSample& v) {
    return {{"name", v.name}, {"nominal", optionalJson(v.nominal)}};
}
void fromJson(const Json& j, QcSample& v) {
    v = {j.at("name"), optionalNumber(j.at("nominal"))};
}
Json toJson(const Sample& v) {
    return {{"name", v.name}, {"dilution", v.dilution}, {"note", v.note}};
}
void fromJson(const Json& j, Sample& v) {
    v = {j.at("name"), j.at("dilution"), j.at("note")};
}
Json toJson(const Exclusion& v) {
    return {{"reason", v.reason}, {"timeMillis", v.timeMillis}};
}
void fromJson(const Json& j, Exclusion& v) {
    v = {j.at("reason"), j.at("timeMillis")};
}

Json keyToJson(WholeBatch) {
    return nullptr;
}
Json keyToJson(int key) {
    return key;
}
Json keyToJson(Place key) {
    return {key.row, key.column};
}
Json keyToJson(LevelKey key) {
    return key.number;
}
Json keyToJson(QcKey key) {
    return key.number;
}
Json keyToJson(SampleKey key) {
    return key.number;
}
void keyFromJson(const Json&, WholeBatch&) {}
void keyFromJson(const Json& j, int& key) {
    key = j.get<int>();
}
void keyFromJson(const Json& j, Place& key) {
    key = {j.at(0), j.at(1)};
}
void keyFromJson(const Json& j, LevelKey& key) {
    key.number = j.get<int>();
}
void keyFromJson(const Json& j, QcKey& key) {
    key.number = j.get<int>();
}
void keyFromJson(const Json& j, SampleKey& key) {
    key.number = j.get<int>();
}

constexpr std::array<const char*, 8> kKinds{"info", "method", "reading", "place", "level", "qc", "sample", "exclusion"};
static_assert(kKinds.size() == std::variant_size_v<Change>);

template<class T> std::optional<T> itemFrom(const Json& json) {
    if (json.is_null()) {
        return std::nullopt;
    }
    T value{};
    fromJson(json, value);
    return value;
}

template<class Key, class T> void fillFrom(const Json& json, ItemChange<Key, T>& change) {
    keyFromJson(json.at("key"), change.key);
    change.before = itemFrom<T>(json.at("before"));
    change.after = itemFrom<T>(json.at("after"));
}

template<std::size_t Index = 0> Change changeOfKind(std::size_t kind, const Json& json) {
    if constexpr (Index < std::variant_size_v<Change>) {
        if (kind == Index) {
            std::variant_alternative_t<Index, Change> change;
            fillFrom(json, change);
            return change;
        }
        return changeOfKind<Index + 1>(kind, json);
    } else {
        throw std::runtime_error("unknown kind of change");
    }
}

} // namespace

std::string changesToJson(const std::vector<Change>& changes) {
    Json out = Json::array();
    for (const Change& change : changes) {
        std::visit(
            [&](const auto& item) {
                out.push_back({{"kind", kKinds.at(change.index())},
                               {"key", keyToJson(item.key)},
                               {"before", item.before ? toJson(*item.before) : Json(nullptr)},
                               {"after", item.after ? toJson(*item.after) : Json(nullptr)}});
            },
            change);
    }
    return out.dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::vector<Change> changesFromJson(const std::string& text) {
    std::vector<Change> changes;
    for (const Json& json : Json::parse(text)) {
        const std::string kind = json.at("kind");
        const auto found = std::find(kKinds.begin(), kKinds.end(), kind);
        changes.push_back(changeOfKind(static_cast<std::size_t>(found - kKinds.begin()), json));
    }
    return changes;
}

std::string joinedNames(const std::vector<std::string>& names) {
    std::string out;
    for (const std::string& one : names) {
        out += (out.empty() ? "" : ",") + one;
    }
    return out;
}

std::vector<std::string> splitNames(const std::string& text) {
    std::vector<std::string> names;
    std::size_t from = 0;
    while (from < text.size()) {
        const std::size_t comma = std::min(text.find(',', from), text.size());
        names.push_back(text.substr(from, comma - from));
        from = comma + 1;
    }
    return names;
}

} // namespace nuvat
