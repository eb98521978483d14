// What must hold for any trace, tried on traces made at random; the seed is fixed.
#include "nuvat/core/signal/peaks.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <numbers>
#include <random>

namespace nuvat {
namespace {

struct Trace {
    std::vector<double> x, y;
};

Trace empty(std::size_t n, double step) {
    Trace out{std::vector<double>(n), std::vector<double>(n, 0)};
    for (std::size_t i = 0; i < n; ++i) {
        out.x[i] = static_cast<double>(i) * step;
    }
    return out;
}

void addGauss(Trace& trace, double area, double at, double sigma) {
    for (std::size_t i = 0; i < trace.x.size(); ++i) {
        const double z = (trace.x[i] - at) / sigma;
        trace.y[i] += area / (sigma * std::sqrt(2 * std::numbers::pi)) * std::exp(-z * z / 2);
    }
}

void addNoise(Trace& trace, double sd, std::mt19937& random) {
    std::normal_distribution<double> noise(0, sd);
    for (double& y : trace.y) {
        y += noise(random);
    }
}

std::vector<Peak> peaksOf(const Trace& trace, const PeakRules& rules = {}) {
    const auto out = measurePeaks(trace.x, trace.y, rules);
    EXPECT_TRUE(out) << (out ? "" : out.error().message);
    return out ? out->peaks : std::vector<Peak>();
}

Trace threePeaks(std::mt19937& random, double noise = 0.05) {
    Trace out = empty(3000, 0.1);
    addGauss(out, 50, 60, 2);
    addGauss(out, 30, 68, 2.2);
    addGauss(out, 80, 200, 3);
    addNoise(out, noise, random);
    return out;
}

TEST(PeakProperties, AreasAddUpOverSplits) {
    std::mt19937 random(1);
    for (int turn = 0; turn < 50; ++turn) {
        const Trace trace = threePeaks(random);
        std::uniform_real_distribution<double> where(50, 80);
        PeakRules whole, parts;
        whole.given = {{45, 90}};
        const double cut = where(random);
        parts.given = {{45, cut}, {cut, 90}};
        const auto two = peaksOf(trace, parts);
        ASSERT_EQ(two.size(), 2u);
        const Peak one = peaksOf(trace, whole).at(0);
        EXPECT_NEAR(two[0].area + two[1].area, one.area, 1e-11 * one.area);
        EXPECT_EQ(two[0].split, PeakSplit::Drop);
    }
}

TEST(PeakProperties, AreaIsAboveAndBelow) {
    std::mt19937 random(2);
    for (int turn = 0; turn < 100; ++turn) {
        const Trace trace = threePeaks(random, 0.5);
        std::uniform_real_distribution<double> where(10, 290), height(-2, 10);
        PeakRules rules;
        const double a = where(random), b = where(random);
        rules.line = BaseLine{a, height(random), b, height(random)};
        const Peak peak = peaksOf(trace, rules).at(0);
        EXPECT_NEAR(peak.areaAbove + peak.areaBelow, peak.area, 1e-9);
        EXPECT_GE(peak.areaAbove, 0);
        EXPECT_LE(peak.areaBelow, 0);
        EXPECT_TRUE(std::ranges::is_sorted(peak.crossings));
        for (const double x : peak.crossings) {
            EXPECT_NEAR(interpolated(trace.x, trace.y, x), rules.line->at(x), 1e-9);
        }
    }
}

TEST(PeakProperties, ShiftAndScale) {
    std::mt19937 random(3);
    const Trace trace = threePeaks(random);
    Trace other = trace;
    for (double& x : other.x) {
        x += 1024; // a power of two keeps the steps
    }
    for (double& y : other.y) {
        y *= 8;
    }
    const auto a = peaksOf(trace), b = peaksOf(other);
    ASSERT_EQ(a.size(), 3u);
    ASSERT_EQ(b.size(), 3u);
    for (std::size_t i = 0; i < 3; ++i) {
        EXPECT_NEAR(b[i].apex, a[i].apex + 1024, 1e-9);
        EXPECT_NEAR(b[i].area, 8 * a[i].area, 1e-9 * b[i].area);
        EXPECT_NEAR(b[i].start, a[i].start + 1024, 1e-9);
        ASSERT_EQ(a[i].width50.has_value(), b[i].width50.has_value());
        if (a[i].width50) {
            EXPECT_NEAR(*b[i].width50, *a[i].width50, 1e-9);
        }
    }
}

TEST(PeakProperties, ANegativePeakIsAPositiveOneUpsideDown) {
    std::mt19937 random(4);
    Trace trace = threePeaks(random);
    Trace down = trace;
    for (double& y : down.y) {
        y = -y;
    }
    EXPECT_TRUE(peaksOf(down).empty() ||
                std::ranges::all_of(peaksOf(down), [](const Peak& peak) { return peak.height < 20; }));
    PeakRules rules;
    rules.isNegative = true;
    const auto found = peaksOf(down, rules);
    ASSERT_EQ(found.size(), 3u);
    const auto up = peaksOf(trace, rules);
    ASSERT_EQ(up.size(), 3u);
    for (std::size_t i = 0; i < 3; ++i) {
        EXPECT_TRUE(found[i].isNegative);
        EXPECT_FALSE(up[i].isNegative);
        EXPECT_NEAR(found[i].area, -up[i].area, 1e-9);
        EXPECT_NEAR(found[i].height, up[i].height, 1e-9);
    }
}

TEST(PeakProperties, ASweepReversedGivesTheSame) {
    std::mt19937 random(5);
    const Trace trace = threePeaks(random);
    Trace back = trace;
    std::ranges::reverse(back.x);
    std::ranges::reverse(back.y);
    const auto sweeps = cutSweeps(back.x, back.y);
    ASSERT_EQ(sweeps.size(), 1u);
    EXPECT_FALSE(sweeps[0].isRising);
    EXPECT_EQ(sweeps[0].x, trace.x);
    EXPECT_EQ(sweeps[0].y, trace.y);
}

TEST(PeakProperties, SweepsAreCutWhereTheDirectionTurns) {
    const std::vector<double> x{0, 1, 2, 3, 2, 1, 0, 0, 1}, y{0, 1, 2, 3, 4, 5, 6, 7, 8};
    const auto sweeps = cutSweeps(x, y, std::vector<std::size_t>{1});
    ASSERT_EQ(sweeps.size(), 3u);
    EXPECT_EQ(sweeps[0].x, (std::vector<double>{0, 2, 3}));
    EXPECT_EQ(sweeps[1].x, (std::vector<double>{0, 1, 2, 3}));
    EXPECT_EQ(sweeps[1].y, (std::vector<double>{6, 5, 4, 3}));
    EXPECT_FALSE(sweeps[1].isRising);
    EXPECT_EQ(sweeps[2].y, (std::vector<double>{6, 8}));
    EXPECT_EQ(sweepName(2, false), "sweep 2, falling");
}

// False alarms, simulated: white noise has no peak of 8 sigma. At 10 000 samples the largest of them is about 3.9
// sigma.
TEST(PeakProperties, NoiseAloneHasNoPeaks) {
    std::mt19937 random(6);
    int found = 0;
    for (int turn = 0; turn < 100; ++turn) {
        Trace trace = empty(10'000, 0.1);
        addNoise(trace, 1, random);
        found += static_cast<int>(peaksOf(trace).size());
    }
    EXPECT_EQ(found, 0);
}

// A broad peak in noise is not torn apart: 100 of them, each 500 samples wide at half height.
TEST(PeakProperties, NoiseDoesNotSplitABroadPeak) {
    std::mt19937 random(7);
    int extra = 0;
    for (int turn = 0; turn < 100; ++turn) {
        Trace trace = empty(5'000, 0.1);
        addGauss(trace, 2000, 250, 21);
        addNoise(trace, 1, random);
        extra += std::abs(static_cast<int>(peaksOf(trace).size()) - 1);
    }
    EXPECT_LE(extra, 1);
}

// Without bias: the mean area of 200 noisy peaks is the true one within three standard errors, and the end points of
// the line are not drawn to the lowest samples.
TEST(PeakProperties, AreasHaveNoBias) {
    std::mt19937 random(8);
    double sum = 0, squares = 0;
    constexpr int kTurns = 200;
    for (int turn = 0; turn < kTurns; ++turn) {
        Trace trace = empty(2'000, 0.1);
        addGauss(trace, 100, 100, 3);
        addNoise(trace, 0.1, random);
        const auto peaks = peaksOf(trace);
        ASSERT_EQ(peaks.size(), 1u);
        sum += peaks[0].area;
        squares += peaks[0].area * peaks[0].area;
    }
    const double mean = sum / kTurns;
    const double sd = std::sqrt((squares / kTurns - mean * mean) * kTurns / (kTurns - 1));
    EXPECT_LE(sd, 2.5) << "SD of an area";
    EXPECT_NEAR(mean, 100, 3 * sd / std::sqrt(double(kTurns)));
}

TEST(PeakProperties, NoiseOfCountsAndOfSmoothedSignals) {
    std::mt19937 random(9);
    Trace white = empty(20'000, 0.1);
    addNoise(white, 1, random);
    EXPECT_NEAR(noiseOf(white.y).sigma, 1, 0.03);
    EXPECT_FALSE(noiseOf(white.y).isFromCubics);
    // Smoothed by a moving mean of 5: correlated, SD 1/sqrt(5).
    Trace smooth = white;
    for (std::size_t i = 2; i + 2 < white.y.size(); ++i) {
        smooth.y[i] = (white.y[i - 2] + white.y[i - 1] + white.y[i] + white.y[i + 1] + white.y[i + 2]) / 5;
    }
    EXPECT_TRUE(noiseOf(smooth.y).isFromCubics);
    EXPECT_NEAR(noiseOf(smooth.y).sigma, 1 / std::sqrt(5.0), 0.1);
    // Mostly the same count: the differences say nothing, the digits do.
    Trace counts = empty(1000, 0.1);
    counts.y[500] = 3;
    EXPECT_NEAR(noiseOf(counts.y).sigma, 3 / std::sqrt(12.0), 1e-12);
    EXPECT_EQ(noiseOf(std::vector<double>(100, 7.0)).sigma, 0);
    EXPECT_TRUE(peaksOf({empty(100, 1).x, std::vector<double>(100, 7.0)}).empty());
}

TEST(PeakProperties, LimitsOfHeightWidthAndArea) {
    std::mt19937 random(10);
    const Trace trace = threePeaks(random);
    PeakRules rules;
    rules.leastHeight = {7, false};
    EXPECT_EQ(peaksOf(trace, rules).size(), 2u); // heights 10, 5.5 and 10.6
    rules = {};
    rules.leastArea = 60;
    EXPECT_EQ(peaksOf(trace, rules).size(), 1u); // areas 50, 30 and 80
    rules = {};
    rules.leastWidth = 6;
    EXPECT_EQ(peaksOf(trace, rules).size(), 1u);
}

TEST(PeakProperties, IgnoredStretchesAndRulesOfTheirOwn) {
    std::mt19937 random(11);
    const Trace trace = threePeaks(random);
    PeakRules rules;
    rules.ignored = {{62, 100}};
    auto peaks = peaksOf(trace, rules);
    ASSERT_EQ(peaks.size(), 2u);
    EXPECT_TRUE(std::ranges::count(peaks[0].remarks, PeakRemark::TouchesIgnored) == 1);
    rules = {};
    StretchRule joined;
    joined.stretch = {50, 80};
    joined.isWhole = true;
    rules.rules = {joined};
    peaks = peaksOf(trace, rules);
    ASSERT_EQ(peaks.size(), 2u);
    EXPECT_NEAR(peaks[0].area, 80, 4);
    StretchRule high;
    high.stretch = {150, 250};
    high.leastHeight = HeightLimit{100, false};
    rules.rules = {high};
    EXPECT_EQ(peaksOf(trace, rules).size(), 2u) << "the third is below the limit of its stretch";
}

TEST(PeakProperties, WhatNeedsALook) {
    Trace cut = empty(600, 0.1);
    addGauss(cut, 100, 57, 3);
    auto peaks = peaksOf(cut);
    ASSERT_EQ(peaks.size(), 1u);
    EXPECT_EQ(peaks[0].remarks, (std::vector<PeakRemark>{PeakRemark::CutByEnd}));
    Trace flat = empty(1000, 0.1);
    addGauss(flat, 100, 50, 3);
    for (double& y : flat.y) {
        y = std::min(y, 10.0);
    }
    peaks = peaksOf(flat);
    ASSERT_EQ(peaks.size(), 1u);
    EXPECT_EQ(peaks[0].remarks, (std::vector<PeakRemark>{PeakRemark::Saturated}));
}

// The band of Eilers and Boelens runs below a peak and along the ground beside it.
TEST(PeakProperties, ABaselineThatBendsSaysHow) {
    std::mt19937 random(13);
    Trace trace = empty(2000, 0.1);
    addGauss(trace, 50, 100, 2);
    const auto ground = [](double x) { return 3 + 0.02 * x - 2e-4 * x * x; };
    for (std::size_t i = 0; i < trace.x.size(); ++i) {
        trace.y[i] += ground(trace.x[i]);
    }
    addNoise(trace, 0.002, random);
    PeakRules rules;
    rules.given = {{85, 115}};
    EXPECT_TRUE(peaksOf(trace, rules).front().bend.empty());
    rules.baseline = {BaselineKind::Polynomial, 2, {{0, 80}, {120, 199}}, 1e6, 0.01};
    const Peak bent = peaksOf(trace, rules).front();
    ASSERT_EQ(bent.bend.size(), 33u);
    EXPECT_EQ(bent.bend.front(), bent.startY);
    EXPECT_EQ(bent.bend.back(), bent.endY);
    for (std::size_t i = 0; i < bent.bend.size(); ++i) {
        EXPECT_NEAR(bent.bend[i], ground(85 + 30.0 * static_cast<double>(i) / 32), 0.001);
    }
    rules.baseline.kind = BaselineKind::None;
    EXPECT_TRUE(peaksOf(trace, rules).front().bend.empty());
}

TEST(PeakProperties, AsymmetricLeastSquaresFollowsTheGround) {
    std::mt19937 random(12);
    Trace trace = empty(1000, 0.1);
    addGauss(trace, 50, 50, 2);
    std::vector<double> ground(1000);
    for (std::size_t i = 0; i < 1000; ++i) {
        ground[i] = 3 + std::sin(trace.x[i] / 30);
        trace.y[i] += ground[i];
    }
    addNoise(trace, 0.01, random);
    const auto band = asymmetricLeastSquares(trace.y, 1e6, 0.001);
    for (std::size_t i = 20; i < 980; ++i) {
        EXPECT_NEAR(band[i], ground[i], 0.07) << i;
    }
    // A straight line is left as it is, whatever the stiffness.
    std::vector<double> line(50);
    for (std::size_t i = 0; i < 50; ++i) {
        line[i] = 2 - 0.5 * static_cast<double>(i);
    }
    const auto same = asymmetricLeastSquares(line, 1e4, 0.01);
    for (std::size_t i = 0; i < 50; ++i) {
        EXPECT_NEAR(same[i], line[i], 1e-9);
    }
}

TEST(PeakProperties, OneSmoothedValueIsThatOfAll) {
    std::mt19937 random(14);
    Trace trace = empty(60, 0.1);
    addNoise(trace, 1, random);
    for (const int derivative : {0, 1}) {
        const Smoothing window{11, 4};
        const auto all = savitzkyGolay(trace.y, window, derivative);
        for (std::size_t i = 0; i < all.size(); ++i) {
            EXPECT_EQ(savitzkyGolayAt(trace.y, i, window, derivative), all[i]) << i;
        }
    }
}

// The definition, sorted out in full: 1.4826 times the median of the second differences over the root of 6.
TEST(PeakProperties, NoiseIsTheMedianOfSecondDifferences) {
    std::mt19937 random(15);
    for (const std::size_t n : {50u, 777u, 5000u}) {
        Trace trace = empty(n, 0.1);
        addNoise(trace, 0.3, random);
        std::vector<double> differences;
        for (std::size_t i = 0; i + 2 < n; ++i) {
            differences.push_back(std::abs((trace.y[i + 2] - trace.y[i + 1]) - (trace.y[i + 1] - trace.y[i])));
        }
        std::ranges::sort(differences);
        const Noise noise = noiseOf(trace.y);
        ASSERT_FALSE(noise.isFromCubics);
        EXPECT_DOUBLE_EQ(noise.sigma, 1.4826 * differences[differences.size() / 2] / std::sqrt(6.0));
    }
}

// Savitzky and Golay (1964), table I: the weights of 5 points and a parabola are -3, 12, 17, 12, -3 over 35.
TEST(PeakProperties, SmoothingWeights) {
    const std::vector<double> want{-3, 12, 17, 12, -3};
    const auto got = savitzkyGolayWeights({5, 2}, 0);
    for (std::size_t i = 0; i < 5; ++i) {
        EXPECT_NEAR(got[i], want[i] / 35, 1e-15);
    }
    // A polynomial of the order is kept, its derivatives are exact, up to the ends.
    std::vector<double> cubic(40);
    for (std::size_t i = 0; i < 40; ++i) {
        const auto t = static_cast<double>(i);
        cubic[i] = 1 + t - 0.3 * t * t + 0.01 * t * t * t;
    }
    const auto smooth = savitzkyGolay(cubic, {9, 3}), slope = savitzkyGolay(cubic, {9, 3}, 1),
               bend = savitzkyGolay(cubic, {9, 3}, 2);
    for (std::size_t i = 0; i < 40; ++i) {
        const auto t = static_cast<double>(i);
        EXPECT_NEAR(smooth[i], cubic[i], 1e-9);
        EXPECT_NEAR(slope[i], 1 - 0.6 * t + 0.03 * t * t, 1e-9);
        EXPECT_NEAR(bend[i], -0.6 + 0.06 * t, 1e-9);
    }
    EXPECT_THROW(savitzkyGolay(cubic, {8, 2}), std::invalid_argument);
}

} // namespace
} // namespace nuvat
