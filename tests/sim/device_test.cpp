// Stand-ins for instruments, line by line. What they measure is invented; what is asked of them is that it follows from
// the seed, that nothing is lost and that they say what is wrong.
#include "nuvat/sim/device.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/signal/synthetic.h"

#include <cmath>
#include <gtest/gtest.h>
#include <numbers>
#include <sstream>

namespace nuvat {
namespace {

std::string ask(Device& device, const std::string& line, double seconds) {
    return device.take(line, seconds).value_or("(nothing)");
}

struct Fetched {
    std::size_t first = 0, count = 0;
    char state = '?';
    std::vector<std::vector<double>> rows;
};

Fetched fetch(Device& device, std::size_t from, double seconds) {
    std::istringstream answer(ask(device, "FETC? " + std::to_string(from), seconds));
    Fetched out;
    char comma = 0;
    answer >> out.first >> comma >> out.count >> comma >> out.state;
    std::string row;
    std::getline(answer, row, ';');
    while (std::getline(answer, row, ';')) {
        std::istringstream cells(row);
        std::string cell;
        out.rows.emplace_back();
        while (std::getline(cells, cell, ',')) {
            out.rows.back().push_back(*parseNumber(cell));
        }
    }
    return out;
}

/// All samples of a run, as somebody gets them who asks by number.
std::vector<std::vector<double>> runOf(Device& device, double begin, double every) {
    std::vector<std::vector<double>> all;
    for (double t = begin;; t += every) {
        const Fetched part = fetch(device, all.size(), t);
        EXPECT_EQ(part.first, all.size());
        EXPECT_EQ(part.rows.size(), part.count);
        all.insert(all.end(), part.rows.begin(), part.rows.end());
        if (part.state == 'D') {
            return all;
        }
    }
}

std::vector<std::vector<double>> chromatogram(const DeviceSettings& settings, int vial, double every = 7) {
    const auto device = makeDevice(settings);
    device->take("ROUT:VIAL " + std::to_string(vial), 0);
    device->take("INIT", 0);
    device->take("TRIG", 10);
    return runOf(*device, 10, every);
}

TEST(Device, SaysWhoItIsAndWhatWasWrong) {
    const auto device = makeDevice({});
    EXPECT_EQ(ask(*device, "*IDN?", 0), "NUVAT,CHROMATOGRAPH,STAND-IN 1,1");
    EXPECT_EQ(ask(*device, "SYST:ERR?", 0), "0,\"No error\"");
    EXPECT_FALSE(device->take("FOO:BAR 1", 0));
    EXPECT_FALSE(device->take("TRIG", 0)); // nothing was started
    EXPECT_EQ(ask(*device, "SYST:ERR?", 0), "-113,\"Undefined header\"");
    EXPECT_EQ(ask(*device, "syst:err?", 0), "-211,\"Trigger ignored\"");
    EXPECT_EQ(ask(*device, "SYST:ERR?", 0), "0,\"No error\"");
    EXPECT_FALSE(device->take("ROUT:VIAL soon", 0));
    EXPECT_EQ(ask(*device, "SYST:ERR?", 0), "-222,\"Data out of range\"");
}

TEST(Device, GoesThroughItsStates) {
    const auto device = makeDevice({.warmUpSeconds = 5});
    EXPECT_EQ(ask(*device, "STAT:OPER:COND?", 1), "2");
    device->take("INIT", 2);
    EXPECT_EQ(ask(*device, "SYST:ERR?", 2), "-221,\"Settings conflict; the instrument is warming up\"");
    EXPECT_EQ(ask(*device, "STAT:OPER:COND?", 6), "0");
    device->take("SENS:TIME 60", 6);
    device->take("INIT", 6);
    EXPECT_EQ(ask(*device, "STAT:OPER:COND?", 7), "32");
    device->take("TRIG", 8);
    EXPECT_EQ(ask(*device, "STAT:OPER:COND?", 20), "16");
    EXPECT_EQ(ask(*device, "STAT:OPER:COND?", 69), "0");
    device->take("ABOR", 70);
    EXPECT_EQ(fetch(*device, 0, 71).count, 400u);
}

TEST(Chromatograph, GivesTheSameHoweverOftenItIsAsked) {
    const auto often = chromatogram({}, 4, 0.7), seldom = chromatogram({}, 4, 31);
    EXPECT_EQ(often, seldom);
    ASSERT_EQ(often.size(), 200u + 12000u); // 10 s before the injection, 600 s after it
    EXPECT_NEAR(often.front().front(), -10.0 / 60, 1e-12);
    EXPECT_NEAR(often[200].front(), 0, 1e-12);
    EXPECT_NE(often, chromatogram({.seed = 2}, 4));
}

TEST(Chromatograph, RespondsInProportionAndMisbehavesAsTold) {
    const auto at = [](const std::vector<std::vector<double>>& run, double minutes) {
        return run[200 + static_cast<std::size_t>(minutes * 1200)][1];
    };
    const double none = at(chromatogram({}, 1), 4), one = at(chromatogram({}, 2), 4), two = at(chromatogram({}, 3), 4);
    EXPECT_NEAR((two - none) / (one - none), 2, 0.1); // vials 2 and 3 hold 1 and 2
    EXPECT_NEAR(at(chromatogram({.misbehaviour = Misbehaviour::EmptyVial}, 3), 4), none, 1);
    EXPECT_GT(at(chromatogram({.misbehaviour = Misbehaviour::Bubble}, 3), 5), 300);
    EXPECT_LT(at(chromatogram({.misbehaviour = Misbehaviour::Drift}, 3), 7), 0.95 * at(chromatogram({}, 3), 7));
    const auto device = makeDevice({.misbehaviour = Misbehaviour::CarryOver});
    for (const int vial : {7, 1}) { // a blank after the highest
        device->take("ROUT:VIAL " + std::to_string(vial), 700.0 * vial);
        device->take("INIT", 10000 - 1000 * vial);
        device->take("TRIG", 10010 - 1000 * vial);
    }
    const auto blank = runOf(*device, 10000, 31);
    EXPECT_NEAR(at(blank, 4) - none, 0.05 * 32 * (one - none), 0.1 * 0.05 * 32 * (one - none));
}

TEST(Potentiostat, SweepsAndMeasuresOverTime) {
    const auto device = makeDevice({.kind = DeviceKind::Potentiostat});
    device->take("SENS:SWE 0,0.6,0.1", 0);
    device->take("INIT", 0);
    const auto sweep = runOf(*device, 1, 0.3);
    EXPECT_EQ(sweep.size(), 301u);
    EXPECT_NEAR(sweep.back().front(), 0.6, 1e-9);
    device->take("SENS:FUNC SQUARE", 100);
    device->take("SENS:SQW 0.6,0,0.004,25", 100);
    device->take("INIT", 100);
    const auto square = runOf(*device, 101, 1);
    EXPECT_EQ(square.size(), 151u);
    EXPECT_NEAR(square.back().front(), 0, 1e-9); // downwards
    device->take("SENS:FUNC TIME", 200);
    device->take("SENS:CHR 5", 200);
    EXPECT_EQ(ask(*device, "SENS:X?", 200), "s");
    device->take("INIT", 200);
    const auto chrono = runOf(*device, 201, 1);
    EXPECT_EQ(chrono.size(), 250u);
}

TEST(Spectrophotometer, ReadsValuesAndSpectra) {
    const auto device = makeDevice({.kind = DeviceKind::Spectrophotometer, .contents = {{3, 10}}});
    device->take("SENS:WAV 450", 0);
    const double blank = *parseNumber(ask(*device, "READ?", 0));
    device->take("ROUT:VIAL 3", 0);
    EXPECT_NEAR(*parseNumber(ask(*device, "READ?", 0)) - blank, 0.6, 0.01);
    device->take("SENS:SPEC 400,500,2", 0);
    device->take("INIT", 0);
    const auto spectrum = runOf(*device, 1, 0.5);
    ASSERT_EQ(spectrum.size(), 51u);
    EXPECT_EQ(spectrum[25].front(), 450);
    EXPECT_GT(spectrum[25][1], spectrum[0][1]);
}

TEST(PlateReader, ReadsWellsByWavelengthAndCycle) {
    const auto device = makeDevice({.kind = DeviceKind::PlateReader});
    EXPECT_EQ(ask(*device, "SENS:PLAT?", 0), "8,12");
    device->take("SENS:WAV 450,620", 0);
    device->take("SENS:CYCL 2,30", 0);
    device->take("INIT", 0);
    EXPECT_EQ(fetch(*device, 0, 1).count, 20u); // twenty wells a second
    const auto all = runOf(*device, 2, 3);
    ASSERT_EQ(all.size(), 2u * 2 * 96);
    EXPECT_EQ(all[0], (std::vector<double>{1, 450, 1, 1, all[0][4]}));
    EXPECT_EQ(all[96][1], 620);
    EXPECT_EQ(all[192][0], 2);
    EXPECT_EQ(all[13][2], 2); // B2
    EXPECT_EQ(all[13][3], 2);
}

TEST(Autosampler, InjectsAndRefusesAnEmptyVial) {
    const auto device = makeDevice({.kind = DeviceKind::Autosampler});
    device->take("ROUT:VIAL 12", 0);
    device->take("ROUT:DIL 5", 0);
    EXPECT_EQ(ask(*device, "ROUT:DIL?", 0), "5");
    device->take("TRIG", 0);
    EXPECT_EQ(ask(*device, "STAT:OPER:COND?", 20), "16"); // diluting takes longer
    EXPECT_EQ(ask(*device, "STAT:OPER:COND?", 60), "32");
    EXPECT_EQ(ask(*device, "ROUT:COUN?", 60), "1");
    const auto empty = makeDevice({.kind = DeviceKind::Autosampler, .misbehaviour = Misbehaviour::EmptyVial});
    empty->take("TRIG", 0);
    EXPECT_EQ(ask(*empty, "STAT:OPER:COND?", 1), "512");
    EXPECT_EQ(ask(*empty, "SYST:ERR?", 1), "301,\"Vial 1 is empty\"");
}

TEST(Synthetic, PeaksHaveTheirAreaWithAndWithoutATail) {
    for (const double tail : {0.0, 0.02, 0.3}) {
        const SyntheticPeak peak{5, 0.1, 3, tail};
        double area = 0;
        for (int i = 0; i < 12000; ++i) {
            area += 0.001 * syntheticSignal({&peak, 1}, 0.001 * i);
        }
        EXPECT_NEAR(area, 3 * 0.1 * std::sqrt(2 * std::numbers::pi), 1e-6) << tail;
    }
}

// Mean 0 and SD 1: of 40 000 deviates the standard errors are 0.005 and 0.0035.
TEST(Synthetic, NoiseIsNormalAndTheSameAgain) {
    double sum = 0, squares = 0;
    constexpr int kCount = 40'000;
    for (int i = 0; i < kCount; ++i) {
        const double value = normalNoise(9, static_cast<std::uint64_t>(i));
        sum += value;
        squares += value * value;
    }
    EXPECT_NEAR(sum / kCount, 0, 0.02);
    EXPECT_NEAR(squares / kCount, 1, 0.03);
    EXPECT_EQ(normalNoise(9, 5), normalNoise(9, 5));
    EXPECT_NE(normalNoise(9, 5), normalNoise(10, 5));
}

} // namespace
} // namespace nuvat
