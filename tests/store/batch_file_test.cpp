#include "nuvat/batch/evaluation.h"
#include "nuvat/store/batch_file.h"
#include "nuvat/workflow/export.h"
#include "support/every_command.h"
#include "support/reference.h"
#include "support/sample_batch.h"
#include "support/sqlite_file.h"

#include <fstream>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::TemporaryFolder;

using test::openDocument;
using test::query;
using test::runSql;

bool sameState(const DocumentState& a, const DocumentState& b) {
    bool same = a.batch == b.batch && a.done == b.done && a.commands.size() == b.commands.size() &&
                a.history.size() == b.history.size();
    for (std::size_t i = 0; same && i < a.history.size(); ++i) {
        same = a.history[i].label == b.history[i].label && a.history[i].kind == b.history[i].kind &&
               a.history[i].timeMillis == b.history[i].timeMillis && a.history[i].reason == b.history[i].reason;
    }
    return same;
}

TEST(BatchFile, ReadsBackWhatItWrote) {
    const TemporaryFolder folder;
    Document document = test::sampleDocument();
    ASSERT_TRUE(document.apply(excludePlaces(document.batch(), {{2, 1}}, "bubble", 42)));
    ASSERT_TRUE(document.apply(setTitle(document.batch(), "Named, \"quoted\" and µ")));
    ASSERT_TRUE(document.undo());
    ASSERT_TRUE(BatchFile::write(folder / "a.nuvat", document.state()));
    const auto opened = BatchFile::open(folder / "a.nuvat");
    ASSERT_TRUE(opened) << opened.error().text();
    EXPECT_TRUE(sameState(opened->state, document.state()));
    EXPECT_EQ(evaluationJson(opened->state.batch, evaluate(opened->state.batch)),
              evaluationJson(document.batch(), evaluate(document.batch())));
}

TEST(BatchFile, KeepsEveryEditWhenItIsMade) {
    const TemporaryFolder folder;
    const auto path = folder / "b.nuvat";
    ASSERT_TRUE(BatchFile::write(path, DocumentState{}));
    Document document(test::sampleDocument().state());
    {
        auto opened = BatchFile::open(path);
        ASSERT_TRUE(opened);
        Document live(std::move(opened->state), [] { return 5; });
        live.setJournal(std::move(opened->file));
        // The sample batch again, command by command, each of which must already be in the file afterwards.
        for (const Command& command : document.commands()) {
            ASSERT_TRUE(live.apply(command));
            const auto seen = BatchFile::open(path);
            ASSERT_TRUE(seen) << seen.error().text();
            EXPECT_TRUE(sameState(seen->state, live.state())) << command.label;
        }
        ASSERT_TRUE(live.undo());
        ASSERT_TRUE(live.undo());
        ASSERT_TRUE(live.redo());
        EXPECT_TRUE(sameState(BatchFile::open(path)->state, live.state()));
    }
    // After closing, undo and redo go on where they were.
    auto again = BatchFile::open(path);
    ASSERT_TRUE(again);
    Document reopened(std::move(again->state));
    reopened.setJournal(std::move(again->file));
    EXPECT_TRUE(reopened.canRedo());
    while (reopened.canRedo()) {
        ASSERT_TRUE(reopened.redo());
    }
    EXPECT_EQ(reopened.batch().places, document.batch().places);
    EXPECT_EQ(reopened.batch().samples, document.batch().samples);
    while (reopened.canUndo()) {
        ASSERT_TRUE(reopened.undo());
    }
    EXPECT_TRUE(reopened.batch().places.empty());
    EXPECT_TRUE(reopened.batch().readings.empty());
}

// What is taken back must be gone from the file too, not only from memory.
// One command of every kind, each kept when it is made; then all taken back and done again from the file.
TEST(BatchFile, KeepsACommandOfEveryKind) {
    const TemporaryFolder folder;
    const auto path = folder / "every.nuvat";
    const Document begin = test::sampleDocument();
    ASSERT_TRUE(BatchFile::write(path, begin.state()));
    std::vector<Batch> steps{begin.batch()};
    const auto expectInFile = [&path](const Batch& batch, const std::string& name) {
        const auto read = BatchFile::open(path, BatchFile::Access::Read);
        ASSERT_TRUE(read) << name << ": " << read.error().text();
        EXPECT_TRUE(read->notes.empty()) << name << ": " << read->notes.front();
        EXPECT_TRUE(read->state.batch == batch) << name;
    };
    {
        Document document = openDocument(path);
        for (const test::KindOfCommand& kind : test::everyCommand()) {
            const std::size_t before = document.commands().size();
            const auto done = document.apply(kind.make(document.batch()));
            ASSERT_TRUE(done) << kind.name << ": " << done.error().text();
            EXPECT_EQ(document.commands().size(), before + 1) << kind.name << " finds nothing to do";
            steps.push_back(document.batch());
            expectInFile(document.batch(), kind.name);
        }
    }
    Document document = openDocument(path);
    for (std::size_t k = steps.size() - 1; k > 0; --k) {
        const std::string label = document.undoLabel();
        ASSERT_TRUE(document.undo());
        EXPECT_TRUE(document.batch() == steps[k - 1]) << "undo of " << label;
    }
    expectInFile(begin.batch(), "all undone");
    for (std::size_t k = 1; k < steps.size(); ++k) {
        ASSERT_TRUE(document.redo());
        EXPECT_TRUE(document.batch() == steps[k]) << "redo " << k;
    }
    expectInFile(steps.back(), "all redone");
}

TEST(BatchFile, ForgetsWhatIsTakenBack) {
    const TemporaryFolder folder;
    const auto path = folder / "b.nuvat";
    ASSERT_TRUE(BatchFile::write(path, test::sampleDocument().state()));
    auto opened = BatchFile::open(path);
    ASSERT_TRUE(opened);
    Document live(std::move(opened->state), [] { return 5; });
    live.setJournal(std::move(opened->file));
    const auto inFile = [&] { return BatchFile::open(path, BatchFile::Access::Read)->state.batch; };
    ASSERT_TRUE(live.apply(excludePlaces(live.batch(), {{0, 0}}, "bubble", 5).value()));
    EXPECT_EQ(inFile().exclusions.size(), 1u);
    ASSERT_TRUE(live.apply(restorePlaces(live.batch(), {{0, 0}}).value()));
    EXPECT_TRUE(inFile().exclusions.empty());
    CriterionResult criterion;
    criterion.key = "r-squared";
    ASSERT_TRUE(live.apply(overrideCriterion(live.batch(), 1, criterion, "known", 5).value()));
    EXPECT_EQ(inFile().overrides.size(), 1u);
    ASSERT_TRUE(live.apply(withdrawOverride(live.batch(), 1, criterion).value()));
    EXPECT_TRUE(inFile().overrides.empty());
    ASSERT_TRUE(live.apply(assignRole(live.batch(), {{0, 0}, {0, 1}}, Role::Empty, 1, Direction::Across).value()));
    EXPECT_FALSE(inFile().places.contains({0, 0}));
    ASSERT_TRUE(live.apply(renumberStandards(live.batch()).value()));
    EXPECT_EQ(inFile(), live.batch());
    ASSERT_TRUE(live.apply(setDetails(live.batch(), "Named", "Bench 4", "note").value()));
    EXPECT_EQ(inFile().info, live.batch().info);
}

TEST(BatchFile, ANewEditDropsWhatWasUndone) {
    const TemporaryFolder folder;
    ASSERT_TRUE(BatchFile::write(folder / "c.nuvat", test::sampleDocument().state()));
    auto opened = BatchFile::open(folder / "c.nuvat");
    Document live(std::move(opened->state));
    live.setJournal(std::move(opened->file));
    ASSERT_TRUE(live.undo());
    ASSERT_TRUE(live.undo());
    ASSERT_TRUE(live.apply(setTitle(live.batch(), "Elsewhere")));
    EXPECT_TRUE(sameState(BatchFile::open(folder / "c.nuvat")->state, live.state()));
}

TEST(BatchFile, HasTheMarksOfItsFormat) {
    const TemporaryFolder folder;
    ASSERT_TRUE(BatchFile::write(folder / "d.nuvat", test::sampleDocument().state()));
    EXPECT_EQ(query(folder / "d.nuvat", "PRAGMA application_id; "), "1314215508\n"); // "NUVT"
    EXPECT_EQ(query(folder / "d.nuvat", "PRAGMA user_version"), std::to_string(BatchFile::kSchemaVersion) + "\n");
    EXPECT_EQ(query(folder / "d.nuvat", "PRAGMA integrity_check"), "ok\n");
    // The ready-made view answers a question without knowing the tables.
    EXPECT_EQ(query(folder / "d.nuvat", "SELECT well, role, number, name, dilution FROM place_view WHERE well = 'E3'"),
              "E3|unknown|3|three|5.0\n");
    EXPECT_EQ(query(folder / "d.nuvat", "SELECT nominal FROM place_view WHERE well = 'A1'"), "500.0\n");
    EXPECT_FALSE(std::filesystem::exists(folder / "d.nuvat-journal")); // no sidecars
    EXPECT_FALSE(std::filesystem::exists(folder / "d.nuvat.part"));
}

// demo-schema-1.nuvat was written by Nuvat 0.1.0 before schema version 2.
TEST(BatchFile, BringsAFileOfTheFirstSchemaToThePresentOne) {
    const TemporaryFolder folder;
    const auto path = folder / "old.nuvat";
    std::filesystem::copy_file(std::filesystem::path(NUVAT_TEST_DIR) / "fixtures" / "demo-schema-1.nuvat", path);
    const auto opened = BatchFile::open(path);
    ASSERT_TRUE(opened) << opened.error().text();
    const Batch& batch = opened->state.batch;
    ASSERT_EQ(batch.method.analytes.size(), 1u);
    EXPECT_EQ(batch.method.analyte().name, "Patulin");
    EXPECT_EQ(batch.method.analyte().fit.model, Model::Logistic4);
    EXPECT_EQ(batch.method.analyte().fit.weighting, Weighting::InverseY2);
    EXPECT_EQ(batch.concentration(1), 500);
    EXPECT_EQ(batch.nominal(2), 80);
    EXPECT_FALSE(batch.method.limits.qcWithin); // a criterion that the old version did not know stays off
    EXPECT_EQ(query(path, "PRAGMA user_version"), std::to_string(BatchFile::kSchemaVersion) + "\n");
    ASSERT_EQ(opened->notes.size(), 2u); // the first says where the file as it was is kept
    EXPECT_NE(opened->notes[1].find("earlier Nuvat"), std::string::npos) << opened->notes[1];
    EXPECT_TRUE(sameState(BatchFile::open(path)->state, opened->state));
    // Its commands can still be undone: they hold methods as the old version wrote them.
    Document document(opened->state);
    while (document.canUndo()) {
        ASSERT_TRUE(document.undo());
    }
    EXPECT_EQ(document.batch().method.analyte().fit.weighting, Weighting::None);
    EXPECT_TRUE(document.batch().places.empty());
    while (document.canRedo()) {
        ASSERT_TRUE(document.redo());
    }
    EXPECT_EQ(document.batch(), batch);
}

TEST(BatchFile, KeepsEverySettingOfEveryAnalyte) {
    const TemporaryFolder folder;
    Document document = test::sampleDocument();
    Method method = document.batch().method;
    Analyte second = method.analyte();
    second.name = "Ochratoxin A";
    second.unit = "ng/mL";
    second.source = {ValueRule{"log10(reading)"}, CurveOf::Carrier};
    second.fit = {.model = Model::Logistic5,
                  .weighting = Weighting::InverseY,
                  .weightFrom = WeightSource::Fitted,
                  .fitTo = FitTo::Means,
                  .heldA = 2.5,
                  .fixedX = 1,
                  .fixedY = 2,
                  .isSplineInLogX = true};
    second.interval = IntervalMethod::Profile;
    second.average = AverageOf::Responses;
    second.range = {RangeBy::Hand, 15, 3.0, 90.0, 2};
    second.isConcentrationLogarithmic = false;
    method.analytes.push_back(second);
    method.replicates = {2, OutlierTest::Dixon, 0.01};
    method.dilutionRelativeSe = 0.02;
    method.limits.backCalculated.reset();
    method.limits.r = 0.99;
    method.criteria.push_back({"Blank is low", CriterionScope::Analyte, "blank_mean", Comparison::AtMost, 0.2, true});
    ASSERT_TRUE(document.apply(setMethod(document.batch(), method)));
    ASSERT_TRUE(document.apply(setSeries(document.batch(), {50, true, 2, 7}, 2)));
    ASSERT_TRUE(document.apply(setQc(document.batch(), 1, {"", 7}, 2)));
    const CriterionResult missed{.key = "worst-level", .title = "Worst level"};
    ASSERT_TRUE(document.apply(overrideCriterion(document.batch(), 2, missed, "known lot", 7)));
    ASSERT_TRUE(BatchFile::write(folder / "n.nuvat", document.state()));
    const auto opened = BatchFile::open(folder / "n.nuvat");
    ASSERT_TRUE(opened) << opened.error().text();
    EXPECT_EQ(opened->state.batch, document.batch());
    EXPECT_EQ(query(folder / "n.nuvat", "SELECT nominal FROM place_view WHERE well = 'A1' ORDER BY analyte"),
              "500.0\n50.0\n");
    // Every change can be undone from the file alone.
    Document reopened(opened->state);
    while (reopened.canUndo()) {
        ASSERT_TRUE(reopened.undo());
    }
    EXPECT_EQ(reopened.batch().method.analytes.size(), 1u);
    EXPECT_TRUE(reopened.batch().overrides.empty());
}

TEST(BatchFile, KeepsEveryKindOfRule) {
    const TemporaryFolder folder;
    const auto path = folder / "r.nuvat";
    ASSERT_TRUE(BatchFile::write(path, test::sampleDocument().state()));
    const std::vector<ResponseRule> rules{ValueRule{"\"a b\" − 2"}, BandRule{"UV 254", 1.5, 2.25, BandQuantity::Slope},
                                          PeakRule{"FID", 7.25, 5, WindowOf::Percent, 2, PeakQuantity::Height},
                                          PopulationRule{"P2", "FL2-A", "geometric-mean"},
                                          NamedRule{"molar mass", "M_w"}};
    for (const ResponseRule& rule : rules) {
        Document document = test::openDocument(path);
        Method method = document.batch().method;
        method.analyte().source.rule = rule;
        ASSERT_TRUE(document.apply(setMethod(document.batch(), method))) << kindName(rule);
        const auto read = BatchFile::open(path, BatchFile::Access::Read);
        ASSERT_TRUE(read) << read.error().text();
        EXPECT_EQ(read->state.batch.method.analyte().source.rule, rule) << kindName(rule);
        EXPECT_EQ(std::get<MethodChange>(read->state.commands.back().changes.front()).after->analyte().source.rule,
                  rule)
            << kindName(rule);
    }
}

void expectRefused(const std::filesystem::path& path, const std::string& code) {
    const auto opened = BatchFile::open(path);
    ASSERT_FALSE(opened) << path;
    EXPECT_EQ(opened.error().code, code) << opened.error().text();
    EXPECT_NE(opened.error().message.find(path.string()), std::string::npos);
    EXPECT_FALSE(opened.error().advice.empty());
}

TEST(BatchFile, RefusesWhatIsNoBatch) {
    const TemporaryFolder folder;
    expectRefused(folder / "missing.nuvat", "store.not-found");
    std::ofstream(folder / "empty.nuvat");
    expectRefused(folder / "empty.nuvat", "store.not-a-batch");
    std::ofstream(folder / "text.nuvat") << "Well;Value\nA1;1\n";
    expectRefused(folder / "text.nuvat", "store.not-a-batch");
    runSql(folder / "other.nuvat", "CREATE TABLE t (x); INSERT INTO t VALUES (1)");
    expectRefused(folder / "other.nuvat", "store.not-a-batch");
}

TEST(BatchFile, RefusesANewerVersionAndLeavesItAsItIs) {
    const TemporaryFolder folder;
    ASSERT_TRUE(BatchFile::write(folder / "new.nuvat", test::sampleDocument().state()));
    runSql(folder / "new.nuvat", "PRAGMA user_version = " + std::to_string(BatchFile::kSchemaVersion + 1));
    const std::string before = test::contentOf(folder / "new.nuvat");
    expectRefused(folder / "new.nuvat", "store.newer-version");
    EXPECT_EQ(test::contentOf(folder / "new.nuvat"), before);
}

TEST(BatchFile, RefusesDamageWithAReason) {
    const TemporaryFolder folder;
    const auto write = [&](const std::string& name, const std::string& sql) {
        EXPECT_TRUE(BatchFile::write(folder / name, test::sampleDocument().state()));
        runSql(folder / name, sql);
        return folder / name;
    };
    expectRefused(write("1.nuvat", "DELETE FROM batch"), "store.damaged");
    expectRefused(write("2.nuvat", "UPDATE analyte SET model = 'nonsense'"), "store.damaged");
    expectRefused(write("3.nuvat", "UPDATE payload SET data = '{}'"), "store.damaged");
    expectRefused(write("5.nuvat", "INSERT INTO place VALUES (1, 99, 0, 'blank', 0, 1)"), "store.damaged");
    expectRefused(write("6.nuvat", "DROP TABLE sample"), "store.damaged");
    // Numbers that no command writes would make the calculation stumble.
    expectRefused(write("7.nuvat", "UPDATE level SET concentration = -1 WHERE number = 1"), "store.damaged");
    expectRefused(write("8.nuvat", "UPDATE sample SET dilution = 9e999"), "store.damaged");
    expectRefused(write("9.nuvat", "UPDATE payload SET data = replace(data, 'null', '9e999')"), "store.damaged");
    expectRefused(write("10.nuvat", "UPDATE qc SET nominal = 0"), "store.damaged");
    expectRefused(write("11.nuvat", "UPDATE method SET confidence = 1"), "store.damaged");
    expectRefused(write("13.nuvat", "DELETE FROM analyte"), "store.damaged");
    expectRefused(write("14.nuvat", "UPDATE analyte SET number = 2"), "store.damaged");
    expectRefused(write("15.nuvat", "UPDATE analyte SET fixed_x = 9e999"), "store.damaged");
    expectRefused(write("16.nuvat", "UPDATE method SET outlier_alpha = 2"), "store.damaged");
    expectRefused(write("12.nuvat", "INSERT INTO exclusion VALUES (1, 0, 40, 0, 'x', 1)"), "store.damaged");
}

// Cut anywhere, a batch file is refused or read; it never crashes.
TEST(BatchFile, CutAtManyLengthsNeverCrashes) {
    const TemporaryFolder folder;
    ASSERT_TRUE(BatchFile::write(folder / "whole.nuvat", test::sampleDocument().state()));
    const std::string whole = test::contentOf(folder / "whole.nuvat");
    for (std::size_t length = 0; length < whole.size(); length += 509) {
        std::ofstream(folder / "cut.nuvat", std::ios::binary) << whole.substr(0, length);
        const auto opened = BatchFile::open(folder / "cut.nuvat");
        EXPECT_FALSE(opened && opened->state.batch == test::sampleDocument().batch()) << length;
    }
}

TEST(BatchFile, CannotWriteIsSaidAndLeavesTheOldFile) {
    const TemporaryFolder folder;
    EXPECT_EQ(BatchFile::write(folder / "no-such-folder" / "x.nuvat", DocumentState{}).error().code,
              "store.cannot-write");
    // A command that cannot be recorded leaves the document as it was.
    ASSERT_TRUE(BatchFile::write(folder / "e.nuvat", test::sampleDocument().state()));
    auto opened = BatchFile::open(folder / "e.nuvat");
    Document live(std::move(opened->state));
    live.setJournal(std::move(opened->file));
    runSql(folder / "e.nuvat", "DROP TABLE sample");
    const Batch before = live.batch();
    EXPECT_EQ(live.apply(setSample(live.batch(), 1, {"x", 1, ""})).error().code, "store.changed-elsewhere");
    EXPECT_EQ(live.batch(), before);
    EXPECT_EQ(query(folder / "e.nuvat", "SELECT title FROM batch"), "Sample batch\n"); // rolled back as a whole
}

} // namespace
} // namespace nuvat
