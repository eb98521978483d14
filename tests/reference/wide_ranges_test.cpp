// Read-offs far from zero and over many decades keep their digits. Values: mpmath in 60 digits, made by
// data/wide_ranges.py; three more from an independent implementation in 50 digits.
#include "nuvat/core/fit/read_off.h"
#include "support/reference.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

TEST(WideRanges, ReadOffsAndTheirErrorsKeepTheirDigits) {
    const auto json = test::referenceJson("wide_ranges.json");
    ASSERT_GE(json["cases"].size(), 20u);
    for (const auto& one : json["cases"]) {
        const std::vector<double> x = one["x"];
        const std::vector<double> y = one["y"];
        const double decades = one["decades"];
        const double offset = one["offset"];
        const Fit fit = fitCalibration(*modelFromName(one["model"].get<std::string>()),
                                       *weightingFromName(one["weight"].get<std::string>()), x, y);
        ASSERT_TRUE(fit.isUsable()) << fit.message;
        const ReadOff got = readOff(fit, one["read"]);
        ASSERT_TRUE(got.se);
        const std::string what = one["model"].get<std::string>() + ", " + std::to_string(decades) +
                                 " decades, offset " + std::to_string(offset);
        // What is asked: 1e-9 up to eight decades and an offset of 1e8, 1e-8 at 1e9, 1e-4 at ten decades.
        const double tolerance = offset > 1e8 ? 1e-8 : decades > 8 ? 1e-8 : 1e-9;
        EXPECT_NEAR(*got.se / one["se"].get<double>(), 1, tolerance)
            << what << ": " << test::correctDigits(*got.se, one["se"]) << " digits";
        EXPECT_NEAR(*got.x / one["x0"].get<double>(), 1, std::min(tolerance, 1e-10)) << what;
    }
}

TEST(WideRanges, AgreeWithAnIndependentImplementation) {
    const std::vector<double> x{1, 20, 300, 4000, 50000, 600000, 7000000, 80000000, 1e9, 1e10};
    const std::vector<double> y{0.00102, 0.0196, 0.306, 3.94, 51, 588, 7140, 78500, 1010000, 9900000};
    EXPECT_NEAR(*readOff(fitCalibration(Model::Quadratic, Weighting::InverseX2, x, y), 0.03).se, 0.62782679776, 1e-10);
    const ReadOff cubic = readOff(fitCalibration(Model::Cubic, Weighting::InverseX2, x, y), 0.03);
    EXPECT_NEAR(*cubic.se, 0.67117950236, 1e-10);
    EXPECT_NEAR(*cubic.low, 28.395, 5e-4);
    std::vector<double> far;
    for (int i = 0; i < 10; ++i) {
        far.push_back(1e9 + i);
    }
    const std::vector<double> response{5.1, 7.9, 11.1, 13.9, 17.1, 19.9, 23.1, 25.9, 29.1, 31.9};
    const Fit line = fitCalibration(Model::Line, Weighting::None, far, response);
    EXPECT_NEAR(*readOff(line, 20).se, 0.0386212353, 1e-10);
    ReadOffOptions fieller;
    fieller.interval = IntervalMethod::Fieller;
    const ReadOff limits = readOff(line, 20, fieller);
    EXPECT_NEAR(*limits.high - *limits.low, 2 * 2.306004135 * 0.0386212353, 2e-4); // nearly symmetric here
}

} // namespace
} // namespace nuvat
