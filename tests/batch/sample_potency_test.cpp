// A sample of several dilutions against the standards by parallel curves.
#include "nuvat/batch/sample_potency.h"
#include "nuvat/batch/working.h"

#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

/// Standards 1 to 64 and a sample at × 2, 4, 8, 16, two wells each, on y = d + (a − d)/(1 + (x/c)^b) with a ripple.
/// @param slope of the sample's own curve; 1.2 is that of the standards
Batch diluted(double content, double slope) {
    constexpr double a = 0.05, d = 2.4, c = 9;
    const auto curve = [&](double x, double b) { return d + (a - d) / (1 + std::pow(x / c, b)); };
    Batch batch;
    batch.method.subtractsBlank = false;
    batch.method.analyte().unit = "mg/L";
    batch.method.analyte().fit = {.model = Model::Logistic4};
    Grid grid{8, 12, std::vector<ReadingWell>(96)};
    const auto put = [&](int row, int column, Assignment group, double y) {
        const double ripple = 0.004 * ((row * 7 + column * 3) % 5 - 2);
        batch.places[{row, column}] = group;
        grid.wells[static_cast<std::size_t>(row * 12 + column)] = {y + ripple, "", 1, 1};
    };
    for (int level = 1; level <= 7; ++level) {
        const double x = 1 << (level - 1);
        batch.levels[{level, 1}].concentration = x;
        put(level - 1, 0, {Role::Standard, level}, curve(x, 1.2));
        put(level - 1, 1, {Role::Standard, level}, curve(x, 1.2));
    }
    for (int preparation = 1; preparation <= 4; ++preparation) {
        const double dilution = 1 << preparation;
        preparation == 1 ? void(batch.samples[1].dilution = dilution)
                         : void(batch.preparations[{1, preparation}].dilution = dilution);
        put(preparation, 3, {Role::Unknown, 1, preparation}, curve(content / dilution, slope));
        put(preparation, 4, {Role::Unknown, 1, preparation}, curve(content / dilution, slope));
    }
    put(7, 3, {Role::Unknown, 2}, 1);
    Reading reading;
    reading.payload = Payload::of(std::move(grid));
    reading.slot = {1, std::nullopt, ""};
    batch.readings[1] = std::move(reading);
    batch.inUse[{1, std::nullopt, ""}] = 1;
    return batch;
}

TEST(SamplePotencies, AreTheContentWhereTheCurvesAreParallel) {
    const Batch batch = diluted(50, 1.2);
    const Evaluation evaluation = evaluate(batch);
    const auto found = samplePotency(batch, evaluation.analyte(), 1);
    ASSERT_TRUE(found);
    ASSERT_TRUE(*found) << found->error().text();
    const SamplePotency& potency = **found;
    EXPECT_EQ(potency.dilutions, 4u);
    EXPECT_EQ(potency.found.n, 22u);
    EXPECT_NEAR(potency.found.potency, 50, 1);
    EXPECT_LT(potency.found.interval.first, 50);
    EXPECT_GT(potency.found.interval.second, 50);
    EXPECT_EQ(potency.isParallel, true);
    const Working working = workingOf(batch, evaluation.analyte(), Assignment{Role::Unknown, 1, 2});
    const bool isSaid = std::ranges::any_of(working.steps, [](const WorkingStep& step) {
        return step.title == "Against the standards by parallel curves, 4 dilutions";
    });
    EXPECT_TRUE(isSaid);
}

TEST(SamplePotencies, SayWhereTheCurvesAreNotParallel) {
    const Batch batch = diluted(50, 0.7);
    const auto found = samplePotency(batch, evaluate(batch).analyte(), 1);
    ASSERT_TRUE(found && *found);
    EXPECT_EQ((*found)->isParallel, false);
    EXPECT_LT(*(*found)->found.p, 1e-4);
}

TEST(SamplePotencies, NeedThreeDilutions) {
    Batch batch = diluted(50, 1.2);
    EXPECT_FALSE(samplePotency(batch, evaluate(batch).analyte(), 2)) << "one dilution";
    for (const int row : {3, 4}) {
        batch.places.erase({row, 3});
        batch.places.erase({row, 4});
    }
    EXPECT_FALSE(samplePotency(batch, evaluate(batch).analyte(), 1)) << "two dilutions";
}

} // namespace
} // namespace nuvat
