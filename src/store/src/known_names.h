#pragma once

#include "nuvat/batch/command.h"

#include <stdexcept>

namespace nuvat {

/// The value of an enumeration by its stable name. @throws std::runtime_error when it has none of that name
template<class Enum> Enum fromKnownName(std::string_view text) {
    std::optional<Enum> value;
    if constexpr (std::same_as<Enum, Role>) {
        value = roleFromName(text);
    } else if constexpr (std::same_as<Enum, CarrierKind>) {
        value = carrierKindFromName(text);
    } else if constexpr (std::same_as<Enum, RunState>) {
        value = runStateFromName(text);
    } else if constexpr (std::same_as<Enum, CriterionScope>) {
        value = criterionScopeFromName(text);
    } else if constexpr (std::same_as<Enum, Comparison>) {
        value = comparisonFromName(text);
    } else if constexpr (std::same_as<Enum, OutlierTest>) {
        value = outlierTestFromName(text);
    } else if constexpr (std::same_as<Enum, RangeBy>) {
        value = rangeByFromName(text);
    } else if constexpr (std::same_as<Enum, ScatterFrom>) {
        value = scatterFromFromName(text);
    } else if constexpr (std::same_as<Enum, CurveOf>) {
        value = curveOfFromName(text);
    } else if constexpr (std::same_as<Enum, Model>) {
        value = modelFromName(text);
    } else if constexpr (std::same_as<Enum, Weighting>) {
        value = weightingFromName(text);
    } else if constexpr (std::same_as<Enum, WeightSource>) {
        value = weightSourceFromName(text);
    } else if constexpr (std::same_as<Enum, FitTo>) {
        value = fitToFromName(text);
    } else if constexpr (std::same_as<Enum, IntervalMethod>) {
        value = intervalMethodFromName(text);
    } else if constexpr (std::same_as<Enum, BandQuantity>) {
        value = bandQuantityFromName(text);
    } else if constexpr (std::same_as<Enum, PeakQuantity>) {
        value = peakQuantityFromName(text);
    } else if constexpr (std::same_as<Enum, PeakPick>) {
        value = peakPickFromName(text);
    } else if constexpr (std::same_as<Enum, WindowOf>) {
        value = windowOfFromName(text);
    } else if constexpr (std::same_as<Enum, PercentOf>) {
        value = percentOfFromName(text);
    } else if constexpr (std::same_as<Enum, BlankBy>) {
        value = blankByFromName(text);
    } else if constexpr (std::same_as<Enum, Subject>) {
        value = subjectFromName(text);
    } else {
        static_assert(std::same_as<Enum, AverageOf>);
        value = averageOfFromName(text);
    }
    if (!value) {
        throw std::runtime_error("a name in it is unknown");
    }
    return *value;
}

} // namespace nuvat
