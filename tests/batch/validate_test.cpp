// What evaluate() relies on: the same checks judge edits, tables and undo entries.
#include "nuvat/batch/validate.h"

#include "support/sample_batch.h"

#include <cmath>
#include <functional>
#include <gtest/gtest.h>
#include <limits>

namespace nuvat {
namespace {

constexpr double kInfinity = std::numeric_limits<double>::infinity();

std::string codeOf(const Result<void>& valid) {
    return valid ? "" : valid.error().code;
}

TEST(Validate, RefusesEverySettingThatNothingCouldBeComputedWith) {
    const Method good = test::sampleDocument().batch().method;
    EXPECT_EQ(codeOf(validate(good)), "");
    const std::vector<std::pair<const char*, std::function<void(Method&)>>> cases{
        {"method.confidence", [](Method& m) { m.confidence = 1; }},
        {"method.confidence", [](Method& m) { m.confidence = -1e308; }},
        {"method.confidence", [](Method& m) { m.confidence = std::nan(""); }},
        {"method.alpha", [](Method& m) { m.replicates.alpha = 0; }},
        {"method.keep-best", [](Method& m) { m.replicates.keepBest = 1; }},
        {"method.dilution-se", [](Method& m) { m.dilutionRelativeSe = -1; }},
        {"method.no-analyte", [](Method& m) { m.analytes.clear(); }},
        {"method.analytes", [](Method& m) { m.analytes.resize(10'000); }},
        {"method.response", [](Method& m) { m.analyte().source.rule = ValueRule{std::string(2001, '1')}; }},
        {"method.not-finite", [](Method& m) { m.analyte().fit.heldA = kInfinity; }},
        {"method.not-finite", [](Method& m) { m.analyte().fit.fixedX = kInfinity; }},
        {"method.range", [](Method& m) { m.analyte().range.extrapolation = 0.5; }},
        {"method.range", [](Method& m) { m.analyte().range.precisionPercent = 0; }},
        {"method.range", [](Method& m) { m.analyte().range.lloq = -1; }},
        {"method.figure", [](Method& m) { m.analyte().figure.markerSize = 0; }},
        {"method.figure", [](Method& m) { m.analyte().figure.xHigh = kInfinity; }},
        {"method.figure",
         [](Method& m) {
             m.analyte().figure.yLow = 2;
             m.analyte().figure.yHigh = 2;
         }},
        {"method.range",
         [](Method& m) {
             m.analyte().range.lloq = 5;
             m.analyte().range.uloq = 5;
         }},
        {"method.limit", [](Method& m) { m.limits.backCalculated = 0; }},
        {"method.limit", [](Method& m) { m.limits.backCalculatedAtHighest = kInfinity; }},
        {"method.limit", [](Method& m) { m.limits.levelsWithin = 101; }},
        {"method.limit", [](Method& m) { m.limits.levelsAtLeast = -1; }},
        {"criterion.title", [](Method& m) { m.criteria.emplace_back(); }},
        {"criterion.limit",
         [](Method& m) {
             m.criteria.push_back({"x", CriterionScope::Analyte, "n", Comparison::AtMost, kInfinity, false});
         }},
    };
    for (const auto& [code, change] : cases) {
        Method method = good;
        change(method);
        EXPECT_EQ(codeOf(validate(method)), code);
        const auto command = setMethod(test::sampleDocument().batch(), method);
        ASSERT_FALSE(command) << code; // an edit is judged by the same
        EXPECT_EQ(command.error().code, code);
    }
}

TEST(Validate, RefusesPlatesOfNoSizeAndWellsThatAreNotThere) {
    EXPECT_EQ(codeOf(validate(Reading{})), "batch.reading"); // without a payload
    Grid grid{65536, 65536, {}};                             // whose product is 0 in an int
    EXPECT_EQ(codeOf(validate(grid, "x")), "batch.plate-size");
    grid = {8, 12, {}};
    EXPECT_EQ(codeOf(validate(grid, "x")), "batch.reading"); // no wells
    grid.wells.resize(96);
    EXPECT_EQ(codeOf(validate(grid, "x")), "");
    grid.wells[3].value = kInfinity;
    EXPECT_EQ(codeOf(validate(grid, "x")), "batch.reading");
    EXPECT_EQ(codeOf(validate(Assignment{Role::Standard, 0})), "layout.number");
    EXPECT_EQ(codeOf(validate(Assignment{Role::Blank, 1})), "layout.number");
    EXPECT_EQ(codeOf(validate(Level{-1.0})), "layout.concentration");
    EXPECT_EQ(codeOf(validate(QcSample{"", 0.0})), "layout.concentration");
    EXPECT_EQ(codeOf(validate(Sample{"", 0, ""})), "layout.dilution");
}

TEST(Validate, LooksAtBothSidesOfEveryChange) {
    Carrier huge;
    huge.rows = 1'000'000'000;
    Command command;
    command.changes.emplace_back(CarrierChange{{}, huge, Carrier{}});
    EXPECT_EQ(codeOf(validate(command)), "batch.plate-size");
    command.changes.front() = CarrierChange{{}, Carrier{}, huge};
    EXPECT_EQ(codeOf(validate(command)), "batch.plate-size");
    command.changes.front() = CarrierChange{{}, Carrier{}, Carrier{}};
    EXPECT_EQ(codeOf(validate(command)), "");
}

TEST(Validate, KnowsPlacesOffThePlate) {
    Batch batch = test::sampleDocument().batch();
    EXPECT_EQ(codeOf(validate(batch)), "");
    batch.places[{9, 0}] = {Role::Unknown, 9};
    EXPECT_EQ(codeOf(validate(batch)), "layout.place");
}

} // namespace
} // namespace nuvat
