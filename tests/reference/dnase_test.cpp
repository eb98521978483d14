// The DNase immunoassay, laid out as plate files and taken through import, layout and evaluation.
// Data: base R 4.2.2 data set "DNase"; Davidian & Giltinan (1995), Nonlinear Models for Repeated Measurement Data.
// Values: 50-digit Newton iterations, cross-checked with SciPy and R nls; see data/README.md.
#include "nuvat/batch/document.h"
#include "nuvat/batch/evaluation.h"
#include "nuvat/core/base/number.h"
#include "nuvat/workflow/session.h"
#include "support/reference.h"

#include <gtest/gtest.h>
#include <sstream>

namespace nuvat {
namespace {

constexpr double kEightDigits = 1e-8;

/// The 16 readings as an 8 × 12 plate file: level by level down columns 1 and 2, the rest not read.
std::string plateText(const std::vector<std::vector<std::string>>& rows) {
    std::string text = "Run of the DNase immunoassay\n\n";
    for (int column = 1; column <= 12; ++column) {
        text += "," + std::to_string(column);
    }
    for (std::size_t level = 0; level < 8; ++level) {
        text += "\n" + std::string(1, static_cast<char>('A' + level)) + "," + rows[2 * level][1] + "," +
                rows[2 * level + 1][1] + ",,,,,,,,,,";
    }
    return text + "\n";
}

Batch batchOfRun(const std::string& run) {
    const auto rows = test::referenceRows(run + ".csv");
    std::istringstream block(plateText(rows));
    NoProgress progress;
    const auto import = readPlates(block, "pasted block", progress);
    EXPECT_TRUE(import) << (import ? "" : import.error().text());
    Document document;
    EXPECT_TRUE(document.apply(addReading(document.batch(), toReading(import->front(), 0))));
    std::vector<Place> places;
    for (int row = 0; row < 8; ++row) {
        places.push_back({row, 0});
        places.push_back({row, 1});
    }
    EXPECT_TRUE(document.apply(assignRole(document.batch(), places, Role::Standard, 2, Direction::Across)));
    for (std::size_t level = 0; level < 8; ++level) {
        EXPECT_EQ(rows[2 * level][0], rows[2 * level + 1][0]);
        EXPECT_TRUE(
            document.apply(setLevel(document.batch(), static_cast<int>(level) + 1, parseNumber(rows[2 * level][0]))));
    }
    Batch batch = document.batch();
    batch.method.analyte().fit = {.model = Model::Logistic4}; // weights as the reference values have them
    batch.method.analyte().fit.weightFloor = 1e-6;
    return batch;
}

void near(const std::string& what, double got, double want) {
    EXPECT_NEAR(got, want, kEightDigits * std::abs(want)) << what << ", digits: " << test::correctDigits(got, want);
}

class DnaseRun : public testing::TestWithParam<const char*> {};

TEST_P(DnaseRun, FourParameterLogisticAgreesToEightDigits) {
    const std::string run = GetParam();
    Batch batch = batchOfRun(run);
    int compared = 0;
    const auto json = test::referenceJson(run + ".json");
    for (const auto& want : json["fits"]) {
        if (want["model"] != "4PL") {
            continue;
        }
        const std::string weights = want["weights"];
        SCOPED_TRACE(run + " " + weights);
        batch.method.analyte().fit.model = Model::Logistic4;
        batch.method.analyte().fit.weighting = weights == "1/y"     ? Weighting::InverseY
                                               : weights == "1/y^2" ? Weighting::InverseY2
                                                                    : Weighting::None;
        const Fit fit = evaluateAnalyte(batch).fit;
        ASSERT_TRUE(fit.isUsable()) << fit.message;
        const std::array<const char*, 4> names{"A", "B", "C", "D"};
        for (std::size_t i = 0; i < 4; ++i) {
            near(names[i], fit.parameters[i], want["parameters"][names[i]]);
            near(std::string("SE of ") + names[i], fit.se[i], want["se"][names[i]]);
            for (std::size_t k = 0; k < 4; ++k) {
                near("covariance", fit.covariance[4 * i + k], want["covariance"][i][k]);
            }
        }
        near("SSE", fit.sse, want["weighted_sse"]);
        near("residual SD", fit.s, want["residual_sd"]);
        near("R2", *fit.rSquared, want["r_squared"]);
        // Weights included: -2 log L there is n(ln(2 pi SSE/n) + 1) - sum ln w.
        const double k = 5;
        near("AICc", *fit.aicc,
             want["information_criteria"]["minus2logL"].get<double>() + 2 * k + 2 * k * (k + 1) / (16 - k - 1));
        for (const auto& read : want["inverse_predictions"]) {
            if (!read["x0"].is_number()) {
                continue;
            }
            ReadOffOptions options;
            options.replicates = read["replicates_m"];
            const ReadOff got = readOff(fit, read["y0"], options);
            ASSERT_EQ(got.status, ReadOffStatus::Ok) << read["y0"];
            near("x0", *got.x, read["x0"]);
            near("SE of x0", *got.se, read["se_total"]);
            near("low", *got.low, read["delta_lower95"]);
            near("high", *got.high, read["delta_upper95"]);
            options.interval = IntervalMethod::LogPropagation;
            near("log low", *readOff(fit, read["y0"], options).low, read["log_delta_lower95"]);
            near("log high", *readOff(fit, read["y0"], options).high, read["log_delta_upper95"]);
        }
        ++compared;
    }
    EXPECT_EQ(compared, 3); // none, 1/y, 1/y2
}

INSTANTIATE_TEST_SUITE_P(Runs, DnaseRun,
                         testing::Values("dnase_run01", "dnase_run02", "dnase_run03", "dnase_run04", "dnase_run06",
                                         "dnase_run08", "dnase_run10"),
                         [](const auto& run) { return std::string(run.param); });

TEST(DnaseBackCalculation, AgreesWithTheReferenceForEveryStandard) {
    const AnalyteEvaluation evaluation = evaluateAnalyte(batchOfRun("dnase_run01"));
    const auto points = test::referenceJson("dnase_run01.json")["fits"][0]["points"];
    ASSERT_EQ(evaluation.standards.size(), points.size());
    for (std::size_t i = 0; i < points.size(); ++i) {
        const StandardValue& got = evaluation.standards[i];
        near("fitted", *got.fitted, points[i]["fitted"]);
        if (points[i]["back_calculated_x"].is_number()) {
            near("back-calculated", *got.backCalculated, points[i]["back_calculated_x"]);
            near("error", *got.errorPercent + 100, points[i]["recovery_percent"]);
        } else {
            EXPECT_FALSE(got.backCalculated);
        }
    }
}

class SyntheticLogistic : public testing::TestWithParam<const char*> {};

// Tolerance stated by the reference: 1e-5 of the parameter's SE; SEs relative 1e-5.
TEST_P(SyntheticLogistic, AgreesWithTheReference) {
    const std::string set = GetParam();
    const auto data = test::referenceColumns(set + ".csv");
    int compared = 0;
    const auto json = test::referenceJson(set + ".json");
    for (const auto& want : json["fits"]) {
        if (want["model"] != "4PL") {
            continue;
        }
        const std::string weights = want["weights"];
        const Weighting weighting = weights == "1/y"     ? Weighting::InverseY
                                    : weights == "1/y^2" ? Weighting::InverseY2
                                                         : Weighting::None;
        SCOPED_TRACE(set + " " + weights);
        const Fit fit = fitCalibration(Model::Logistic4, weighting, data.at("x"), data.at("y"));
        ASSERT_TRUE(fit.isUsable()) << fit.message;
        const std::array<const char*, 4> names{"A", "B", "C", "D"};
        for (std::size_t i = 0; i < 4; ++i) {
            EXPECT_NEAR(fit.parameters[i], want["parameters"][names[i]].get<double>(),
                        1e-5 * want["se"][names[i]].get<double>());
            EXPECT_NEAR(fit.se[i] / want["se"][names[i]].get<double>(), 1, 1e-5);
        }
        EXPECT_NEAR(fit.sse / want["weighted_sse"].get<double>(), 1, 1e-9);
        ++compared;
    }
    EXPECT_GE(compared, 2);
}

INSTANTIATE_TEST_SUITE_P(Sets, SyntheticLogistic, testing::Values("syn4_falling_zero", "syn4_no_lower_plateau"),
                         [](const auto& set) { return std::string(set.param); });

// Synthetic, noise-free: the parameters come back and nothing divides by zero.
TEST(ExactLogistic, ParametersComeBack) {
    const auto data = test::referenceColumns("exact4_rising.csv");
    const auto want = test::referenceJson("exact4_rising.json");
    const Fit fit = fitCalibration(Model::Logistic4, Weighting::None, data.at("x"), data.at("y"));
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    const std::array<const char*, 4> names{"A", "B", "C", "D"};
    for (std::size_t i = 0; i < 4; ++i) {
        EXPECT_NEAR(fit.parameters[i] / want["parameters"][names[i]].get<double>(), 1, 1e-7);
        EXPECT_LT(fit.se[i], 1e-10);
    }
    EXPECT_LT(fit.s, 1e-12 * 2.4);
    EXPECT_NEAR(*fit.rSquared, 1, 1e-12);
}

} // namespace
} // namespace nuvat
