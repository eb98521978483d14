// Parts of a layout that are copied, pasted, mirrored and moved.
#include "nuvat/batch/layout_transfer.h"
#include "nuvat/batch/validate.h"
#include "support/sample_batch.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

Batch after(const Batch& batch, const Result<Command>& command) {
    EXPECT_TRUE(command) << command.error().text();
    Batch out = batch;
    applyChanges(out, *command, false);
    EXPECT_TRUE(validate(out));
    return out;
}

TEST(LayoutCodes, AreReadBackForEveryRole) {
    const Batch batch;
    for (const Role role : rolesInUse()) {
        for (const int preparation : {1, 3}) {
            const Assignment one{role, isCounted(role) ? 12 : 0, isOfSample(role) ? preparation : 1};
            const auto again = assignmentFromCode(batch, layoutCode(one));
            ASSERT_TRUE(again) << layoutCode(one);
            EXPECT_EQ(*again, one) << layoutCode(one);
        }
    }
    EXPECT_EQ(assignmentFromCode(batch, " u07 "), (Assignment{Role::Unknown, 7}));
    EXPECT_EQ(assignmentFromCode(batch, "b"), (Assignment{Role::Blank, 0}));
    for (const char* wrong : {"", "S", "S0", "X1", "U", "U1.", "1.5", "S1x", "Blank 2"}) {
        EXPECT_FALSE(assignmentFromCode(batch, wrong)) << wrong;
    }
    const Batch named = test::sampleDocument().batch();
    EXPECT_EQ(assignmentFromCode(named, named.qcs.at({1}).name), (Assignment{Role::Qc, 1}));
}

TEST(LayoutParts, AreCopiedAndPasted) {
    const Batch batch = test::sampleDocument().batch();
    const std::vector<Place> corner{{0, 0}, {0, 1}, {1, 0}, {1, 1}};
    const std::string text = copyLayout(batch, corner);
    EXPECT_EQ(text, "\t1\t2\nA\tS1\tS1\nB\tS2\tS2\n");
    EXPECT_TRUE(isLayoutBlock(batch, text));
    EXPECT_FALSE(isLayoutBlock(batch, "Cider 4\nCider 5\n"));
    EXPECT_FALSE(isLayoutBlock(batch, "0.12\t0.13\n"));
    const Batch pasted = after(batch, pasteLayout(batch, {0, 6}, text));
    EXPECT_EQ(pasted.at({1, 7}), (Assignment{Role::Standard, 2}));
    EXPECT_EQ(test::placesOf(pasted, {Role::Standard, 1}).size(), 4u) << "further replicates of the level";
    EXPECT_EQ(pasted.at({0, 0}), batch.at({0, 0}));
    // Without headings as well; an empty cell leaves its place as it is.
    const Batch bare = after(batch, pasteLayout(batch, {0, 0}, "\tU40\n"));
    EXPECT_EQ(bare.at({0, 0}), batch.at({0, 0}));
    EXPECT_EQ(bare.at({0, 1}), (Assignment{Role::Unknown, 40}));
    EXPECT_EQ(pasteLayout(batch, {0, 11}, text).error().code, "layout.beyond");
    EXPECT_EQ(pasteLayout(batch, {0, 0}, "S1\tcider\n").error().code, "layout.code");
    EXPECT_NE(pasteLayout(batch, {0, 0}, "S1\tcider\n").error().message.find("line 1, cell 2"), std::string::npos);
    EXPECT_EQ(pasteLayout(batch, {0, 0}, "\t\n").error().code, "layout.block-empty");
}

TEST(LayoutParts, AreMirroredAndMirroredBack) {
    const Batch batch = test::sampleDocument().batch();
    for (const Mirror how : {Mirror::LeftRight, Mirror::TopBottom, Mirror::HalfTurn}) {
        const Batch once = after(batch, mirrorLayout(batch, 1, how));
        EXPECT_NE(once.places, batch.places);
        EXPECT_EQ(after(once, mirrorLayout(once, 1, how)).places, batch.places);
    }
    EXPECT_EQ(after(batch, mirrorLayout(batch, 1, Mirror::LeftRight)).at({0, 11}), (Assignment{Role::Standard, 1}));
    EXPECT_EQ(after(batch, mirrorLayout(batch, 1, Mirror::HalfTurn)).at({7, 11}), (Assignment{Role::Standard, 1}));
}

TEST(LayoutParts, AreMoved) {
    const Batch batch = test::sampleDocument().batch();
    const std::vector<Place> blanks = test::placesOf(batch, {Role::Blank, 0});
    const Batch moved = after(batch, moveLayout(batch, blanks, 0, 4));
    EXPECT_EQ(test::placesOf(moved, {Role::Blank, 0}), (std::vector<Place>{{7, 4}, {7, 5}}));
    EXPECT_EQ(moved.at({7, 0}).role, Role::Empty);
    EXPECT_EQ(moveLayout(batch, blanks, 1, 0).error().code, "layout.beyond");
    // Onto itself by one: nothing is lost on the way.
    const Batch shifted = after(batch, moveLayout(batch, {{0, 0}, {0, 1}}, 0, 1));
    EXPECT_EQ(shifted.at({0, 1}), (Assignment{Role::Standard, 1}));
    EXPECT_EQ(shifted.at({0, 2}), (Assignment{Role::Standard, 1}));
}

TEST(LayoutParts, AreRepeatedOnAnotherPlate) {
    Batch batch = test::sampleDocument().batch();
    batch.carriers[2] = {};
    batch.preparations[{1, 2}] = {50};
    batch.places[{2, 8}] = {Role::Unknown, 1, 2};
    const Batch both = after(batch, copyLayoutTo(batch, 1, 2));
    EXPECT_EQ(both.at({0, 0, 2}), (Assignment{Role::Standard, 1}));
    const Assignment copied = both.at({2, 2, 2});
    EXPECT_EQ(copied.role, Role::Unknown);
    EXPECT_EQ(copied.number, 7) << "the unknowns of the second plate go on after those of the first";
    EXPECT_EQ(both.samples.at(7).dilution, batch.samples.at(1).dilution);
    EXPECT_EQ(both.dilution({Role::Unknown, 7, 2}), 50);
    batch.carriers[2].columns = 6;
    EXPECT_EQ(copyLayoutTo(batch, 1, 2).error().code, "layout.size");
}

// What a number stands for exists from its first place on, whichever way it came there.
TEST(LayoutParts, BringTheirSamplesAlong) {
    const Batch batch = test::sampleDocument().batch();
    const Batch pasted = after(batch, pasteLayout(batch, {0, 6}, "U40\tU40\nU41\tU01\n"));
    EXPECT_TRUE(pasted.samples.contains(40) && pasted.samples.contains(41));
    EXPECT_EQ(pasted.samples.at(1), batch.samples.at(1)) << "one that was there stays as it is";
}

} // namespace
} // namespace nuvat
