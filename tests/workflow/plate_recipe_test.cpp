// What was corrected of files of plates, for the next of the kind.
#include "nuvat/workflow/plate_recipe.h"

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

} // namespace
} // namespace nuvat
