#pragma once

#include "nuvat/batch/command.h"

namespace nuvat {

/// How the levels of the first analyte are made by the method's plan.
struct PlannedStandards {
    std::vector<int> numbers; ///< of the levels that have a concentration, by their numbers
    DilutionPlan plan;        ///< of them, in that order
};
/// @return the errors of planDilutions; plan.level where no level has a concentration
Result<PlannedStandards> plannedStandards(const Batch& batch);

/// "2 mL of stock", "4 mL of S5", "nothing": what is pipetted for one step, in the plan's unit.
std::string takeText(const PlannedStandards& planned, std::size_t level, std::size_t step, const std::string& unit,
                     int figures = 4);

/// Keeps a plan with the method, or takes it away.
/// @return method.plan
Result<Command> setPlan(const Batch& batch, const std::optional<StandardPlan>& plan);

} // namespace nuvat
