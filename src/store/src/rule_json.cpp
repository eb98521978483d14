#include "rule_json.h"

#include "json_fields.h"

namespace nuvat {

namespace {

using Json = nlohmann::json;

template<std::size_t Index = 0> ResponseRule ruleOfKind(const std::string& kind, const Json& json) {
    if constexpr (Index < std::variant_size_v<ResponseRule>) {
        std::variant_alternative_t<Index, ResponseRule> rule;
        if (kind != kindName(ResponseRule(rule))) {
            return ruleOfKind<Index + 1>(kind, json);
        }
        const std::shared_ptr<PayloadSource> none;
        JsonReader reader(json, none);
        describe(reader, rule);
        return rule;
    } else {
        throw std::runtime_error("a rule of a response in it is unknown");
    }
}

} // namespace

std::string ruleText(const ResponseRule& rule) {
    Json out{{"kind", kindName(rule)}};
    std::visit(
        [&out](const auto& one) {
            JsonWriter writer(out);
            describe(writer, one);
        },
        rule);
    return out.dump(-1, ' ', false, Json::error_handler_t::replace);
}

ResponseRule ruleFromText(const std::string& text) {
    const Json json = Json::parse(text);
    return ruleOfKind(json.at("kind").get<std::string>(), json);
}

} // namespace nuvat
