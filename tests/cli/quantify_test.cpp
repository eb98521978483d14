// nuvat-cli quantify against a batch that was computed in 40-digit arithmetic: data/batch.json, cited in
// data/README.md.
#include "support/reference.h"
#include "support/run_command.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fstream>
#include <gtest/gtest.h>
#include <sstream>

namespace nuvat {
namespace {

using Json = nlohmann::json;
constexpr double kTolerance = 1e-10; // relative, as the pack says

void expectNear(const Json& got, double want, const std::string& what, double scale = 0) {
    ASSERT_TRUE(got.is_number()) << what << " " << got;
    EXPECT_NEAR(got.get<double>(), want, kTolerance * std::max(std::abs(want), scale)) << what;
}

Json quantified(const std::string& response, const std::string& weight, std::vector<std::string> more = {}) {
    std::vector<std::string> call{"quantify",
                                  "--in",
                                  test::referenceFile("batch_peaks.csv").string(),
                                  "--response",
                                  response,
                                  "--weight",
                                  weight,
                                  "--time-band",
                                  "2.5",
                                  "--relative-time-band",
                                  "1",
                                  "--expected",
                                  "analyte_1=4.12,analyte_2=5.38,analyte_3=7.91,analyte_4=9.64"};
    call.insert(call.end(), more.begin(), more.end());
    const auto ran = test::run(std::move(call));
    EXPECT_EQ(ran.status, 0) << ran.err << ran.out;
    return Json::parse(ran.out);
}

struct Kind {
    const char *option, *fit, *column;
};
constexpr std::array<Kind, 3> kKinds{{{"ratio", "area_ratio_against_concentration_ratio", "ratio_"},
                                      {"ratio-by-concentration", "area_ratio_against_concentration", "ratio_"},
                                      {"area", "area_against_concentration", "external_"}}};
constexpr std::array<std::pair<const char*, const char*>, 3> kWeights{
    {{"none", "none"}, {"1/x", "1/x"}, {"1/x2", "1/x^2"}}};

TEST(Quantify, FitsAsInTheReference) {
    const Json reference = test::referenceJson("batch.json");
    for (const Kind& kind : kKinds) {
        for (const auto& [weight, title] : kWeights) {
            const Json got = quantified(kind.option, weight);
            ASSERT_EQ(got["analytes"].size(), 4u);
            for (std::size_t i = 0; i < 4; ++i) {
                for (const Json& want : reference["analytes"][i]["fits"]) {
                    if (want["fit"] != kind.fit || want["weights"] != title) {
                        continue;
                    }
                    const Json& fit = got["analytes"][i]["fit"];
                    const std::string what = std::string(kind.option) + " " + title + " " + std::to_string(i + 1);
                    expectNear(fit["parameters"]["a"], want["intercept"], what + " a", want["se_intercept"]);
                    expectNear(fit["parameters"]["b"], want["slope"], what + " b");
                    expectNear(fit["se"]["a"], want["se_intercept"], what + " se a");
                    expectNear(fit["se"]["b"], want["se_slope"], what + " se b");
                    expectNear(fit["covariance"][0][1], want["covariance"], what + " covariance");
                    expectNear(fit["r2"], want["r_squared"], what + " r2");
                    EXPECT_EQ(fit["df"], want["df"]);
                    for (std::size_t level = 0; level < 6; ++level) {
                        expectNear(got["analytes"][i]["levels"][level]["backCalculatedPercent"],
                                   want["back_calculated_mean_percent_by_level"][level], what + " back");
                    }
                }
            }
        }
    }
}

TEST(Quantify, LevelsWindowsAndCarryOverAsInTheReference) {
    const Json reference = test::referenceJson("batch.json");
    const Json got = quantified("ratio", "1/x");
    const Json absolute = quantified("ratio", "1/x", {"--ratio-absolute", "10"});
    for (std::size_t i = 0; i < 4; ++i) {
        const Json &want = reference["analytes"][i], &one = got["analytes"][i];
        EXPECT_EQ(one["internalStandard"], want["internal_standard"]);
        expectNear(one["ionRatio"]["window"]["reference"], want["ion_ratio_reference_percent"], "ratio");
        expectNear(one["ionRatio"]["ofStandards"]["sd"], want["ion_ratio_sd_of_standards_percent_points"], "SD");
        expectNear(one["ionRatio"]["window"]["low"], want["ion_ratio_window_relative_percent"][0], "low");
        expectNear(one["ionRatio"]["window"]["high"], want["ion_ratio_window_relative_percent"][1], "high");
        const Json& wide = absolute["analytes"][i]["ionRatio"]["window"];
        expectNear(wide["low"], want["ion_ratio_window_absolute_percent"][0], "absolute low");
        expectNear(one["timeWindow"]["low"], want["retention_window_min"][0], "time");
        expectNear(one["relativeTimeWindow"]["reference"], want["relative_retention_reference"], "relative time");
        expectNear(one["relativeTimeWindow"]["high"], want["relative_retention_window"][1], "relative time, high");
        for (std::size_t level = 0; level < 6; ++level) {
            const Json &wanted = want["levels"][level], &found = one["levels"][level];
            expectNear(found["nominal"], wanted["nominal"], "nominal");
            expectNear(found["area"]["mean"], wanted["quantifier_area_mean"], "area");
            expectNear(found["area"]["rsdPercent"], wanted["quantifier_area_rsd_percent"], "RSD of the area");
            expectNear(found["response"]["mean"], wanted["area_ratio_mean"], "ratio");
            expectNear(found["response"]["rsdPercent"], wanted["area_ratio_rsd_percent"], "RSD of the ratio");
            expectNear(found["responseFactor"], wanted["response_factor_mean"], "response factor");
        }
    }
    for (const Json& want : reference["carry_over"]) {
        for (const Json& one : got["analytes"]) {
            if (one["analyte"] == want["analyte"]) {
                expectNear(one["carryOver"]["area"], want["blank_area"], "blank");
                expectNear(one["carryOver"]["percentOfHighest"], want["percent_of_preceding_top_standard"],
                           "of the top");
                expectNear(one["carryOver"]["percentOfLowest"], want["percent_of_mean_lowest_standard"],
                           "of the lowest");
                EXPECT_EQ(one["carryOver"]["verdict"], want["verdict_at_20_percent_of_lowest"]);
            }
        }
    }
    for (const Json& want : reference["replicates"]) {
        bool isFound = false;
        for (const Json& one : got["analytes"]) {
            for (const Json& sample : one["samples"]) {
                if (one["analyte"] == want["analyte"] && sample["name"] == want["sample"]) {
                    isFound = true;
                    expectNear(sample["mean"], want["mean"], "mean of " + want["sample"].get<std::string>());
                    expectNear(sample["sd"], want["sd"], "SD");
                }
            }
        }
        EXPECT_TRUE(isFound) << want;
    }
}

TEST(Quantify, RunsAsInTheReference) {
    const auto rows = test::referenceRows("batch_results.csv");
    std::map<std::string, std::size_t> columns;
    std::ifstream file(test::referenceFile("batch_results.csv"));
    std::string headings, heading;
    std::getline(file, headings);
    for (std::istringstream stream(headings); std::getline(stream, heading, ',');) {
        columns.emplace(heading, columns.size());
    }
    ASSERT_TRUE(columns.contains("remark"));
    for (const Kind& kind : kKinds) {
        for (const auto& [weight, title] : kWeights) {
            const Json got = quantified(kind.option, weight);
            const Json absolute = quantified(kind.option, weight, {"--ratio-absolute", "10"});
            std::size_t compared = 0;
            for (const auto& row : rows) {
                const auto cell = [&](const std::string& name) { return row.at(columns.at(name)); };
                for (std::size_t i = 0; i < 4; ++i) {
                    const Json& one = got["analytes"][i];
                    if (one["analyte"] != cell("analyte")) {
                        continue;
                    }
                    const auto found =
                        std::ranges::find_if(one["results"], [&](const Json& r) { return r["name"] == cell("name"); });
                    ASSERT_NE(found, one["results"].end());
                    const std::string what = cell("name") + " " + cell("analyte") + " " + kind.option + " " + title;
                    const std::string want = cell(kind.column + std::string(title));
                    if (want.empty()) {
                        EXPECT_TRUE((*found)["readOff"].is_null()) << what;
                        EXPECT_EQ((*found)["remark"], cell("remark")) << what;
                        continue;
                    }
                    ++compared;
                    expectNear((*found)["readOff"], std::stod(want), what, 1e-1);
                    if (!cell("ion_ratio_percent").empty()) {
                        expectNear((*found)["ionRatioPercent"], std::stod(cell("ion_ratio_percent")), what);
                        EXPECT_EQ((*found)["ionRatio"], cell("ion_ratio_relative_window")) << what;
                        const auto index = static_cast<std::size_t>(found - one["results"].begin());
                        EXPECT_EQ(absolute["analytes"][i]["results"][index]["ionRatio"],
                                  cell("ion_ratio_absolute_window"))
                            << what;
                    }
                    expectNear((*found)["timeDeviationPercent"], std::stod(cell("retention_deviation_percent")), what,
                               1e-1);
                    EXPECT_EQ((*found)["time"], cell("retention_window")) << what;
                    expectNear((*found)["relativeTime"], std::stod(cell("relative_retention")), what);
                    if (kind.option == std::string("ratio") && title == std::string("1/x")) {
                        EXPECT_EQ((*found)["remark"], cell("remark")) << what;
                        if (!cell("accuracy_percent_ratio_1/x").empty()) {
                            expectNear((*found)["accuracyPercent"], std::stod(cell("accuracy_percent_ratio_1/x")),
                                       what);
                        }
                    }
                }
            }
            EXPECT_GT(compared, 100u);
        }
    }
}

TEST(Quantify, RefusesWhatItCannotRead) {
    const test::TemporaryFolder folder;
    const auto answer = [&](const std::string& text, std::vector<std::string> more, int status) {
        const auto path = folder / "p.csv";
        std::ofstream(path) << text;
        std::vector<std::string> call{"quantify", "--in", path.string()};
        call.insert(call.end(), more.begin(), more.end());
        const auto ran = test::run(std::move(call));
        EXPECT_EQ(ran.status, status) << ran.err << ran.out;
        return ran.out.empty() ? Json() : Json::parse(ran.out);
    };
    const std::string head = "injection,role,analyte,quantifier_area,dilution\n";
    EXPECT_EQ(answer(head + "1,wizard,a,5,1\n", {}, 1)["code"], "peaks.role");
    EXPECT_EQ(answer(head + "1,unknown,a,5,0\n", {}, 1)["code"], "peaks.factor");
    EXPECT_EQ(answer(head + "1,unknown,a,5,1\n1,unknown,a,6,1\n", {}, 1)["code"], "peaks.twice");
    EXPECT_EQ(answer("injection,role\n1,unknown\n", {}, 1)["code"], "fit.column-missing");
    EXPECT_EQ(answer(head, {"--response", "height"}, 2), Json());
    // Dilution and columns of other names.
    const Json named =
        answer("run,what,substance,A,C,D\n1,standard,a,10,1,1\n2,standard,a,20,2,1\n3,standard,a,30,3,1\n"
               "4,unknown,a,25,,10\n",
               {"--injection", "run", "--role", "what", "--analyte", "substance", "--area", "A", "--nominal", "C",
                "--dilution", "D", "--level", "C"},
               0);
    EXPECT_NEAR(named["analytes"][0]["results"][3]["readOff"], 2.5, 1e-12);
    EXPECT_NEAR(named["analytes"][0]["results"][3]["concentration"], 25, 1e-11);
}

} // namespace
} // namespace nuvat
