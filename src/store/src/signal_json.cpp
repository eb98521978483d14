#include "signal_json.h"

#include "json_values.h"

#include <stdexcept>

namespace nuvat {

namespace {

using Json = nlohmann::json;

Json stretchJson(const Stretch& stretch) {
    return {stretch.from, stretch.to};
}

Stretch stretchFrom(const Json& json) {
    return {json.at(0), json.at(1)};
}

template<class T, class Write> Json listJson(const std::vector<T>& list, const Write& write) {
    Json out = Json::array();
    for (const T& one : list) {
        out.push_back(write(one));
    }
    return out;
}

template<class Read> auto listFrom(const Json& json, const Read& read) {
    std::vector<decltype(read(json))> out;
    for (const Json& one : json) {
        out.push_back(read(one));
    }
    return out;
}

Json heightJson(const HeightLimit& limit) {
    return {{"value", limit.value}, {"isInNoise", limit.isInNoise}};
}

HeightLimit heightFrom(const Json& json) {
    return {json.at("value"), json.at("isInNoise")};
}

template<class T> T known(const std::optional<T>& value) {
    if (!value) {
        throw std::runtime_error("a word in it is unknown");
    }
    return *value;
}

Json ruleJson(const StretchRule& rule) {
    return {{"stretch", stretchJson(rule.stretch)},
            {"leastHeight", rule.leastHeight ? heightJson(*rule.leastHeight) : Json(nullptr)},
            {"isHeld", rule.isHeld},
            {"isJoined", rule.isJoined},
            {"isWhole", rule.isWhole}};
}

StretchRule stretchRuleFrom(const Json& json) {
    StretchRule out;
    out.stretch = stretchFrom(json.at("stretch"));
    if (!json.at("leastHeight").is_null()) {
        out.leastHeight = heightFrom(json.at("leastHeight"));
    }
    out.isHeld = json.at("isHeld");
    out.isJoined = json.at("isJoined");
    out.isWhole = json.at("isWhole");
    return out;
}

Json baselineJson(const BaselineRule& rule) {
    return {{"kind", baselineName(rule.kind)},
            {"order", rule.order},
            {"through", listJson(rule.through, stretchJson)},
            {"lambda", rule.lambda},
            {"asymmetry", rule.asymmetry}};
}

BaselineRule baselineFrom(const Json& json) {
    return {known(baselineFromName(json.at("kind").get<std::string>())), json.at("order"),
            listFrom(json.at("through"), stretchFrom), json.at("lambda"), json.at("asymmetry")};
}

Json signalJson(const SignalRule& signal) {
    const PeakRules& rules = signal.peaks;
    return {{"smoothing", rules.smoothing ? Json{rules.smoothing->window, rules.smoothing->order} : Json(nullptr)},
            {"isAreaSmoothed", rules.isAreaSmoothed},
            {"leastHeight", heightJson(rules.leastHeight)},
            {"leastValley", heightJson(rules.leastValley)},
            {"leastWidth", rules.leastWidth},
            {"leastArea", rules.leastArea},
            {"ignored", listJson(rules.ignored, stretchJson)},
            {"rules", listJson(rules.rules, ruleJson)},
            {"baseline", baselineJson(rules.baseline)},
            {"skim", skimName(rules.skim)},
            {"skimRatio", rules.skimRatio},
            {"isNegative", rules.isNegative},
            {"hasShoulders", rules.hasShoulders},
            {"deadTime", optionalJson(rules.deadTime)},
            {"scanRate", optionalJson(signal.scanRate)},
            {"isCathodicPositive", signal.isCathodicPositive}};
}

SignalRule signalFrom(const Json& json) {
    SignalRule out;
    PeakRules& rules = out.peaks;
    if (const Json& smoothing = json.at("smoothing"); !smoothing.is_null()) {
        rules.smoothing = Smoothing{smoothing.at(0), smoothing.at(1)};
    }
    rules.isAreaSmoothed = json.at("isAreaSmoothed");
    rules.leastHeight = heightFrom(json.at("leastHeight"));
    rules.leastValley = heightFrom(json.at("leastValley"));
    rules.leastWidth = json.at("leastWidth");
    rules.leastArea = json.at("leastArea");
    rules.ignored = listFrom(json.at("ignored"), stretchFrom);
    rules.rules = listFrom(json.at("rules"), stretchRuleFrom);
    rules.baseline = baselineFrom(json.at("baseline"));
    rules.skim = known(skimFromName(json.at("skim").get<std::string>()));
    rules.skimRatio = json.at("skimRatio");
    rules.isNegative = json.at("isNegative");
    rules.hasShoulders = json.at("hasShoulders");
    rules.deadTime = optionalFrom(json.at("deadTime"));
    out.scanRate = optionalFrom(json.at("scanRate"));
    out.isCathodicPositive = json.at("isCathodicPositive");
    return out;
}

Json editJson(const HandEdit& hand) {
    const PeakEdit& edit = hand.edit;
    return {{"kind", name(edit.kind)}, {"at", edit.at},   {"from", edit.from},     {"to", edit.to},
            {"fromY", edit.fromY},     {"toY", edit.toY}, {"reason", hand.reason}, {"timeMillis", hand.timeMillis},
            {"owner", edit.owner}};
}

HandEdit editFrom(const Json& json) {
    return {{known(peakEditKindFromName(json.at("kind").get<std::string>())), json.at("at"), json.at("from"),
             json.at("to"), json.at("fromY"), json.at("toY"), json.value("owner", 0)},
            json.at("reason"),
            json.at("timeMillis")};
}

} // namespace

std::string jsonText(const std::map<std::string, SignalRule>& signalRules) {
    if (signalRules.empty()) {
        return {};
    }
    Json out = Json::object();
    for (const auto& [channel, signal] : signalRules) {
        out[channel] = signalJson(signal);
    }
    return textOf(out);
}

std::string jsonText(const std::vector<HandEdit>& edits) {
    return textOf(listJson(edits, editJson));
}

std::string jsonText(const TraceRecipe& recipe) {
    if (recipe == TraceRecipe{}) {
        return {};
    }
    const auto column = [](const ColumnRecipe& one) {
        return Json{{"column", one.column}, {"name", one.name}, {"unit", one.unit}};
    };
    return textOf({{"x", recipe.x},
                   {"nameKey", recipe.nameKey},
                   {"columns", name(recipe.columns)},
                   {"corrected", listJson(recipe.corrected, column)}});
}

void fromJsonText(const std::string& text, TraceRecipe& recipe) {
    recipe = {};
    if (text.empty()) {
        return;
    }
    const Json json = Json::parse(text);
    recipe.x = json.at("x");
    recipe.nameKey = json.value("nameKey", ""); // since schema 9
    recipe.columns = known(columnsAreFromName(json.at("columns").get<std::string>()));
    recipe.corrected = listFrom(json.at("corrected"), [](const Json& one) {
        return ColumnRecipe{one.at("column"), one.at("name"), one.at("unit")};
    });
}

void fromJsonText(const std::string& text, std::map<std::string, SignalRule>& signalRules) {
    signalRules.clear();
    if (text.empty()) {
        return;
    }
    const Json json = Json::parse(text);
    for (const auto& [channel, signal] : json.items()) {
        signalRules[channel] = signalFrom(signal);
    }
}

void fromJsonText(const std::string& text, std::vector<HandEdit>& edits) {
    edits = listFrom(Json::parse(text), editFrom);
}

} // namespace nuvat
