// Texts with fields, and names of files from them.
#include "nuvat/workflow/fields.h"
#include "support/reference.h"
#include "support/sample_batch.h"

#include <fstream>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

constexpr std::int64_t kNoon = 1'789'387'200'000; // 2026-09-14, noon UTC

TEST(Fields, AreFilledAndOthersStay) {
    Batch batch = test::sampleDocument().batch();
    batch.info.title = "Patulin, week 38";
    batch.info.laboratory = "Alderbrook";
    batch.method.revision = 4;
    EXPECT_EQ(fillFields("{laboratory}: {batch} r{revision} | {page} of {pages}", {batch, kNoon, 2, 5}),
              "Alderbrook: Patulin, week 38 r4 | 2 of 5");
    EXPECT_EQ(fillFields("{nothing} {batch", {batch, kNoon}), "{nothing} {batch");
    EXPECT_EQ(fillFields("{date}", {batch, kNoon}), "2026-09-14");
    for (const FieldName& field : pageFields()) {
        const std::string pattern = std::string("{") + field.name + "}";
        EXPECT_NE(fillFields(pattern, {batch, kNoon}), pattern);
    }
}

TEST(Fields, MakeFileNamesThatEverySystemTakes) {
    const test::TemporaryFolder folder;
    Batch batch = test::sampleDocument().batch();
    batch.info.title = "Würze / week: 38?";
    EXPECT_EQ(exportFileName(batch, kNoon, {}, ".pdf"), "2026-09-14_würze-week-38.pdf");
    batch.method.fileName = "{batch}-{number}";
    EXPECT_EQ(exportFileName(batch, kNoon, folder.path(), ".pdf"), "würze-week-38-0001.pdf");
    std::ofstream(folder / "würze-week-38-0001.pdf") << "x";
    EXPECT_EQ(exportFileName(batch, kNoon, folder.path(), ".pdf"), "würze-week-38-0002.pdf");
    EXPECT_EQ(exportFileName(batch, kNoon, folder.path(), ".csv"), "würze-week-38-0001.csv");
    batch.info.title = "..";
    batch.method.fileName = "{batch}";
    EXPECT_EQ(exportFileName(batch, kNoon, {}, ".pdf"), "batch.pdf");
}

TEST(Fields, NameNoFileThatIsThere) {
    const test::TemporaryFolder folder;
    Batch batch = test::sampleDocument().batch();
    batch.info.title = "Week 38";
    for (const char* wanted : {"2026-09-14_week-38.csv", "2026-09-14_week-38-2.csv", "2026-09-14_week-38-3.csv"}) {
        EXPECT_EQ(exportFileName(batch, kNoon, folder.path(), ".csv"), wanted);
        std::ofstream(folder / wanted) << "x";
    }
    EXPECT_EQ(exportFileName(batch, kNoon, {}, ".csv"), "2026-09-14_week-38.csv") << "a dialog asks by itself";
}

} // namespace
} // namespace nuvat
