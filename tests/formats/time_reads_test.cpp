// Plates that were read at times.
#include "nuvat/formats/plate_file.h"

#include <gtest/gtest.h>
#include <sstream>

namespace nuvat {
namespace {

std::vector<PlateImport> good(const std::string& text) {
    std::istringstream stream(text);
    NoProgress progress;
    auto reads = readPlates(stream, "kinetic.csv", progress);
    EXPECT_TRUE(reads) << (reads ? "" : reads.error().text());
    return reads ? std::move(*reads) : std::vector<PlateImport>{};
}

std::vector<std::string> namesOf(const std::vector<PlateImport>& reads) {
    std::vector<std::string> out;
    for (const PlateImport& read : reads) {
        out.push_back(read.readName);
    }
    return out;
}

const std::string kMatrix = ";1;2;3\nA;0.1;0.2;0.3\nB;0.4;0.5;0.6\n";

TEST(TimeReads, MatricesAreCalledByTheTimesAboveThem) {
    EXPECT_EQ(namesOf(good("Reader 2, shaken 10 s\nRead at 405 nm\nCycle 1 (0 s)\n" + kMatrix +
                           "Cycle 2 (30 s) 405 nm\n" + kMatrix + "Cycle 3 (60 s) 405 nm\n" + kMatrix)),
              (std::vector<std::string>{"405 nm, 0 s", "405 nm, 30 s", "405 nm, 60 s"}));
    EXPECT_EQ(namesOf(good("Time: 00:00:00\n" + kMatrix + "Time: 00:01:30\n" + kMatrix + "Time: 01:00:00\n" + kMatrix)),
              (std::vector<std::string>{"0 s", "90 s", "3600 s"}));
}

TEST(TimeReads, OtherMatricesKeepTheirNames) {
    // Two only, and times that do not rise, are no curve over time.
    EXPECT_EQ(namesOf(good("450 nm after 5 s\n" + kMatrix + "620 nm after 7 s\n" + kMatrix)),
              (std::vector<std::string>{"450 nm", "620 nm"}));
    EXPECT_EQ(namesOf(good("450 nm, shaken 5 s\n" + kMatrix + "540 nm, shaken 5 s\n" + kMatrix +
                           "620 nm, shaken 5 s\n" + kMatrix)),
              (std::vector<std::string>{"450 nm", "540 nm", "620 nm"}));
}

TEST(TimeReads, TimesOfTheDayAreNone) {
    EXPECT_EQ(namesOf(good("450 nm, 2026-09-14 10:32:05\n" + kMatrix + "450 nm, 2026-09-14 10:35:10\n" + kMatrix +
                           "450 nm, 2026-09-14 10:38:20\n" + kMatrix)),
              (std::vector<std::string>{"450 nm", "450 nm", "450 nm"}))
        << "three plates, not three times of one";
}

TEST(TimeReads, ATableOfTimesAgainstWellsIsOneReadARow) {
    const auto reads = good("Kinetic\nTime (min);Temp;A1;A2;B1;B2\n0;37.0;0.10;0.20;0.30;0.40\n"
                            "0.5;37.1;0.11;0.21;OVER;0.41\n1;37.0;0.12;0.22;0.32;0.42\n\nSlope;;1;2;3;4\n");
    ASSERT_EQ(namesOf(reads), (std::vector<std::string>{"0 s", "30 s", "60 s"}));
    EXPECT_EQ(reads[0].rows, 2);
    EXPECT_EQ(reads[0].columns, 3) << "the smallest usual plate that holds them";
    EXPECT_EQ(reads[1].wells[1].value, 0.21);
    EXPECT_FALSE(reads[1].wells[3].value);
    ASSERT_EQ(reads[1].warnings.size(), 1u);
    EXPECT_NE(reads[1].warnings[0].message.find("line 4, cell 5 (well B1): \"OVER\""), std::string::npos)
        << reads[1].warnings[0].message;
    ASSERT_EQ(reads[0].warnings.size(), 1u);
    EXPECT_NE(reads[0].warnings[0].message.find("below the table, from line 7 on"), std::string::npos);
}

TEST(TimeReads, TimesMayBeWrittenAsClocks) {
    EXPECT_EQ(namesOf(good("Time,A1,A2,A3\n0:00:00,1,2,3\n0:00:20,1,2,3\n0:00:40,1,2,3\n")),
              (std::vector<std::string>{"0 s", "20 s", "40 s"}));
}

} // namespace
} // namespace nuvat
