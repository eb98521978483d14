// Straight lines against certified and recomputed values. Each JSON in data/ names its source.
#include "nuvat/core/fit/read_off.h"
#include "support/reference.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::correctDigits;
using test::referenceColumns;
using test::referenceJson;

constexpr double kParameterTolerance = 1e-10; // stated by the reference values for lines
constexpr double kQuadraticTolerance = 1e-9;  // stated by the reference values for quadratics
// The quadratic of offset_line: the condition of its raw powers is 1e13 and its decimals do not fit a double (stated:
// 1e-4).
constexpr double kOffsetQuadraticTolerance = 1e-4;
constexpr double kReadOffTolerance = 1e-9; // stated by the reference values for read-offs
// Its responses near 1e6 do not fit a double: exact arithmetic on the doubles is 2.4e-8 away in SSE, which is not ours.
constexpr double kOffsetLineTolerance = 5e-8;

void expectDigits(const std::string& what, double got, double want, double digits) {
    const double found = correctDigits(got, want);
    std::cout << "  " << what << ": " << found << " digits\n";
    EXPECT_GE(found, digits) << what << " is " << got << ", certified " << want;
}

// NIST StRD, linear regression, Norris: certified to 15 digits.
TEST(NistLinear, Norris) {
    const auto data = referenceColumns("linear_Norris.csv");
    const auto want = referenceJson("linear_Norris.json");
    const Fit fit = fitCalibration(Model::Line, Weighting::None, data.at("x"), data.at("y"));
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    expectDigits("B0", fit.parameters[0], want["certified"]["parameters"]["B0"], 12);
    expectDigits("B1", fit.parameters[1], want["certified"]["parameters"]["B1"], 14);
    expectDigits("SD of B0", fit.se[0], want["certified"]["sd"]["B0"], 13);
    expectDigits("SD of B1", fit.se[1], want["certified"]["sd"]["B1"], 13);
    expectDigits("residual SD", fit.s, want["certified"]["residual_sd"], 13);
    expectDigits("R2", *fit.rSquared, want["certified"]["r_squared"], 14);
}

// NIST StRD, linear regression, NoInt1: line through the origin; R2 about zero, as certified there.
TEST(NistLinear, NoInt1) {
    const auto data = referenceColumns("linear_NoInt1.csv");
    const auto want = referenceJson("linear_NoInt1.json");
    const Fit fit = fitCalibration(Model::LineThroughOrigin, Weighting::None, data.at("x"), data.at("y"));
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    expectDigits("B1", fit.parameters[0], want["certified"]["parameters"]["B1"], 14);
    expectDigits("SD of B1", fit.se[0], want["certified"]["sd"]["B1"], 13);
    expectDigits("residual SD", fit.s, want["certified"]["residual_sd"], 13);
    expectDigits("R2", *fit.rSquared, want["certified"]["r_squared"], 14);
}

std::optional<Weighting> weightingOf(const std::string& text) {
    if (text == "1/x^2") {
        return Weighting::InverseX2;
    }
    if (text == "1/y^2") {
        return Weighting::InverseY2;
    }
    if (text == "1/s^2") {
        return Weighting::InverseS2;
    }
    return weightingFromName(text);
}

void near(const char* what, double got, double want, double relative) {
    EXPECT_NEAR(got, want, relative * std::abs(want)) << what;
}

void compareReadOffs(const Fit& fit, const nlohmann::json& want, double tolerance) {
    for (const auto& one : want["inverse_predictions"]) {
        if (!one["x0"].is_number() || one["x0"].get<double>() <= 0) {
            continue; // weights at x0 <= 0 have no common definition
        }
        ReadOffOptions options;
        options.replicates = one["replicates_m"];
        const ReadOff got = readOff(fit, one["y0"], options);
        ASSERT_EQ(got.status, ReadOffStatus::Ok);
        near("x0", *got.x, one["x0"], tolerance);
        near("se", *got.se, one["se"], tolerance);
        near("low", *got.low, one["delta_lower95"], tolerance);
        near("high", *got.high, one["delta_upper95"], tolerance);
        if (fit.model == Model::Quadratic || !one.contains("fieller_lower95")) {
            continue;
        }
        options.interval = IntervalMethod::Fieller;
        const ReadOff fieller = readOff(fit, one["y0"], options);
        if (one["fieller_lower95"].is_number()) {
            near("Fieller low", fieller.low.value(), one["fieller_lower95"], tolerance);
            near("Fieller high", fieller.high.value(), one["fieller_upper95"], tolerance);
        } else {
            EXPECT_FALSE(fieller.low || fieller.high); // "not defined": no finite interval
        }
    }
}

class LineReference : public testing::TestWithParam<const char*> {};

TEST_P(LineReference, AgreesWithEveryWeighting) {
    const std::string set = GetParam();
    const auto data = referenceColumns(set + ".csv");
    const auto json = referenceJson(set + ".json");
    int compared = 0;
    for (const auto& want : json["fits"]) {
        const std::string model = want["model"];
        const auto weighting = weightingOf(want["weights"]);
        // Polynomials through the origin are not among our models; in one set the SDs stand in a column of their own.
        if (!weighting || model == "quadratic_origin" || (*weighting == Weighting::InverseS2 && data.contains("s"))) {
            continue;
        }
        const bool isOffset = set == "offset_line";
        const double tolerance = model == "quadratic" ? (isOffset ? kOffsetQuadraticTolerance : kQuadraticTolerance)
                                                      : (isOffset ? kOffsetLineTolerance : kParameterTolerance);
        SCOPED_TRACE(set + " " + model + " " + want["weights"].get<std::string>());
        const Model wanted = model == "line"     ? Model::Line
                             : model == "origin" ? Model::LineThroughOrigin
                                                 : Model::Quadratic;
        const Fit fit = fitCalibration(wanted, *weighting, data.at("x"), data.at("y"));
        ASSERT_TRUE(fit.isUsable()) << fit.message;
        if (model == "line") {
            near("a", fit.parameters[0], want["parameters"]["b0"], tolerance);
            near("b", fit.parameters[1], want["parameters"]["b1"], tolerance);
            near("SE a", fit.se[0], want["se"]["b0"], tolerance);
            near("SE b", fit.se[1], want["se"]["b1"], tolerance);
            near("cov", fit.covariance[1], want["covariance"][0][1], tolerance);
        } else if (model == "quadratic") {
            for (std::size_t k = 0; k < 3; ++k) {
                const std::string name = "b" + std::to_string(k);
                near(name.c_str(), fit.parameters[k], want["parameters"][name], tolerance);
                near(("SE " + name).c_str(), fit.se[k], want["se"][name], tolerance);
            }
        } else {
            near("b", fit.parameters[0], want["parameters"]["b1"], tolerance);
            near("SE b", fit.se[0], want["se"]["b1"], tolerance);
        }
        near("SSE", fit.sse, want["weighted_sse"], tolerance);
        near("s", fit.s, want["residual_sd_raw"], tolerance);
        near("R2", *fit.rSquared, want["r_squared"], tolerance);
        compareReadOffs(fit, want, std::max(kReadOffTolerance, tolerance));
        ++compared;
    }
    EXPECT_GE(compared, 1);
}

class Polynomials : public testing::TestWithParam<const char*> {};

// Degrees 1 to 3 with AICc; aic_loglik there is that of the Gaussian likelihood with K = coefficients + 1.
TEST_P(Polynomials, AgreeUpToTheCubic) {
    const std::string set = GetParam();
    const auto data = referenceColumns(set + ".csv");
    const auto json = referenceJson(set + ".json");
    const auto& models = json["expected"]["models"];
    constexpr std::array<Model, 3> kByDegree{Model::Line, Model::Quadratic, Model::Cubic};
    for (std::size_t degree = 1; degree <= 3; ++degree) {
        SCOPED_TRACE(set + " degree " + std::to_string(degree));
        const auto& want = models["degree_" + std::to_string(degree)];
        const double tolerance = degree == 3 ? 1e-7 : 1e-9; // stated by the reference
        const Fit fit = fitCalibration(kByDegree[degree - 1], Weighting::None, data.at("x"), data.at("y"));
        ASSERT_TRUE(fit.isUsable()) << fit.message;
        for (std::size_t k = 0; k <= degree; ++k) {
            near("parameter", fit.parameters[k], want["parameters"][k], tolerance);
            near("SE", fit.se[k], want["se"][k], tolerance);
        }
        near("s", fit.s, want["residual_sd"], 1e-9);
        near("SSE", fit.sse, want["sse"], 1e-9);
        near("R2", *fit.rSquared, want["r_squared"], 1e-9);
        const double k = static_cast<double>(degree) + 2;
        const double n = static_cast<double>(fit.n);
        near("AICc", *fit.aicc, want["aic_loglik"].get<double>() + 2 * k * (k + 1) / (n - k - 1), 1e-9);
    }
}

INSTANTIATE_TEST_SUITE_P(Sets, Polynomials,
                         testing::Values("linearity_ten_levels_straight", "linearity_replicates_curved"),
                         [](const auto& set) { return std::string(set.param); });

// Textbook examples and synthetic sets; titles and sources stand in each JSON.
INSTANTIATE_TEST_SUITE_P(Sets, LineReference,
                         testing::Values("curved_absorbance", "fieller_wide", "fluorescein_line",
                                         "absorbance_weighted_line", "formaldehyde_line", "four_points_line",
                                         "offset_line", "tiny_scale_line", "wide_range_line", "zero_standard_line",
                                         "steam_line", "replicate_levels_line"),
                         [](const auto& set) { return std::string(set.param); });

} // namespace
} // namespace nuvat
