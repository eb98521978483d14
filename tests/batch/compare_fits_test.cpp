#include "nuvat/batch/compare_fits.h"

#include "nuvat/batch/document.h"
#include "nuvat/workflow/session.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

class Cancelled : public NoProgress {
public:
    bool cancelled() const override { return true; }
};

Batch demo() {
    auto open = demoBatch({}); // in no file: tests run side by side
    return open.value().document->batch();
}

TEST(CompareFits, SaysWhatEachFitWouldMakeOfTheSamples) {
    const Batch batch = demo();
    const Evaluation now = evaluate(batch);
    NoProgress progress;
    const auto fits = compareFits(batch, now.analyte(1), progress);
    ASSERT_GT(fits.size(), 30u);
    EXPECT_EQ(std::count_if(fits.begin(), fits.end(), [](const auto& one) { return one.isInUse; }), 1);
    for (const ComparedFit& one : fits) {
        // Taking a fit gives exactly the results that the comparison promised.
        Batch taken = batch;
        taken.method.analyte().fit = one.options;
        const Evaluation then = evaluate(taken);
        if (one.isInUse) {
            EXPECT_EQ(one.options, batch.method.analyte().fit);
            ASSERT_NE(one.largest(), nullptr);
            EXPECT_EQ(one.largest()->changePercent, 0.0);
        }
        EXPECT_EQ(one.candidate.fit.parameters, then.analyte(1).fit.parameters) << name(one.options.model);
        for (const ResultChange& change : one.changes) {
            EXPECT_EQ(change.other, then.analyte(1).result(change.group)->result);
        }
        if (!one.candidate.fit.isUsable()) {
            continue;
        }
        // So do the checks: those it names come out as promised, all others as they are.
        for (const CriterionResult& criterion : then.analyte(1).criteria) {
            const auto named = std::find_if(one.criteria.begin(), one.criteria.end(),
                                            [&](const auto& c) { return c.title == criterion.title; });
            const auto before = std::find_if(now.analyte(1).criteria.begin(), now.analyte(1).criteria.end(),
                                             [&](const auto& c) { return c.key == criterion.key; });
            ASSERT_NE(before, now.analyte(1).criteria.end());
            EXPECT_EQ(named != one.criteria.end(), before->outcome != criterion.outcome) << criterion.title;
            EXPECT_TRUE(named == one.criteria.end() || named->other == criterion.outcome);
        }
        EXPECT_EQ(std::count(one.levelsWithin.begin(), one.levelsWithin.end(), true),
                  std::count_if(then.analyte(1).levels.begin(), then.analyte(1).levels.end(),
                                [](const LevelValue& level) { return level.x > 0 && level.isWithin; }));
    }
    // A straight line through a curve bent over three decades is far off, and the 4PL stands before it.
    const auto line = std::find_if(fits.begin(), fits.end(), [](const auto& f) {
        return f.options.model == Model::Line && f.options.weighting == Weighting::None;
    });
    ASSERT_NE(line, fits.end());
    EXPECT_TRUE(line->lost > 0 || std::abs(line->largest()->changePercent.value()) > 20);
    EXPECT_EQ(fits.front().options.model, Model::Logistic4);
}

TEST(CompareFits, GivesNothingWithoutStandardsOrWhenCancelled) {
    Batch batch = demo();
    Cancelled cancelled;
    EXPECT_TRUE(compareFits(batch, evaluate(batch).analyte(1), cancelled).empty());
    batch.places.clear();
    NoProgress progress;
    EXPECT_TRUE(compareFits(batch, evaluate(batch).analyte(1), progress).empty());
}

} // namespace
} // namespace nuvat
