#include "nuvat/batch/evaluation.h"
#include "nuvat/core/base/number.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/session.h"
#include "support/reference.h"
#include "support/sample_batch.h"

#include <cstdlib>
#include <gtest/gtest.h>
#include <sstream>

namespace nuvat {
namespace {

using test::TemporaryFolder;

class Session : public testing::Test {
protected:
    void SetUp() override { setenv("XDG_DATA_HOME", m_folder.path().c_str(), 1); }
    TemporaryFolder m_folder;
};

TEST_F(Session, ANewBatchLivesInTheDataFolderUntilItIsNamed) {
    auto batch = newBatch();
    ASSERT_TRUE(batch) << batch.error().text();
    EXPECT_FALSE(batch->isNamed);
    EXPECT_EQ(batch->path.parent_path(), unnamedFolder());
    ASSERT_TRUE(batch->document->apply(setTitle(batch->document->batch(), "Mine")));
    const auto unnamed = batch->path;
    ASSERT_TRUE(saveAs(*batch, m_folder / "mine.nuvat"));
    EXPECT_TRUE(batch->isNamed);
    EXPECT_FALSE(std::filesystem::exists(unnamed));
    // Edits now go to the new file.
    ASSERT_TRUE(batch->document->apply(setTitle(batch->document->batch(), "Mine, later")));
    EXPECT_EQ(openBatch(m_folder / "mine.nuvat")->document->batch().info.title, "Mine, later");
}

TEST_F(Session, SavingAsElsewhereKeepsTheNamedFile) {
    auto batch = demoBatch(m_folder / "one.nuvat");
    ASSERT_TRUE(batch);
    ASSERT_TRUE(saveAs(*batch, m_folder / "two.nuvat"));
    EXPECT_TRUE(std::filesystem::exists(m_folder / "one.nuvat"));
    EXPECT_EQ(batch->path, m_folder / "two.nuvat");
}

TEST_F(Session, ACopyLeavesTheBatchWhereItIs) {
    auto batch = demoBatch(m_folder / "one.nuvat");
    ASSERT_TRUE(batch);
    ASSERT_TRUE(saveCopy(*batch, m_folder / "copy.nuvat"));
    ASSERT_TRUE(batch->document->apply(setTitle(batch->document->batch(), "Only here")));
    EXPECT_EQ(openBatch(m_folder / "copy.nuvat")->document->batch().info.title, "Patulin in juice, week 38");
    EXPECT_EQ(openBatch(m_folder / "one.nuvat")->document->batch().info.title, "Only here");
    EXPECT_EQ(saveCopy(*batch, m_folder / "one.nuvat").error().code, "store.same-file");
}

TEST_F(Session, FilesThatAreNotThereAreSaid) {
    NoProgress progress;
    EXPECT_EQ(readPlateFile(m_folder / "missing.csv", progress).error().code, "import.not-found");
    EXPECT_EQ(readPlateFile(m_folder.path(), progress).error().code, "import.not-found");
    EXPECT_EQ(writeText(m_folder / "no" / "x.csv", "x").error().code, "export.cannot-write");
}

// The truth behind the demo is known (demo/patulin-elisa/truth.csv): nine in ten results lie within 12 % of it.
TEST_F(Session, TheDemoFindsItsTruthAgain) {
    const auto demo = demoBatch({});
    ASSERT_TRUE(demo) << demo.error().text();
    const AnalyteEvaluation evaluation = evaluateAnalyte(demo->document->batch());
    ASSERT_TRUE(evaluation.fit.isUsable());
    EXPECT_EQ(evaluation.results.size(), 40u);
    EXPECT_EQ(evaluation.verdict, Outcome::Review);
    std::istringstream truth(test::contentOf(std::filesystem::path(NUVAT_DEMO_DIR) / "patulin-elisa" / "truth.csv"));
    std::string line;
    int compared = 0;
    int near = 0;
    int covered = 0;
    while (std::getline(truth, line)) {
        const auto comma = line.find(',');
        const auto value = parseNumber(std::string_view(line).substr(comma + 1));
        for (const SampleResult& result : evaluation.results) {
            if (value && shortName(demo->document->batch(), result.group) == line.substr(0, comma) && result.result &&
                !result.needsReview) {
                ++compared;
                near += std::abs(*result.result / *value - 1) < 0.12 ? 1 : 0;
                covered += *result.low <= *value && *value <= *result.high ? 1 : 0;
            }
        }
    }
    EXPECT_GE(compared, 34);
    EXPECT_GE(near * 10, compared * 9);
    EXPECT_GE(covered * 10, compared * 8);
}

TEST_F(Session, ResultsCsvHasFullPrecisionAndGuardsFormulas) {
    Document document = test::sampleDocument();
    ASSERT_TRUE(document.apply(setSample(document.batch(), 1, {"=cmd()", 5, ""})));
    ASSERT_TRUE(document.apply(setSample(document.batch(), 2, {"with, comma", 5, ""})));
    const AnalyteEvaluation evaluation = evaluateAnalyte(document.batch());
    const std::string csv = resultsCsv(document.batch(), evaluation);
    std::istringstream lines(csv);
    std::string line;
    std::getline(lines, line);
    EXPECT_TRUE(line.starts_with("place,sample,role,wells,used replicates,response,read-off (µg/L),")) << line;
    EXPECT_NE(csv.find("U01,'=cmd(),unknown,C3 C4,2,"), std::string::npos);
    EXPECT_NE(csv.find("U02,\"with, comma\","), std::string::npos);
    EXPECT_NE(csv.find(formatNumber(*evaluation.result({Role::Unknown, 3})->result)), std::string::npos);
    EXPECT_EQ(std::count(csv.begin(), csv.end(), '\n'), 1 + 8);
}

} // namespace
} // namespace nuvat
