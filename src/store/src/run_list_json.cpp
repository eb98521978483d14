// How runs are judged, named, measured and prepared for, as texts of JSON.
#include "json_values.h"
#include "method_json.h"

#include <array>
#include <stdexcept>

namespace nuvat {

using Json = nlohmann::json;

namespace {

/// The limits by their names in files.
template<class Limits> auto limitsByName(Limits& limits) {
    return std::array{std::pair{"tailing", &limits.tailing},       std::pair{"plates", &limits.plates},
                      std::pair{"resolution", &limits.resolution}, std::pair{"signalToNoise", &limits.signalToNoise},
                      std::pair{"timeRsd", &limits.timeRsd},       std::pair{"carryOver", &limits.carryOver}};
}

} // namespace

std::string jsonText(const SuitabilityLimits& limits) {
    if (limits == SuitabilityLimits{}) {
        return {};
    }
    Json out = Json::object();
    for (const auto& [name, limit] : limitsByName(limits)) {
        out[name] = *limit ? Json(**limit) : Json();
    }
    return textOf(out);
}

void fromJsonText(const std::string& text, SuitabilityLimits& limits) {
    limits = {};
    if (text.empty()) {
        return;
    }
    const Json json = Json::parse(text);
    for (const auto& [name, limit] : limitsByName(limits)) {
        const Json& value = json.at(name);
        *limit = value.is_null() ? std::nullopt : std::optional(value.get<double>());
    }
}

std::string jsonText(const std::vector<NameRule>& rules) {
    if (rules.empty()) {
        return {};
    }
    Json out = Json::array();
    for (const NameRule& rule : rules) {
        out.push_back({{"pattern", rule.pattern}, {"role", name(rule.role)}});
    }
    return textOf(out);
}

void fromJsonText(const std::string& text, std::vector<NameRule>& rules) {
    rules.clear();
    if (text.empty()) {
        return;
    }
    for (const Json& one : Json::parse(text)) {
        const auto role = roleFromName(one.at("role").get<std::string>());
        if (!role) {
            throw std::runtime_error("a rule of names gives an unknown role");
        }
        rules.push_back({one.at("pattern"), *role});
    }
}

std::string jsonText(const RunRule& rule) {
    if (rule == RunRule{}) {
        return {};
    }
    return textOf(
        {{"afterFailure", name(rule.afterFailure)}, {"dilutesAbove", rule.dilutesAbove}, {"fileName", rule.fileName}});
}

void fromJsonText(const std::string& text, RunRule& rule) {
    rule = {};
    if (text.empty()) {
        return;
    }
    const Json json = Json::parse(text);
    const auto what = afterFailureFromName(json.at("afterFailure").get<std::string>());
    if (!what) {
        throw std::runtime_error("what follows a failure is unknown");
    }
    rule = {*what, json.at("dilutesAbove"), json.at("fileName")};
}

std::string jsonText(const std::optional<StandardPlan>& plan) {
    if (!plan) {
        return {};
    }
    return textOf({{"stockName", plan->stockName},
                   {"volumeUnit", plan->volumeUnit},
                   {"isSerial", plan->rules.way == PlanWay::Serial},
                   {"stock", plan->rules.stock},
                   {"volume", plan->rules.volume},
                   {"leastVolume", plan->rules.leastVolume},
                   {"stockTolerance", plan->rules.stockTolerance},
                   {"volumeTolerance", plan->rules.volumeTolerance}});
}

void fromJsonText(const std::string& text, std::optional<StandardPlan>& plan) {
    plan.reset();
    if (text.empty()) {
        return;
    }
    const Json json = Json::parse(text);
    StandardPlan read{json.at("stockName"), json.at("volumeUnit"), {}};
    read.rules = {json.at("isSerial").get<bool>() ? PlanWay::Serial : PlanWay::Direct,
                  json.at("stock"),
                  json.at("volume"),
                  json.at("leastVolume"),
                  json.at("stockTolerance"),
                  json.at("volumeTolerance")};
    plan = std::move(read);
}

} // namespace nuvat
