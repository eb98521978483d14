// Areas to any line, tangents and lines between markers against exact rational arithmetic on the text of the files.
#include "nuvat/core/base/units.h"
#include "nuvat/core/fit/standard_addition.h"
#include "nuvat/core/signal/normalise.h"
#include "nuvat/core/signal/peaks.h"
#include "support/reference.h"

#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::referenceColumns;
using test::referenceJson;
using Json = nlohmann::json;

struct Curve {
    Json want;
    Sweep sweep;
    double volts = 1; ///< of one unit of the file's potential
};

Curve squareWave() {
    const auto columns = referenceColumns("square_wave.csv");
    std::vector<double> net = columns.at("forward_current_uA");
    for (std::size_t i = 0; i < net.size(); ++i) {
        net[i] -= columns.at("reverse_current_uA")[i];
    }
    return {referenceJson("square_wave.json"), cutSweeps(columns.at("potential_V"), net).at(0), 1};
}

Curve linearSweep() {
    const auto columns = referenceColumns("linear_sweep_reduction.csv");
    const auto sweeps = cutSweeps(columns.at("potential_mV"), columns.at("current_uA"));
    EXPECT_EQ(sweeps.size(), 1u);
    EXPECT_FALSE(sweeps[0].isRising) << "the file runs from high to low potential";
    return {referenceJson("linear_sweep_reduction.json"), sweeps.at(0), 1e-3};
}

void expectNear(const std::string& what, double got, double want, double tolerance) {
    EXPECT_LE(std::abs(got - want), tolerance) << what << " is " << got << ", expected " << want;
}

void expectLines(const Curve& curve) {
    for (const Json& line : curve.want["lines"]) {
        SCOPED_TRACE(line["line"].get<std::string>());
        PeakRules rules;
        rules.line = BaseLine{line["point_1"]["potential"], line["point_1"]["current"], line["point_2"]["potential"],
                              line["point_2"]["current"]};
        const auto features = measurePeaks(curve.sweep.x, curve.sweep.y, rules);
        ASSERT_TRUE(features) << features.error().message;
        const Peak& peak = features->peaks.at(0);
        const double absolute = line["absolute_area_in_current_unit_V"];
        expectNear("area", peak.area * curve.volts, line["signed_area_in_current_unit_V"], 1e-12 * absolute);
        expectNear("above", peak.areaAbove * curve.volts, line["above_area_in_current_unit_V"], 1e-12 * absolute);
        expectNear("below", peak.areaBelow * curve.volts, line["below_area_in_current_unit_V"], 1e-12 * absolute);
        const std::vector<double> crossings = line["crossing_potentials"];
        ASSERT_EQ(peak.crossings.size(), crossings.size());
        for (std::size_t i = 0; i < crossings.size(); ++i) {
            expectNear("crossing", peak.crossings[i], crossings[i], 1e-9 / curve.volts);
        }
    }
}

void expectTangent(const Curve& curve) {
    const Json& want = curve.want["tangent_base_line"];
    PeakRules rules;
    rules.given = {{want["window"][0], want["window"][1]}};
    rules.baseline.kind = BaselineKind::Tangent;
    const auto features = measurePeaks(curve.sweep.x, curve.sweep.y, rules);
    ASSERT_TRUE(features) << features.error().message;
    const Peak& peak = features->peaks.at(0);
    EXPECT_EQ(peak.start, want["tangent_points"][0]["potential"].get<double>());
    EXPECT_EQ(peak.end, want["tangent_points"][1]["potential"].get<double>());
    const double height = want["largest_height_above_line"];
    expectNear("height", peak.heightSample, height, 1e-12 * height);
    EXPECT_EQ(peak.xSample, want["potential_of_largest_height"].get<double>());
    expectNear("parabola", peak.apexSignal, want["parabola_potential"], 1e-9 / curve.volts);
    expectNear("its current", peak.apexSignalY, want["parabola_current"], 1e-8);
    const double area = want["signed_area_in_current_unit_V"];
    expectNear("area", peak.area * curve.volts, area, 1e-12 * std::abs(area));
}

void expectFittedLines(const Curve& curve) {
    std::vector<double> volts = curve.sweep.x;
    for (double& x : volts) {
        x *= curve.volts;
    }
    for (const Json& want : curve.want["fitted_lines"]) {
        const auto line = lineBetween(volts, curve.sweep.y, {want["markers"][0], want["markers"][1]}, curve.sweep.x);
        ASSERT_TRUE(line);
        EXPECT_EQ(line->n, want["points"].get<std::size_t>());
        const auto expectDigits = [&](const char* key, double got) {
            expectNear(key, got, want[key], 1e-10 * std::abs(want[key].get<double>()));
        };
        expectDigits("slope_in_current_unit_per_V", line->b);
        expectDigits("intercept", line->a);
        expectDigits("se_slope", line->seB);
        expectDigits("se_intercept", line->seA);
        expectDigits("r_squared", line->rSquared);
        expectDigits("residual_sd", line->s);
    }
}

TEST(Voltammetry, AreasToAnyLineAreExact) {
    expectLines(squareWave());
    expectLines(linearSweep());
}

TEST(Voltammetry, TheTangentTouchesOnBothSides) {
    expectTangent(squareWave());
    expectTangent(linearSweep());
}

TEST(Voltammetry, LinesBetweenMarkers) {
    expectFittedLines(squareWave());
    expectFittedLines(linearSweep());
}

TEST(Voltammetry, LinesThatAreNoneAreRefused) {
    const Curve curve = squareWave();
    for (const auto& [line, code] : {std::pair(BaseLine{-0.95, 0, -0.95, 1}, "peaks.same-x"),
                                     std::pair(BaseLine{-1.05, 0, -0.2, 0}, "peaks.outside")}) {
        PeakRules rules;
        rules.line = line;
        const auto features = measurePeaks(curve.sweep.x, curve.sweep.y, rules);
        ASSERT_FALSE(features);
        EXPECT_EQ(features.error().code, code);
    }
}

// Charge by trapezoids over time, background as the mean of the last tenth, current against 1/sqrt(t).
TEST(Voltammetry, Chronoamperometry) {
    const auto columns = referenceColumns("chronoamperometry.csv");
    const Json want = referenceJson("chronoamperometry.json")["expected"];
    const auto& t = columns.at("time_s");
    const auto& current = columns.at("current_uA");
    const auto charge = [&](Stretch stretch, BaselineRule baseline) {
        PeakRules rules;
        rules.given = {stretch};
        rules.baseline = std::move(baseline);
        const auto features = measurePeaks(t, current, rules);
        EXPECT_TRUE(features) << (features ? "" : features.error().message);
        return features->peaks.at(0).area;
    };
    const Stretch markers{want["markers_s"][0], want["markers_s"][1]};
    const double end = t.back(), tenth = end - (end - t.front()) / 10;
    expectNear("whole", charge({t.front(), end}, {.kind = BaselineKind::None}), want["charge_whole"], 1e-10);
    expectNear("between", charge(markers, {.kind = BaselineKind::None}), want["charge_between_markers"], 1e-10);
    expectNear("background taken off", charge(markers, {.kind = BaselineKind::Level, .through = {{tenth, end}}}),
               want["charge_between_markers_background_corrected"], 1e-10);
    std::vector<double> inverseRoot;
    for (const double time : t) {
        inverseRoot.push_back(1 / std::sqrt(time));
    }
    const auto line = lineBetween(inverseRoot, current, {0.1, 2}, t);
    ASSERT_TRUE(line);
    const Json& fitted = want["current_against_inverse_root_time"];
    EXPECT_EQ(line->n, fitted["n"].get<std::size_t>());
    expectNear("slope", line->b, fitted["slope"], 1e-9);
    expectNear("intercept", line->a, fitted["intercept"], 1e-10);
    expectNear("covariance", line->covariance, fitted["covariance"], 1e-14);
}

TEST(Voltammetry, ABackgroundThatBends) {
    const Json want = referenceJson("voltammogram_cubic_baseline_falling.json")["windows"][0];
    const auto columns = referenceColumns("voltammogram_cubic_baseline_falling.csv");
    const Sweep sweep = cutSweeps(columns.at("potential_V"), columns.at("current_uA")).at(0);
    PeakRules rules;
    rules.baseline = {.kind = BaselineKind::Polynomial, .order = 3, .through = {{-0.2, 0.0}, {0.36, 0.6}}};
    const auto features = measurePeaks(sweep.x, sweep.y, rules);
    ASSERT_TRUE(features) << features.error().message;
    ASSERT_EQ(features->peaks.size(), 1u);
    // The background is a cubic: the polynomial through what is no peak gives the true area.
    const double area = want["true_peak_area_above_the_curved_baseline_uA_V"];
    expectNear("area", features->peaks[0].area, area, 1e-3 * area);
}

// Heights above the tangent base line of the whole trace, and the content with its limits.
TEST(Voltammetry, StandardAdditionFromTraces) {
    const Json want = referenceJson("voltammetric_addition.json");
    const auto columns = referenceColumns("standard_addition_traces.csv");
    const auto& x = columns.at("potential_V");
    std::vector<double> heights;
    for (std::size_t i = 0; i < want["columns"].size(); ++i) {
        PeakRules rules;
        rules.baseline.kind = BaselineKind::Tangent;
        const auto features = measurePeaks(x, columns.at(want["columns"][i]), rules);
        ASSERT_TRUE(features);
        ASSERT_EQ(features->peaks.size(), 1u) << want["columns"][i];
        const double height = want["heights_uA"][i];
        expectNear("height", features->peaks[0].heightSample, height, 1e-12 * height);
        heights.push_back(features->peaks[0].heightSample);
    }
    const double volume = want["volume_mL"];
    std::vector<double> added;
    for (std::size_t i = 0; i < heights.size(); ++i) {
        const double v = want["additions_mL"][i / want["replicates"].get<std::size_t>()];
        added.push_back(v * want["standard_concentration"].get<double>() / volume);
        heights[i] *= (volume + v) / volume;
    }
    const auto content = standardAddition(added, heights, 0.95);
    ASSERT_TRUE(content);
    expectNear("content", content->content, want["content"], 1e-9 * want["content"].get<double>());
    expectNear("its SE", content->se, want["se_content"], 1e-9 * want["se_content"].get<double>());
    ASSERT_TRUE(content->fiellerLimits);
    expectNear("lower", content->fiellerLimits->first, want["fieller_limits95"][0], 1e-9);
    expectNear("upper", content->fiellerLimits->second, want["fieller_limits95"][1], 1e-9);
}

TEST(StandardAddition, SmallCalculations) {
    const Json want = referenceJson("small_calculations.json")["standard_addition"];
    std::vector<double> added, response;
    for (const Json& point : want["data"]) {
        added.push_back(point[0]);
        response.push_back(point[1]);
    }
    const auto out = standardAddition(added, response, 0.95);
    ASSERT_TRUE(out);
    const auto expectDigits = [&](const char* key, double got) {
        expectNear(key, got, want[key], 1e-10 * std::abs(want[key].get<double>()));
    };
    expectDigits("intercept", out->a);
    expectDigits("slope", out->b);
    expectDigits("content", out->content);
    expectDigits("se_content", out->se);
    expectDigits("covariance", out->covariance);
    expectNear("delta", out->deltaLimits.first, want["delta_limits95"][0], 1e-9);
    expectNear("Fieller", out->fiellerLimits->second, want["fieller_limits95"][1], 1e-9);
    EXPECT_FALSE(standardAddition(std::vector<double>{1, 1, 1}, std::vector<double>{1, 2, 3}, 0.95));
    // A slope that noise could have made: Fieller's limits are not finite, and none are given.
    const auto flat = standardAddition(std::vector<double>{0, 1, 2, 3}, std::vector<double>{1, 3, 0.5, 2}, 0.95);
    ASSERT_TRUE(flat);
    EXPECT_FALSE(flat->fiellerLimits);
}

TEST(Normalise, SharesOfTheTotal) {
    const Json want = referenceJson("small_calculations.json")["area_normalisation"];
    const std::vector<double> areas = want["areas"], factors = want["response_factors"];
    const std::vector<std::size_t> ignored{0}; // numbered from 1 in the source
    const auto out = normalise(areas, factors, ignored);
    ASSERT_TRUE(out);
    EXPECT_FALSE((*out)[0].percent);
    for (std::size_t i = 1; i < areas.size(); ++i) {
        expectNear("area", *(*out)[i].areaPercent, want["area_percent_without_ignored"][i], 1e-9);
        expectNear("with factors", *(*out)[i].percent, want["normalised_with_factors"][i], 1e-9);
    }
    EXPECT_EQ(normalise(std::vector<double>{0, 0}, {}, {}).error().code, "normalise.no-area");
}

TEST(Units, ConversionsAreExact) {
    for (const auto& row : test::referenceRows("unit_conversions.csv")) {
        const auto got = converted(std::stod(row[1]), row[2], row[4]);
        ASSERT_TRUE(got) << row[2] << ": " << got.error().message;
        const double want = std::stod(row[3]);
        EXPECT_LE(std::abs(*got - want), 1e-15 * std::abs(want)) << row[2] << " to " << row[4];
    }
    EXPECT_EQ(converted(1, "uA", "uC").error().code, "unit.different");
    EXPECT_EQ(converted(1, "mg/L", "mmol/L").error().code, "unit.molar-mass");
    EXPECT_DOUBLE_EQ(*converted(92.14, "mg/L", "mmol/L", 46.07), 2);
    EXPECT_DOUBLE_EQ(*converted(2, "mmol/L", "mg/L", 46.07), 92.14);
    EXPECT_EQ(converted(1, "furlong", "m").error().code, "unit.unknown");
    EXPECT_EQ(converted(1, "mmin", "s").error().code, "unit.unknown");
}

TEST(Units, HeadingsSayTheirUnit) {
    const auto parts = [](std::string_view heading) {
        const HeadingParts out = headingParts(heading);
        return std::string(out.name) + "|" + std::string(out.unit);
    };
    EXPECT_EQ(parts("time_s"), "time|s");
    EXPECT_EQ(parts("current / mA"), "current|mA");
    EXPECT_EQ(parts("potential (V)"), "potential|V");
    EXPECT_EQ(parts("signal, mV"), "signal|mV");
    EXPECT_EQ(parts("detector_1"), "detector_1|");
    EXPECT_EQ(parts("add_0.1_mL_1_uA"), "add_0.1_mL_1|uA");
    EXPECT_EQ(parts("peak_area"), "peak_area|");
}

} // namespace
} // namespace nuvat
