// How standards are made, against exact rational arithmetic: data/dilution_plans.json, cited in data/README.md.
#include "nuvat/core/planning/dilution_plan.h"
#include "support/reference.h"

#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using Json = nlohmann::json;
constexpr double kTolerance = 1e-12; // relative, as the pack says

void expectNear(double got, double want, const std::string& what) {
    EXPECT_NEAR(got, want, kTolerance * std::max(1.0, std::abs(want))) << what;
}

PlanRules rulesOf(const Json& one, PlanWay way) {
    PlanRules rules{way};
    rules.stock = one["stock"];
    rules.volume = one[way == PlanWay::Direct ? "final_volume" : "left_volume"];
    rules.leastVolume = one["least_volume"];
    return rules;
}

std::vector<double> levelsOf(const Json& one, const char* key) {
    std::vector<double> out;
    for (const Json& row : one["plan"]) {
        out.push_back(row[key]);
    }
    return out;
}

/// Every plan replayed forwards: what is pipetted gives the level, and no volume is too small.
void replay(const PlannedLevel& level, const PlanRules& rules, bool isChain) {
    double concentration = rules.stock;
    for (const PlanStep& step : level.steps) {
        const double made = step.volume + step.diluentVolume;
        concentration *= step.volume / made;
        expectNear(step.concentration, concentration, "after a step");
        expectNear(made, rules.volume, "made");
        if (isChain) {
            EXPECT_GE(step.volume, rules.leastVolume * (1 - 1e-12));
            EXPECT_TRUE(step.diluentVolume == 0 || step.diluentVolume >= rules.leastVolume * (1 - 1e-12))
                << step.diluentVolume;
        }
    }
    expectNear(concentration / level.concentration, 1, "level " + std::to_string(level.concentration));
}

TEST(DilutionPlan, DirectAndInStepsAsInTheReference) {
    const Json reference = test::referenceJson("dilution_plans.json");
    for (const Json& one : reference["direct"]) {
        const PlanRules rules = rulesOf(one, PlanWay::Direct);
        const std::vector<double> levels = levelsOf(one, "target");
        const auto plan = planDilutions(levels, rules);
        ASSERT_TRUE(plan) << one["name"];
        for (std::size_t i = 0; i < levels.size(); ++i) {
            const Json& want = one["plan"][i];
            const PlannedLevel& got = plan->levels[i];
            if (want.contains("expected")) {
                EXPECT_FALSE(got.isPossible()) << want;
                EXPECT_EQ(got.warnings.size(), 1u);
                continue;
            }
            expectNear(*got.sourceVolume, want["stock_volume"], "stock");
            expectNear(*got.diluentVolume, want["diluent_volume"], "diluent");
            if (levels[i] == 0) {
                EXPECT_FALSE(got.factor);
                EXPECT_TRUE(got.steps.empty());
                continue;
            }
            expectNear(*got.factor, want["factor"], "factor");
            const std::size_t steps = want.value("least_number_of_steps", std::size_t{1});
            EXPECT_EQ(got.steps.size(), steps);
            EXPECT_EQ(got.warnings.empty(), want["verdict"] == "direct") << want;
            replay(got, rules, steps > 1);
        }
    }
}

TEST(DilutionPlan, SerialAsInTheReference) {
    for (const Json& one : test::referenceJson("dilution_plans.json")["serial"]) {
        const PlanRules rules = rulesOf(one, PlanWay::Serial);
        std::vector<double> levels = levelsOf(one, "concentration");
        const auto plan = planDilutions(levels, rules);
        ASSERT_TRUE(plan);
        for (std::size_t i = 0; i < levels.size(); ++i) {
            const Json& want = one["plan"][i];
            const PlannedLevel& got = plan->levels[i];
            ASSERT_EQ(got.steps.size(), 1u);
            expectNear(got.steps[0].volume, want["transfer_volume"], "transfer");
            expectNear(got.steps[0].diluentVolume, want["diluent_volume"], "diluent");
            expectNear(got.steps[0].factor, want["factor"], "factor of the step");
            EXPECT_EQ(got.from, i == 0 ? std::nullopt : std::optional(i - 1));
            EXPECT_TRUE(got.warnings.empty());
        }
        expectNear(plan->stockNeeded, one["plan"][0]["transfer_volume"], "stock needed");
        // The order in which levels are asked for changes nothing of what is pipetted.
        std::ranges::reverse(levels);
        const auto turned = planDilutions(levels, rules);
        EXPECT_EQ(turned->levels.back().steps[0].volume, plan->levels.front().steps[0].volume);
        EXPECT_EQ(turned->levels.front().from, std::optional<std::size_t>(1));
    }
}

// By hand. A stock within 1 %, 100 taken and filled up with 900, each within 2 %: 1 %/sqrt(3) and, for the step,
// 0.9 times 2 %/sqrt(3) twice. Source: JCGM 100:2008, 4.3.7 and 5.1.2.
TEST(DilutionPlan, TolerancesGiveAnUncertainty) {
    PlanRules rules;
    rules.stock = 10;
    rules.volume = 1000;
    rules.stockTolerance = 0.01;
    rules.volumeTolerance = 0.02;
    const auto direct = planDilutions(std::vector<double>{1, 10, 0}, rules);
    const double stock = 0.01 * 0.01 / 3, step = 0.9 * 0.9 * 2 * 0.02 * 0.02 / 3;
    EXPECT_NEAR(*direct->levels[0].relativeSe, std::sqrt(stock + step), 1e-15);
    EXPECT_NEAR(*direct->levels[1].relativeSe, std::sqrt(stock), 1e-15) << "the stock as it is";
    EXPECT_FALSE(direct->levels[2].relativeSe);
    rules.way = PlanWay::Serial;
    const auto serial = planDilutions(std::vector<double>{1, 0.1}, rules);
    EXPECT_NEAR(*serial->levels[1].relativeSe, std::sqrt(stock + 2 * step), 1e-15)
        << "what was made before comes along";
}

TEST(DilutionPlan, WarnsOfVolumesThatCannotBePipetted) {
    PlanRules rules;
    rules.stock = 10;
    rules.volume = 100;
    rules.leastVolume = 10;
    const auto near = planDilutions(std::vector<double>{9.5}, rules);
    ASSERT_EQ(near->levels[0].warnings.size(), 1u) << "5 of diluent, and no steps help";
    EXPECT_NE(near->levels[0].warnings[0].find("diluent"), std::string::npos);
    rules.leastVolume = 60; // more than half of what is made: nothing can be done in steps
    const auto impossible = planDilutions(std::vector<double>{1}, rules);
    EXPECT_EQ(impossible->levels[0].steps.size(), 1u);
    EXPECT_FALSE(impossible->levels[0].warnings.empty());
    // What is left for the last step may be too small a factor; an earlier step gives it some of its own.
    rules.leastVolume = 10;
    const auto rest = planDilutions(std::vector<double>{10 / 10.5}, rules);
    ASSERT_EQ(rest->levels[0].steps.size(), 2u);
    replay(rest->levels[0], rules, true);
    EXPECT_EQ(planDilutions(std::vector<double>{-1}, rules).error().code, "plan.level");
    rules.stock = 0;
    EXPECT_EQ(planDilutions(std::vector<double>{1}, rules).error().code, "plan.stock");
    EXPECT_EQ(planDilutions({}, {PlanWay::Direct, 1, 0}).error().code, "plan.volume");
}

} // namespace
} // namespace nuvat
