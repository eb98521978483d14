#include "nuvat/batch/standard_plan.h"

#include "nuvat/core/base/number.h"

namespace nuvat {

Result<PlannedStandards> plannedStandards(const Batch& batch) {
    PlannedStandards out;
    std::vector<double> levels;
    for (const auto& [key, level] : batch.levels) {
        if (key.analyte == 1 && level.concentration) {
            out.numbers.push_back(key.number);
            levels.push_back(*level.concentration);
        }
    }
    if (levels.empty()) {
        return fail("plan.level", "No level has a concentration, so there is nothing to plan.",
                    "Type the levels under Layout first.");
    }
    auto plan = planDilutions(levels, batch.method.plan.value_or(StandardPlan{}).rules);
    if (!plan) {
        return tl::unexpected(plan.error());
    }
    out.plan = std::move(*plan);
    return out;
}

std::string takeText(const PlannedStandards& planned, std::size_t level, std::size_t step, const std::string& unit,
                     int figures) {
    const PlannedLevel& one = planned.plan.levels.at(level);
    if (step >= one.steps.size()) {
        return "nothing";
    }
    const PlanStep& taken = one.steps[step];
    const std::string from = taken.level ? "S" + std::to_string(planned.numbers.at(*taken.level))
                             : step > 0  ? "the step before"
                                         : "stock";
    return formatFigures(taken.volume, figures) + " " + unit + " of " + from;
}

Result<Command> setPlan(const Batch& batch, const std::optional<StandardPlan>& plan) {
    Method method = batch.method;
    method.plan = plan;
    return setMethod(batch, method);
}

} // namespace nuvat
