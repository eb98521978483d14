// What wells showed over time: reads whose names are times, and the response that is taken from them.
#include "nuvat/batch/evaluation.h"
#include "nuvat/batch/kinetics.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/fit/calibration.h"
#include "support/sample_batch.h"

#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

TEST(ReadTimes, StandAtTheEndOfNames) {
    const auto time = [](const char* name) { return readTime(name); };
    EXPECT_EQ(time("60 s")->seconds, 60);
    EXPECT_EQ(time("60 s")->of, "");
    EXPECT_EQ(time("1.5 min")->seconds, 90);
    EXPECT_EQ(time("1,5 min")->seconds, 90);
    EXPECT_EQ(time("2 h")->seconds, 7200);
    EXPECT_EQ(time("0:05:30")->seconds, 330);
    EXPECT_EQ(time("05:30")->seconds, 330);
    EXPECT_EQ(time("t = 10 s")->seconds, 10);
    EXPECT_EQ(time("450 nm, 60 s")->of, "450 nm");
    EXPECT_EQ(time("450 nm (2 min)")->of, "450 nm");
    EXPECT_EQ(time("450 nm (2 min)")->seconds, 120);
    for (const char* other : {"450 nm", "", "blue", "read 2", "450 nm, again", "7", "s", "Plate (A)", "1:x"}) {
        EXPECT_FALSE(time(other)) << other;
    }
}

/// A plate of 1 × 2 wells: A1 rises by 0.002 a second from 0.1, A2 bends; at 30 s A2 was not read.
Batch readOverTime() {
    Batch batch;
    batch.carriers[1].rows = 1;
    batch.carriers[1].columns = 2;
    batch.places[{0, 0}] = {Role::Unknown, 1};
    batch.places[{0, 1}] = {Role::Unknown, 2};
    int key = 0;
    for (const double t : {0.0, 30.0, 60.0, 90.0}) {
        Reading reading;
        reading.slot = {1, std::nullopt, "405 nm, " + std::to_string(static_cast<int>(t)) + " s"};
        Grid grid{1, 2, {}};
        grid.wells.push_back({0.1 + 0.002 * t, "", 1, 1});
        grid.wells.push_back(
            {t == 30 ? std::nullopt : std::optional(1 - std::exp(-t / 50)), t == 30 ? "OVER" : "", 1, 2});
        reading.payload = Payload::of(std::move(grid));
        batch.readings[++key] = std::move(reading);
        batch.inUse[batch.readings[key]->slot] = key;
    }
    return batch;
}

Response responseAt(const KineticRule& rule, Place place) {
    Batch batch = readOverTime();
    batch.method.analyte().source.rule = rule;
    return evaluate(batch).analyte().at(place);
}

TEST(Kinetics, GiveRateChangeMeanAndValue) {
    EXPECT_NEAR(*responseAt({"405 nm", 0, 90}, {0, 0}).raw, 0.002, 1e-15);
    EXPECT_NEAR(*responseAt({"405 nm", 30, 90, BandQuantity::Difference}, {0, 0}).raw, 0.12, 1e-15);
    EXPECT_NEAR(*responseAt({"405 nm", 0, 90, BandQuantity::Mean}, {0, 0}).raw, 0.19, 1e-15);
    EXPECT_NEAR(*responseAt({"405 nm", 45, 45, BandQuantity::Value}, {0, 0}).raw, 0.19, 1e-15); // between two reads
}

// The straight line by least squares as the calibration fits it, whose digits are proven against NIST's data sets.
TEST(Kinetics, RateIsThatOfTheStraightLine) {
    const std::vector<double> x{0, 60, 90};
    std::vector<double> y;
    for (const double t : x) {
        y.push_back(1 - std::exp(-t / 50));
    }
    const Fit line = fitCalibration(Model::Line, Weighting::None, x, y);
    EXPECT_NEAR(*responseAt({"405 nm", 0, 90}, {0, 1}).raw, line.parameters.at(1), 1e-14)
        << "the read without a number is left out";
}

TEST(Kinetics, SayWhyThereIsNoNumber) {
    const Response late = responseAt({"405 nm", 200, 300}, {0, 0});
    EXPECT_EQ(late.state, ResponseState::Unusable);
    EXPECT_EQ(late.why, "too few reads in that time");
    EXPECT_EQ(responseAt({"405 nm", 91, 91, BandQuantity::Value}, {0, 0}).why, "read at no such time");
    Batch batch = readOverTime();
    batch.method.analyte().source.rule = KineticRule{"blue", 0, 90};
    const Evaluation evaluation = evaluate(batch);
    ASSERT_FALSE(evaluation.analyte().problems.empty());
    EXPECT_NE(evaluation.analyte().problems.front().message.find("no three reads whose names are times"),
              std::string::npos);
}

TEST(Kinetics, ChannelsComeInTheOrderOfTimeAndOnlyWithThree) {
    Batch batch = readOverTime();
    auto all = timedChannels(batch);
    ASSERT_EQ(all.size(), 1u);
    EXPECT_EQ(all[0].of, "405 nm");
    EXPECT_EQ(all[0].reads.back(), (std::pair<double, std::string>{90, "405 nm, 90 s"}));
    batch.method.analyte().source.rule = KineticRule{"405 nm", 0, 90};
    EXPECT_EQ(batch.channelsOf(1).size(), 4u);
    batch.inUse.erase(batch.readings[1]->slot);
    batch.inUse.erase(batch.readings[2]->slot);
    EXPECT_TRUE(timedChannels(batch).empty()) << "two points are no curve";
}

TEST(Kinetics, AreShownInTheWorking) {
    Batch batch = readOverTime();
    batch.method.analyte().source.rule = KineticRule{"405 nm", 30, 90};
    const Working working = workingOf(batch, evaluate(batch).analyte(), Place{0, 0});
    ASSERT_GE(working.steps.size(), 2u);
    EXPECT_EQ(working.steps[0].lines.front(), "4 reads from 0 to 90 s; 3 are taken");
    EXPECT_EQ(working.steps[1].title, "Rate of 405 nm from 30 to 90 s, per second");
}

} // namespace
} // namespace nuvat
