#include "method_json.h"

#include "json_values.h"
#include "nuvat/store/kept_curve.h"

#include <stdexcept>

namespace nuvat {

using Json = nlohmann::json;

std::string jsonText(const DecisionRule& rule) {
    if (rule == DecisionRule{}) {
        return {};
    }
    return textOf({{"by", name(rule.by)}, {"limits", rule.limits}, {"classes", rule.classes}});
}

void fromJsonText(const std::string& text, DecisionRule& rule) {
    rule = {};
    if (text.empty()) {
        return;
    }
    const Json json = Json::parse(text);
    const auto by = decisionByFromName(json.at("by").get<std::string>());
    if (!by) {
        throw std::runtime_error("how it is decided is unknown");
    }
    rule = {*by, json.at("limits"), json.at("classes")};
}

std::string jsonText(const std::vector<DerivedValue>& derived) {
    if (derived.empty()) {
        return {};
    }
    Json out = Json::array();
    for (const DerivedValue& one : derived) {
        out.push_back({{"name", one.name}, {"unit", one.unit}, {"formula", one.formula}});
    }
    return textOf(out);
}

void fromJsonText(const std::string& text, std::vector<DerivedValue>& derived) {
    derived.clear();
    if (text.empty()) {
        return;
    }
    for (const Json& one : Json::parse(text)) {
        derived.push_back({one.at("name"), one.at("unit"), one.at("formula")});
    }
}

namespace {

Json number(const std::optional<double>& value) {
    return value ? Json(*value) : Json();
}

std::optional<double> number(const Json& value) {
    return value.is_null() ? std::nullopt : std::optional(value.get<double>());
}

} // namespace

std::string jsonText(const std::vector<Qualifier>& qualifiers) {
    if (qualifiers.empty()) {
        return {};
    }
    Json out = Json::array();
    for (const Qualifier& one : qualifiers) {
        out.push_back({{"channel", one.channel},
                       {"expected", number(one.expected)},
                       {"reference", number(one.reference)},
                       {"tolerance", one.tolerance},
                       {"toleranceOf", name(one.toleranceOf)}});
    }
    return textOf(out);
}

void fromJsonText(const std::string& text, std::vector<Qualifier>& qualifiers) {
    qualifiers.clear();
    if (text.empty()) {
        return;
    }
    for (const Json& one : Json::parse(text)) {
        const auto of = toleranceOfFromName(one.at("toleranceOf").get<std::string>());
        if (!of) {
            throw std::runtime_error("what a tolerance is measured in is unknown");
        }
        qualifiers.push_back(
            {one.at("channel"), number(one.at("expected")), number(one.at("reference")), one.at("tolerance"), *of});
    }
}

std::string jsonText(const std::map<int, double>& added) {
    Json out = Json::object();
    for (const auto& [analyte, concentration] : added) {
        out[std::to_string(analyte)] = concentration;
    }
    return added.empty() ? std::string() : textOf(out);
}

void fromJsonText(const std::string& text, std::map<int, double>& added) {
    added.clear();
    if (text.empty()) {
        return;
    }
    const Json json = Json::parse(text);
    for (const auto& [analyte, concentration] : json.items()) {
        added[std::stoi(analyte)] = concentration.get<double>();
    }
}

std::string jsonText(const FigureSettings& figure) {
    if (figure == FigureSettings{}) {
        return {};
    }
    return textOf({{"xTitle", figure.xTitle},
                   {"yTitle", figure.yTitle},
                   {"x", {number(figure.xLow), number(figure.xHigh)}},
                   {"y", {number(figure.yLow), number(figure.yHigh)}},
                   {"markerSize", figure.markerSize},
                   {"hasBand", figure.hasBand}});
}

void fromJsonText(const std::string& text, FigureSettings& figure) {
    figure = {};
    if (text.empty()) {
        return;
    }
    const Json json = Json::parse(text);
    figure.xTitle = json.at("xTitle");
    figure.yTitle = json.at("yTitle");
    figure.xLow = number(json.at("x").at(0));
    figure.xHigh = number(json.at("x").at(1));
    figure.yLow = number(json.at("y").at(0));
    figure.yHigh = number(json.at("y").at(1));
    figure.markerSize = json.at("markerSize");
    figure.hasBand = json.at("hasBand");
}

std::string jsonText(const std::optional<KeptCurve>& kept) {
    return kept ? keptCurveText(*kept) : std::string();
}

void fromJsonText(const std::string& text, std::optional<KeptCurve>& kept) {
    kept.reset();
    if (!text.empty()) {
        auto read = keptCurveFromText(text);
        if (!read) {
            throw std::runtime_error(read.error().message);
        }
        kept = std::move(*read);
    }
}

std::string jsonText(const PlateRecipe& recipe) {
    if (recipe == PlateRecipe{}) {
        return {};
    }
    Json reads = Json::array();
    for (const ReadRecipe& one : recipe.reads) {
        reads.push_back({{"read", one.read}, {"name", one.name}, {"isTaken", one.isTaken}});
    }
    Json out{{"separator", recipe.separator}, {"decimal", recipe.decimal}, {"reads", std::move(reads)}};
    for (const CellBlock& one : recipe.blocks) {
        out["blocks"].push_back({{"sheet", one.sheet},
                                 {"line", one.line},
                                 {"column", one.column},
                                 {"rows", one.rows},
                                 {"columns", one.columns}});
    }
    return textOf(out);
}

void fromJsonText(const std::string& text, PlateRecipe& recipe) {
    recipe = {};
    if (text.empty()) {
        return;
    }
    const Json json = Json::parse(text);
    recipe.separator = json.at("separator");
    recipe.decimal = json.at("decimal");
    for (const Json& one : json.at("reads")) {
        recipe.reads.push_back({one.at("read"), one.at("name"), one.at("isTaken")});
    }
    for (const Json& one : json.value("blocks", Json::array())) {
        recipe.blocks.push_back({one.at("sheet"), one.at("line"), one.at("column"), one.at("rows"), one.at("columns")});
    }
}

} // namespace nuvat
