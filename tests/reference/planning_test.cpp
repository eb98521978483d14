// Potency, several dilutions, decision limits, percent of control, median polish and best n of m against values in 40
// digits (data/README.md).
#include "nuvat/core/fit/potency.h"
#include "nuvat/core/stats/best_subset.h"
#include "nuvat/core/stats/decision.h"
#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/dilutions.h"
#include "nuvat/core/stats/median_polish.h"
#include "support/reference.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <random>

namespace nuvat {
namespace {

using test::referenceJson;
using Json = nlohmann::json;

void expectRelative(const char* what, double got, const Json& want, double tolerance) {
    EXPECT_NEAR(got, want.get<double>(), tolerance * std::abs(want.get<double>())) << what;
}

void expectPair(const char* what, const std::optional<std::pair<double, double>>& got, const Json& want,
                double tolerance) {
    ASSERT_TRUE(got) << what;
    expectRelative(what, got->first, want[0], tolerance);
    expectRelative(what, got->second, want[1], tolerance);
}

/// Readings of two preparations.
struct Bioassay {
    std::vector<double> dose, response;
    std::vector<char> isTest;
    PotencyData data() const { return {dose, response, isTest, {}}; }
};

Bioassay bioassay() {
    Bioassay out;
    for (const auto& row : test::referenceRows("potency_parallel.csv")) {
        out.isTest.push_back(row[0] == "test" ? 1 : 0);
        out.dose.push_back(std::stod(row[1]));
        out.response.push_back(std::stod(row[2]));
    }
    return out;
}

TEST(Potency, ParallelFourParameterCurves) {
    const Json want = referenceJson("potency_parallel.json");
    const Bioassay assay = bioassay();
    const auto found = relativePotency(PotencyModel::Logistic4, assay.data(), 0.95);
    ASSERT_TRUE(found) << found.error().message;
    EXPECT_EQ(found->n, want["n"]);
    EXPECT_EQ(found->df, want["df"]);
    const std::vector<const char*> keys{"A", "B", "C_reference", "D"};
    for (std::size_t i = 0; i < keys.size(); ++i) {
        const double se = want["standard_errors"][keys[i]];
        EXPECT_NEAR(found->parameters[i], want["parameters"][keys[i]].get<double>(), 1e-7 * se) << keys[i];
        expectRelative(keys[i], found->se[i], se, 1e-9);
    }
    expectRelative("potency", found->potency, want["potency"], 1e-10);
    expectRelative("se", found->lnSe, want["standard_errors"]["ln_potency"], 1e-9);
    expectRelative("sse", found->sse, want["sse_weighted"], 1e-11);
    expectRelative("s", found->s, want["residual_sd_weighted"], 1e-11);
    expectPair("interval", found->interval, want["log_delta_limits95"], 1e-10);
    expectPair("profile", found->profile, want["profile_limits95"], 1e-9);
    expectRelative("F", found->f.value_or(0), want["parallelism"]["F"], 1e-8);
    expectRelative("p", found->p.value_or(0), want["parallelism"]["p_value"], 1e-8);
    EXPECT_EQ(found->df1, 3);
    EXPECT_EQ(found->df2, 40);
    ASSERT_TRUE(found->separate);
    for (std::size_t i = 0; i < 2; ++i) {
        const Json& curve = want["separate_curves"][i];
        expectRelative("separate sse", (*found->separate)[i].sse, curve["sse_weighted"], 1e-9);
        expectRelative("separate c", (*found->separate)[i].parameters[2], curve["parameters"]["C"], 1e-7);
    }
}

TEST(Potency, TurnsOverWithThePreparationsAndTheUnit) {
    Bioassay assay = bioassay();
    const auto first = relativePotency(PotencyModel::Logistic4, assay.data(), 0.95);
    for (std::size_t i = 0; i < assay.dose.size(); ++i) {
        assay.isTest[i] = assay.isTest[i] ? 0 : 1;
        assay.dose[i] *= 1000;
    }
    const auto turned = relativePotency(PotencyModel::Logistic4, assay.data(), 0.95);
    ASSERT_TRUE(first && turned);
    EXPECT_NEAR(turned->potency, 1 / first->potency, 1e-9);
    EXPECT_NEAR(turned->profile->first, 1 / first->profile->second, 1e-8);
    EXPECT_NEAR(turned->sse, first->sse, 1e-12);
}

// Lines by hand: responses 1, 2, 3 and 2, 3, 4 at doses 1, e, e^2 lie on lines of slope 1 that are 1 apart: potency e.
TEST(Potency, ParallelLinesByHand) {
    const double e = std::exp(1);
    const std::vector<double> dose{1, e, e * e, 1, e, e * e};
    std::vector<double> response{1, 2, 3, 2, 3, 4};
    const std::vector<char> isTest{0, 0, 0, 1, 1, 1};
    const auto exact = relativePotency(PotencyModel::Line, {dose, response, isTest, {}}, 0.95);
    ASSERT_TRUE(exact) << exact.error().message;
    EXPECT_NEAR(exact->potency, e, 1e-12);
    EXPECT_NEAR(exact->sse, 0, 1e-20);
    // With one reading moved by 0.3: common slope (sum of both Sxy)/(sum of both Sxx) = (2 + 2.3)/4.
    response[5] += 0.3;
    const auto found = relativePotency(PotencyModel::Line, {dose, response, isTest, {}}, 0.95);
    EXPECT_NEAR(found->parameters[1], 1.075, 1e-14);
    EXPECT_NEAR(found->lnPotency, (3.1 - 2) / 1.075, 1e-14);
    EXPECT_EQ(found->df, 3);
    EXPECT_EQ(found->df2, 2);
    // Separate slopes 1 and 1.15; extra sum of squares 2*(0.075^2)*2 for one parameter.
    const double separate = (*found->separate)[0].sse + (*found->separate)[1].sse;
    EXPECT_NEAR(found->sse - separate, 4 * 0.075 * 0.075, 1e-14);
    EXPECT_NEAR(found->f.value_or(0), 4 * 0.075 * 0.075 / (separate / 2), 1e-9);
    ASSERT_TRUE(found->profile);
    EXPECT_LT(found->profile->first, found->potency);
    EXPECT_GT(found->profile->second, found->potency);
}

TEST(Potency, ADoseOfZeroStandsOnTheAsymptote) {
    Bioassay assay = bioassay();
    for (const char isTest : {char{0}, char{1}}) {
        assay.dose.push_back(0);
        assay.response.push_back(0.07);
        assay.isTest.push_back(isTest);
    }
    const auto found = relativePotency(PotencyModel::Logistic4, assay.data(), 0.95);
    ASSERT_TRUE(found) << found.error().message;
    EXPECT_NEAR(found->potency, 1.29, 0.01);
    EXPECT_EQ(relativePotency(PotencyModel::Line, assay.data(), 0.95).error().code, "potency.dose");
}

TEST(Potency, SaysWhatItLacks) {
    const std::vector<double> dose{1, 2, 4, 1}, response{1, 2, 3, 1};
    const std::vector<char> none{0, 0, 0, 1};
    EXPECT_EQ(relativePotency(PotencyModel::Line, {dose, response, none, {}}, 0.95).error().code,
              "potency.too-few-points");
    const std::vector<double> same{2, 2, 2, 2};
    const std::vector<char> both{0, 0, 1, 1};
    EXPECT_EQ(relativePotency(PotencyModel::Line, {same, response, both, {}}, 0.95).error().code,
              "potency.not-determined");
    EXPECT_THROW((void)relativePotency(PotencyModel::Line, {dose, same, std::span(none).first(2), {}}, 0.95),
                 std::invalid_argument);
}

// A rule that is trusted is simulated: 95 % intervals and the 5 % test of parallelism on parallel curves.
TEST(Potency, IntervalsHoldAndParallelCurvesPass) {
    std::mt19937_64 random(7);
    std::normal_distribution<double> normal;
    constexpr int kAssays = 100;
    int held = 0, profiled = 0, refused = 0, made = 0;
    for (int k = 0; k < kAssays; ++k) {
        Bioassay assay = bioassay();
        for (std::size_t i = 0; i < assay.dose.size(); ++i) {
            const double x = assay.dose[i] * (assay.isTest[i] ? 1.27 : 1);
            assay.response[i] = 2.1 - 2.0 / (1 + std::pow(x / 12, 1.3)) + 0.05 * normal(random);
        }
        const auto found = relativePotency(PotencyModel::Logistic4, assay.data(), 0.95);
        if (!found || !found->profile) {
            continue;
        }
        ++made;
        held += found->interval.first <= 1.27 && 1.27 <= found->interval.second ? 1 : 0;
        profiled += found->profile->first <= 1.27 && 1.27 <= found->profile->second ? 1 : 0;
        refused += found->p.value_or(1) < 0.05 ? 1 : 0;
    }
    EXPECT_EQ(made, kAssays);
    EXPECT_NEAR(held, 0.95 * kAssays, 4 * std::sqrt(0.95 * 0.05 * kAssays));
    EXPECT_NEAR(profiled, 0.95 * kAssays, 4 * std::sqrt(0.95 * 0.05 * kAssays));
    EXPECT_NEAR(refused, 0.05 * kAssays, 4 * std::sqrt(0.95 * 0.05 * kAssays));
}

TEST(Dilutions, AsInTheReference) {
    for (const Json& want : referenceJson("several_dilutions.json")["cases"]) {
        std::vector<Dilution> dilutions;
        for (std::size_t i = 0; i < want["measured"].size(); ++i) {
            dilutions.push_back({want["dilution_factors"][i], want["measured"][i], want["standard_uncertainties"][i]});
        }
        const auto found = combineDilutions(dilutions, {want["working_range"][0], want["working_range"][1]});
        ASSERT_TRUE(found);
        ASSERT_EQ(found->used.size(), want["used"].size());
        for (std::size_t i = 0; i < found->used.size(); ++i) {
            EXPECT_EQ(found->used[i] + 1, want["used"][i]);
        }
        for (std::size_t i = 0; i < dilutions.size(); ++i) {
            expectRelative("times factor", found->timesFactor[i], want["times_factor"][i], 1e-12);
        }
        expectRelative("weighted mean", *found->weightedMean, want["weighted_mean"], 1e-12);
        expectRelative("internal", *found->seInternal, want["se_internal"], 1e-12);
        expectRelative("external", *found->seExternal, want["se_external"], 1e-12);
        expectRelative("simple mean", *found->simpleMean, want["simple_mean"], 1e-12);
        expectRelative("chi squared", *found->chiSquared, want["chi_squared"], 1e-11);
        expectRelative("p", *found->p, want["p_value"], 1e-9);
        expectRelative("slope", *found->slope, want["slope_log_log"], 1e-11);
        expectPair("slope interval", found->slopeInterval, want["slope_limits95"], 1e-10);
    }
}

TEST(Dilutions, ReportedAreTheLowestThatAgree) {
    const auto of = [](std::vector<Dilution> dilutions) { return *combineDilutions(dilutions, {0.5, 100}); };
    // The hook of the reference: 610, 1710, 2012.5, 1962.5 and one below the range.
    const auto hook = of({{10, 61, 1.5}, {50, 34.2, 0.8}, {250, 8.05, 0.2}, {1250, 1.57, 0.06}, {6250, 0.21, 0.05}});
    EXPECT_FALSE(hook.agree);
    EXPECT_EQ(hook.reported, (std::vector<std::size_t>{2, 3}));
    EXPECT_NEAR(*hook.value, 1997.1, 0.1);
    ASSERT_EQ(hook.warnings.size(), 1u);
    EXPECT_NE(hook.warnings[0].find("by 10 to that by 50"), std::string::npos) << hook.warnings[0];
    // Given in any order.
    const auto turned = of({{1250, 1.57, 0.06}, {250, 8.05, 0.2}, {10, 61, 1.5}, {50, 34.2, 0.8}});
    EXPECT_EQ(turned.reported, (std::vector<std::size_t>{1, 0}));
    // A large scatter that is no surprise to chi-squared is one to 20 %.
    EXPECT_TRUE(of({{1, 50, 20}, {2, 20, 8}}).agree);
    EXPECT_FALSE(of({{1, 50, 20}, {2, 12, 8}}).agree);
    // No two agree: nothing is reported, and it says so.
    const auto none = of({{1, 90, 1}, {2, 60, 1}, {4, 50, 1}});
    EXPECT_TRUE(none.reported.empty());
    EXPECT_FALSE(none.value);
    EXPECT_NE(none.warnings.at(0).find("to be reviewed"), std::string::npos);
    // The larger SE counts.
    const auto scattered = of({{1, 50, 0.5}, {2, 24.2, 0.25}});
    EXPECT_EQ(*scattered.se, *scattered.seExternal);
    const auto one = of({{1, 500, 1}, {10, 51, 1}});
    EXPECT_EQ(one.reported, (std::vector<std::size_t>{1}));
    EXPECT_EQ(one.warnings.size(), 1u);
    EXPECT_TRUE(of({{1, 500, 1}}).reported.empty());
    EXPECT_EQ(combineDilutions(std::vector<Dilution>{{0, 1, 1}}, {0, 9}).error().code, "dilutions.factor");
    EXPECT_EQ(combineDilutions(std::vector<Dilution>{{1, 1, 0}}, {0, 9}).error().code, "dilutions.se");
    EXPECT_EQ(combineDilutions({}, {0, 9}).error().code, "dilutions.none");
}

// Decision 0018: one rise of 2.05 SE is a warning between two dilutions, and chance among five.
TEST(Dilutions, MoreDilutionsNeedALargerRise) {
    std::vector<Dilution> dilutions{{1, 100, 10}, {2, 66, 6}}; // 100 and 132 are 2.05 SE apart
    EXPECT_TRUE(combineDilutions(dilutions, {0, 1000})->hasHook);
    for (const double factor : {4.0, 8.0, 16.0}) {
        dilutions.push_back({factor, 132 / factor, 12 / factor});
    }
    EXPECT_FALSE(combineDilutions(dilutions, {0, 1000})->hasHook);
    dilutions[0].measured = 80; // 3.3 SE
    EXPECT_TRUE(combineDilutions(dilutions, {0, 1000})->hasHook);
}

TEST(Decisions, AsInTheReference) {
    const Json want = referenceJson("decision_limits.json");
    const std::vector<double> limits{want["limit"]};
    for (const Json& one : want["cases"]) {
        const Decision found =
            decide({one["value"], one["standard_uncertainty"], one["degrees_of_freedom"]}, limits, 0.95);
        EXPECT_EQ(found.byValue, one["by_value"] == "above" ? 1u : 0u) << one;
        expectPair("interval", found.interval, one["interval95"], 1e-12);
        const std::string interval = one["by_interval"];
        EXPECT_EQ(found.isDecided(), !interval.starts_with("not decided")) << one;
        EXPECT_EQ(found.limits[0].isAbove, one["guarded_rejection"] == "above") << one;
        EXPECT_EQ(found.limits[0].isBelow, one["guarded_acceptance"] == "below") << one;
        expectRelative("probability", found.limits[0].probabilityAbove, one["probability_above"], 1e-12);
    }
    const auto limit = cutOff(want["negatives"].get<std::vector<double>>(), want["k"]);
    ASSERT_TRUE(limit);
    expectRelative("cut-off", limit->value, want["cutoff"], 1e-12);
    expectRelative("its SE", limit->se, want["se_cutoff"], 1e-12);
    const std::array<std::string, 3> names{"negative", "borderline", "positive"};
    for (const Json& one : want["index_cases"]) {
        const CutOffIndex found = cutOffIndex({one["value"], one["standard_uncertainty"], INFINITY}, *limit,
                                              {want["grey_zone"][0], want["grey_zone"][1]});
        expectRelative("index", found.index, one["index"], 1e-12);
        expectPair("interval", found.interval, one["interval95_cutoff_fixed"], 1e-7); // 1.959964 there
        expectRelative("se", found.se, one["se_with_uncertain_cutoff"], 1e-12);
        EXPECT_EQ(names[static_cast<std::size_t>(found.byValue)], one["class_by_value"]);
        const std::string interval = one["class_by_interval"];
        EXPECT_EQ(found.lowest == found.highest, !interval.starts_with("not decided"));
        EXPECT_NE(interval.find(names[static_cast<std::size_t>(found.lowest)]), std::string::npos) << interval;
        EXPECT_NE(interval.find(names[static_cast<std::size_t>(found.highest)]), std::string::npos) << interval;
    }
    EXPECT_EQ(cutOff(std::vector<double>{1}, 3).error().code, "decide.too-few-negatives");
}

TEST(Decisions, ClassesOfSeveralLimits) {
    const std::vector<double> limits{10, 25};
    EXPECT_EQ(decide({10, 0, 1}, limits, 0.95).byValue, 0u);
    EXPECT_EQ(decide({10.1, 0, 1}, limits, 0.95).byValue, 1u);
    EXPECT_EQ(decide({25.1, 0, 1}, limits, 0.95).byValue, 2u);
    const Decision wide = decide({17, 6, INFINITY}, limits, 0.95); // 5.2 to 28.8
    EXPECT_EQ(wide.lowest, 0u);
    EXPECT_EQ(wide.highest, 2u);
    EXPECT_TRUE(decide({17, 1, INFINITY}, limits, 0.95).isDecided());
}

TEST(Control, PercentAsInTheReference) {
    const Json want = referenceJson("percent_of_control.json");
    std::map<std::string, std::vector<double>> groups;
    for (const auto& row : test::referenceRows("percent_of_control.csv")) {
        groups[row[0]].push_back(std::stod(row[1]));
    }
    std::vector<std::vector<double>> samples;
    for (const Json& one : want["results"]) {
        samples.push_back(groups.at(one["sample"]));
    }
    const auto found = percentOfControl(groups.at("control"), groups.at("blank"), samples, 0.95);
    const auto plain = percentOfControl(groups.at("control"), {}, samples, 0.95);
    ASSERT_TRUE(found && plain);
    expectRelative("pooled", found->pooledSd, want["pooled_sd"], 1e-12);
    EXPECT_EQ(found->df, want["df"]);
    for (std::size_t i = 0; i < samples.size(); ++i) {
        const Json& one = want["results"][i];
        expectRelative("percent", found->samples[i].percent, one["percent_of_control"], 1e-11);
        expectRelative("se", found->samples[i].se, one["se"], 1e-11);
        expectPair("delta", found->samples[i].deltaLimits, one["delta_limits95"], 1e-10);
        expectPair("fieller", found->samples[i].fiellerLimits, one["fieller_limits95"], 1e-10);
        expectRelative("without blank", plain->samples[i].percent, one["percent_of_control_without_blank"], 1e-12);
    }
    EXPECT_NEAR(
        found->samples[0].percent,
        percentOfControl(groups.at("control"), groups.at("blank"), samples, 0.95, VarianceGrowth::WithMeanSquare)
            ->samples[0]
            .percent,
        1e-12); // how the scatter grows is a matter of the interval
    EXPECT_EQ(percentOfControl({}, {}, samples, 0.95).error().code, "control.too-few");
    const std::vector<double> level{1, 1.1};
    EXPECT_EQ(percentOfControl(level, level, samples, 0.95).error().code, "control.no-range");
}

// By hand: readings of one CV, no blank. The relative SE of the ratio of two means is CV sqrt(1/n + 1/m), and the
// CV is pooled with equal degrees of freedom. Source of the delta method: JCGM 100:2008, 5.1.6.
TEST(Control, PercentWithAConstantCv) {
    const std::vector<double> control{99, 101}, sample{9.9, 10.1};
    const auto found =
        percentOfControl(control, {}, std::vector<std::vector<double>>{sample}, 0.95, VarianceGrowth::WithMeanSquare);
    ASSERT_TRUE(found);
    const double cv = std::sqrt(2.0) / 100; // of 99 and 101 as of 9.9 and 10.1
    EXPECT_NEAR(found->pooledSd, cv, 1e-12);
    EXPECT_EQ(found->df, 2);
    EXPECT_NEAR(found->samples[0].percent, 10, 1e-12);
    EXPECT_NEAR(found->samples[0].se, 10 * cv, 1e-12);
    // Of counts the variance is as the mean: 2/100 and 0.02/10, pooled.
    const auto counts =
        percentOfControl(control, {}, std::vector<std::vector<double>>{sample}, 0.95, VarianceGrowth::WithMean);
    EXPECT_NEAR(counts->pooledSd, std::sqrt((2.0 / 100 + 0.02 / 10) / 2), 1e-12);
}

TEST(MedianPolish, AsBaseR) {
    const Json json = referenceJson("median_polish.json");
    std::vector<std::optional<double>> values;
    for (const auto& row : test::referenceRows("median_polish_plate.csv")) {
        for (std::size_t i = 1; i < row.size(); ++i) {
            values.push_back(std::stod(row[i]));
        }
    }
    const double largest = 2.304;
    for (const auto& [key, end] : {std::pair("default", PolishEnd{}), std::pair("converged", PolishEnd{1e-12, 500})}) {
        const Json& want = json[key];
        const MedianPolish found = medianPolish(values, 8, 12, end);
        EXPECT_EQ(found.rounds, want["iterations"]);
        EXPECT_NEAR(found.overall, want["overall"].get<double>(), 1e-12 * largest);
        EXPECT_NEAR(found.scaledMad, want["scaled_mad"].get<double>(), 1e-12 * largest);
        for (std::size_t row = 0; row < 8; ++row) {
            EXPECT_NEAR(found.rows[row], want["rows"][row].get<double>(), 1e-12 * largest);
            for (std::size_t column = 0; column < 12; ++column) {
                EXPECT_NEAR(found.residuals[12 * row + column].value_or(9),
                            want["residuals"][row][column].get<double>(), 1e-12 * largest);
                EXPECT_NEAR(found.scores[12 * row + column].value_or(99), want["b_scores"][row][column].get<double>(),
                            1e-9);
            }
        }
    }
    // An empty well is left out of the medians; a plate of rows and columns alone leaves nothing over.
    const MedianPolish sums = medianPolish({1, 2, 3, 2, 3, 4, 5, 6, std::nullopt}, 3, 3);
    EXPECT_FALSE(sums.residuals[8]);
    for (std::size_t i = 0; i < 8; ++i) {
        EXPECT_NEAR(*sums.residuals[i], 0, 1e-15);
    }
    EXPECT_FALSE(sums.scores[0]) << "without scatter there is no score";
    EXPECT_THROW((void)medianPolish({1, 2}, 3, 3), std::invalid_argument);
}

TEST(BestSubset, AsInTheReference) {
    for (const Json& want : referenceJson("best_of.json")["cases"]) {
        const auto values = want["values"].get<std::vector<double>>();
        const auto kept = bestSubset(values, want["n"]);
        std::vector<double> subset;
        std::vector<std::size_t> numbers;
        for (const std::size_t i : kept) {
            subset.push_back(values[i]);
            numbers.push_back(i + 1);
        }
        EXPECT_EQ(Json(numbers), want["best_by_sd"]);
        expectRelative("mean", *describe(subset).mean, want["mean"], 1e-12);
        expectRelative("sd", *describe(subset).sd, want["sd"], 1e-12);
    }
}

} // namespace
} // namespace nuvat
