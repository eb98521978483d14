#pragma once

#include "nuvat/batch/batch.h"

#include <concepts>
#include <optional>
#include <string>
#include <vector>

namespace nuvat {

/// Parts of a method that are kept as one text of JSON each, empty for what is plain.
template<class T>
concept IsMethodText =
    std::same_as<T, DecisionRule> || std::same_as<T, std::vector<DerivedValue>> || std::same_as<T, FigureSettings> ||
    std::same_as<T, std::optional<KeptCurve>> || std::same_as<T, std::vector<Qualifier>> ||
    std::same_as<T, std::map<int, double>> || std::same_as<T, PlateRecipe> || std::same_as<T, SuitabilityLimits> ||
    std::same_as<T, std::vector<NameRule>> || std::same_as<T, RunRule> || std::same_as<T, std::optional<StandardPlan>>;

std::string jsonText(const DecisionRule& rule);
std::string jsonText(const std::vector<DerivedValue>& derived);
std::string jsonText(const FigureSettings& figure);
std::string jsonText(const std::optional<KeptCurve>& kept);
std::string jsonText(const PlateRecipe& recipe);
std::string jsonText(const std::vector<Qualifier>& qualifiers);
std::string jsonText(const std::map<int, double>& added); ///< of a run
std::string jsonText(const SuitabilityLimits& limits);
std::string jsonText(const std::vector<NameRule>& rules);
std::string jsonText(const RunRule& rule);
std::string jsonText(const std::optional<StandardPlan>& plan);
/// @throws std::exception when the text is none
void fromJsonText(const std::string& text, DecisionRule& rule);
void fromJsonText(const std::string& text, std::vector<DerivedValue>& derived);
void fromJsonText(const std::string& text, FigureSettings& figure);
void fromJsonText(const std::string& text, std::optional<KeptCurve>& kept);
void fromJsonText(const std::string& text, PlateRecipe& recipe);
void fromJsonText(const std::string& text, std::vector<Qualifier>& qualifiers);
void fromJsonText(const std::string& text, std::map<int, double>& added);
void fromJsonText(const std::string& text, SuitabilityLimits& limits);
void fromJsonText(const std::string& text, std::vector<NameRule>& rules);
void fromJsonText(const std::string& text, RunRule& rule);
void fromJsonText(const std::string& text, std::optional<StandardPlan>& plan);

} // namespace nuvat
