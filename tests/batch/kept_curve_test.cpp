// Curves that are kept and used in batches without standards.
#include "nuvat/batch/kept_curve.h"
#include "nuvat/store/kept_curve.h"
#include "support/reference.h"
#include "support/sample_batch.h"

#include <algorithm>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

constexpr std::int64_t kDay = 86'400'000;

KeptCurve keptFrom(const Batch& batch, std::optional<double> validDays = std::nullopt) {
    const auto kept = keepCurve(batch, evaluateAnalyte(batch), "Week 38", validDays, 1'000);
    EXPECT_TRUE(kept) << kept.error().text();
    return *kept;
}

/// The sample batch without its standards, read off a kept curve.
Batch withoutStandards(const KeptCurve& kept) {
    Batch batch = test::sampleDocument().batch();
    std::erase_if(batch.places, [](const auto& entry) { return entry.second.role == Role::Standard; });
    const auto command = useKeptCurve(batch, 1, kept);
    EXPECT_TRUE(command) << command.error().text();
    applyChanges(batch, *command, false);
    return batch;
}

const CriterionResult& holds(const AnalyteEvaluation& evaluation) {
    return *std::ranges::find(evaluation.criteria, "kept-curve", &CriterionResult::key);
}

TEST(KeptCurves, GiveTheSameDigitsAgain) {
    const Batch source = test::sampleDocument().batch();
    const AnalyteEvaluation own = evaluateAnalyte(source);
    const Batch batch = withoutStandards(keptFrom(source));
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    ASSERT_TRUE(e.fit.isUsable()) << e.fit.message;
    EXPECT_EQ(e.fit.parameters, own.fit.parameters);
    EXPECT_EQ(e.range.lloq, own.range.lloq);
    EXPECT_EQ(e.range.uloq, own.range.uloq);
    for (int sample = 1; sample <= 6; ++sample) {
        EXPECT_EQ(e.result({Role::Unknown, sample})->result, own.result({Role::Unknown, sample})->result);
    }
    Evaluator evaluator;
    EXPECT_EQ(evaluator.evaluate(batch)->analyte().fit.parameters, own.fit.parameters);
}

TEST(KeptCurves, DoNotFitTheStandardsOfTheirNewBatch) {
    const KeptCurve kept = keptFrom(test::sampleDocument().batch());
    Batch batch = test::sampleDocument().batch();
    batch.levels[1].concentration = 5000; // wrong, and of no consequence
    const auto command = useKeptCurve(batch, 1, kept);
    ASSERT_TRUE(command);
    EXPECT_EQ(command->label, "Kept curve Week 38 is used");
    applyChanges(batch, *command, false);
    const AnalyteEvaluation e = evaluateAnalyte(batch);
    EXPECT_EQ(e.fit.parameters, evaluateAnalyte(test::sampleDocument().batch()).fit.parameters);
    EXPECT_TRUE(std::ranges::none_of(e.standards, [](const StandardValue& s) { return s.isUsed; }));
    EXPECT_TRUE(e.standards.front().backCalculated) << "they are read off it";
}

TEST(KeptCurves, HoldForTheirTimeWithAQc) {
    Batch batch = withoutStandards(keptFrom(test::sampleDocument().batch(), 30.0));
    const auto readAfter = [&](double days) {
        Reading reading = *batch.firstReading(1);
        reading.takenInMillis = 1'000 + static_cast<std::int64_t>(days * kDay);
        batch.readings[1] = reading;
        return holds(evaluateAnalyte(batch));
    };
    EXPECT_EQ(readAfter(29.5).outcome, Outcome::Pass);
    EXPECT_EQ(readAfter(29.5).foundText, "29 days");
    EXPECT_EQ(readAfter(30.5).outcome, Outcome::Fail);
    std::erase_if(batch.places, [](const auto& entry) { return entry.second.role == Role::Qc; });
    EXPECT_EQ(readAfter(3).outcome, Outcome::Review) << "nothing checks it";
    EXPECT_EQ(readAfter(3).foundText, "3 days, no QC");
}

TEST(KeptCurves, AreRefusedInAnotherUnitAndWhereThereIsNone) {
    Batch batch = test::sampleDocument().batch();
    KeptCurve kept = keptFrom(batch);
    kept.unit = "mg/L";
    EXPECT_EQ(useKeptCurve(batch, 1, kept).error().code, "curve.unit");
    batch.readings.clear();
    batch.inUse.clear();
    EXPECT_EQ(keepCurve(batch, evaluateAnalyte(batch), "x", {}, 0).error().code, "curve.not-usable");
}

TEST(KeptCurves, AreFilesOfTheirOwn) {
    const test::TemporaryFolder folder;
    const KeptCurve kept = keptFrom(test::sampleDocument().batch(), 14.0);
    const auto path = folder / "week-38.nuvat-curve";
    ASSERT_TRUE(writeKeptCurve(path, kept));
    const auto again = readKeptCurve(path);
    ASSERT_TRUE(again) << again.error().text();
    EXPECT_EQ(*again, kept) << "to the last digit";
    EXPECT_EQ(readKeptCurve(folder / "gone.nuvat-curve").error().code, "curve.not-read");
    EXPECT_EQ(keptCurveFromText("{\"name\":1}").error().code, "curve.not-read");
}

// The blank of the day when the curve was kept is another one than today's: its uncertainty counts too.
TEST(KeptCurves, CountTheBlankOfTheirOwnBatch) {
    Batch source = test::sampleDocument().batch();
    KeptCurve kept = keptFrom(source);
    kept.blankSd = 0;
    kept.blankDf = 0;
    const auto widthWith = [&](double sd) {
        KeptCurve scattered = kept;
        scattered.blankSd = sd;
        scattered.blankDf = sd > 0 ? 3 : 0;
        const SampleResult result = *evaluateAnalyte(withoutStandards(scattered)).result({Role::Unknown, 1});
        return result.readOff.seBlank;
    };
    EXPECT_LT(widthWith(0), 1e-9);
    EXPECT_GT(widthWith(0.05), 1e-3);
}

} // namespace
} // namespace nuvat
