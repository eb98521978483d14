// Mandel, lack of fit, leverage, residuals, bands against 40-digit arithmetic; formulas stand in the JSONs.
#include "nuvat/core/fit/diagnostics.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/stats/distributions.h"
#include "support/reference.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

constexpr double kTolerance = 1e-9; // stated by the reference; PRESS 1e-7

void near(const char* what, double got, const nlohmann::json& want, double relative = kTolerance) {
    EXPECT_NEAR(got, want.get<double>(), relative * std::max(1e-6, std::abs(want.get<double>()))) << what;
}

class LinearityReference : public testing::TestWithParam<const char*> {};

TEST_P(LinearityReference, AgreesInEveryDiagnostic) {
    const std::string set = GetParam();
    const auto data = test::referenceColumns(set + ".csv");
    const auto json = test::referenceJson(set + ".json");
    const auto& want = json["expected"];
    const Fit line = fitCalibration(Model::Line, Weighting::None, data.at("x"), data.at("y"));
    const Fit quadratic = fitCalibration(Model::Quadratic, Weighting::None, data.at("x"), data.at("y"));
    const Diagnostics got = diagnose(line);

    ASSERT_TRUE(got.mandel);
    near("Mandel", got.mandel->statistic, want["mandel"]["test_value"]);
    near("p of Mandel", got.mandel->p, want["mandel"]["p_value"]);
    EXPECT_EQ(got.mandel->df2, want["mandel"]["df2"].get<double>());
    EXPECT_EQ(got.mandel->isSignificant, want["mandel"]["quadratic_better_at_99"].get<bool>());

    EXPECT_EQ(got.lackOfFit.has_value(), want.contains("lack_of_fit"));
    if (want.contains("lack_of_fit")) {
        for (const auto& [model, fit] : {std::pair{"line", &line}, std::pair{"quadratic", &quadratic}}) {
            const auto& of = want["lack_of_fit"][model];
            const auto lack = diagnose(*fit).lackOfFit;
            ASSERT_TRUE(lack);
            near("pure error", lack->pureError, of["ss_pure_error"]);
            near("lack of fit", lack->sumOfSquares, of["ss_lack_of_fit"]);
            near("F", lack->test.statistic, of["F"]);
            near("p", lack->test.p, of["p_value"]);
        }
    }
    near("PRESS", *got.press, want["models"]["degree_1"]["press"], 1e-7);
    near("PRESS of the quadratic", *diagnose(quadratic).press, want["models"]["degree_2"]["press"], 1e-7);
    const auto& of = want["line_diagnostics"];
    for (std::size_t i = 0; i < line.n; ++i) {
        near("residual", got.points[i].residual, of["residuals"][i]);
        near("leverage", got.points[i].leverage, of["leverage"][i]);
        near("standardized", *got.points[i].standardized, of["standardised_residuals"][i]);
        near("studentized", *got.points[i].studentized, of["externally_studentised"][i]);
        near("Cook", *got.points[i].cook, of["cooks_distance"][i]);
    }
    near("Durbin-Watson", got.durbinWatson, of["durbin_watson"]);
    near("relative standard error", *got.relativeStandardErrorPercent,
         want["back_calculation"]["relative_standard_error_percent"]);
    const double t = studentFactor(0.95, line.df);
    for (const auto& band : want["line_bands95"]) {
        const double se = responseSe(line, band["x"]);
        near("confidence band", t * se, band["confidence_half_width"]);
        near("prediction band", t * std::sqrt(se * se + line.s * line.s), band["prediction_half_width"]);
    }
}

INSTANTIATE_TEST_SUITE_P(Sets, LinearityReference,
                         testing::Values("linearity_ten_levels_straight", "linearity_replicates_curved"),
                         [](const auto& set) { return std::string(set.param); });

// Leverages of any least-squares fit add up to its parameters (Draper and Smith, Applied Regression Analysis, 8.1).
TEST(Leverage, AddsUpToTheNumberOfParameters) {
    const auto data = test::referenceColumns("dnase_run01.csv");
    for (const Model model :
         {Model::Line, Model::LineThroughOrigin, Model::Quadratic, Model::Cubic, Model::LogLog, Model::Logistic4}) {
        for (const Weighting weighting : {Weighting::None, Weighting::InverseY}) {
            const Fit fit = fitCalibration(model, weighting, data.at("x"), data.at("y"));
            ASSERT_TRUE(fit.isUsable()) << fit.message;
            double sum = 0;
            for (const auto& one : diagnose(fit).points) {
                sum += one.leverage;
            }
            EXPECT_NEAR(sum, static_cast<double>(fit.p), 1e-8) << name(model);
        }
    }
}

// Exact distribution, counted by hand: of the C(4,2) = 6 orders of ++-- two have 2 runs and two have 3.
TEST(Runs, ProbabilitiesAreThoseOfCounting) {
    EXPECT_NEAR(runsProbability(2, 2, 2), 2.0 / 6, 1e-14);
    EXPECT_NEAR(runsProbability(3, 2, 2), 4.0 / 6, 1e-14);
    EXPECT_NEAR(runsProbability(4, 2, 2), 1, 1e-14);
    EXPECT_NEAR(runsProbability(2, 5, 5), 2.0 / 252, 1e-14);
}

TEST(Diagnostics, SayWhatACurvedSetNeeds) {
    const auto data = test::referenceColumns("linearity_replicates_curved.csv");
    const Diagnostics got = diagnose(fitCalibration(Model::Line, Weighting::None, data.at("x"), data.at("y")));
    EXPECT_TRUE(got.lackOfFit->test.isSignificant);
    EXPECT_NE(got.lackOfFit->test.sentence.find("more bend"), std::string::npos);
    EXPECT_NE(got.mandel->sentence.find("choose the quadratic"), std::string::npos);
    ASSERT_TRUE(got.runs);
    EXPECT_EQ(got.runs->statistic, 3); // below, above, below
}

} // namespace
} // namespace nuvat
