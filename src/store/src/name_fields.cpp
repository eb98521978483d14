#include "upgrade_commands.h"

#include <array>
#include <nlohmann/json.hpp>

namespace nuvat {

namespace {

using Json = nlohmann::json;

/// Takes a list apart into fields; one that is shorter leaves the last of them as they are.
template<std::size_t N> void spread(Json& item, const char* list, const std::array<const char*, N>& names) {
    const auto found = item.find(list);
    if (found == item.end()) {
        return;
    }
    const Json values = *found;
    item.erase(found);
    for (std::size_t i = 0; i < std::min(N, values.size()); ++i) {
        item[names[i]] = values[i];
    }
}

/// What versions 1 and 2 did not write of a method and of an analyte, and went by.
Json methodBefore() {
    return {{"dilutionRelativeSe", 0},
            {"keepBest", 0},
            {"outlierTest", "none"},
            {"outlierAlpha", 0.05},
            {"criteria", Json::array()},
            {"backCalculated", 20},
            {"backCalculatedAtLowest", 25},
            {"backCalculatedAtHighest", 25},
            {"levelsWithin", 75},
            {"standardsAtLevel", 50},
            {"levelsAtLeast", 6},
            {"standardCv", 20},
            {"unknownCv", 20},
            {"qcRecovery", 20},
            {"rSquared", 0.99},
            {"correlation", nullptr},
            {"qcWithin", nullptr},
            {"qcWithinAtLevel", 50},
            {"isBlankBelowLloq", false},
            {"blankOfLloq", nullptr}};
}
Json analyteBefore() {
    return {{"formula", ""},         {"curveOf", "batch"},        {"fitTo", "replicates"},
            {"heldA", nullptr},      {"heldD", nullptr},          {"fixedX", 0},
            {"fixedY", 0},           {"isSplineInLogX", false},   {"weightFloor", nullptr},
            {"theta", nullptr},      {"interval", "propagation"}, {"scatter", "batch"},
            {"rangeBy", "criteria"}, {"precisionPercent", 20},    {"lloq", nullptr},
            {"uloq", nullptr},       {"extrapolation", 1}};
}

Json filled(Json defaults, const Json& item) {
    defaults.update(item);
    return defaults;
}

void nameAnalyte(Json& analyte) {
    spread<2>(analyte, "fixed", {"fixedX", "fixedY"});
    spread<5>(analyte, "range", {"rangeBy", "precisionPercent", "lloq", "uloq", "extrapolation"});
    analyte = filled(analyteBefore(), analyte);
    analyte["rule"] = Json{{"kind", "value"}, {"formula", analyte.at("formula")}}.dump();
    analyte.erase("formula");
}

/// Version 1: the method was its one analyte, weighted by the observed response and averaged over concentrations; the
/// lowest and the highest level had one limit.
void splitAnalyteOff(Json& method) {
    Json analyte{{"name", method.at("analyte")}, {"weightFrom", "observed"}, {"average", "concentration"}};
    method.erase("analyte");
    for (const char* field : {"unit", "responseName", "model", "weighting", "isConcentrationLogarithmic"}) {
        analyte[field] = method.at(field);
        method.erase(field);
    }
    method["analytes"] = Json::array({analyte});
    spread<8>(method, "limits",
              {"backCalculated", "backCalculatedAtLowest", "levelsWithin", "levelsAtLeast", "standardCv", "unknownCv",
               "qcRecovery", "rSquared"});
    method["backCalculatedAtHighest"] = method.at("backCalculatedAtLowest");
}

void nameMethod(Json& method) {
    if (!method.contains("analytes")) {
        splitAnalyteOff(method);
    }
    spread<3>(method, "replicates", {"keepBest", "outlierTest", "outlierAlpha"});
    spread<15>(method, "limits",
               {"backCalculated", "backCalculatedAtLowest", "backCalculatedAtHighest", "levelsWithin", "levelsAtLeast",
                "standardCv", "unknownCv", "qcRecovery", "rSquared", "correlation", "qcWithin", "qcWithinAtLevel",
                "isBlankBelowLloq", "blankOfLloq", "standardsAtLevel"});
    method = filled(methodBefore(), method);
    for (Json& analyte : method.at("analytes")) {
        nameAnalyte(analyte);
    }
    for (Json& criterion : method.at("criteria")) {
        criterion["limitValue"] = criterion.at("limit");
        criterion.erase("limit");
    }
}

void nameSlot(Json& slot) {
    slot["row"] = -1; // no version before 7 read single places
    slot["column"] = -1;
}

void nameItem(const std::string& kind, Json& item) {
    if (kind == "method") {
        nameMethod(item);
    } else if (kind == "reading") {
        Json slot = item.at("slot");
        nameSlot(slot);
        item.erase("slot");
        item.update(slot);
    } else if (kind == "place") {
        item["preparation"] = 1;
    } else if (kind == "level") {
        item = filled({{"isAnchor", false}}, item);
    } else if (kind == "override") {
        item["limitText"] = item.value("limit", "");
        item.erase("limit");
    }
}

} // namespace

void nameEveryField(Database& db) {
    rewriteCommands(db, [](std::int64_t, Json& changes) {
        for (Json& change : changes) {
            const std::string kind = change.at("kind");
            for (const char* side : {"before", "after"}) {
                if (!change.at(side).is_null()) {
                    nameItem(kind, change.at(side));
                }
            }
            if (kind == "in-use") {
                nameSlot(change.at("key"));
            }
        }
    });
}

} // namespace nuvat
