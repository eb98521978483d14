// Files that a person has read otherwise than they would be: another separator or decimal sign, cells that were marked.
#include "nuvat/formats/any_file.h"

#include <gtest/gtest.h>
#include <sstream>

namespace nuvat {
namespace {

Result<std::vector<PlateImport>> readAs(const std::string& text, const PlateCut& cut) {
    std::istringstream stream(text);
    NoProgress progress;
    return readPlates(stream, "plate.csv", progress, {}, cut);
}

TEST(PlateCuts, SaidSignsHoldAgainstWhatWouldBeFound) {
    const std::string text = "\t1\t2\nA\t1,234\t5,678\nB\t2,345\t6,789\n";
    const auto found = readAs(text, {});
    ASSERT_TRUE(found);
    EXPECT_EQ(found->front().wells[0].value, 1.234);
    ASSERT_EQ(found->front().warnings.size(), 2u); // no usual plate, and the doubtful comma
    const auto said = readAs(text, {{std::nullopt, '.'}, {}});
    ASSERT_TRUE(said) << said.error().text();
    EXPECT_EQ(said->front().wells[0].value, 1234);
    EXPECT_EQ(said->front().warnings.size(), 1u) << "what was said is not doubted";
    EXPECT_EQ(said->front().decimal, '.');
    const auto parted = readAs(text, {{',', std::nullopt}, {}});
    ASSERT_FALSE(parted) << "cut at the commas there is no plate";
    EXPECT_EQ(parted.error().code, "import.no-plate");
}

TEST(PlateCuts, SayWhereEachPartStands) {
    const auto reads = readAs("Device 3\nRead at 450 nm\n;1;2\nA;0.1;0.2\nB;0.3;OVER\n", {});
    ASSERT_TRUE(reads);
    const PlateImport& plate = reads->front();
    EXPECT_EQ(plate.headingLine, 3);
    EXPECT_EQ(plate.labelColumn, 1);
    EXPECT_EQ(plate.nameLine, 2);
    EXPECT_EQ(plate.nameColumn, 1);
    ASSERT_NE(plate.file, nullptr);
    EXPECT_EQ(plate.file->table.rows.size(), 5u);
    const auto list = readAs("Sample;420 nm;720 nm\nCider;0.1;0.2\nPerry;0.3;0.4\n", {});
    ASSERT_TRUE(list);
    EXPECT_EQ(list->at(1).headingLine, 1);
    EXPECT_EQ(list->at(1).nameColumn, 3);
    EXPECT_EQ(list->at(1).labelColumn, 1);
    EXPECT_EQ(list->at(0).file, list->at(1).file) << "one file is kept once";
}

TEST(PlateCuts, MarkedCellsArePlatesAndLists) {
    const std::string text = "Run 7\n\nfirst at 405 nm\nx,1,2,3\ny,4,OVER\nsecond at 620 nm\nx,7,8,9\ny,10,11,12\n";
    const auto reads = readAs(text, {{',', '.'}, {{"", 4, 2, 2, 3}, {"", 7, 2, 2, 3}, {"", 7, 4, 2, 1}}});
    ASSERT_TRUE(reads) << reads.error().text();
    ASSERT_EQ(reads->size(), 3u);
    const PlateImport& first = reads->at(0);
    EXPECT_EQ(first.readName, "405 nm");
    EXPECT_EQ(first.understood(), "2 × 3 cells as marked, comma-separated, decimal point, UTF-8");
    EXPECT_EQ(first.wells[2].value, 3);
    EXPECT_FALSE(first.wells[4].value);
    EXPECT_EQ(first.wells[4].text, "OVER");
    EXPECT_EQ(first.wells[5].line, 0) << "the line is shorter: the well was not read";
    ASSERT_EQ(first.warnings.size(), 1u);
    EXPECT_NE(first.warnings[0].message.find("plate.csv, line 5, cell 3 (well B2): \"OVER\""), std::string::npos)
        << first.warnings[0].message;
    EXPECT_EQ(reads->at(1).wells[5].value, 12);
    const PlateImport& list = reads->at(2);
    EXPECT_TRUE(list.isRunList);
    EXPECT_EQ(list.rows, 2);
    EXPECT_EQ(list.names, (std::vector<std::string>{"8", "11"})) << "what stands beside them";
}

TEST(PlateCuts, CellsThatAreNotThereAreRefused) {
    const std::string text = ";1;2\nA;0.1;0.2\nB;0.3;0.4\n";
    for (const CellBlock& block :
         {CellBlock{"", 9, 1, 2, 2}, CellBlock{"", 1, 9, 2, 2}, CellBlock{"", 0, 1, 2, 2}, CellBlock{"", 1, 1, 0, 2}}) {
        const auto read = readAs(text, {{}, {block}});
        ASSERT_FALSE(read) << block.line << " " << block.column;
        EXPECT_EQ(read.error().code, "import.outside");
    }
    EXPECT_EQ(readAs(text, {{}, {{"", 2, 1, 2, 1}}}).error().code, "import.no-numbers");
    EXPECT_EQ(readAs(text, {{}, {{"", 1, 1, 60, 2}}}).error().code, "import.too-large");
    // A block of another sheet is none of this file's.
    EXPECT_TRUE(readAs(text, {{}, {{"Data", 2, 2, 2, 2}}}));
}

TEST(PlateCuts, ATextIsCutAgainAndASheetStays) {
    std::istringstream stream("a b;1\n");
    NoProgress progress;
    const auto file = plateFileOf(stream, "x.txt", progress);
    ASSERT_TRUE(file);
    const auto blanks = cutAgain(*file, {' ', std::nullopt});
    ASSERT_TRUE(blanks);
    EXPECT_EQ((*blanks)->table.rows[0].cells, (std::vector<std::string>{"a", "b;1"}));
    const auto sheet = std::make_shared<const PlateFile>(PlateFile{"x.ods", {}, (*file)->table});
    EXPECT_EQ(*cutAgain(sheet, {' ', std::nullopt}), sheet);
}

// Source of the notations: common practice.
TEST(ValueUnit, IsTakenFromWhereAFileSaysIt) {
    const auto unitOf = [](const std::string& text) {
        std::istringstream stream(text);
        NoProgress progress;
        const auto reads = readPlates(stream, "a.csv", progress);
        EXPECT_TRUE(reads) << text;
        return reads ? std::tuple(reads->front().unit, reads->front().unitLine, reads->front().unitColumn)
                     : std::tuple(std::string("?"), 0, 0);
    };
    using Unit = std::tuple<std::string, int, int>;
    const std::string matrix = ",1,2,3\nA,0.1,0.2,0.3\nB,0.4,0.5,0.6\n";
    EXPECT_EQ(unitOf(matrix), Unit("", 0, 0));
    EXPECT_EQ(unitOf("Unit,RFU\n" + matrix), Unit("RFU", 1, 2));
    EXPECT_EQ(unitOf("Plate 1\nunits: mAU\n" + matrix), Unit("mAU", 2, 1));
    EXPECT_EQ(unitOf("Unit,this is what the operator typed here\n" + matrix), Unit("", 0, 0));
    EXPECT_EQ(unitOf("Well,Absorbance [AU]\nA1,0.1\nA2,0.2\nA3,0.3\n"), Unit("AU", 1, 2));
    EXPECT_EQ(unitOf("Well,Fluorescence (RFU)\nA1,11\nA2,12\nA3,13\n"), Unit("RFU", 1, 2));
    EXPECT_EQ(unitOf("Well,Absorbance (450 nm)\nA1,0.1\nA2,0.2\nA3,0.3\n"), Unit("", 0, 0)) << "no unit";
    EXPECT_EQ(unitOf("Sample;Peak (mean);Area [mAU]\nx1;0,1;0,2\nx2;0,3;0,4\n"), Unit("", 0, 0)) << "of the first";
}

} // namespace
} // namespace nuvat
