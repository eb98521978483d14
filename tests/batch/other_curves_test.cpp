// Curves behind the one that is shown, and axes that the analyst set.
#include "nuvat/batch/kept_curve.h"
#include "nuvat/batch/other_curves.h"
#include "support/sample_batch.h"

#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

TEST(OtherCurves, AreThoseOfTheBatchThatAreNotShown) {
    const Batch batch = test::sampleDocument().batch();
    const Evaluation evaluation = evaluate(batch);
    const AnalyteEvaluation& shown = evaluation.analyte();
    EXPECT_TRUE(otherCurves(batch, evaluation, shown).empty()) << "one curve has no others";
    const auto kept = keepCurve(batch, shown, "week 37", 14, 1);
    ASSERT_TRUE(kept) << kept.error().text();
    const Batch with = test::withMethod(batch, [&](Method& m) { m.analyte().kept = *kept; });
    const auto others = otherCurves(with, evaluation, shown);
    ASSERT_EQ(others.size(), 1u);
    EXPECT_EQ(others[0].name, "kept: week 37");
    // Fitted to the same points the same way: the same curve, to the last digit.
    EXPECT_EQ(others[0].fit.parameters, shown.fit.parameters);
}

TEST(OtherCurves, AreDrawnWithinTheirStandardsOnTheAxesOfTheShownOne) {
    const Batch batch = test::sampleDocument().batch();
    const Evaluation evaluation = evaluate(batch);
    const AnalyteEvaluation& shown = evaluation.analyte();
    const CurveShape shape = curveShape(batch, shown, 2);
    const auto kept = keepCurve(batch, shown, "same", std::nullopt, 1);
    ASSERT_TRUE(kept);
    const OtherCurve other = otherCurve(*kept);
    const auto [x, y] = drawnOn(shape, other, 50);
    ASSERT_EQ(x.size(), y.size());
    ASSERT_GE(x.size(), 2u);
    EXPECT_GE(x.front(), *other.lowest * (1 - 1e-12));
    EXPECT_LE(x.back(), *other.highest * (1 + 1e-12));
    for (std::size_t i = 0; i < x.size(); ++i) {
        EXPECT_EQ(y[i], response(shown.fit, x[i]));
    }
    OtherCurve far = other;
    far.lowest = shape.xHigh * 2;
    far.highest = shape.xHigh * 3;
    EXPECT_TRUE(drawnOn(shape, far, 50).first.empty()) << "beyond the axes";
}

TEST(FigureSettings, SetTheAxesAndTheirTitles) {
    const auto shapeWith = [](const FigureSettings& figure) {
        const Batch batch =
            test::withMethod(test::sampleDocument().batch(), [&](Method& m) { m.analyte().figure = figure; });
        return curveShape(batch, evaluate(batch).analyte(), 2);
    };
    const CurveShape usual = shapeWith({});
    const CurveShape set = shapeWith({.xLow = 0.5, .xHigh = 800, .yLow = -1, .yHigh = 5});
    EXPECT_EQ(set.xLow, 0.5);
    EXPECT_EQ(set.xHigh, 800);
    EXPECT_EQ(set.yLow, -1);
    EXPECT_EQ(set.yHigh, 5);
    ASSERT_TRUE(usual.isLogarithmic);
    EXPECT_EQ(shapeWith({.xLow = -3}).xLow, usual.xLow) << "a logarithmic axis begins above 0";
    EXPECT_EQ(shapeWith({.xLow = 1e9}).xLow, usual.xLow) << "an axis is not turned around";
    Analyte analyte{.name = "Patulin", .unit = "µg/L", .responseName = "OD"};
    EXPECT_EQ(concentrationAxisTitle(analyte), "Patulin, µg/L");
    EXPECT_EQ(responseAxisTitle({.subtractsBlank = true}, analyte), "OD, blank-corrected");
    analyte.figure = {"c", "A"};
    EXPECT_EQ(concentrationAxisTitle(analyte), "c");
    EXPECT_EQ(responseAxisTitle({}, analyte), "A");
}

} // namespace
} // namespace nuvat
