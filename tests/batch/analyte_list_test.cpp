// Analytes taken from a list, settings for all of them, quantifiers and qualifiers.
#include "nuvat/batch/analyte_list.h"
#include "nuvat/batch/validate.h"
#include "nuvat/workflow/list_files.h"
#include "support/trace_runs.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

using test::apply;

Batch fromText(Batch batch, const std::string& text) {
    const auto list = analytesFromText(text, "list.csv");
    EXPECT_TRUE(list) << list.error().text();
    apply(batch, setAnalytes(batch, *list));
    EXPECT_TRUE(validate(batch));
    return batch;
}

TEST(AnalyteList, MakesAMethodWithLevelsAndInternalStandard) {
    const Batch batch = fromText(
        {}, "Name;Time (min);Window;Quantifier;Qualifier;Ratio;Internal standard;Added;Start (mg/L);Factor;Levels\n"
            "Malic;3,42;0,1;210 nm;254 nm;38,5;Adipic;;100;2;5\n"
            "Adipic;7,1;;210 nm;;;;20;;;\n");
    ASSERT_EQ(batch.method.analytes.size(), 2u);
    const Analyte& malic = batch.method.analyte(1);
    const auto& rule = std::get<PeakRule>(malic.source.rule);
    EXPECT_EQ(malic.name, "Malic");
    EXPECT_EQ(malic.unit, "mg/L");
    EXPECT_EQ(rule.expected, 3.42);
    EXPECT_EQ(rule.window, 0.1);
    EXPECT_EQ(rule.channel, "210 nm");
    ASSERT_EQ(malic.qualifiers.size(), 1u);
    EXPECT_EQ(malic.qualifiers.front().channel, "254 nm");
    EXPECT_EQ(malic.internal.analyte, 2);
    EXPECT_EQ(batch.concentration(1), 100);
    EXPECT_EQ(batch.concentration(5), 6.25);
    EXPECT_EQ(batch.method.analyte(2).addedConcentration, 20);
    EXPECT_NEAR(std::get<PeakRule>(batch.method.analyte(2).source.rule).window, 0.02 * 7.1, 1e-12); // the usual
}

TEST(AnalyteList, MovesWhatBelongsToAnAnalyteAndKeepsWhatIsNotNamed) {
    Batch batch = test::traceBatch();
    Method method = batch.method;
    method.analyte(1).name = "First";
    method.analyte(2).name = "Second";
    method.analyte(2).internal.analyte = 1;
    apply(batch, setMethod(batch, method));
    apply(batch, excludePlaces(batch, {{1, 0}}, "rider", 1, 2));
    const auto level = batch.concentration(2, 2);
    batch = fromText(batch, "name,time\nSecond,120.5\nThird,150\n");
    ASSERT_EQ(batch.method.analytes.size(), 3u);
    EXPECT_EQ(batch.method.analyte(1).name, "Second");
    EXPECT_EQ(batch.method.analyte(3).name, "First");
    EXPECT_EQ(batch.method.analyte(1).internal.analyte, 3);
    EXPECT_EQ(batch.concentration(2, 1), level);
    EXPECT_TRUE(batch.isExcluded({1, 0}, 1));
    EXPECT_FALSE(batch.isExcluded({1, 0}, 3));
    EXPECT_EQ(std::get<PeakRule>(batch.method.analyte(1).source.rule).expected, 120.5);
}

TEST(AnalyteList, SaysWhatIsWrongWithALine) {
    const Batch batch;
    const auto code = [&](const std::string& text) {
        const auto list = analytesFromText(text, "list.csv");
        return list ? setAnalytes(batch, *list).error().code : list.error().code;
    };
    EXPECT_EQ(code("name,time\nA,1\nA,2\n"), "analytes.twice");
    EXPECT_EQ(code("name,time\n,1\n"), "analytes.no-name");
    EXPECT_EQ(code("name,time\nA,\n"), "analytes.no-time");
    EXPECT_EQ(code("name,time,internal standard\nA,1,B\n"), "analytes.internal");
    EXPECT_EQ(code("time,area\n1,2\n"), "list.no-heading");
    EXPECT_EQ(code("name,time\nA,soon\n"), "list.number");
    EXPECT_TRUE(isListOfAnalytes("Analyte\tTime\nA\t1\n"));
    EXPECT_FALSE(isListOfAnalytes("time\tsignal\n0\t1\n"));
}

TEST(ApplyToAll, GivesWhatIsSharedAndNothingElse) {
    Batch batch = test::traceBatch();
    Method method = batch.method;
    method.analyte(1).unit = "mg/L";
    method.analyte(1).fit.weighting = Weighting::InverseX2;
    method.analyte(1).suitability.tailing = 2;
    apply(batch, setMethod(batch, method));
    Batch onlyUnit = batch;
    apply(onlyUnit, applyToAll(onlyUnit, 1, {.unit = true}));
    EXPECT_EQ(onlyUnit.method.analyte(2).unit, "mg/L");
    EXPECT_EQ(onlyUnit.method.analyte(2).fit, batch.method.analyte(2).fit);
    apply(batch, applyToAll(batch, 1, {.fit = true, .limits = true}));
    EXPECT_EQ(batch.method.analyte(2).fit.weighting, Weighting::InverseX2);
    EXPECT_EQ(batch.method.analyte(2).suitability.tailing, 2);
    EXPECT_EQ(std::get<PeakRule>(batch.method.analyte(2).source.rule).expected,
              std::get<PeakRule>(test::traceBatch().method.analyte(2).source.rule).expected);
}

TEST(Quantifier, ChangesPlacesWithAQualifierAndBack) {
    Batch batch = test::traceBatch();
    Method method = batch.method;
    method.analyte(1).qualifiers = {{.channel = "other", .expected = 60.4, .reference = 40}};
    apply(batch, setMethod(batch, method));
    const Method before = batch.method;
    apply(batch, swapQuantifier(batch, 1, 0));
    const auto& rule = std::get<PeakRule>(batch.method.analyte(1).source.rule);
    EXPECT_EQ(rule.channel, "other");
    EXPECT_EQ(rule.expected, 60.4);
    EXPECT_EQ(batch.method.analyte(1).qualifiers.front().channel, "detector");
    EXPECT_NEAR(*batch.method.analyte(1).qualifiers.front().reference, 250, 1e-9);
    apply(batch, swapQuantifier(batch, 1, 0));
    EXPECT_EQ(batch.method, before);
    EXPECT_EQ(swapQuantifier(batch, 1, 1).error().code, "method.qualifier");
}

TEST(ChannelGroups, AreMadeByNumberOrByName) {
    Batch batch;
    ImportedRun run{"a.csv", "", "a", "", {}};
    for (const char* channel : {"caffeine 195>138", "caffeine 195>110", "theobromine 181>138", "theobromine 181>67"}) {
        run.channels.emplace_back(channel, test::runOf("a", 1, 1, 1).channels.front().second);
    }
    apply(batch, importRuns(batch, {run}, 1));
    apply(batch, setAnalytes(batch, *analytesFromText("name,time,quantifier\nCaffeine,60,caffeine 195>138\n"
                                                      "Theobromine,120,theobromine 181>67\n",
                                                      "l")));
    Batch byName = batch;
    apply(byName, groupChannelsByName(byName));
    ASSERT_EQ(byName.method.analyte(1).qualifiers.size(), 1u);
    EXPECT_EQ(byName.method.analyte(1).qualifiers.front().channel, "caffeine 195>110");
    EXPECT_EQ(byName.method.analyte(2).qualifiers.front().channel, "theobromine 181>138");
    Batch byTwo = batch;
    apply(byTwo, groupChannels(byTwo, 2));
    EXPECT_EQ(byTwo.method.analytes, byName.method.analytes);
    EXPECT_EQ(groupChannels(batch, 3).error().code, "method.qualifier");
}

TEST(RunList, IsReadFromText) {
    const auto runs = runsFromText("Sample,Vial,Role,Level,Dilution,Injections\nStandard 1,2,standard,1,,2\n"
                                   "QC low,3,,4,,\nMead,4,sample,,2.5,1\n",
                                   "runs.csv");
    ASSERT_TRUE(runs) << runs.error().text();
    ASSERT_EQ(runs->size(), 4u);
    EXPECT_EQ(runs->at(0), runs->at(1));
    EXPECT_EQ(runs->at(0).level, 1);
    EXPECT_EQ(runs->at(2).role, Role::Qc); // its name says so
    EXPECT_EQ(runs->at(3).dilution, 2.5);
    EXPECT_EQ(runsFromText("name,role\na,emperor\n", "x").error().code, "list.role");
}

} // namespace
} // namespace nuvat
