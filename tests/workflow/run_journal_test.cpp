// Runs that grow, and what is left of them when a program stops.
#include "nuvat/workflow/run_journal.h"

#include "nuvat/batch/run_commands.h"
#include "support/reference.h"
#include "support/trace_runs.h"

#include <algorithm>
#include <csignal>
#include <cstdlib>
#include <fstream>
#include <gtest/gtest.h>
#include <sys/resource.h>

namespace nuvat {
namespace {

class GrowingRuns : public ::testing::Test {
protected:
    void SetUp() override {
        std::string name = (std::filesystem::temp_directory_path() / "nuvat-journal-XXXXXX").string();
        ASSERT_NE(mkdtemp(name.data()), nullptr);
        m_folder = name;
        m_batch = m_folder / "week.nuvat";
    }
    void TearDown() override { std::filesystem::remove_all(m_folder); }

    JournalHead head() const { return {"0123", {2, 0, 1}, "Mead", "chromatograph", "min", {"210 nm", "254 nm"}, 0}; }
    std::filesystem::path m_folder, m_batch;
};

TEST_F(GrowingRuns, GiveBackEveryBitOfWhatWasWritten) {
    RunJournal journal(m_batch, head());
    std::vector<double> x{0, 0.1, 0.2};
    std::vector<std::vector<double>> y{{1.0 / 3, -2e-300, 5}, {7, 8, 9}};
    ASSERT_TRUE(journal.write(0, x, y));
    x.push_back(0.30000000000000004);
    y[0].push_back(0.1);
    y[1].push_back(11);
    ASSERT_TRUE(journal.write(0, x, y));
    const auto found = journalsOf(m_batch, "0123");
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found.front().head.place, Place(2, 0));
    ASSERT_EQ(found.front().run.channels.size(), 2u);
    const auto trace = found.front().run.channels.front().second.trace();
    EXPECT_EQ(trace->points(), std::pair(x, y[0]));
    EXPECT_TRUE(journalsOf(m_batch, "another batch").empty());
    journal.remove();
    EXPECT_TRUE(journalsOf(m_batch, "0123").empty());
}

TEST_F(GrowingRuns, BeginAnewWithTheInjection) {
    RunJournal journal(m_batch, head());
    ASSERT_TRUE(journal.write(0, {0, 1, 2, 3}, {{1, 1, 1, 1}, {2, 2, 2, 2}}));
    ASSERT_TRUE(journal.write(500, {-1, 0, 1}, {{5, 6, 7}, {2, 2, 2}}));
    const auto found = journalsOf(m_batch, "0123");
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found.front().head.injectedMillis, 500);
    EXPECT_EQ(found.front().run.channels.front().second.trace()->points().first, (std::vector<double>{-1, 0, 1}));
}

// Whatever byte the writing stopped at: whole lines come back, the cut one does not.
TEST_F(GrowingRuns, AreReadUpToTheLastWholeSample) {
    std::vector<double> x, a, b;
    for (int i = 0; i < 6; ++i) {
        x.push_back(0.25 * i);
        a.push_back(i + 0.125);
        b.push_back(-i);
    }
    RunJournal journal(m_batch, head());
    ASSERT_TRUE(journal.write(0, x, {a, b}));
    std::ifstream in(journal.path(), std::ios::binary);
    const std::string whole((std::istreambuf_iterator<char>(in)), {});
    const std::size_t headEnd = whole.find('\n');
    std::size_t last = 0;
    for (std::size_t size = 0; size <= whole.size(); ++size) {
        std::ofstream(journal.path(), std::ios::binary | std::ios::trunc) << whole.substr(0, size);
        const auto found = journalsOf(m_batch, "0123");
        const std::size_t samples = found.empty() ? 0 : found.front().run.channels.front().second.trace()->size();
        const auto lines = static_cast<std::size_t>(
            std::count(whole.begin(), whole.begin() + static_cast<std::ptrdiff_t>(size), '.') -
            std::count(whole.begin(), whole.begin() + static_cast<std::ptrdiff_t>(std::min(size, headEnd)), '.'));
        EXPECT_EQ(samples, lines < 3 ? 0 : lines) << size;
        EXPECT_GE(samples, last);
        last = samples;
    }
    EXPECT_EQ(last, 6u);
}

TEST_F(GrowingRuns, ComeBackIntoTheBatchOnceAndMarked) {
    DocumentState state;
    state.batch.info.uid = "0123";
    test::apply(state.batch, planRuns(state.batch, {{"Blank", "1", Role::Blank, {}, 1, {}},
                                                    {"S", "2", Role::Standard, 1.0, 1, {}},
                                                    {"Mead", "3", Role::Unknown, {}, 1, {}}}));
    Document document(state);
    {
        RunJournal journal(m_batch, head());
        ASSERT_TRUE(journal.write(77, {0, 1, 2}, {{1, 2, 3}, {4, 5, 6}}));
    }
    const auto taken = recoverRuns(document, m_batch);
    ASSERT_TRUE(taken) << taken.error().text();
    EXPECT_EQ(*taken, 1u);
    EXPECT_EQ(document.batch().runs.at({2, 0}).state, RunState::Failed);
    EXPECT_NE(document.batch().reading(Slot{1, Place{2, 0}, "254 nm"}), nullptr);
    EXPECT_TRUE(journalsOf(m_batch, "0123").empty());
    // The program stopped between keeping the run and removing its journal.
    {
        RunJournal journal(m_batch, head());
        ASSERT_TRUE(journal.write(77, {0, 1, 2}, {{1, 2, 3}, {4, 5, 6}}));
    }
    EXPECT_EQ(*recoverRuns(document, m_batch), 0u);
    EXPECT_EQ(document.batch().readings.size(), 2u);
}

/// Grows a journal over a limit on the size of files and on after it; leaves with 0 where all went as it should.
[[noreturn]] void growOverTheLimit(const std::filesystem::path& batch, const JournalHead& head) {
    RunJournal journal(batch, head);
    std::vector<double> x, y;
    const auto grow = [&](int count) {
        for (int i = 0; i < count; ++i) {
            x.push_back(static_cast<double>(x.size()));
            y.push_back(0.5);
        }
        return journal.write(0, x, {y, y});
    };
    bool isGood = grow(20).has_value();
    std::signal(SIGXFSZ, SIG_IGN);
    const rlimit small{1500, RLIM_INFINITY};
    setrlimit(RLIMIT_FSIZE, &small);
    const auto full = grow(200);
    isGood = isGood && !full && full.error().code == "file.cannot-write";
    const rlimit large{RLIM_INFINITY, RLIM_INFINITY};
    setrlimit(RLIMIT_FSIZE, &large);
    isGood = isGood && grow(5).has_value();
    const auto found = journalsOf(batch, "0123");
    isGood = isGood && found.size() == 1 && found.front().run.channels.front().second.trace()->size() == 225;
    std::exit(isGood ? 0 : 1);
}

// A full disk, by a limit on the size of files: the run goes on, and what is missing is written once there is room.
TEST_F(GrowingRuns, GoOnWhenTheDiskIsFull) {
    EXPECT_EXIT(growOverTheLimit(m_batch, head()), ::testing::ExitedWithCode(0), "");
}

} // namespace
} // namespace nuvat
