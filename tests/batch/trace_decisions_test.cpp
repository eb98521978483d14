// What a person decides on traces besides drawing: peaks given away, reference peaks, windows, volumes of additions.
#include "nuvat/batch/evaluation.h"
#include "support/reference.h"
#include "support/trace_runs.h"

#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::apply;
using test::slotOf;
using test::traceBatch;

// Simulated voltammograms whose additions took volume: content and limits are those with each height times (V0 + v)/V0.
// Source: tests/reference/data/README.md.
TEST(Traces, AdditionsMayMakeTheVolumeGrow) {
    const auto columns = test::referenceColumns("standard_addition_traces.csv");
    const nlohmann::json want = test::referenceJson("voltammetric_addition.json");
    std::vector<ImportedRun> runs;
    Command roles;
    for (const std::string name : want["columns"]) {
        Trace trace{"E", "V", "I", "uA", 0, 0, {}, columns.at(name), {}};
        trace.setX(columns.at("potential_V"));
        const int row = static_cast<int>(runs.size());
        const Assignment group = row < 2 ? Assignment{Role::Unknown, 1} : Assignment{Role::Addition, 1, row / 2};
        roles.changes.push_back(PlaceChange{{row, 0}, std::nullopt, group});
        runs.push_back({name, name + ".csv", "", "", {{"current", Payload::of(std::move(trace))}}});
    }
    Batch batch;
    apply(batch, importRuns(batch, runs, 0));
    applyChanges(batch, roles, false);
    Method method = batch.method;
    method.subtractsBlank = false;
    method.signalRules["current"].peaks.baseline.kind = BaselineKind::Tangent;
    method.analyte(1).source.rule =
        PeakRule{"current", 0, 10, WindowOf::X, 0, PeakQuantity::SampleHeight, PeakPick::Largest};
    method.analyte(1).source.curve = CurveOf::Sample;
    method.analyte(1).source.additionStandard = want["standard_concentration"].get<double>();
    apply(batch, setMethod(batch, method));
    const double volume = want["volume_mL"], standard = want["standard_concentration"];
    for (std::size_t step = 1; step <= 4; ++step) {
        const double added = want["additions_mL"][step].get<double>() * standard / volume;
        apply(batch, setLevel(batch, static_cast<int>(step), added, 1));
    }
    const auto expectNear = [](double got, double wanted) { EXPECT_NEAR(got, wanted, 1e-9 * std::abs(wanted)); };
    const ReadOff found = evaluate(batch).analyte(1).results.at(0).readOff;
    expectNear(*found.x, want["content"]);
    expectNear(*found.low, want["fieller_limits95"][0]);
    expectNear(*found.high, want["fieller_limits95"][1]);
    method.analyte(1).source.additionStandard.reset();
    apply(batch, setMethod(batch, method));
    expectNear(*evaluate(batch).analyte(1).results.at(0).readOff.x, want["without_volume_correction"]);
    method.analyte(1).source.additionStandard = 0;
    EXPECT_EQ(setMethod(batch, method).error().code, "method.addition");
}

TEST(Traces, APeakCanBeGivenToAnAnalyte) {
    Batch batch = traceBatch();
    const HandEdit give{{PeakEditKind::Give, 120, 0, 0, 0, 0, 1}, "late, by its spectrum", 5};
    apply(batch, drawOn(batch, {slotOf(1)}, give));
    const Evaluation evaluation = evaluate(batch);
    // In this run the second peak is the first analyte's, whatever the window says, and nobody else's.
    EXPECT_NEAR(*evaluation.analyte(1).at({0, 0}).position, 120, 0.2);
    EXPECT_EQ(evaluation.analyte(2).at({0, 0}).state, ResponseState::NotFound);
    EXPECT_EQ(evaluation.analyte(2).at({0, 0}).why, "the peak within the window was given away by hand");
    EXPECT_EQ(takersOf(batch, evaluation, slotOf(1)), (std::vector<int>{0, 1}));
    EXPECT_EQ(takersOf(batch, evaluation, slotOf(2)), (std::vector<int>{1, 2}));
    // A share of the area goes to its factor, a peak that is nobody's to none.
    apply(batch, drawOn(batch, {slotOf(2)}, {{PeakEditKind::Give, 60, 0, 0, 0, 0, 0}, "", 6}));
    EXPECT_EQ(evaluate(batch).analyte(1).at({1, 0}).state, ResponseState::NotFound);
    // Another analyte goes: the numbers move up, and what was given to it is nobody's.
    Batch less = batch;
    apply(less, removeAnalyte(less, 1));
    EXPECT_EQ(less.handEdits.at(slotOf(1)).list.at(0).edit.owner, 0);
    EXPECT_EQ(evaluate(less).analyte(1).at({0, 0}).state, ResponseState::NotFound);
    // Without a peak to hold on to it is listed, not lost.
    apply(batch, drawOn(batch, {slotOf(6)}, give));
    EXPECT_EQ(evaluate(batch).traces.at(slotOf(6))->features.unheld, (std::vector<std::size_t>{0}));
    EXPECT_EQ(drawOn(batch, {slotOf(1)}, {{PeakEditKind::Give, 60, 0, 0, 0, 0, 9}, "", 5}).error().code,
              "peaks.no-edit");
}

TEST(Traces, AReferenceStaysThatOfTheSameAnalyte) {
    Batch batch = traceBatch();
    Method method = batch.method;
    method.analytes.push_back(method.analyte(1));
    std::get<PeakRule>(method.analyte(3).source.rule).reference = 2;
    apply(batch, setMethod(batch, method));
    apply(batch, removeAnalyte(batch, 1));
    EXPECT_EQ(std::get<PeakRule>(batch.method.analyte(2).source.rule).reference, 1);
    apply(batch, removeAnalyte(batch, 1));
    EXPECT_EQ(std::get<PeakRule>(batch.method.analyte(1).source.rule).reference, 0);
}

TEST(Traces, APeakNearTheEdgeOfItsWindowAsksForALook) {
    Batch batch = traceBatch();
    const auto isNear = [&](double expected) {
        Method method = batch.method;
        method.analyte(1).source.rule = PeakRule{"detector", expected, 5, WindowOf::X};
        apply(batch, setMethod(batch, method));
        const Response response = evaluate(batch).analyte(1).at({0, 0});
        EXPECT_EQ(*response.window, (Stretch{expected - 5, expected + 5}));
        return response.isNearEdge;
    };
    EXPECT_FALSE(isNear(60));
    EXPECT_FALSE(isNear(63.8));
    EXPECT_TRUE(isNear(64.5));
    EXPECT_TRUE(isNear(55.5));
    EXPECT_FALSE(isNear(70)) << "not found at all";
}

} // namespace
} // namespace nuvat
