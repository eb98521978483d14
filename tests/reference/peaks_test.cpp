// Peaks of chromatograms against values from the functions that define them. Each JSON in data/ names its source.
#include "nuvat/core/signal/peaks.h"
#include "support/reference.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::referenceColumns;
using test::referenceJson;
using Json = nlohmann::json;

constexpr double kSums = 1e-10; // stated: exact for the numbers in the CSV

struct Trace {
    std::vector<double> x, y;
};

Trace traceOf(const std::string& file, const std::string& x = "time_s", const std::string& y = "signal") {
    const auto columns = referenceColumns(file);
    return {columns.at(x), columns.at(y)};
}

std::vector<Peak> peaksOf(const Trace& trace, const PeakRules& rules = {}) {
    const auto out = measurePeaks(trace.x, trace.y, rules);
    EXPECT_TRUE(out.has_value()) << (out ? "" : out.error().message);
    return out ? out->peaks : std::vector<Peak>();
}

PeakRules given(double from, double to, BaselineKind baseline = BaselineKind::Straight) {
    PeakRules rules;
    rules.given = {{from, to}};
    rules.baseline.kind = baseline;
    return rules;
}

void expectNear(const std::string& what, std::optional<double> got, double want, double tolerance) {
    ASSERT_TRUE(got.has_value()) << what;
    EXPECT_LE(std::abs(*got - want), tolerance * std::abs(want)) << what << " is " << *got << ", expected " << want;
}

// Sums over a stated window are exact for the numbers in the file, on every baseline, with and without noise.
TEST(PeakReference, AreasOverAWindowAreExact) {
    const Json want = referenceJson("single_emg.json");
    const double from = want["integration_window"][0], to = want["integration_window"][1];
    int tried = 0;
    for (const Json& trace : want["traces"]) {
        const std::string file = trace["file"];
        if (!std::filesystem::exists(test::referenceFile(file))) {
            continue;
        }
        SCOPED_TRACE(file);
        const Trace data = traceOf(file);
        const Peak chord = peaksOf(data, given(from, to)).at(0);
        expectNear("area above the chord", chord.area, trace["trapezoid_above_chord"], kSums);
        expectNear("largest sample", chord.heightSample, trace["max_sample_above_chord"], kSums);
        EXPECT_DOUBLE_EQ(chord.xSample, trace["time_of_max_sample"].get<double>());
        expectNear("area above zero", peaksOf(data, given(from, to, BaselineKind::None)).at(0).area,
                   trace["trapezoid_above_zero"], kSums);
        ++tried;
    }
    EXPECT_EQ(tried, 4);
}

// Stated for clean traces with five points or more across the width at half height: area 1e-5, apex 0.05 of a step,
// widths 0.2 %, tailing and plates 0.5 %.
TEST(PeakReference, AFoundPeakHasTheShapeOfItsFunction) {
    const Json want = referenceJson("single_emg.json")["peak_metrics"];
    for (const std::string file : {"single_emg_10hz.csv", "single_emg_10hz_slope.csv"}) {
        SCOPED_TRACE(file);
        const auto peaks = peaksOf(traceOf(file));
        ASSERT_EQ(peaks.size(), 1u);
        const Peak& peak = peaks[0];
        expectNear("area", peak.area, want["area"], 1e-5);
        EXPECT_NEAR(peak.apex, want["apex_time"].get<double>(), 0.05 * 0.1);
        expectNear("height", peak.height, want["height"], 1e-6);
        expectNear("width at 50 %", peak.width50, want["width_50"], 2e-3);
        expectNear("width at 10 %", peak.width10, want["width_10"], 2e-3);
        expectNear("width at 5 %", peak.width5, want["width_5"], 2e-3);
        expectNear("base width", peak.widthBase, want["tangent_base_width"], 2e-3);
        expectNear("asymmetry", peak.asymmetry10, want["asymmetry_10"], 5e-3);
        expectNear("tailing", peak.tailing5, want["usp_tailing_5"], 5e-3);
        expectNear("plates", peak.platesHalf, want["plates_half_height_5.54"], 5e-3);
        expectNear("plates of the tangents", peak.platesBase, want["plates_tangent_16"], 5e-3);
        EXPECT_TRUE(peak.remarks.empty());
    }
}

// Stated for noise: four times the SD of the area.
TEST(PeakReference, NoiseCostsNoMoreThanItMust) {
    const Json all = referenceJson("single_emg.json");
    const Json& noisy = all["traces"][2];
    const Trace trace = traceOf(noisy["file"]);
    const auto peaks = peaksOf(trace);
    ASSERT_EQ(peaks.size(), 1u);
    EXPECT_NEAR(peaks[0].area, all["peak_metrics"]["area"].get<double>(),
                4 * noisy["sd_of_the_chord_area_due_to_noise"].get<double>());
    const auto blank = blankStretch(trace.x, trace.y, {noisy["noise_window"][0], noisy["noise_window"][1]});
    ASSERT_TRUE(blank);
    EXPECT_EQ(blank->n, noisy["noise_points"].get<std::size_t>());
    expectNear("SD about the line", blank->sdAboutLine, noisy["noise_sd_about_fitted_line"], kSums);
    expectNear("peak to peak", blank->peakToPeakAboutLine, noisy["noise_peak_to_peak_about_fitted_line"], kSums);
    expectNear("drift", blank->drift, noisy["drift_slope"], kSums);
    // The noise was made with SD 0.02; 801 samples leave 5 % to the median of differences.
    EXPECT_NEAR(noiseOf(trace.y).sigma, 0.02, 0.0025);
}

TEST(PeakReference, AnOverlappingPairIsPartedAtItsValley) {
    const Json want = referenceJson("pair_four_to_one_tailing.json");
    const Trace trace = traceOf("pair_four_to_one_tailing.csv");
    const auto peaks = peaksOf(trace);
    ASSERT_EQ(peaks.size(), 2u);
    for (std::size_t i = 0; i < 2; ++i) {
        expectNear("area", peaks[i].area, want["perpendicular_drop_zero_baseline"][i], 1e-5);
        EXPECT_NEAR(peaks[i].apex, want["apexes_of_the_sum"][i].get<double>(), 0.05 * 0.25);
        expectNear("height", peaks[i].height, want["heights_of_the_sum"][i], 1e-5);
        EXPECT_EQ(peaks[i].split, PeakSplit::Drop);
    }
    EXPECT_EQ(peaks[0].end, peaks[1].start);
    EXPECT_NEAR(peaks[0].end, want["valley_time"].get<double>(), 0.001);
    EXPECT_FALSE(peaks[0].peakToValley);
    expectNear("peak to valley", peaks[1].peakToValley, want["peak_to_valley_ratio"], 2e-3);
    EXPECT_FALSE(peaks[0].width5) << "the drop cuts it above 5 %";
    // Over the samples themselves.
    const double drop = want["sampled"]["drop_at_sample"];
    const Peak left = peaksOf(trace, given(want["window"][0], drop)).at(0);
    const Peak right = peaksOf(trace, given(drop, want["window"][1])).at(0);
    expectNear("left", left.area, want["sampled"]["left"]["trapezoid_above_chord"], kSums);
    expectNear("right", right.area, want["sampled"]["right"]["trapezoid_above_chord"], kSums);
}

// Stated: double tangent 2e-3, tangent from the valley 1e-3 (the front of a solvent is steeper: 2e-3), exponential 2 %.
TEST(PeakReference, RidersAreSkimmedFromTheirTail) {
    for (const std::string name : {"rider_on_tail", "solvent_front"}) {
        SCOPED_TRACE(name);
        const Json want = referenceJson(name + ".json");
        const Trace trace = traceOf(name + ".csv");
        const std::vector<std::tuple<SkimKind, std::string, double>> kinds{
            {SkimKind::Tangent, "tangent_from_valley", 2e-3},
            {SkimKind::DoubleTangent, "double_tangent", 2e-3},
            {SkimKind::Exponential, "exponential_skim", 2e-2}};
        for (const auto& [kind, key, tolerance] : kinds) {
            PeakRules rules;
            rules.skim = kind;
            rules.baseline.kind = BaselineKind::None;
            const auto peaks = peaksOf(trace, rules);
            ASSERT_EQ(peaks.size(), want["riders"].size() + 1) << key;
            double sum = peaks[0].area;
            for (std::size_t i = 0; i < want["riders"].size(); ++i) {
                EXPECT_EQ(peaks[i + 1].split, PeakSplit::Skim);
                expectNear(key, peaks[i + 1].area, want["riders"][i][key]["area"], tolerance);
                sum += peaks[i + 1].area;
            }
            // The parent keeps its area less what is skimmed: nothing is lost or counted twice.
            const Peak whole = peaksOf(trace, given(peaks[0].start, peaks[0].end, BaselineKind::None)).at(0);
            EXPECT_NEAR(sum, whole.area, 1e-9 * whole.area) << key;
        }
    }
}

TEST(PeakReference, ARiderIsDroppedWhereItIsNotMuchSmaller) {
    PeakRules rules;
    rules.skim = SkimKind::Tangent;
    rules.skimRatio = 1000;
    rules.baseline.kind = BaselineKind::None;
    const auto peaks = peaksOf(traceOf("rider_on_tail.csv"), rules);
    ASSERT_EQ(peaks.size(), 2u);
    EXPECT_EQ(peaks[1].split, PeakSplit::Drop);
    expectNear("area", peaks[1].area,
               referenceJson("rider_on_tail.json")["riders"][0]["perpendicular_drop_to_zero"]["area"], 1e-3);
}

// Stated: the second minimum of the second derivative within two steps; the drop at the inflection before it.
TEST(PeakReference, AShoulderIsFoundOnRequest) {
    const Json want = referenceJson("shoulder.json");
    const Trace trace = traceOf("shoulder.csv");
    EXPECT_EQ(peaksOf(trace).size(), 1u);
    PeakRules rules;
    rules.hasShoulders = true;
    const auto peaks = peaksOf(trace, rules);
    ASSERT_EQ(peaks.size(), 2u);
    EXPECT_NEAR(peaks[0].end, want["flattest_inflection_between_apex_and_shoulder"].get<double>(), 0.1);
    expectNear("area", peaks[0].area, want["drop_at_that_time"][0], 5e-3);
    expectNear("total", peaks[0].area + peaks[1].area, want["total_area"], 1e-6);
}

// Stated: apex 0.05 of a step, widths 0.2 %, tailing, asymmetry, plates and resolution 0.5 %, areas 1e-3.
TEST(PeakReference, SystemSuitability) {
    const Json want = referenceJson("suitability.json");
    PeakRules rules;
    rules.deadTime = want["dead_time"].get<double>();
    const auto peaks = peaksOf(traceOf("suitability.csv", "time_s", "signal_mV"), rules);
    ASSERT_EQ(peaks.size(), 3u);
    for (std::size_t i = 0; i < 3; ++i) {
        SCOPED_TRACE(i);
        const Json& one = want["peaks"][i];
        EXPECT_NEAR(peaks[i].apex, one["retention_time"].get<double>(), 0.05 * 0.1);
        expectNear("area", peaks[i].area, one["area"], 1e-3);
        expectNear("width at 50 %", peaks[i].width50, one["w_50"], 2e-3);
        expectNear("width at 5 %", peaks[i].width5, one["w_05"], 2e-3);
        expectNear("base width", peaks[i].widthBase, one["w_base_tangent"], 2e-3);
        expectNear("plates", peaks[i].platesHalf, one["plates_half_width"], 5e-3);
        expectNear("plates of the tangents", peaks[i].platesBase, one["plates_base_width"], 5e-3);
        expectNear("tailing", peaks[i].tailing5, one["tailing_5_percent"], 5e-3);
        expectNear("asymmetry", peaks[i].asymmetry10, one["asymmetry_10_percent"], 5e-3);
        expectNear("retention factor", peaks[i].retentionFactor, one["capacity_factor"], 1e-3);
    }
    for (std::size_t i = 0; i < 2; ++i) {
        expectNear("resolution", peaks[i + 1].resolutionHalf, want["pairs"][i]["resolution_half_width_1_18"], 5e-3);
        expectNear("resolution of the tangents", peaks[i + 1].resolutionBase, want["pairs"][i]["resolution_base_width"],
                   5e-3);
    }
}

// Stated: heights of the sum four SDs of the noise and 0.5 %, apex times a fifth of the width, areas four SDs and
// 0.5 %, the rider six SDs and 5 %.
TEST(PeakReference, AChromatogramWithEverythingInIt) {
    const Json run = referenceJson("traces.json")["chromatograms"][0];
    for (const Json& detector : run["detectors"]) {
        const std::string column = "detector_" + std::to_string(detector["detector"].get<int>()) + "_mV";
        SCOPED_TRACE(column);
        const double noise = detector["noise_sd"];
        const Trace trace = traceOf("trace_04_level_3.csv", "time_s", column);
        auto peaks = peaksOf(trace);
        std::erase_if(peaks, [](const Peak& peak) { return peak.apex < 80; }); // the solvent
        ASSERT_EQ(peaks.size(), 4u);
        const Json& pair = detector["pair"];
        for (std::size_t i = 0; i < 2; ++i) {
            const double height = pair["heights_of_the_sum_above_true_baseline"][i];
            EXPECT_NEAR(peaks[i + 2].height, height, 4 * noise + 0.005 * height);
            EXPECT_NEAR(peaks[i + 2].apex, pair["apex_times_of_the_sum"][i].get<double>(), 0.2 * 9);
        }
        const double height = detector["peaks"][0]["height"];
        EXPECT_NEAR(peaks[0].height, height, 4 * noise + 0.005 * height);
        PeakRules window;
        window.ignored = {{-1, pair["window"][0]}, {pair["window"][1], 1000}};
        const auto two = peaksOf(trace, window);
        ASSERT_EQ(two.size(), 2u);
        for (std::size_t i = 0; i < 2; ++i) {
            const double area = pair["drop_areas_above_chord_of_window"][i];
            EXPECT_NEAR(two[i].area, area, 4 * pair["sd_of_each_area_due_to_noise"][i].get<double>() + 0.005 * area);
        }
        PeakRules skim;
        skim.skim = SkimKind::Tangent;
        skim.skimRatio = 5;
        const auto skimmed = peaksOf(trace, skim);
        const double at = detector["rider"]["apex_time_of_the_signal"];
        const auto rider = std::ranges::find_if(
            skimmed, [&](const Peak& peak) { return peak.split == PeakSplit::Skim && std::abs(peak.apex - at) < 2; });
        ASSERT_NE(rider, skimmed.end());
        const double area = detector["rider"]["tangent_skim_area"];
        const double sd = detector["peaks"][1]["sd_of_area_due_to_noise_over_4_w50"];
        EXPECT_NEAR(rider->area, area, 6 * sd + 0.05 * area);
    }
}

} // namespace
} // namespace nuvat
