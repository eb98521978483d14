// What is said of places of more than one group.
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"

namespace nuvat {

namespace {

constexpr int kFigures = 4;

} // namespace

Working workingOf(const AnalyteEvaluation& evaluation, std::span<const Place> places) {
    std::vector<double> raw;
    for (const Place place : places) {
        if (const auto value = evaluation.at(place).raw) {
            raw.push_back(*value);
        }
    }
    const Description d = describe(raw);
    const auto orUndefined = [](const std::optional<std::string>& value) { return value.value_or("not defined"); };
    Working working;
    working.title = std::to_string(places.size()) + " wells";
    working.subtitle = "of more than one sample";
    working.steps = {
        {"Raw readings, mean of " + std::to_string(raw.size()),
         {orUndefined(d.mean ? std::optional(formatFigures(*d.mean, kFigures)) : std::nullopt)},
         true},
        {"SD", {orUndefined(d.sd ? std::optional(formatFigures(*d.sd, kFigures)) : std::nullopt)}, false},
        {"CV", {orUndefined(d.cvPercent ? std::optional(formatPercent(*d.cvPercent)) : std::nullopt)}, false}};
    return working;
}

} // namespace nuvat
