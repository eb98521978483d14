// Layouts as CSV.
#include "nuvat/batch/validate.h"
#include "nuvat/workflow/layout_file.h"
#include "support/sample_batch.h"

#include <gtest/gtest.h>
#include <sstream>

namespace nuvat {
namespace {

Result<Command> read(const Batch& batch, const std::string& text) {
    std::istringstream stream(text);
    return readLayoutCsv(batch, stream, "layout.csv");
}

TEST(LayoutFiles, GiveBackTheLayout) {
    Batch batch = test::sampleDocument().batch();
    batch.samples[1] = {"Cider, \"old\"", 4, "cloudy", 0.05, 2.5, 10};
    batch.preparations[{1, 2}] = {40};
    batch.places[{0, 8}] = {Role::Unknown, 1, 2};
    batch.places[{0, 9}] = {Role::Spike, 1};
    batch.places[{0, 10}] = {Role::DoubleBlank, 0};
    Batch bare = test::sampleDocument().batch();
    bare.places.clear();
    bare.levels.clear();
    bare.qcs.clear();
    const auto command = read(bare, layoutCsv(batch));
    ASSERT_TRUE(command) << command.error().text();
    applyChanges(bare, *command, false);
    EXPECT_EQ(bare.places, batch.places);
    EXPECT_EQ(bare.levels, batch.levels);
    EXPECT_EQ(bare.qcs, batch.qcs);
    EXPECT_EQ(bare.samples, batch.samples);
    EXPECT_EQ(bare.preparations, batch.preparations);
    EXPECT_TRUE(validate(bare));
}

TEST(LayoutFiles, AreTakenWithSemicolonsAndDecimalCommas) {
    Batch batch = test::sampleDocument().batch();
    const auto command =
        read(batch, "Plan of week 38\nRole;Well;Number;Nominal\nStandard;A1;1;12,5\nUNKNOWN;H12;3;\n;;;\nblank;B2;;\n");
    ASSERT_TRUE(command) << command.error().text();
    applyChanges(batch, *command, false);
    EXPECT_EQ(batch.places.size(), 3u);
    EXPECT_EQ(batch.concentration(1), 12.5);
    EXPECT_EQ(batch.at({7, 11}), (Assignment{Role::Unknown, 3}));
}

TEST(LayoutFiles, SayWhereTheyAreWrong) {
    const Batch batch = test::sampleDocument().batch();
    const auto code = [&](const std::string& text) {
        const auto command = read(batch, text);
        return command ? std::string("taken") : command.error().code;
    };
    EXPECT_EQ(code("well,kind\nA1,standard\n"), "layout-file.columns");
    EXPECT_EQ(code("well,role,number\nA1,standard,1\nQ1,standard,2\n"), "layout-file.well");
    EXPECT_EQ(code("well,role,number\nA1,calibrator,1\n"), "layout-file.role");
    EXPECT_EQ(code("well,role,number\nA1,standard,one\n"), "layout-file.number");
    EXPECT_EQ(code("well,role,number\nA1,standard,\n"), "layout-file.number");
    EXPECT_EQ(code("well,role,number\nA1,standard,1.5\n"), "layout-file.number");
    EXPECT_EQ(code("well,role,number\nA1,blank,1\n"), "layout-file.number");
    EXPECT_EQ(code("well,role,number\nA1,standard,1\nA1,standard,2\n"), "layout-file.twice");
    EXPECT_EQ(code("well,role,number,dilution\nA1,unknown,1,-5\n"), "layout.dilution");
    const auto wrong = read(batch, "well,role,number\nA1,standard,1\nQ1,standard,2\n");
    EXPECT_NE(wrong.error().message.find("layout.csv, line 3"), std::string::npos) << wrong.error().message;
}

// "1 + 9" is one part of sample and nine of what it is diluted with: ten times. Common practice.
TEST(Dilutions, AreFactorsOrParts) {
    EXPECT_EQ(parseDilution("10"), 10);
    EXPECT_EQ(parseDilution("× 2.5"), 2.5);
    EXPECT_EQ(parseDilution("1 + 9"), 10);
    EXPECT_EQ(parseDilution("2+3"), 2.5);
    for (const char* wrong : {"1:10", "1 in 10", "0 + 9", "1 + ", "-1 + 3", ""}) {
        EXPECT_FALSE(parseDilution(wrong)) << wrong;
    }
}

} // namespace
} // namespace nuvat
