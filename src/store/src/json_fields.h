#pragma once

#include "describe.h"
#include "known_names.h"
#include "rule_json.h"
#include "signal_json.h"

#include <nlohmann/json.hpp>

namespace nuvat {

/// Writes the fields of an item, each under its name.
class JsonWriter {
public:
    explicit JsonWriter(nlohmann::json& out) : m_out(out) {}
    template<class T> void operator()(const char* field, const T& value) {
        if constexpr (std::is_enum_v<T>) {
            m_out[field] = name(value);
        } else if constexpr (std::same_as<T, std::optional<double>>) {
            m_out[field] = value ? nlohmann::json(*value) : nlohmann::json(nullptr);
        } else if constexpr (std::same_as<T, ResponseRule>) {
            m_out[field] = ruleText(value);
        } else if constexpr (IsJsonText<T>) {
            m_out[field] = jsonText(value);
        } else if constexpr (std::same_as<T, Payload>) {
            m_out[field] = value.id();
        } else {
            m_out[field] = value;
        }
    }
    template<class T> void items(const char* field, const std::vector<T>& list) {
        nlohmann::json& out = m_out[field] = nlohmann::json::array();
        for (const T& item : list) {
            JsonWriter writer(out.emplace_back(nlohmann::json::object()));
            describe(writer, item);
        }
    }

private:
    nlohmann::json& m_out;
};

/// Reads them. @throws std::exception when one is missing or of another type
class JsonReader {
public:
    JsonReader(const nlohmann::json& in, const std::shared_ptr<PayloadSource>& payloads)
        : m_in(in), m_payloads(payloads) {}
    template<class T> void operator()(const char* field, T& value) {
        const nlohmann::json& in = m_in.at(field);
        if constexpr (std::is_enum_v<T>) {
            value = fromKnownName<T>(in.get<std::string>());
        } else if constexpr (std::same_as<T, std::optional<double>>) {
            value = in.is_null() ? std::nullopt : std::optional(in.get<double>());
        } else if constexpr (std::same_as<T, ResponseRule>) {
            value = ruleFromText(in.get<std::string>());
        } else if constexpr (IsJsonText<T>) {
            fromJsonText(in.get<std::string>(), value);
        } else if constexpr (std::same_as<T, Payload>) {
            value = Payload::stored(in.get<std::string>(), m_payloads);
        } else if constexpr (std::is_arithmetic_v<T>) {
            value = in.get<T>();
        } else {
            in.get_to(value);
        }
    }
    template<class T> void items(const char* field, std::vector<T>& list) {
        list.clear();
        for (const nlohmann::json& in : m_in.at(field)) {
            JsonReader reader(in, m_payloads);
            describe(reader, list.emplace_back());
        }
    }

private:
    const nlohmann::json& m_in;
    const std::shared_ptr<PayloadSource>& m_payloads;
};

} // namespace nuvat
