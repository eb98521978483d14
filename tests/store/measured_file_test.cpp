// What was measured on traces is remembered in the file, and never used where it no longer holds.
#include "nuvat/store/batch_file.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/session.h"
#include "support/reference.h"
#include "support/sqlite_file.h"
#include "support/trace_runs.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::query;

class Measured : public testing::Test {
protected:
    void SetUp() override {
        DocumentState state;
        state.batch = test::traceBatch();
        state.batch.info.uid = "0123456789abcdef";
        // Every part of what is remembered: skims and remarks, a band, what was drawn and has nothing to hold on to.
        SignalRule& rule = state.batch.method.signalRules["detector"];
        rule.peaks.isNegative = true;
        rule.peaks.hasShoulders = true;
        rule.peaks.deadTime = 20;
        rule.peaks.ignored = {{0, 50}};
        const Slot slot{1, Place{2, 0}, "detector"};
        state.batch.handEdits[slot].list = {{{PeakEditKind::Bounds, 60, 52, 69, 0, 0}, "", 1},
                                            {{PeakEditKind::Remove, 190, 0, 0, 0, 0}, "", 2}};
        Analyte band;
        band.name = "band";
        band.source.rule = BandRule{"detector", 70, 90, BandQuantity::Slope};
        state.batch.method.analytes.push_back(band);
        ASSERT_TRUE(BatchFile::write(m_path, state));
    }
    /// Opens the file, evaluates it, remembers what was found and closes it. @param knows whether it may use what the
    /// file remembers
    Evaluation visit(bool knows) {
        auto opened = BatchFile::open(m_path);
        EXPECT_TRUE(opened) << opened.error().text();
        Evaluator evaluator;
        m_remembered = opened->measured.size();
        if (knows) {
            evaluator.know(opened->measured);
        }
        m_batch = opened->state.batch;
        const auto evaluation = evaluator.evaluate(m_batch);
        opened->file->remember(m_batch, *evaluation);
        return *evaluation;
    }
    std::size_t countInMemory() const {
        return static_cast<std::size_t>(std::ranges::count_if(
            m_batch.readings, [](const auto& entry) { return entry.second->payload.isInMemory(); }));
    }
    std::string rows() const { return query(m_path, "SELECT row, channel, key, hex(data) FROM measured ORDER BY row"); }

    const test::TemporaryFolder m_folder;
    const std::filesystem::path m_path = m_folder / "b.nuvat";
    std::size_t m_remembered = 0;
    Batch m_batch;
};

TEST_F(Measured, IsTheSameToTheLastBitAndNoTraceIsRead) {
    const Evaluation first = visit(true);
    EXPECT_EQ(m_remembered, 0u);
    EXPECT_EQ(countInMemory(), 6u);
    const std::string before = rows();
    const std::string json = evaluationJson(m_batch, first);
    const Evaluation second = visit(true);
    EXPECT_EQ(m_remembered, 6u);
    EXPECT_EQ(countInMemory(), 0u);
    EXPECT_EQ(evaluationJson(m_batch, second), json);
    EXPECT_EQ(rows(), before);
    // What was read from the file is written as it was measured: nothing got lost on the way.
    test::runSql(m_path, "UPDATE measured SET key = 'x'");
    visit(false);
    EXPECT_EQ(m_remembered, 0u);
    EXPECT_EQ(rows(), before);
    const MeasuredTrace& drawn = *second.traces.at({1, Place{2, 0}, "detector"});
    EXPECT_EQ(drawn.features.unheld, (std::vector<std::size_t>{1}));
    EXPECT_TRUE(drawn.bands.front().value);
    EXPECT_FALSE(drawn.features.peaks.front().remarks.empty() && drawn.features.peaks.size() < 2);
}

TEST_F(Measured, IsNotUsedWhereRuleDrawingOrVersionIsAnother) {
    visit(true);
    auto opened = BatchFile::open(m_path);
    Document document(opened->state);
    document.setJournal(std::move(opened->file));
    // One trace is drawn on: it alone is looked at again.
    const Slot slot{1, Place{0, 0}, "detector"};
    ASSERT_TRUE(document.apply(drawOn(document.batch(), {slot}, {{PeakEditKind::Bounds, 60, 50, 72, 0, 0}, "", 3})));
    document.setJournal(nullptr);
    visit(true);
    EXPECT_EQ(m_remembered, 5u);
    EXPECT_EQ(countInMemory(), 1u);
    visit(true);
    EXPECT_EQ(m_remembered, 6u);
    // Bytes that are cut, or of something else, are as if they were not there.
    test::runSql(m_path, "UPDATE measured SET data = CAST(substr(data, 1, 90) AS BLOB) WHERE row = 1");
    test::runSql(m_path, "UPDATE measured SET data = x'00' WHERE row = 2");
    test::runSql(m_path, "UPDATE measured SET data = CAST(data || data AS BLOB) WHERE row = 3");
    const std::string json = evaluationJson(m_batch, visit(true));
    EXPECT_EQ(m_remembered, 3u);
    EXPECT_EQ(json, evaluationJson(m_batch, evaluate(m_batch)));
    test::runSql(m_path, "UPDATE measured SET key = 'of an earlier version'");
    visit(true);
    EXPECT_EQ(m_remembered, 0u);
}

TEST_F(Measured, LeavesAFileAloneThatSomebodyElseChanged) {
    auto opened = BatchFile::open(m_path);
    const auto evaluation = evaluate(opened->state.batch);
    test::runSql(m_path, "UPDATE batch SET title = 'other'");
    opened->file->remember(opened->state.batch, evaluation);
    EXPECT_EQ(rows(), "");
}

} // namespace
} // namespace nuvat
