#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>

namespace nuvat {

inline nlohmann::json optionalJson(const std::optional<double>& value) {
    return value ? nlohmann::json(*value) : nlohmann::json(nullptr);
}

inline std::optional<double> optionalFrom(const nlohmann::json& json) {
    return json.is_null() ? std::nullopt : std::optional(json.get<double>());
}

/// One line; bytes that are no UTF-8 are replaced.
inline std::string textOf(const nlohmann::json& json) {
    return json.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

} // namespace nuvat
