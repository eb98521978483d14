// What an instrument gave is shared, never copied, and told apart by what it holds.
#include "nuvat/batch/evaluation.h"
#include "nuvat/core/base/checksum.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::sampleDocument;

// Source: FIPS 180-4, examples of NIST for "abc" and the empty message.
TEST(Sha256, GivesThePublishedDigests) {
    EXPECT_EQ(sha256("abc"), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
    EXPECT_EQ(sha256(""), "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855");
}

TEST(Payload, IsSharedByCopiesOfABatch) {
    const Batch batch = sampleDocument().batch();
    const Payload& payload = batch.readings.at(1)->payload;
    const long before = payload.useCount();
    const std::vector<Batch> copies(100, batch);
    EXPECT_EQ(payload.useCount(), before); // the head is shared too
    EXPECT_EQ(copies.back().readings.at(1)->payload.grid().get(), payload.grid().get());
}

TEST(Payload, IsNotCopiedByAnEdit) {
    Document document = sampleDocument();
    const auto grid = document.batch().readings.at(1)->payload.grid();
    ASSERT_TRUE(document.apply(setTitle(document.batch(), "other")));
    ASSERT_TRUE(document.apply(excludePlaces(document.batch(), {{0, 0}}, "bubble", 1)));
    ASSERT_TRUE(document.undo());
    EXPECT_EQ(document.batch().readings.at(1)->payload.grid().get(), grid.get());
}

TEST(Payload, IsEqualByWhatItHolds) {
    const Grid grid = *sampleDocument().batch().readings.at(1)->payload.grid();
    EXPECT_EQ(Payload::of(grid), Payload::of(grid));
    for (const auto& edit : std::vector<std::function<void(Grid&)>>{
             [](Grid& g) { g.wells[0].value = 1.0; }, [](Grid& g) { g.wells[0].value.reset(); },
             [](Grid& g) { g.wells[0].text += "0"; }, [](Grid& g) { g.wells[0].line += 1; },
             [](Grid& g) { g.wells[0].column += 1; }, [](Grid& g) { std::swap(g.rows, g.columns); },
             [](Grid& g) { std::swap(g.wells[0], g.wells[1]); }}) {
        Grid other = grid;
        edit(other);
        EXPECT_NE(Payload::of(grid), Payload::of(other));
    }
}

class Nowhere : public PayloadSource {
public:
    PayloadData load(const PayloadId&) override {
        ++calls;
        return answer;
    }
    int calls = 0;
    std::shared_ptr<const Grid> answer;
};

TEST(Payload, IsReadOnFirstUseAndThenKept) {
    const auto source = std::make_shared<Nowhere>();
    const Payload payload = Payload::stored("x", source);
    EXPECT_EQ(source->calls, 0);
    EXPECT_EQ(payload.grid(), nullptr);
    source->answer = std::make_shared<const Grid>(Grid{1, 1, {{1.0, "1", 0, 0}}});
    EXPECT_NE(payload.grid(), nullptr);
    EXPECT_NE(payload.grid(), nullptr);
    EXPECT_EQ(source->calls, 2);
}

TEST(Payload, ThatCannotBeReadIsAProblemAndNoCrash) {
    Batch batch = sampleDocument().batch();
    Reading reading = *batch.readings.at(1);
    reading.payload = Payload::stored(std::string(64, '0'), std::make_shared<Nowhere>());
    batch.readings.at(1) = reading;
    const AnalyteEvaluation evaluation = evaluateAnalyte(batch);
    ASSERT_FALSE(evaluation.problems.empty());
    EXPECT_NE(evaluation.problems[0].message.find("The values of sample.csv cannot be read"), std::string::npos);
    EXPECT_EQ(evaluation.at({0, 0}).state, ResponseState::NotRead);
}

} // namespace
} // namespace nuvat
