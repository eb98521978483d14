// What statuses, methods and averages are called in files, and which model knows which method.
#include "nuvat/core/fit/read_off.h"

#include <stdexcept>

namespace nuvat {

std::string_view name(ReadOffStatus status) {
    switch (status) {
    case ReadOffStatus::Ok:
        return "ok";
    case ReadOffStatus::AboveCurve:
        return "above-curve";
    case ReadOffStatus::BelowCurve:
        return "below-curve";
    case ReadOffStatus::NotDefined:
        return "not-defined";
    }
    throw std::invalid_argument("name: not a read-off status");
}

std::string_view name(IntervalMethod method) {
    switch (method) {
    case IntervalMethod::Propagation:
        return "propagation";
    case IntervalMethod::LogPropagation:
        return "log-propagation";
    case IntervalMethod::Fieller:
        return "fieller";
    case IntervalMethod::Inversion:
        return "inversion";
    case IntervalMethod::Profile:
        return "profile";
    case IntervalMethod::Bootstrap:
        return "bootstrap";
    }
    throw std::invalid_argument("name: not an interval method");
}

std::optional<IntervalMethod> intervalMethodFromName(std::string_view text) {
    for (const auto method : {IntervalMethod::Propagation, IntervalMethod::LogPropagation, IntervalMethod::Fieller,
                              IntervalMethod::Inversion, IntervalMethod::Profile, IntervalMethod::Bootstrap}) {
        if (name(method) == text) {
            return method;
        }
    }
    return std::nullopt;
}

bool isDefinedFor(IntervalMethod method, Model model) {
    switch (method) {
    case IntervalMethod::Propagation:
    case IntervalMethod::LogPropagation:
    case IntervalMethod::Inversion:
        return true;
    case IntervalMethod::Fieller:
        return isStraightLine(model);
    case IntervalMethod::Profile:
    case IntervalMethod::Bootstrap:
        return isLogistic(model);
    }
    return false;
}

std::string_view name(AverageOf average) {
    return average == AverageOf::Concentrations ? "concentration" : "response";
}

std::optional<AverageOf> averageOfFromName(std::string_view text) {
    return text == "concentration" ? std::optional(AverageOf::Concentrations)
           : text == "response"    ? std::optional(AverageOf::Responses)
                                   : std::nullopt;
}

} // namespace nuvat
