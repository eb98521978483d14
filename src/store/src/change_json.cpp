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
    return {{"uid", v.uid}, {"title", v.title}, {"laboratory", v.laboratory}, {"channel", v.channel}, {"note", v.note}};
}
void fromJson(const Json& j, BatchInfo& v) {
    v = {j.at("uid"), j.at("title"), j.at("laboratory"), j.at("channel"), j.at("note")};
}

Json toJson(const Analyte& v) {
    return {{"name", v.name},
            {"unit", v.unit},
            {"responseName", v.responseName},
            {"formula", std::get<ValueRule>(v.source.rule).formula},
            {"curveOf", name(v.source.curve)},
            {"model", name(v.fit.model)},
            {"weighting", name(v.fit.weighting)},
            {"weightFrom", name(v.fit.weightFrom)},
            {"fitTo", name(v.fit.fitTo)},
            {"heldA", optionalJson(v.fit.heldA)},
            {"heldD", optionalJson(v.fit.heldD)},
            {"fixed", {v.fit.fixedX, v.fit.fixedY}},
            {"isSplineInLogX", v.fit.isSplineInLogX},
            {"interval", name(v.interval)},
            {"average", name(v.average)},
            {"range",
             {name(v.range.by), v.range.precisionPercent, optionalJson(v.range.lloq), optionalJson(v.range.uloq),
              v.range.extrapolation}},
            {"isConcentrationLogarithmic", v.isConcentrationLogarithmic},
            {"weightFloor", optionalJson(v.fit.weightFloor)},
            {"theta", optionalJson(v.fit.theta)},
            {"scatter", name(v.scatter)}};
}
void fromJson(const Json& j, Analyte& v) {
    v.name = j.at("name");
    v.unit = j.at("unit");
    v.responseName = j.at("responseName");
    v.source = {ValueRule{j.at("formula").get<std::string>()},
                enumFrom(curveOfFromName(j.at("curveOf").get<std::string>()))};
    v.fit.model = enumFrom(modelFromName(j.at("model").get<std::string>()));
    v.fit.weighting = enumFrom(weightingFromName(j.at("weighting").get<std::string>()));
    v.fit.weightFrom = enumFrom(weightSourceFromName(j.at("weightFrom").get<std::string>()));
    v.fit.fitTo = enumFrom(fitToFromName(j.at("fitTo").get<std::string>()));
    v.fit.heldA = optionalNumber(j.at("heldA"));
    v.fit.heldD = optionalNumber(j.at("heldD"));
    v.fit.fixedX = j.at("fixed").at(0);
    v.fit.fixedY = j.at("fixed").at(1);
    v.fit.isSplineInLogX = j.at("isSplineInLogX");
    v.interval = enumFrom(intervalMethodFromName(j.at("interval").get<std::string>()));
    v.average = enumFrom(averageOfFromName(j.at("average").get<std::string>()));
    const Json& r = j.at("range");
    v.range = {enumFrom(rangeByFromName(r.at(0).get<std::string>())), r.at(1), optionalNumber(r.at(2)),
               optionalNumber(r.at(3)), r.at(4)};
    v.isConcentrationLogarithmic = j.at("isConcentrationLogarithmic");
    if (j.contains("scatter")) { // since schema version 3
        v.fit.weightFloor = optionalNumber(j.at("weightFloor"));
        v.fit.theta = optionalNumber(j.at("theta"));
        v.scatter = enumFrom(scatterFromFromName(j.at("scatter").get<std::string>()));
    }
}

Json toJson(const Criterion& v) {
    return {{"title", v.title},       {"scope", name(v.scope)},
            {"quantity", v.quantity}, {"comparison", name(v.comparison)},
            {"limit", v.limit},       {"asksForReview", v.asksForReview}};
}
void fromJson(const Json& j, Criterion& v) {
    v = {j.at("title"),    enumFrom(criterionScopeFromName(j.at("scope").get<std::string>())),
         j.at("quantity"), enumFrom(comparisonFromName(j.at("comparison").get<std::string>())),
         j.at("limit"),    j.at("asksForReview")};
}

template<class T> Json listJson(const std::vector<T>& items) {
    Json out = Json::array();
    for (const T& item : items) {
        out.push_back(toJson(item));
    }
    return out;
}
template<class T> std::vector<T> listFrom(const Json& json) {
    std::vector<T> out;
    for (const Json& one : json) {
        fromJson(one, out.emplace_back());
    }
    return out;
}

Json toJson(const Method& v) {
    const CriteriaLimits& l = v.limits;
    return {{"title", v.title},
            {"revision", v.revision},
            {"analytes", listJson(v.analytes)},
            {"subtractsBlank", v.subtractsBlank},
            {"blankEntersInterval", v.blankEntersInterval},
            {"dilutionRelativeSe", v.dilutionRelativeSe},
            {"confidence", v.confidence},
            {"replicates", {v.replicates.keepBest, name(v.replicates.outlierTest), v.replicates.alpha}},
            {"criteriaName", v.criteriaName},
            {"limits",
             {optionalJson(l.backCalculated), l.backCalculatedAtLowest, l.backCalculatedAtHighest, l.levelsWithin,
              l.levelsAtLeast, optionalJson(l.standardCv), optionalJson(l.unknownCv), optionalJson(l.qcRecovery),
              optionalJson(l.rSquared), optionalJson(l.r), optionalJson(l.qcWithin), l.qcWithinAtLevel,
              l.isBlankBelowLloq, optionalJson(l.blankOfLloq), l.standardsAtLevel}},
            {"criteria", listJson(v.criteria)},
            {"reportBlocks", v.reportBlocks}};
}

/// A method as schema version 1 wrote it: one analyte, and fewer limits.
void fromOldJson(const Json& j, Method& v) {
    Analyte& analyte = v.analyte();
    analyte.name = j.at("analyte");
    analyte.unit = j.at("unit");
    analyte.responseName = j.at("responseName");
    analyte.fit.model = enumFrom(modelFromName(j.at("model").get<std::string>()));
    analyte.fit.weighting = enumFrom(weightingFromName(j.at("weighting").get<std::string>()));
    analyte.isConcentrationLogarithmic = j.at("isConcentrationLogarithmic");
    analyte.fit.weightFrom = WeightSource::Observed;
    analyte.average = AverageOf::Concentrations;
    const Json& l = j.at("limits");
    v.limits.backCalculated = l.at(0).get<double>();
    v.limits.backCalculatedAtLowest = l.at(1);
    v.limits.backCalculatedAtHighest = l.at(1);
    v.limits.levelsWithin = l.at(2);
    v.limits.levelsAtLeast = l.at(3);
    v.limits.standardCv = l.at(4).get<double>();
    v.limits.unknownCv = l.at(5).get<double>();
    v.limits.qcRecovery = l.at(6).get<double>();
    v.limits.rSquared = l.at(7).get<double>();
    v.limits.qcWithin.reset();
}

void fromJson(const Json& j, Method& v) {
    v.title = j.at("title");
    v.revision = j.at("revision");
    v.subtractsBlank = j.at("subtractsBlank");
    v.blankEntersInterval = j.at("blankEntersInterval");
    v.confidence = j.at("confidence");
    v.criteriaName = j.at("criteriaName");
    v.reportBlocks = j.at("reportBlocks").get<std::vector<std::string>>();
    if (!j.contains("analytes")) {
        fromOldJson(j, v);
        return;
    }
    v.analytes = listFrom<Analyte>(j.at("analytes"));
    v.dilutionRelativeSe = j.at("dilutionRelativeSe");
    const Json& r = j.at("replicates");
    v.replicates = {r.at(0), enumFrom(outlierTestFromName(r.at(1).get<std::string>())), r.at(2)};
    const Json& l = j.at("limits");
    v.limits.backCalculated = optionalNumber(l.at(0));
    v.limits.backCalculatedAtLowest = l.at(1);
    v.limits.backCalculatedAtHighest = l.at(2);
    v.limits.levelsWithin = l.at(3);
    v.limits.levelsAtLeast = l.at(4);
    v.limits.standardCv = optionalNumber(l.at(5));
    v.limits.unknownCv = optionalNumber(l.at(6));
    v.limits.qcRecovery = optionalNumber(l.at(7));
    v.limits.rSquared = optionalNumber(l.at(8));
    v.limits.r = optionalNumber(l.at(9));
    v.limits.qcWithin = optionalNumber(l.at(10));
    v.limits.qcWithinAtLevel = l.at(11);
    v.limits.isBlankBelowLloq = l.at(12);
    if (l.size() > 13) { // since schema version 3
        v.limits.blankOfLloq = optionalNumber(l.at(13));
        v.limits.standardsAtLevel = l.at(14);
    }
    v.criteria = listFrom<Criterion>(j.at("criteria"));
}

Json toJson(const Slot& v) {
    Json out{{"carrier", v.carrier}, {"channel", v.channel}};
    if (v.place) {
        out["place"] = {v.place->row, v.place->column};
    }
    return out;
}
void fromJson(const Json& j, Slot& v) {
    v = {j.at("carrier"), std::nullopt, j.at("channel")};
    if (j.contains("place")) {
        v.place = Place{j.at("place").at(0), j.at("place").at(1), v.carrier};
    }
}

Json toJson(const Reading& v) {
    return {{"source", v.source},         {"checksum", v.checksum},
            {"understood", v.understood}, {"takenInMillis", v.takenInMillis},
            {"slot", toJson(v.slot)},     {"payload", v.payload.id()}};
}
/// Its payload is a name until changesFromJson knows where it is.
void fromJson(const Json& j, Reading& v) {
    v.source = j.at("source");
    v.checksum = j.at("checksum");
    v.understood = j.at("understood");
    v.takenInMillis = j.at("takenInMillis");
    fromJson(j.at("slot"), v.slot);
    v.payload = Payload::stored(j.at("payload").get<std::string>(), nullptr);
}
Json toJson(const InUse& v) {
    return {{"reading", v.reading}};
}
void fromJson(const Json& j, InUse& v) {
    v.reading = j.at("reading");
}

Json toJson(const Assignment& v) {
    return {{"role", name(v.role)}, {"number", v.number}};
}
void fromJson(const Json& j, Assignment& v) {
    v = {enumFrom(roleFromName(j.at("role").get<std::string>())), j.at("number")};
}
Json toJson(const Level& v) {
    return {{"concentration", optionalJson(v.concentration)}, {"isAnchor", v.isAnchor}};
}
void fromJson(const Json& j, Level& v) {
    v = {optionalNumber(j.at("concentration")), j.value("isAnchor", false)};
}
Json toJson(const Carrier& v) {
    return {{"kind", name(v.kind)}, {"name", v.name}, {"rows", v.rows}, {"columns", v.columns}};
}
void fromJson(const Json& j, Carrier& v) {
    v = {enumFrom(carrierKindFromName(j.at("kind").get<std::string>())), j.at("name"), j.at("rows"), j.at("columns")};
}
Json toJson(const Run& v) {
    return {{"name", v.name},
            {"vial", v.vial},
            {"file", v.file},
            {"injectedMicrolitres", optionalJson(v.injectedMicrolitres)},
            {"injectedMillis", v.injectedMillis},
            {"state", name(v.state)}};
}
void fromJson(const Json& j, Run& v) {
    v = {j.at("name"),           j.at("vial"),
         j.at("file"),           optionalNumber(j.at("injectedMicrolitres")),
         j.at("injectedMillis"), enumFrom(runStateFromName(j.at("state").get<std::string>()))};
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

Json toJson(const Override& v) {
    return {{"reason", v.reason}, {"timeMillis", v.timeMillis}, {"limit", v.limitText}};
}
void fromJson(const Json& j, Override& v) {
    v = {j.at("reason"), j.at("timeMillis"), j.value("limit", "")};
}

/// Analyte 1 goes without saying, as files of schema version 1 have it.
Json itemKeyJson(int number, int analyte) {
    return analyte == 1 ? Json(number) : Json{number, analyte};
}
template<class Key> void itemKeyFrom(const Json& j, Key& key) {
    key = j.is_array() ? Key(j.at(0).get<int>(), j.at(1).get<int>()) : Key(j.get<int>());
}

Json keyToJson(WholeBatch) {
    return nullptr;
}
Json keyToJson(int key) {
    return key;
}
Json keyToJson(Place key) {
    // Without a carrier for the first one, as files from before there were several have it.
    return key.carrier == 1 ? Json{key.row, key.column} : Json{key.carrier, key.row, key.column};
}
Json keyToJson(LevelKey key) {
    return itemKeyJson(key.number, key.analyte);
}
Json keyToJson(QcKey key) {
    return itemKeyJson(key.number, key.analyte);
}
Json keyToJson(const OverrideKey& key) {
    return {key.analyte, key.criterion};
}
Json keyToJson(SampleKey key) {
    return key.number;
}
Json keyToJson(const Slot& key) {
    return toJson(key);
}
Json keyToJson(CarrierKey key) {
    return key.number;
}
void keyFromJson(const Json&, WholeBatch&) {}
void keyFromJson(const Json& j, int& key) {
    key = j.get<int>();
}
void keyFromJson(const Json& j, Place& key) {
    key = j.size() == 2 ? Place{j.at(0), j.at(1)} : Place{j.at(1), j.at(2), j.at(0)};
}
void keyFromJson(const Json& j, LevelKey& key) {
    itemKeyFrom(j, key);
}
void keyFromJson(const Json& j, QcKey& key) {
    itemKeyFrom(j, key);
}
void keyFromJson(const Json& j, OverrideKey& key) {
    key = {j.at(0), j.at(1)};
}
void keyFromJson(const Json& j, SampleKey& key) {
    key.number = j.get<int>();
}
void keyFromJson(const Json& j, Slot& key) {
    fromJson(j, key);
}
void keyFromJson(const Json& j, CarrierKey& key) {
    key.number = j.get<int>();
}

constexpr std::array<const char*, 12> kKinds{"info",   "method",    "reading",  "place",   "level", "qc",
                                             "sample", "exclusion", "override", "carrier", "run",   "in-use"};
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

std::vector<Change> changesFromJson(const std::string& text, const std::shared_ptr<PayloadSource>& payloads) {
    std::vector<Change> changes;
    const Json list = Json::parse(text);
    if (!list.is_array() || list.empty()) {
        throw std::runtime_error("no list of changes");
    }
    for (const Json& json : list) {
        const std::string kind = json.at("kind");
        const auto found = std::find(kKinds.begin(), kKinds.end(), kind);
        changes.push_back(changeOfKind(static_cast<std::size_t>(found - kKinds.begin()), json));
        if (auto* reading = std::get_if<ReadingChange>(&changes.back())) {
            for (auto* side : {&reading->before, &reading->after}) {
                if (*side) {
                    (*side)->payload = Payload::stored((*side)->payload.id(), payloads);
                }
            }
        }
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
