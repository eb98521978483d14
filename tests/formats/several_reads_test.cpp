// Files that hold more than one read.
#include "nuvat/formats/plate_file.h"

#include <gtest/gtest.h>
#include <sstream>

namespace nuvat {
namespace {

std::vector<PlateImport> good(const std::string& text) {
    std::istringstream stream(text);
    NoProgress progress;
    auto reads = readPlates(stream, "reads.csv", progress);
    EXPECT_TRUE(reads) << (reads ? "" : reads.error().text());
    return reads ? std::move(*reads) : std::vector<PlateImport>{};
}

const std::string kMatrix = ";1;2;3\nA;0.1;0.2;0.3\nB;0.4;0.5;0.6\n";

TEST(SeveralReads, OfMatricesUnderEachOther) {
    const auto reads = good("Reader 2\nRead at 450 nm\n" + kMatrix + "Read at 620 nm\n" + kMatrix + "measured by us\n");
    ASSERT_EQ(reads.size(), 2u);
    EXPECT_EQ(reads[0].readName, "450 nm");
    EXPECT_EQ(reads[1].readName, "620 nm");
    EXPECT_EQ(reads[1].rows, 2);
    EXPECT_EQ(reads[1].wells[5].value, 0.6);
    EXPECT_EQ(reads[1].wells[0].line, 8); // where it stands in the whole file
    ASSERT_EQ(reads[1].warnings.size(), 1u);
    EXPECT_NE(reads[1].warnings[0].message.find("below the plate, from line 10 on"), std::string::npos)
        << reads[1].warnings[0].message;
}

TEST(SeveralReads, OfAMatrixThatLacksARowIsRefused) {
    std::istringstream stream(kMatrix + kMatrix + "D;0.7;0.8;0.9\n");
    NoProgress progress;
    const auto reads = readPlates(stream, "reads.csv", progress);
    ASSERT_FALSE(reads);
    EXPECT_EQ(reads.error().code, "import.row-missing");
}

TEST(SeveralReads, OfAListWithSeveralColumns) {
    const auto reads = good("Well;Sample;450 nm;620 nm;Dilution\nA1;x;0.5;0.1;5\nA2;y;0.6;0.2;5\nB1;z;0.7;0.3;5\n");
    ASSERT_EQ(reads.size(), 2u); // a dilution is typed, not read
    EXPECT_EQ(reads[0].readName, "450 nm");
    EXPECT_EQ(reads[1].readName, "620 nm");
    EXPECT_EQ(reads[1].wells[1].value, 0.2);
    EXPECT_EQ(good("Well;Sample;Absorbance\nA1;x;0.5\nA2;y;0.6\n").size(), 1u);
}

TEST(SeveralReads, OfASampleListWithoutPlaces) {
    const auto reads =
        good("Cuvettes of 12 May\nNo;Sample;420 nm;720 nm\n1;Blank;0.05;0.01\n2;S1;0.5;0.02\n3;S1;0.51;0.02\n");
    ASSERT_EQ(reads.size(), 2u);
    EXPECT_TRUE(reads[0].isRunList);
    EXPECT_EQ(reads[0].rows, 3);
    EXPECT_EQ(reads[0].columns, 1);
    EXPECT_EQ(reads[0].names, (std::vector<std::string>{"Blank", "S1", "S1"})); // S1 is a sample here, no well
    EXPECT_EQ(reads[0].readName, "420 nm");
    EXPECT_EQ(reads[1].wells[2].value, 0.02);
    EXPECT_EQ(reads[0].understood(), "list of 3 samples, semicolon-separated, decimal point, UTF-8");
}

TEST(SeveralReads, AreOneWhereAFileHoldsOne) {
    EXPECT_EQ(good(kMatrix).size(), 1u);
    EXPECT_EQ(good("A1;1\nA2;2\nB1;3\n").size(), 1u);
    for (const char* bad : {"", "no;numbers\nat;all\n", "a,1\nb,2\n"}) {
        std::istringstream stream(bad);
        NoProgress progress;
        EXPECT_FALSE(readPlates(stream, "bad.csv", progress)) << bad;
    }
}

} // namespace
} // namespace nuvat
