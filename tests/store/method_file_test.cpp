// Methods as files, their revisions, and batches that take them.
#include "nuvat/batch/evaluation.h"
#include "nuvat/store/method_file.h"
#include "support/reference.h"
#include "support/sample_batch.h"

#include <fstream>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

Batch richBatch() {
    return test::withMethod(test::sampleDocument().batch(), [](Method& m) {
        m.title = "Patulin kit";
        m.analyte().decisions = {DecisionBy::ShownAbove, {25, 50}, {"low", "", "high"}};
        m.analyte().derived = {{"Content", "µg/g", "result * volume / mass"}};
        m.plateRecipe = {";", ",", {{"450 nm", "Read 1", true}, {"620 nm", "", false}}, {{"Data", 5, 2, 8, 12}}};
        m.analyte().figure = {"Patulin [µg/L]", "", 0.1, std::nullopt, 0, 2.5, 1.5, false};
        m.resultColumns = {"place", "result"};
        m.fileName = "{batch}, {number}";
        m.criteria = {{"Own", CriterionScope::Level, "abs(error)", Comparison::AtMost, 7, true}};
    });
}

TEST(MethodFiles, AreReadBackToTheLastDigit) {
    const MethodFile file = methodOf(richBatch());
    const auto again = methodFromText(methodText(file));
    ASSERT_TRUE(again) << again.error().text();
    EXPECT_EQ(*again, file);
    EXPECT_EQ(methodFromText("{}").error().code, "method.not-read");
    EXPECT_EQ(methodFromText("[1").error().code, "method.not-read");
    std::string wrong = methodText(file);
    wrong.replace(wrong.find("\"confidence\": 0.95"), 18, "\"confidence\": 7.95");
    EXPECT_EQ(methodFromText(wrong).error().code, "method.confidence") << "what cannot stand in a batch is refused";
}

// Written by the version of schema 10, Nuvat 0.1.0 of 2026-12-01, before figures had settings.
TEST(MethodFiles, OfOlderVersionsAreRead) {
    const auto old = readMethod(std::filesystem::path(NUVAT_TEST_DIR) / "fixtures" / "method-version-1.nuvat-method");
    ASSERT_TRUE(old) << old.error().text();
    EXPECT_EQ(old->method.analyte().figure, FigureSettings{});
    EXPECT_EQ(old->method.analyte().decisions.limits, (std::vector<double>{60, 120}));
}

TEST(MethodFiles, AreKeptAsRevisionsThatNeverChange) {
    const test::TemporaryFolder folder;
    const MethodLibrary library(folder / "methods");
    EXPECT_TRUE(library.entries().empty());
    MethodFile file = methodOf(richBatch());
    EXPECT_EQ(library.keep(file).value(), 1);
    EXPECT_EQ(library.keep(file).value(), 1) << "nothing has changed";
    const std::string first = test::contentOf(library.pathOf("Patulin kit", 1));
    file.method.analyte().fit.weighting = Weighting::None;
    EXPECT_EQ(library.keep(file).value(), 2);
    EXPECT_EQ(test::contentOf(library.pathOf("Patulin kit", 1)), first);
    ASSERT_EQ(library.entries().size(), 1u);
    EXPECT_EQ(library.entries()[0].revisions, (std::vector<int>{1, 2}));
    EXPECT_EQ(library.newest("Patulin kit")->method.analyte().fit.weighting, Weighting::None);
    EXPECT_EQ(library.newest("nothing").error().code, "method.not-read");
    const auto old = readMethod(library.pathOf("Patulin kit", 1));
    ASSERT_TRUE(old);
    const auto differences = methodDifferences(*old, *library.newest("Patulin kit"));
    ASSERT_EQ(differences.size(), 1u);
    EXPECT_EQ(differences[0], "analytes 1, weighting: 1/y2 → none");
    file.levels[1].concentration = 400;
    EXPECT_EQ(methodDifferences(*library.newest("Patulin kit"), file).back(), "concentrations of the standards");
}

TEST(MethodFiles, AreTakenByBatches) {
    const MethodFile file = methodOf(richBatch());
    // One with readings on the same plate takes recipe and layout, and keeps its samples.
    Batch batch = test::sampleDocument().batch();
    batch.places.clear();
    batch.levels.clear();
    batch.samples[1].name = "Cider 4";
    const auto command = useMethod(batch, file);
    ASSERT_TRUE(command) << command.error().text();
    applyChanges(batch, *command, false);
    EXPECT_EQ(batch.method, file.method);
    EXPECT_EQ(batch.places, file.places);
    EXPECT_EQ(batch.samples.at(1).name, "Cider 4");
    EXPECT_TRUE(evaluateAnalyte(batch).fit.isUsable());
    // An empty one takes the plates too.
    Batch empty;
    empty.carriers[1].columns = 6;
    const auto fresh = useMethod(empty, file);
    ASSERT_TRUE(fresh);
    applyChanges(empty, *fresh, false);
    EXPECT_EQ(empty.carriers, file.carriers);
    EXPECT_EQ(empty.samples.size(), 6u);
    // Readings on a plate of another size are not laid out anew.
    Batch other = test::sampleDocument().batch();
    other.carriers[1].columns = 24;
    EXPECT_EQ(useMethod(other, file).error().code, "method.other-carriers");
}

// Two titles that give the same name of a file: neither writes over the other's revisions.
TEST(MethodFiles, OfTitlesThatLookAlikeKeepApart) {
    const test::TemporaryFolder folder;
    const MethodLibrary library(folder / "methods");
    MethodFile file = methodOf(richBatch());
    ASSERT_EQ(library.keep(file).value(), 1);
    file.method.title = "Patulin-Kit";
    EXPECT_EQ(library.keep(file).value(), 2);
    EXPECT_EQ(readMethod(library.pathOf("Patulin kit", 1))->method.title, "Patulin kit");
    EXPECT_EQ(library.newest("Patulin-Kit")->method.revision, 2);
    EXPECT_EQ(library.entries().size(), 2u);
}

} // namespace
} // namespace nuvat
