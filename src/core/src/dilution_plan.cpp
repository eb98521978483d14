#include "nuvat/core/planning/dilution_plan.h"

#include "nuvat/core/base/number.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace nuvat {

namespace {

constexpr double kRounding = 1e-9; // relative: 10/0.1 is no more steps than 100

bool isTooSmall(double volume, double least) {
    return volume > 0 && volume < least * (1 - kRounding);
}

PlanStep stepOf(double from, double factor, double madeVolume) {
    PlanStep step;
    step.factor = factor;
    step.volume = madeVolume / factor;
    step.diluentVolume = madeVolume - step.volume;
    step.concentration = from / factor;
    return step;
}

/// Relative variance that a step adds: that of v/(v + d), both with the same tolerance.
double varianceOf(const PlanStep& step, double volumeTolerance) {
    const double share = 1 - 1 / step.factor, u = volumeTolerance / std::sqrt(3.0);
    return share * share * 2 * u * u;
}

/// The factors of the fewest steps in which every volume is `least` or more; none where there are no such steps.
std::vector<double> chainOf(double factor, double volume, double least) {
    const double most = volume / least, smallest = volume / (volume - least);
    if (!(volume >= 2 * least) || factor < smallest) {
        return {};
    }
    std::vector<double> out;
    for (double rest = factor; rest > most * (1 + kRounding); rest /= most) {
        out.push_back(most);
    }
    double last = factor / std::pow(most, static_cast<double>(out.size()));
    for (auto step = out.rbegin(); step != out.rend() && last < smallest; ++step) {
        // What is left is too small a factor: an earlier step gives it some of its own.
        const double given = std::min(std::max(2.0, smallest / last), *step / smallest);
        *step /= given;
        last *= given;
    }
    out.push_back(last);
    return out;
}

void warnOfVolumes(PlannedLevel& level, double least) {
    for (const PlanStep& step : level.steps) {
        if (isTooSmall(step.volume, least)) {
            level.warnings.push_back("A transfer of " + formatFigures(step.volume, 4) + " is below the least volume, " +
                                     formatNumber(least) + ".");
        }
        if (isTooSmall(step.diluentVolume, least)) {
            level.warnings.push_back("A diluent volume of " + formatFigures(step.diluentVolume, 4) +
                                     " is below the least volume, " + formatNumber(least) + ".");
        }
    }
}

void planDirect(PlannedLevel& level, const PlanRules& rules) {
    PlanStep only = stepOf(rules.stock, *level.factor, rules.volume);
    level.sourceVolume = only.volume;
    level.diluentVolume = only.diluentVolume;
    std::vector<double> factors{*level.factor};
    if (isTooSmall(only.volume, rules.leastVolume)) {
        if (auto chain = chainOf(*level.factor, rules.volume, rules.leastVolume); !chain.empty()) {
            factors = std::move(chain);
            level.warnings.push_back(formatFigures(only.volume, 4) + " of stock is below the least volume, " +
                                     formatNumber(rules.leastVolume) + ": made in " + std::to_string(factors.size()) +
                                     " steps.");
        }
    }
    double from = rules.stock;
    for (const double factor : factors) {
        level.steps.push_back(stepOf(from, factor, rules.volume));
        from = level.steps.back().concentration;
    }
    warnOfVolumes(level, rules.leastVolume);
}

/// @param order of the levels that are made one from the other, from the highest
void planSerial(std::vector<PlannedLevel>& levels, const std::vector<std::size_t>& order, const PlanRules& rules) {
    double next = 0; // what the next one takes
    for (std::size_t i = order.size(); i-- > 0;) {
        PlannedLevel& level = levels[order[i]];
        const double above = i == 0 ? rules.stock : levels[order[i - 1]].concentration;
        PlanStep step = stepOf(above, above / level.concentration, rules.volume + next);
        if (i > 0) {
            level.from = step.level = order[i - 1];
        }
        next = step.volume;
        level.sourceVolume = step.volume;
        level.diluentVolume = step.diluentVolume;
        level.steps = {step};
        warnOfVolumes(level, rules.leastVolume);
    }
}

void addUncertainties(DilutionPlan& plan, const std::vector<std::size_t>& order, const PlanRules& rules) {
    const double ofStock = rules.stockTolerance * rules.stockTolerance / 3;
    std::vector<double> variances(plan.levels.size(), ofStock);
    for (const std::size_t index : order) {
        PlannedLevel& level = plan.levels[index];
        double variance = level.from ? variances[*level.from] : ofStock;
        for (const PlanStep& step : level.steps) {
            variance += varianceOf(step, rules.volumeTolerance);
        }
        variances[index] = variance;
        level.relativeSe = std::sqrt(variance);
    }
}

Result<void> checkRules(std::span<const double> levels, const PlanRules& rules) {
    const auto isTolerance = [](double value) { return value >= 0 && value < 1; };
    if (!(rules.stock > 0) || !std::isfinite(rules.stock)) {
        return fail("plan.stock", "The stock needs a concentration above 0.", "Type what it was made as.");
    }
    if (!(rules.volume > 0) || !std::isfinite(rules.volume) || !(rules.leastVolume >= 0) ||
        !isTolerance(rules.stockTolerance) || !isTolerance(rules.volumeTolerance)) {
        return fail("plan.volume",
                    "A plan needs a volume above 0, a least volume of 0 or more, and tolerances from 0 to 1.");
    }
    for (const double level : levels) {
        if (!(level >= 0) || !std::isfinite(level)) {
            return fail("plan.level", "A level of " + formatNumber(level) + " cannot be made.",
                        "Concentrations are 0 or more.");
        }
    }
    return {};
}

} // namespace

std::vector<double> dividedLevels(double top, double divideBy, int count) {
    std::vector<double> out;
    for (int i = 0; i < count; ++i) {
        out.push_back(top / std::pow(divideBy, i));
    }
    return out;
}

Result<DilutionPlan> planDilutions(std::span<const double> levels, const PlanRules& rules) {
    if (auto checked = checkRules(levels, rules); !checked) {
        return tl::unexpected(checked.error());
    }
    DilutionPlan plan;
    std::vector<std::size_t> order; // of those that are diluted
    for (std::size_t i = 0; i < levels.size(); ++i) {
        PlannedLevel& level = plan.levels.emplace_back();
        level.concentration = levels[i];
        if (levels[i] == 0) {
            level.sourceVolume = 0;
            level.diluentVolume = rules.volume;
            continue;
        }
        level.factor = rules.stock / levels[i];
        if (levels[i] > rules.stock * (1 + kRounding)) {
            level.warnings.push_back(formatNumber(levels[i]) + " is above the stock, " + formatNumber(rules.stock) +
                                     ": it cannot be made by dilution.");
            continue;
        }
        level.factor = std::max(1.0, *level.factor);
        order.push_back(i);
    }
    std::ranges::stable_sort(order, std::greater{}, [&](std::size_t i) { return levels[i]; });
    if (rules.way == PlanWay::Serial) {
        planSerial(plan.levels, order, rules);
    } else {
        std::ranges::for_each(order, [&](std::size_t i) { planDirect(plan.levels[i], rules); });
    }
    for (const std::size_t i : order) {
        plan.stockNeeded += plan.levels[i].from ? 0 : plan.levels[i].steps.front().volume;
    }
    addUncertainties(plan, order, rules);
    return plan;
}

} // namespace nuvat
