#include "plan_command.h"

#include "columns.h"
#include "nuvat/core/planning/dilution_plan.h"
#include "options.h"

#include <cmath>
#include <limits>

namespace nuvat {

namespace {

Result<std::vector<double>> levelsOf(const Options& options) {
    const bool isDivided = options.has("--top") || options.has("--divide-by") || options.has("--count");
    if (isDivided == options.has("--levels")) {
        return wrongCall("plan needs either --levels, or --top, --divide-by and --count.");
    }
    if (!isDivided) {
        return options.numbers("--levels");
    }
    constexpr double kMost = std::numeric_limits<double>::max(), kMostLevels = 1000;
    const auto top = options.number("--top", 0, 0, kMost, false);
    const auto by = options.number("--divide-by", 0, 1, kMost, false);
    const auto count = options.number("--count", 0, 1, kMostLevels, true);
    if (!options.has("--top") || !options.has("--divide-by") || !options.has("--count")) {
        return wrongCall("--top, --divide-by and --count belong together.");
    }
    if (!top || !by || !count) {
        return tl::unexpected(!top ? top.error() : !by ? by.error() : count.error());
    }
    if (*count != std::floor(*count)) {
        return wrongCall("--count takes a whole number.");
    }
    return dividedLevels(*top, *by, static_cast<int>(*count));
}

Result<PlanRules> rulesOf(const Options& options) {
    constexpr double kMost = std::numeric_limits<double>::max();
    PlanRules rules;
    rules.way = options.has("--serial") ? PlanWay::Serial : PlanWay::Direct;
    const char* volumeOption = rules.way == PlanWay::Serial ? "--left" : "--volume";
    if (!options.has("--stock") || !options.has(volumeOption)) {
        return wrongCall(
            std::string("plan needs --stock and ") + volumeOption +
            (rules.way == PlanWay::Serial ? ", what stays in each tube." : ", the volume that is made of each level."));
    }
    if (options.has("--left") && options.has("--volume")) {
        return wrongCall("--left goes with --serial, --volume without it.");
    }
    for (const auto& [option, value, most] : {std::tuple<const char*, double*, double>{"--stock", &rules.stock, kMost},
                                              {volumeOption, &rules.volume, kMost},
                                              {"--least", &rules.leastVolume, kMost},
                                              {"--stock-tolerance", &rules.stockTolerance, 100},
                                              {"--volume-tolerance", &rules.volumeTolerance, 100}}) {
        const auto number = options.number(option, 0, 0, most, true);
        if (!number) {
            return tl::unexpected(number.error());
        }
        *value = *number;
    }
    rules.stockTolerance /= 100;
    rules.volumeTolerance /= 100;
    return rules;
}

std::string sourceName(const std::optional<std::size_t>& level, std::size_t step = 0) {
    return level ? "level " + std::to_string(*level + 1) : step == 0 ? "stock" : "step " + std::to_string(step);
}

Json levelJson(const PlannedLevel& level) {
    Json steps = Json::array();
    for (std::size_t i = 0; i < level.steps.size(); ++i) {
        const PlanStep& step = level.steps[i];
        steps.push_back({{"from", sourceName(step.level, i)},
                         {"factor", step.factor},
                         {"volume", step.volume},
                         {"diluentVolume", step.diluentVolume},
                         {"concentration", step.concentration}});
    }
    return {{"concentration", level.concentration},
            {"factor", optionalNumber(level.factor)},
            {"from", level.factor ? Json(sourceName(level.from)) : Json()},
            {"stockVolume", optionalNumber(level.sourceVolume)},
            {"diluentVolume", optionalNumber(level.diluentVolume)},
            {"steps", std::move(steps)},
            {"relativeSe", optionalNumber(level.relativeSe)},
            {"warnings", level.warnings}};
}

Result<Json> plan(const std::vector<std::string>& arguments) {
    const auto options = Options::parse(arguments,
                                        {"--stock", "--levels", "--top", "--divide-by", "--count", "--volume", "--left",
                                         "--least", "--stock-tolerance", "--volume-tolerance"},
                                        {"--serial"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    const auto levels = levelsOf(*options);
    const auto rules = rulesOf(*options);
    if (!levels || !rules) {
        return tl::unexpected(!levels ? levels.error() : rules.error());
    }
    const auto found = planDilutions(*levels, *rules);
    if (!found) {
        return tl::unexpected(found.error());
    }
    Json list = Json::array();
    for (const PlannedLevel& level : found->levels) {
        list.push_back(levelJson(level));
    }
    return Json{{"levels", std::move(list)}, {"stockNeeded", found->stockNeeded}};
}

} // namespace

int planCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    return printAnswer(out, err, plan(arguments));
}

} // namespace nuvat
