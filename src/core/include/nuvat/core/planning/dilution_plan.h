#pragma once

#include "nuvat/core/base/error.h"

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace nuvat {

/// How levels are made.
enum class PlanWay {
    Direct, ///< each from the stock, in steps where a volume would be too small
    Serial, ///< each from the one before
};

/// What is to be made, and with what. Volumes in one unit, concentrations in another.
struct PlanRules {
    PlanWay way = PlanWay::Direct;
    double stock = 0;           ///< concentration, > 0
    double volume = 0;          ///< > 0: direct, what is made of each level; serial, what stays of each
    double leastVolume = 0;     ///< that can be pipetted, >= 0
    double stockTolerance = 0;  ///< relative: the concentration lies within +- so much, 0.01 for 1 %
    double volumeTolerance = 0; ///< the same of every pipetted volume
    bool operator==(const PlanRules&) const = default;
};

/// One pipetting: a volume of something, filled up with diluent.
struct PlanStep {
    std::optional<std::size_t> level; ///< index of the one it is taken from; absent: the stock, or the step before
    double factor = 1;                ///< >= 1
    double volume = 0, diluentVolume = 0;
    double concentration = 0; ///< of what it gives
};

/// How one level is made.
struct PlannedLevel {
    double concentration = 0;
    std::optional<double> factor;        ///< stock/concentration, also when made in steps; none at 0
    std::optional<std::size_t> from;     ///< index of the level it is made from; absent: the stock
    std::optional<double> sourceVolume;  ///< of what it is made from, as in one step; none if impossible
    std::optional<double> diluentVolume; ///< the same
    std::vector<PlanStep> steps;         ///< none at 0, and where it is not possible
    std::optional<double> relativeSe;    ///< from the tolerances; none at 0
    std::vector<std::string> warnings;   ///< sentences
    bool isPossible() const { return sourceVolume.has_value(); }
};

struct DilutionPlan {
    std::vector<PlannedLevel> levels; ///< in the order in which they were asked for
    double stockNeeded = 0;           ///< volume of stock that is pipetted for all of them
};

/// Plans how standards are made. Direct: in one step where every volume can be pipetted, else in the fewest that keep
/// transfer and diluent of every step at the least volume or above. Serial: in the order of falling concentration, from
/// the last one upwards, so that each leaves the wanted volume. A level above the stock is not possible, 0 is diluent
/// alone.
/// @param levels concentrations, >= 0
/// @return plan.stock, plan.volume, plan.level for what makes no sense
/// Source: the arithmetic of dilution; standard uncertainty from a tolerance a as a/sqrt(3), JCGM 100:2008, 4.3.7.
/// Checked: tests/reference/dilution_plan_test.cpp.
Result<DilutionPlan> planDilutions(std::span<const double> levels, const PlanRules& rules);

/// `count` levels: the top one, and each of the others the one before divided by `divideBy` (> 1).
std::vector<double> dividedLevels(double top, double divideBy, int count);

} // namespace nuvat
