#pragma once

#include "method_json.h"
#include "nuvat/batch/batch.h"

#include <concepts>
#include <map>
#include <string>
#include <vector>

namespace nuvat {

/// What is kept as one text of JSON: rules of signalRules by channel, edits drawn on a trace, how files are taken in.
template<class T>
concept IsJsonText = std::same_as<T, std::map<std::string, SignalRule>> || std::same_as<T, std::vector<HandEdit>> ||
    std::same_as<T, TraceRecipe> || IsMethodText<T>;

std::string jsonText(const std::map<std::string, SignalRule>& signalRules); ///< empty without any
std::string jsonText(const std::vector<HandEdit>& edits);
std::string jsonText(const TraceRecipe& recipe); ///< empty for the plain one
/// @throws std::exception when the text is none
void fromJsonText(const std::string& text, std::map<std::string, SignalRule>& signalRules);
void fromJsonText(const std::string& text, std::vector<HandEdit>& edits);
void fromJsonText(const std::string& text, TraceRecipe& recipe);

} // namespace nuvat
