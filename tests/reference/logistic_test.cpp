// 4PL and 5PL fits, read-offs and limits against 50-digit Newton iterations; sources and tolerances stand in each JSON.
#include "nuvat/core/fit/least_squares.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/formula/formula.h"
#include "support/reference.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using nlohmann::json;
using test::referenceColumns;
using test::referenceJson;

const std::array<const char*, 5> kNames{"A", "B", "C", "D", "G"};
// Stated by the reference: parameters to 1e-5 of their SE and SEs to 1e-5, weakly identified ones 1e-3; read-offs 1e-6.
constexpr double kOfSe = 1e-5;
constexpr double kWeakOfSe = 1e-3;
constexpr double kReadOffs = 1e-6;

Weighting weightingOf(const std::string& text) {
    return text == "1/y" ? Weighting::InverseY : text == "1/y^2" ? Weighting::InverseY2 : Weighting::None;
}

void near(const std::string& what, double got, double want, double relative) {
    EXPECT_NEAR(got, want, relative * std::abs(want)) << what;
}

void compareLimit(const char* what, const std::optional<double>& got, const json& want) {
    if (want.is_number()) {
        ASSERT_TRUE(got) << what << " should be " << want;
        near(what, *got, want, kReadOffs);
    } else {
        EXPECT_FALSE(got) << what << " should be absent: " << want;
    }
}

void compareReadOffs(const Fit& fit, const json& list) {
    for (const auto& want : list) {
        SCOPED_TRACE("y0 = " + want["y0"].dump() + ", m = " + want["replicates_m"].dump());
        ReadOffOptions options;
        options.replicates = want["replicates_m"];
        const ReadOff got = readOff(fit, want["y0"], options);
        if (!want["x0"].is_number()) {
            EXPECT_NE(got.status, ReadOffStatus::Ok);
            continue;
        }
        ASSERT_EQ(got.status, ReadOffStatus::Ok);
        near("x0", *got.x, want["x0"], kReadOffs);
        near("SE", *got.se, want["se_total"], kReadOffs * 100);
        options.interval = IntervalMethod::Inversion;
        const ReadOff inverted = readOff(fit, want["y0"], options);
        if (want.contains("inversion_lower95")) {
            compareLimit("inversion low", inverted.low, want["inversion_lower95"]);
            compareLimit("inversion high", inverted.high, want["inversion_upper95"]);
        }
    }
}

class LogisticReference : public testing::TestWithParam<const char*> {};

TEST_P(LogisticReference, AgreesForEveryModelAndWeighting) {
    const std::string set = GetParam();
    const auto data = referenceColumns(set + ".csv");
    const auto file = referenceJson(set + ".json");
    int compared = 0;
    for (const auto& want : file["fits"]) {
        const std::string model = want["model"];
        SCOPED_TRACE(set + " " + model + " " + want["weights"].get<std::string>());
        const bool isFive = model == "5PL";
        const Fit fit = fitCalibration(isFive ? Model::Logistic5 : Model::Logistic4, weightingOf(want["weights"]),
                                       data.at("x"), data.at("y"));
        ++compared;
        if (want.contains("not_identified")) {
            EXPECT_EQ(fit.status, FitStatus::NotDetermined);
            EXPECT_NE(fit.message.find("g"), std::string::npos);
            EXPECT_TRUE(fit.parameters.empty());
            continue;
        }
        ASSERT_TRUE(fit.isUsable()) << fit.message;
        const bool isWeak = isFive && want["identified"].get<std::string>().starts_with("weak");
        if (isFive) {
            const bool isWarned =
                std::any_of(fit.warnings.begin(), fit.warnings.end(),
                            [](const std::string& sentence) { return sentence.find(" g ") != std::string::npos; });
            // syn4_no_lower_plateau is called identified there, but the profile of its sum of squares is open: at ln g
            // = 4 SciPy finds 0.002228 (unweighted), below the 95 % limit of 0.003254. We warn.
            EXPECT_EQ(isWarned, isWeak || set == "syn4_no_lower_plateau");
        }
        const double tolerance = isWeak ? kWeakOfSe : kOfSe;
        for (std::size_t i = 0; i < fit.size(); ++i) {
            const double se = want["se"][kNames[i]];
            EXPECT_NEAR(fit.parameters[i], want["parameters"][kNames[i]].get<double>(), tolerance * se) << kNames[i];
            near(std::string("SE of ") + kNames[i], fit.se[i], se, tolerance);
        }
        near("SSE", fit.sse, want["weighted_sse"], isWeak ? 1e-8 : 1e-9);
        near("R2", *fit.rSquared, want["r_squared"], 1e-9);
        if (!isWeak) {
            compareReadOffs(fit, want["inverse_predictions"]);
        }
    }
    EXPECT_GE(compared, 4);
}

INSTANTIATE_TEST_SUITE_P(Sets, LogisticReference,
                         testing::Values("dnase_run01", "dnase_run02", "dnase_run03", "dnase_run04", "dnase_run06",
                                         "dnase_run08", "dnase_run10", "syn4_falling_zero", "syn4_no_lower_plateau",
                                         "syn5_rising"),
                         [](const auto& set) { return std::string(set.param); });

// Noise-free 5PL: parameters come back to 1e-7 and read-offs to 1e-9 (stated by the reference).
TEST(ExactFiveParameterLogistic, ParametersAndReadOffsComeBack) {
    const auto data = referenceColumns("exact5_falling.csv");
    const auto want = referenceJson("exact5_falling.json");
    const Fit fit = fitCalibration(Model::Logistic5, Weighting::None, data.at("x"), data.at("y"));
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    for (std::size_t i = 0; i < 5; ++i) {
        near(kNames[i], fit.parameters[i], want["parameters"][kNames[i]], 1e-7);
    }
    EXPECT_LT(fit.s, 1e-12 * 2.8);
    EXPECT_NEAR(*fit.rSquared, 1, 1e-12);
    for (const auto& one : want["inverse_predictions"]) {
        near("x0", *readOff(fit, std::stod(one["y0"].get<std::string>())).x, one["x0"], 1e-9);
    }
}

// Three parameters, the response at zero held at 0: y = Asym/((exp(xmid)/x)^(1/scal) + 1) is our 4PL with a = 0,
// d = Asym, c = exp(xmid), b = 1/scal. Published by R 4.2.2 (example of nls) and recomputed.
TEST(HeldParameter, ThreeParameterLogisticAgreesWithTheReference) {
    const auto data = referenceColumns("dnase_run01_3par.csv");
    const auto want = referenceJson("dnase_run01_3par.json")["fit"];
    FitOptions options;
    options.model = Model::Logistic4;
    options.heldA = 0;
    const Fit fit = fitCalibration(options, {data.at("x"), data.at("y"), {}, {}});
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    EXPECT_EQ(fit.parameter("a"), 0);
    EXPECT_EQ(fit.se[0], 0);
    EXPECT_EQ(fit.p, 3u);
    EXPECT_EQ(fit.df, 13);
    const double xmid = want["parameters"]["xmid"];
    const double scal = want["parameters"]["scal"];
    near("d", fit.parameter("d"), want["parameters"]["Asym"], 1e-8);
    near("c", fit.parameter("c"), std::exp(xmid), 1e-8);
    near("b", fit.parameter("b"), 1 / scal, 1e-8);
    near("SE of d", fit.se[3], want["se"]["Asym"], 1e-8);
    near("SE of c", fit.se[2], want["se"]["xmid"].get<double>() * std::exp(xmid), 1e-8); // dc = c dxmid
    near("SE of b", fit.se[1], want["se"]["scal"].get<double>() / (scal * scal), 1e-8);  // db = -dscal/scal^2
    near("SSE", fit.sse, want["weighted_sse"], 1e-8);
}

// A model of one's own through the same parser and solver as nuvat-cli solve.
LeastSquaresFit solved(const std::string& text, const std::vector<std::string>& names, std::vector<double> start,
                       const std::string& set, bool isInverseY) {
    auto variables = names;
    variables.emplace_back("x");
    const auto formula = Formula::parse(text, variables);
    EXPECT_TRUE(formula) << text;
    const auto data = referenceColumns(set + ".csv");
    const std::vector<long double> y(data.at("y").begin(), data.at("y").end());
    std::vector<long double> w;
    for (const long double v : y) {
        w.push_back(isInverseY ? 1 / v : 1);
    }
    const auto& x = data.at("x");
    const std::size_t p = names.size();
    return fitNonlinear(
        [&](std::span<const long double> b, std::span<long double> values, std::span<long double> jacobian) {
            std::vector<long double> all(b.begin(), b.end());
            all.push_back(0);
            std::vector<long double> gradient(p + 1);
            for (std::size_t i = 0; i < x.size(); ++i) {
                all.back() = x[i];
                values[i] = formula->valueAndGradient(all, gradient);
                std::copy(gradient.begin(), gradient.end() - 1, jacobian.begin() + static_cast<std::ptrdiff_t>(i * p));
            }
            return std::all_of(values.begin(), values.end(), [](long double v) { return std::isfinite(v); });
        },
        start, y, w);
}

void compareSolved(const LeastSquaresFit& fit, const json& want, const std::vector<std::string>& names) {
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    for (std::size_t k = 0; k < names.size(); ++k) {
        near(names[k], fit.parameters[k], want["parameters"][names[k]], 1e-8);
        near("SE of " + names[k], fit.se[k], want["se"][names[k]], 1e-8);
    }
    near("SSE", fit.sse, want["weighted_sse"], 1e-8);
    near("s", fit.s, want["residual_sd"], 1e-8);
    near("R2", fit.rSquared, want["r_squared"], 1e-8);
}

TEST(OwnFormula, SaturationHyperbolaAgreesWithAndWithoutWeights) {
    const std::vector<std::string> names{"Vm", "K"};
    compareSolved(solved("Vm*x/(K + x)", names, {200, 0.05}, "puromycin_treated", false),
                  referenceJson("puromycin_treated.json")["fit"], names);
    compareSolved(solved("Vm*x/(K + x)", names, {200, 0.05}, "puromycin_treated_w", true),
                  referenceJson("puromycin_treated_w.json")["fit"], names);
}

TEST(OwnFormula, LogisticInLogXAgrees) {
    const std::vector<std::string> names{"A", "B", "xmid", "scal"};
    compareSolved(
        solved("A + (-A + B)/((exp(xmid)/x)^(1/scal) + 1)", names, {0, 2, 1, 1}, "dnase_run01_fpl_logx", false),
        referenceJson("dnase_run01_fpl_logx.json")["fit"], names);
}

} // namespace
} // namespace nuvat
