#include "change_json.h"

#include "json_fields.h"

#include <stdexcept>

namespace nuvat {

namespace {

using Json = nlohmann::json;

// Keys are short, as files have them from the first version on: a number, or a list of numbers. Analyte 1 and carrier 1
// go without saying.

Json keyToJson(WholeBatch) {
    return nullptr;
}
Json keyToJson(int key) {
    return key;
}
Json keyToJson(Place key) {
    return key.carrier == 1 ? Json{key.row, key.column} : Json{key.carrier, key.row, key.column};
}
Json keyToJson(const ExclusionKey& key) { // of all analytes: the place alone, as from the first version on
    return key.analyte == 0 ? keyToJson(key.place) : Json{{"place", keyToJson(key.place)}, {"analyte", key.analyte}};
}
Json keyToJson(LevelKey key) {
    return key.analyte == 1 ? Json(key.number) : Json{key.number, key.analyte};
}
Json keyToJson(QcKey key) {
    return key.role == Role::Qc ? keyToJson(LevelKey{key.number, key.analyte})
                                : Json{key.number, key.analyte, name(key.role)};
}
Json keyToJson(PreparationKey key) {
    return {key.number, key.preparation};
}
Json keyToJson(SampleKey key) {
    return key.number;
}
Json keyToJson(CarrierKey key) {
    return key.number;
}
Json keyToJson(const OverrideKey& key) {
    return {key.analyte, key.criterion};
}
Json keyToJson(const Slot& key) {
    Json out;
    JsonWriter writer(out);
    describe(writer, key);
    return out;
}

void keyFromJson(const Json&, WholeBatch&) {}
void keyFromJson(const Json& j, int& key) {
    key = j.get<int>();
}
void keyFromJson(const Json& j, Place& key) {
    key = j.size() == 2 ? Place{j.at(0), j.at(1)} : Place{j.at(1), j.at(2), j.at(0)};
}
void keyFromJson(const Json& j, ExclusionKey& key) {
    key = {};
    keyFromJson(j.is_object() ? j.at("place") : j, key.place);
    key.analyte = j.is_object() ? j.at("analyte").get<int>() : 0;
}
void keyFromJson(const Json& j, LevelKey& key) {
    key = j.is_array() ? LevelKey(j.at(0).get<int>(), j.at(1).get<int>()) : LevelKey(j.get<int>());
}
void keyFromJson(const Json& j, QcKey& key) {
    LevelKey level;
    keyFromJson(j, level);
    key = {level.number, level.analyte, j.size() > 2 ? fromKnownName<Role>(j.at(2).get<std::string>()) : Role::Qc};
}
void keyFromJson(const Json& j, PreparationKey& key) {
    key = {j.at(0), j.at(1)};
}
void keyFromJson(const Json& j, SampleKey& key) {
    key.number = j.get<int>();
}
void keyFromJson(const Json& j, CarrierKey& key) {
    key.number = j.get<int>();
}
void keyFromJson(const Json& j, OverrideKey& key) {
    key = {j.at(0), j.at(1)};
}
void keyFromJson(const Json& j, Slot& key) {
    const std::shared_ptr<PayloadSource> none;
    JsonReader reader(j, none);
    describe(reader, key);
}

template<class T> Json itemToJson(const std::optional<T>& item) {
    if (!item) {
        return nullptr;
    }
    Json out = Json::object();
    JsonWriter writer(out);
    describe(writer, *item);
    return out;
}

template<class T> std::optional<T> itemFromJson(const Json& json, const std::shared_ptr<PayloadSource>& payloads) {
    if (json.is_null()) {
        return std::nullopt;
    }
    T item{};
    JsonReader reader(json, payloads);
    describe(reader, item);
    return item;
}

template<class Key, class T> const char* kindOf(const ItemChange<Key, T>&) {
    return Kept<T>::kKind;
}

template<class Key, class T>
void fillFrom(const Json& json, const std::shared_ptr<PayloadSource>& payloads, ItemChange<Key, T>& change) {
    keyFromJson(json.at("key"), change.key);
    change.before = itemFromJson<T>(json.at("before"), payloads);
    change.after = itemFromJson<T>(json.at("after"), payloads);
    if (std::same_as<Key, WholeBatch> && (!change.before || !change.after)) {
        throw std::runtime_error("an item that always exists is missing");
    }
}

template<std::size_t Index = 0>
Change changeOfKind(const std::string& kind, const Json& json, const std::shared_ptr<PayloadSource>& payloads) {
    if constexpr (Index < std::variant_size_v<Change>) {
        std::variant_alternative_t<Index, Change> change;
        if (kind == kindOf(change)) {
            fillFrom(json, payloads, change);
            return change;
        }
        return changeOfKind<Index + 1>(kind, json, payloads);
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
                out.push_back({{"kind", kindOf(item)},
                               {"key", keyToJson(item.key)},
                               {"before", itemToJson(item.before)},
                               {"after", itemToJson(item.after)}});
            },
            change);
    }
    return out.dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::vector<Change> changesFromJson(const std::string& text, const std::shared_ptr<PayloadSource>& payloads) {
    std::vector<Change> changes;
    const Json list = Json::parse(text);
    if (!list.is_array() || list.empty()) {
        throw std::runtime_error("no list of changes");
    }
    for (const Json& json : list) {
        changes.push_back(changeOfKind(json.at("kind").get<std::string>(), json, payloads));
    }
    return changes;
}

} // namespace nuvat
