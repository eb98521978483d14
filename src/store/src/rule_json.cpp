#include "rule_json.h"

#include "known_names.h"

#include <nlohmann/json.hpp>

namespace nuvat {

namespace {

using Json = nlohmann::json;

template<class V> void describe(V& v, ValueRule& rule) {
    v("formula", rule.formula);
}
template<class V> void describe(V& v, BandRule& rule) {
    v("channel", rule.channel);
    v("from", rule.from);
    v("to", rule.to);
    v("quantity", rule.quantity);
}
template<class V> void describe(V& v, PeakRule& rule) {
    v("channel", rule.channel);
    v("expected", rule.expected);
    v("window", rule.window);
    v("windowOf", rule.windowOf);
    v("reference", rule.reference);
    v("quantity", rule.quantity);
}
template<class V> void describe(V& v, PopulationRule& rule) {
    v("population", rule.population);
    v("parameter", rule.parameter);
    v("statistic", rule.statistic);
}
template<class V> void describe(V& v, NamedRule& rule) {
    v("calculation", rule.calculation);
    v("quantity", rule.quantity);
}

struct Writer {
    Json& out;
    template<class T> void operator()(const char* field, const T& value) const {
        if constexpr (std::is_enum_v<T>) {
            out[field] = name(value);
        } else {
            out[field] = value;
        }
    }
};

struct Reader {
    const Json& in;
    template<class T> void operator()(const char* field, T& value) const {
        if constexpr (std::is_enum_v<T>) {
            value = fromKnownName<T>(in.at(field).get<std::string>());
        } else {
            value = in.at(field).get<T>();
        }
    }
};

template<std::size_t Index = 0> ResponseRule ruleOfKind(const std::string& kind, const Json& json) {
    if constexpr (Index < std::variant_size_v<ResponseRule>) {
        std::variant_alternative_t<Index, ResponseRule> rule;
        if (kind != kindName(ResponseRule(rule))) {
            return ruleOfKind<Index + 1>(kind, json);
        }
        const Reader reader{json};
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
        [&out](auto one) {
            const Writer writer{out};
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
