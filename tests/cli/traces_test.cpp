// nuvat-cli peaks, line, addition, normalise, convert: what a script gets to see.
#include "support/reference.h"
#include "support/run_command.h"

#include <cmath>
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace nuvat {
namespace {

using Json = nlohmann::json;
using test::run;

std::string reference(const std::string& name) {
    return test::referenceFile(name).string();
}

Json answer(const std::vector<std::string>& arguments, int status = 0) {
    const auto ran = run(arguments);
    EXPECT_EQ(ran.status, status) << ran.err;
    return Json::parse(ran.out, nullptr, false);
}

TEST(PeaksCommand, ChargeAboveATangentFromAFormulaOfColumns) {
    const Json want = test::referenceJson("square_wave.json")["tangent_base_line"];
    const Json got = answer({"peaks", "--in", reference("square_wave.csv"), "--x", "potential_V", "--y",
                             "forward_current - reverse_current", "--peak", "-0.72:-0.44", "--baseline", "tangent",
                             "--scan-rate", "0.1"});
    ASSERT_EQ(got["peaks"].size(), 1u);
    const Json& peak = got["peaks"][0];
    EXPECT_EQ(got["x"]["unit"], "V");
    EXPECT_EQ(got["y"]["unit"], "uA");
    const double charge = want["charge_uC"].get<double>() * 1e-6;
    EXPECT_NEAR(peak["charge"].get<double>(), charge, 1e-12 * charge);
    EXPECT_EQ(peak["split"], "none");
    EXPECT_TRUE(peak["signalToNoise"].is_null());
    EXPECT_TRUE(peak["retentionFactor"].is_null());
}

TEST(PeaksCommand, AFallingSweepInMillivolts) {
    const Json want = test::referenceJson("linear_sweep_reduction.json");
    const Json line = want["lines"][0];
    const auto number = [](const Json& value) { return std::to_string(value.get<double>()); };
    const std::vector<std::string> call{
        "peaks",
        "--in",
        reference("linear_sweep_reduction.csv"),
        "--scan-rate",
        "0.05",
        "--line",
        number(line["point_1"]["potential"]) + "," + number(line["point_1"]["current"]) + "," +
            number(line["point_2"]["potential"]) + "," + number(line["point_2"]["current"])};
    const Json peak = answer(call)["peaks"][0];
    const double absolute = line["charge_uC_from_absolute"].get<double>() * 1e-6;
    EXPECT_NEAR(peak["charge"].get<double>(), line["charge_uC_from_signed"].get<double>() * 1e-6, 1e-12 * absolute);
    EXPECT_NEAR(peak["chargeAbsolute"].get<double>(), absolute, 1e-12 * absolute);
    EXPECT_TRUE(peak["negative"].get<bool>());
    auto turned = call;
    turned.push_back("--cathodic-positive");
    turned[6] = "20,1.15566,360,1.29526";
    EXPECT_NEAR(answer(turned)["peaks"][0]["charge"].get<double>(), -peak["charge"].get<double>(), 1e-12 * absolute);
}

TEST(PeaksCommand, SignalToNoiseFromABlank) {
    const Json want = test::referenceJson("suitability.json")["signal_to_noise"];
    const Json got = answer({"peaks", "--in", reference("suitability_noise.csv"), "--x", "time_s", "--y", "sample_mV",
                             "--blank", reference("suitability_noise.csv") + ":blank_mV", "--noise", "58.8:181.2",
                             "--noise-baseline", "60:100", "--peak", "107.755:132.245"});
    EXPECT_NEAR(got["peaks"][0]["signalToNoise"].get<double>(), want["signal_to_noise_2H_over_h"].get<double>(), 1e-9);
    EXPECT_NEAR(got["noise"]["peakToPeak"].get<double>(), want["h_peak_to_peak"].get<double>(), 1e-12);
    EXPECT_NEAR(got["noise"]["sd"].get<double>(), want["blank_sd"].get<double>(), 1e-12);
    const Json about = answer({"peaks", "--in", reference("single_emg_10hz_slope_noise.csv"), "--noise", "80:95",
                               "--noise-baseline", "line"});
    const Json line = test::referenceJson("single_emg.json")["traces"][2];
    EXPECT_NEAR(about["peaks"][0]["signalToNoise"].get<double>(),
                line["signal_to_noise_2H_over_peak_to_peak"].get<double>(), 1e-8);
}

TEST(PeaksCommand, FindsWhatTheOptionsSay) {
    const auto count = [](std::vector<std::string> more) {
        std::vector<std::string> call{"peaks", "--in", reference("suitability.csv")};
        call.insert(call.end(), more.begin(), more.end());
        return answer(call)["peaks"].size();
    };
    EXPECT_EQ(count({}), 3u);
    EXPECT_EQ(count({"--ignore", "0:130"}), 2u);
    EXPECT_EQ(count({"--ignore", "0:130", "--ignore", "155:300"}), 1u);
    EXPECT_EQ(count({"--least-height", "5"}), 2u);
    EXPECT_EQ(count({"--least-area", "50"}), 1u);
    EXPECT_EQ(count({"--least-width", "8"}), 1u);
    EXPECT_EQ(count({"--smooth", "9,2", "--baseline", "valleys", "--dead-time", "48"}), 3u);
    EXPECT_EQ(count({"--peak", "100:130", "--peak", "150:200"}), 2u);
}

TEST(PeaksCommand, RefusesWithASentence) {
    const auto code = [](std::vector<std::string> more, int status) {
        std::vector<std::string> call{"peaks", "--in", reference("suitability.csv")};
        call.insert(call.end(), more.begin(), more.end());
        const auto ran = run(call);
        EXPECT_EQ(ran.status, status) << ran.err;
        const Json json = Json::parse(ran.out, nullptr, false);
        return json.is_object() ? json.value("code", std::string()) : std::string();
    };
    EXPECT_EQ(code({"--line", "10,0,10,1"}, 1), "peaks.same-x");
    EXPECT_EQ(code({"--peak", "-5:10"}, 1), "peaks.outside");
    EXPECT_EQ(code({"--channel", "other"}, 1), "peaks.no-trace");
    EXPECT_EQ(code({"--y", "other"}, 1), "fit.column-missing");
    EXPECT_EQ(code({"--baseline", "level:900:901"}, 1), "noise.too-few-points");
    code({"--baseline", "cubic"}, 2);
    code({"--smooth", "8,2"}, 2);
    code({"--line", "1,2,3"}, 2);
    code({"--peak", "5"}, 2);
    code({"--least-height", "-1"}, 2);
    code({"--x", "time_s"}, 2);
    EXPECT_EQ(run({"peaks"}).status, 2);
}

TEST(LineCommand, AFormulaOfX) {
    const Json want = test::referenceJson("chronoamperometry.json")["expected"]["current_against_inverse_root_time"];
    const Json got = answer({"line", "--in", reference("chronoamperometry.csv"), "--x", "1/sqrt(time_s)", "--y",
                             "current_uA", "--from", "0.1", "--to", "2"});
    EXPECT_EQ(got["n"], want["n"]);
    EXPECT_NEAR(got["b"].get<double>(), want["slope"].get<double>(), 1e-9);
    EXPECT_NEAR(got["se"]["a"].get<double>(), want["se_intercept"].get<double>(), 1e-12);
    EXPECT_EQ(answer({"line", "--in", reference("chronoamperometry.csv"), "--from", "1", "--to", "1.01"}, 1)["code"],
              "line.too-few-points");
    EXPECT_EQ(run({"line", "--in", reference("chronoamperometry.csv")}).status, 2);
}

class SmallCommands : public ::testing::Test {
protected:
    std::string write(const std::string& text) const {
        const auto path = m_folder / "data.csv";
        std::ofstream(path) << text;
        return path.string();
    }
    test::TemporaryFolder m_folder;
};

TEST_F(SmallCommands, Addition) {
    const Json want = test::referenceJson("small_calculations.json")["standard_addition"];
    std::string text = "added,response\n";
    for (const Json& point : want["data"]) {
        text += point[0].dump() + "," + point[1].dump() + "\n";
    }
    const Json got = answer({"addition", "--in", write(text), "--factor", "5"});
    EXPECT_NEAR(got["contentInSample"].get<double>(), want["content_in_sample"].get<double>(), 1e-9);
    EXPECT_NEAR(got["limitsInSample"]["fieller"][0].get<double>(), want["fieller_limits95_in_sample"][0].get<double>(),
                1e-9);
    // 1 mL of a standard of 2 in 10 mL is 0.2; 11/10 of the response.
    const Json volumes = answer({"addition", "--in", write("v,h\n0,1\n1,2\n2,3\n"), "--x", "v", "--y", "h", "--volume",
                                 "10", "--standard", "2"});
    EXPECT_EQ(volumes["points"]["x"], Json({0.0, 0.2, 0.4}));
    EXPECT_NEAR(volumes["points"]["y"][1].get<double>(), 2.2, 1e-12);
    EXPECT_EQ(run({"addition", "--in", write("v,h\n0,1\n"), "--volume", "10"}).status, 2);
}

TEST_F(SmallCommands, Normalise) {
    const Json want = test::referenceJson("small_calculations.json");
    std::string text = "area,f\n";
    for (std::size_t i = 0; i < 5; ++i) {
        text += want["area_normalisation"]["areas"][i].dump() + "," +
                want["area_normalisation"]["response_factors"][i].dump() + "\n";
    }
    const Json got =
        answer({"normalise", "--in", write(text), "--factor", "f", "--ignore", "1", "--group", "xylene=2,3,5"});
    EXPECT_TRUE(got["peaks"][0]["percent"].is_null());
    EXPECT_NEAR(got["peaks"][3]["percent"].get<double>(),
                want["area_normalisation"]["normalised_with_factors"][3].get<double>(), 1e-9);
    EXPECT_NEAR(got["groups"][0]["area"].get<double>(), want["grouped_peaks"]["area"].get<double>(), 1e-9);
    EXPECT_NEAR(got["groups"][0]["sharesInGroup"][1].get<double>(),
                want["grouped_peaks"]["share_within_group_percent"][1].get<double>(), 1e-9);
    EXPECT_EQ(run({"normalise", "--in", write(text), "--ignore", "9"}).status, 2);
}

TEST_F(SmallCommands, Convert) {
    EXPECT_EQ(answer({"convert", "--value", "75", "--from", "mV/s", "--to", "V/s"})["value"], 0.075);
    EXPECT_EQ(answer({"convert", "--from", "uA", "--to", "uC"}, 1)["code"], "unit.different");
    EXPECT_EQ(run({"convert", "--from", "uA"}).status, 2);
}

} // namespace
} // namespace nuvat
