// What was corrected of files of plates, for the next of the kind.
#include "nuvat/workflow/plate_recipe.h"

#include "nuvat/batch/evaluation.h"
#include "nuvat/workflow/apply_method.h"
#include "nuvat/workflow/session.h"
#include "support/reference.h"

#include <fstream>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

std::vector<PlateImport> readsOf(const std::vector<std::string>& names) {
    std::vector<PlateImport> out(names.size());
    for (std::size_t i = 0; i < names.size(); ++i) {
        out[i].readName = names[i];
    }
    return out;
}

TEST(PlateRecipes, AreMadeOfCorrectionsAndAppliedToTheNextFile) {
    auto reads = readsOf({"450 nm", "", "620 nm"});
    const auto keys = readKeys(reads);
    EXPECT_EQ(keys, (std::vector<std::string>{"450 nm", "read 2", "620 nm"}));
    EXPECT_TRUE(correctedRecipe({}, keys, reads, {true, true, true}).reads.empty()) << "nothing was corrected";
    reads[1].readName = "540 nm";
    const PlateRecipe recipe = correctedRecipe({}, keys, reads, {true, true, false});
    ASSERT_EQ(recipe.reads.size(), 2u);

    auto next = readsOf({"450 nm", "", "620 nm"});
    EXPECT_EQ(applyRecipe(recipe, next), (std::vector<bool>{true, true, false}));
    EXPECT_EQ(next[1].readName, "540 nm");
    // Taken back, it is gone from the recipe.
    EXPECT_EQ(
        correctedRecipe(recipe, readKeys(readsOf({"450 nm", "", "620 nm"})), next, {true, true, true}).reads.size(),
        1u);
    auto other = readsOf({"620 nm"});
    EXPECT_EQ(applyRecipe(recipe, other), (std::vector<bool>{true})) << "a file of which nothing would remain is whole";
}

TEST(PlateRecipes, KeepHowAFileWasCut) {
    const PlateCut cut{{';', ','}, {{"", 5, 2, 8, 12}}};
    const PlateRecipe recipe = correctedRecipe({}, {}, {}, {}, cut);
    EXPECT_EQ(recipe.separator, ";");
    EXPECT_EQ(recipe.decimal, ",");
    EXPECT_EQ(cutOf(recipe), cut);
    EXPECT_EQ(cutOf(correctedRecipe(recipe, {}, {}, {}, {})), PlateCut{}) << "read as found again";
}

// The file of the demo without what makes it a plate: a person marked its wells once, and apply takes them since.
TEST(PlateRecipes, AreFollowedWhereAMethodIsAppliedToTheNextFile) {
    const test::TemporaryFolder folder;
    std::string text = test::contentOf(std::filesystem::path(NUVAT_DEMO_DIR) / "patulin-elisa" / "plate-450.csv");
    for (const char row : {'B', 'C', 'D', 'E', 'F', 'G', 'H'}) { // no row letters: nothing is found by itself
        const auto at = text.find("\n" + std::string(1, row) + ";");
        ASSERT_NE(at, std::string::npos) << row;
        text[at + 1] = '*';
    }
    std::ofstream(folder / "odd.csv") << text;
    auto pattern = demoBatch(folder / "pattern.nuvat");
    ASSERT_TRUE(pattern);
    const AnalyteEvaluation before = evaluate(pattern->document->batch()).analyte();
    EXPECT_FALSE(applyMethod(folder / "pattern.nuvat", {folder / "odd.csv"}, folder / "no.nuvat"));
    Method method = pattern->document->batch().method;
    method.plateRecipe.blocks = {{"", 6, 2, 8, 12}};
    ASSERT_TRUE(pattern->document->apply(setMethod(pattern->document->batch(), method)));
    const auto made = applyMethod(folder / "pattern.nuvat", {folder / "odd.csv"}, folder / "next.nuvat");
    ASSERT_TRUE(made) << made.error().text();
    const AnalyteEvaluation after = evaluate(made->document->batch()).analyte();
    ASSERT_EQ(after.responses.size(), before.responses.size());
    for (std::size_t i = 0; i < after.responses.size(); ++i) {
        EXPECT_EQ(after.responses[i].raw, before.responses[i].raw) << i;
    }
}

// Sheets as LibreOffice wrote them (tests/fixtures/spreadsheets/make.sh) are applied like text.
TEST(PlateRecipes, SpreadsheetsAreDataOfApplyToo) {
    NoProgress progress;
    for (const char* name : {"libreoffice.xlsx", "libreoffice.ods", "openpyxl.xlsx", "odfpy.ods"}) {
        const auto reads =
            readPlateFile(std::filesystem::path(NUVAT_TEST_DIR) / "fixtures" / "spreadsheets" / name, progress);
        ASSERT_TRUE(reads) << name << ": " << reads.error().text();
        EXPECT_GT(reads->front().numberCount(), 0u) << name;
    }
}

} // namespace
} // namespace nuvat
