// What the command line refuses, warns of and streams; tests and control series on columns of one's own.
#include "nuvat/store/batch_file.h"
#include "support/reference.h"
#include "support/run_command.h"

#include <cmath>
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <streambuf>

namespace nuvat {
namespace {

using nlohmann::json;
using test::Ran;
using test::run;

struct Files : testing::Test {
    test::TemporaryFolder folder;
    std::string file(const std::string& name, const std::string& content) const {
        std::ofstream(folder / name) << content;
        return (folder / name).string();
    }
    std::string lines() const { return file("l.csv", "x,y\n1,1.1\n2,1.9\n3,3.1\n4,3.9\n5,5.2\n6,5.9\n"); }
};

struct CommandLineSafety : Files {};

TEST_F(CommandLineSafety, RefusesADecimalCommaThatIsTheSeparatorToo) {
    const Ran fit = run({"fit", "--in", file("c.csv", "x,y\n1,5,2,5\n2,5,3,5\n3,5,4,5\n"), "--model", "line"});
    EXPECT_EQ(fit.status, 1);
    EXPECT_NE(fit.err.find("line 2, cell 3: \"2\" stands under no heading"), std::string::npos) << fit.err;
    EXPECT_EQ(json::parse(fit.out)["code"], "fit.surplus-cell");
    // A list of wells the same.
    std::string list = "Well,OD\n";
    for (int i = 0; i < 96; ++i) {
        list += std::string(1, static_cast<char>('A' + i / 12)) + std::to_string(i % 12 + 1) + ",0," +
                std::to_string(100 + i) + "\n";
    }
    ASSERT_EQ(run({"demo", "--out", (folder / "d.nuvat").string()}).status, 0);
    const Ran apply =
        run({"apply", (folder / "d.nuvat").string(), file("p.csv", list), "--out", (folder / "o.nuvat").string()});
    EXPECT_EQ(apply.status, 1);
    EXPECT_NE(apply.err.find("import.surplus-cell"), std::string::npos) << apply.err;
    EXPECT_FALSE(std::filesystem::exists(folder / "o.nuvat"));
}

TEST_F(CommandLineSafety, TellsImportWarnings) {
    ASSERT_EQ(run({"demo", "--out", (folder / "d.nuvat").string()}).status, 0);
    std::string plate = ",1,2,3,4,5,6,7,8,9,10,11,12\n";
    for (char row = 'A'; row <= 'H'; ++row) {
        plate += std::string(1, row);
        for (int column = 0; column < 12; ++column) {
            plate += row == 'C' && column == 4 ? ",OVER" : "," + std::to_string(0.1 + 0.01 * column);
        }
        plate += "\n";
    }
    const Ran ran =
        run({"apply", (folder / "d.nuvat").string(), file("p.csv", plate), "--out", (folder / "o.nuvat").string()});
    EXPECT_NE(ran.err.find("OVER"), std::string::npos) << ran.err;
}

TEST_F(CommandLineSafety, SparesItsInputs) {
    const std::string batch = (folder / "d.nuvat").string();
    ASSERT_EQ(run({"demo", "--out", batch}).status, 0);
    const std::string before = test::contentOf(batch);
    for (const std::vector<std::string>& call : std::vector<std::vector<std::string>>{
             {"export", batch, "--csv", "--out", batch},
             {"export", batch, "--xlsx", "--out", batch},
             {"apply", batch, std::string(NUVAT_DEMO_DIR) + "/patulin-elisa/plate-450.csv", "--out", batch}}) {
        const Ran ran = run(call);
        EXPECT_EQ(ran.status, 1) << ran.err;
        EXPECT_NE(ran.err.find("cli.output-is-input"), std::string::npos) << ran.err;
        EXPECT_EQ(test::contentOf(batch), before);
    }
    EXPECT_EQ(run({"export", batch, "--csv", "--out", batch, "--force"}).status, 0);
    EXPECT_TRUE(test::contentOf(batch).starts_with("place,"));
}

/// A disk that is full.
struct FullDisk : std::streambuf {
    int_type overflow(int_type) override { return traits_type::eof(); }
};

TEST_F(CommandLineSafety, NoticesThatStandardOutputCannotBeWritten) {
    const std::string batch = (folder / "d.nuvat").string();
    ASSERT_EQ(run({"demo", "--out", batch}).status, 0);
    for (const std::vector<std::string>& call :
         std::vector<std::vector<std::string>>{{"evaluate", batch, "--csv"},
                                               {"export", batch, "--json"},
                                               {"fit", "--in", lines()},
                                               {"stats", "--in", lines(), "--y", "y"}}) {
        FullDisk disk;
        std::ostream out(&disk);
        std::ostringstream err;
        EXPECT_EQ(runCommandLine(call, out, err), 1);
        EXPECT_NE(err.str().find("cli.output-failed"), std::string::npos) << err.str();
    }
}

TEST_F(CommandLineSafety, EndsInASentenceForEveryExtreme) {
    for (const char* tiny : {"1e-40", "1e-300"}) {
        EXPECT_EQ(run({"stats", "--in", lines(), "--alpha", tiny}).status, 2);
        EXPECT_EQ(run({"detect", "--in", lines(), "--alpha", tiny}).status, 2);
        EXPECT_EQ(run({"detect", "--in", lines(), "--beta", tiny}).status, 2);
    }
    EXPECT_EQ(run({"stats", "--in", lines(), "--alpha", "1e-12"}).status, 0);
}

TEST_F(CommandLineSafety, RefusesWhatIsGivenTwiceAndNamesTheHeadings) {
    EXPECT_NE(
        run({"fit", "--in", lines(), "--model", "line", "--model", "quadratic"}).err.find("--model is given twice"),
        std::string::npos);
    const Ran missing = run({"fit", "--in", lines(), "--x", "X"});
    EXPECT_NE(missing.err.find("there are: x, y"), std::string::npos) << missing.err;
    const Ran twice = run({"stats", "--in", file("t.csv", "Signal,Signal\n1,2\n3,4\n"), "--y", "Signal"});
    EXPECT_NE(twice.err.find("fit.column-twice"), std::string::npos) << twice.err;
    for (const char* command :
         {"evaluate", "export", "report", "apply", "fit", "compare", "detect", "solve", "stats", "demo"}) {
        const Ran help = run({command, "--help"});
        EXPECT_EQ(help.status, 0) << command;
        EXPECT_TRUE(help.out.starts_with("nuvat-cli " + std::string(command))) << help.out;
    }
}

TEST_F(CommandLineSafety, QuotesNoControlCharactersAndNoLongCells) {
    const Ran odd = run({"fit", "--in",
                         file("o.csv", "x,y\n1,\xE2\x80\xAE"
                                       "evil\n"),
                         "--model", "line"});
    EXPECT_EQ(odd.err.find("\xE2\x80\xAE"), std::string::npos);
    const Ran name = run({"fit", "--in", (folder / "no\x1b[31mfile.csv").string()});
    EXPECT_EQ(name.err.find('\x1b'), std::string::npos);
    const Ran big =
        run({"fit", "--in", file("b.csv", "x,y\n1," + std::string(100'000, 'a') + "\n"), "--model", "line"});
    EXPECT_LT(big.err.size(), 1000u);
    EXPECT_LT(big.out.size(), 1000u);
}

struct FitOfColumns : Files {};

TEST_F(FitOfColumns, MarksExtrapolationAndWeakSlopes) {
    const Ran ran = run({"fit", "--in", lines(), "--read", "3,501"});
    const json out = json::parse(ran.out);
    EXPECT_FALSE(out["readOffs"][0]["extrapolated"].get<bool>());
    EXPECT_TRUE(out["readOffs"][1]["extrapolated"].get<bool>());
    EXPECT_NE(out["warnings"].dump().find("1 read-off lies beyond the standards"), std::string::npos);
    const json weak = json::parse(run({"fit", "--in", file("w.csv", "x,y\n1,3.1\n2,2.7\n3,3.3\n4,2.9\n5,3.2\n")}).out);
    EXPECT_NE(weak["warnings"].dump().find("not significantly different"), std::string::npos);
}

// Band at the mean of x: s/sqrt(n) and t; checked by the definition.
TEST_F(FitOfColumns, GivesTheBandAndLeavesStandardsOut) {
    const json out = json::parse(run({"fit", "--in", lines(), "--band", "3.5,9", "--no-standards"}).out);
    EXPECT_FALSE(out.contains("standards"));
    const double s = out["s"];
    EXPECT_NEAR(out["band"][0]["se"].get<double>(), s / std::sqrt(6.0), 1e-12);
    EXPECT_NEAR(out["band"][0]["high"].get<double>() - out["band"][0]["y"].get<double>(),
                2.7764451051977987 * s / std::sqrt(6.0), 1e-9); // t(4), 0.975
    EXPECT_TRUE(out["band"][1]["extrapolated"].get<bool>());
}

TEST_F(FitOfColumns, SaysInWhichUnitTheSumOfSquaresIs) {
    const json out = json::parse(run({"fit", "--in", lines(), "--weight", "1/x2"}).out);
    double sum = 0;
    for (const auto& one : out["standards"]) {
        sum += one["weight"].get<double>() * one["residual"].get<double>() * one["residual"].get<double>();
    }
    EXPECT_NEAR(out["weightUnit"].get<double>() * sum, out["sse"].get<double>(), 1e-12);
}

TEST_F(FitOfColumns, SkipsCellsOfLinesThatAreLeftOut) {
    const std::string csv = file("i.csv", "x,y,use\n1,1.1,1\n2,1.9,1\n3,,0\n4,n/a,0\n5,5.2,1\n6,5.9,1\n");
    const json out = json::parse(run({"fit", "--in", csv, "--include", "use"}).out);
    EXPECT_EQ(out["n"], 4);
    ASSERT_EQ(out["standards"].size(), 6u);
    EXPECT_TRUE(out["standards"][2]["y"].is_null());
    EXPECT_FALSE(out["standards"][2]["used"].get<bool>());
    const Ran all = run({"fit", "--in", csv});
    EXPECT_NE(all.err.find("line 4, cell 2: the cell is empty"), std::string::npos) << all.err;
}

struct SolveOfColumns : Files {};

TEST_F(SolveOfColumns, RefusesTwoResponsesAndNamesEveryColumn) {
    const std::string csv = file("s.csv", "x,y,z\n1,1.1,0\n2,1.9,0\n3,3.1,0\n4,3.9,0\n");
    const Ran two =
        run({"solve", "--formula", "3.14E0 y = a + b*x", "--response", "pi", "--start", "a=1,b=1", "--in", csv});
    EXPECT_EQ(two.status, 2);
    EXPECT_NE(two.err.find("give one of them"), std::string::npos) << two.err;
    const json same = json::parse(
        run({"solve", "--formula", "y = a + b*x", "--response", "y", "--start", "a=1,b=1", "--in", csv, "--no-fitted"})
            .out);
    EXPECT_EQ(same["status"], "ok");
    EXPECT_EQ(same["response"], "y");
    EXPECT_FALSE(same.contains("fitted"));
    EXPECT_NEAR(same["parameters"]["b"].get<double>(), 0.96, 1e-12); // by hand
    EXPECT_EQ(same["iterations"], 1);                                // linear in both
    const Ran unknown = run({"solve", "--formula", "a + q*x", "--start", "a=1", "--in", csv});
    EXPECT_NE(unknown.err.find("a, x, y, z"), std::string::npos) << unknown.err;
}

struct StatsOfColumns : Files {};

// Student's sleep data, base R data set "sleep" (GPL-2 | GPL-3), Student (1908) Biometrika 6, 1-25: R 4.2.2 gives
// t = -1.8608 with 17.776 degrees of freedom, p 0.07939 (Welch), 18 and 0.07919 (pooled).
TEST_F(StatsOfColumns, ComparesTwoGroups) {
    std::string csv = "group,extra\n";
    for (const char* v : {"0.7", "-1.6", "-0.2", "-1.2", "-0.1", "3.4", "3.7", "0.8", "0.0", "2.0"}) {
        csv += "1," + std::string(v) + "\n";
    }
    for (const char* v : {"1.9", "0.8", "1.1", "0.1", "-0.1", "4.4", "5.5", "1.6", "4.6", "3.4"}) {
        csv += "2," + std::string(v) + "\n";
    }
    const json out = json::parse(run({"stats", "--in", file("s.csv", csv), "--y", "extra", "--group", "group",
                                      "--compare", "1,2", "--quantiles", "0.5,0.25"})
                                     .out);
    const json& c = out["comparison"];
    EXPECT_NEAR(c["welch"]["t"].get<double>(), -1.8608, 5e-5);
    EXPECT_NEAR(c["welch"]["df"].get<double>(), 17.776, 5e-4);
    EXPECT_NEAR(c["welch"]["p"].get<double>(), 0.07939, 5e-6);
    EXPECT_NEAR(c["welch"]["low"].get<double>(), -3.3654832, 5e-7);
    EXPECT_NEAR(c["pooled"]["p"].get<double>(), 0.07919, 5e-6);
    EXPECT_EQ(c["pooled"]["df"], 18);
    EXPECT_NEAR(c["f"]["f"].get<double>(), 1 / 0.798, 2e-3); // var.test in R: 0.79834
    EXPECT_NEAR(out["quantiles"][0]["value"].get<double>(), 0.95, 1e-12);
    EXPECT_NEAR(out["quantiles"][1]["value"].get<double>(), -0.025, 1e-12); // quantile() in R, type 7
}

TEST_F(StatsOfColumns, JudgesAControlSeries) {
    std::string csv = "y\n";
    for (const double v : {10.0, 10.2, 9.8, 10.1, 9.9, 10.0, 10.1, 9.9}) {
        csv += std::to_string(v) + "\n";
    }
    csv += "11.0\n"; // far beyond 3 SD of the first eight
    const json out =
        json::parse(run({"stats", "--in", file("c.csv", csv), "--control", "--limits-from", "8"}).out)["control"];
    EXPECT_EQ(out["limitsFrom"], 8);
    EXPECT_EQ(out["rules"]["1_3s"], json({9}));
    EXPECT_EQ(out["rules"]["2_2s"], json::array());
    EXPECT_EQ(out["ewma"]["values"].size(), 9u);
    EXPECT_EQ(out["cusum"]["beyond"], json({9}));
}

struct Workbooks : Files {};

TEST_F(Workbooks, HaveUniqueNamesWhateverTheAnalytesAreCalled) {
    const std::string path = (folder / "m.nuvat").string();
    ASSERT_EQ(run({"demo", "--out", path}).status, 0);
    auto opened = BatchFile::open(path);
    Document document(opened->state);
    opened->file.reset();
    for (const char* name :
         {"Patulin", "patulin", "a/b", "a?b", "", "", "Vitamin A (retinol), total", "Vitamin A (retinol), totals",
          "αβγδεζηθικλμνξοπρστυφχψω", "µ µ µ µ µ µ µ µ µ µ µ", "bad\x01name"}) {
        Method method = document.batch().method;
        Analyte analyte = method.analyte();
        analyte.name = name;
        method.analytes.push_back(analyte);
        ASSERT_TRUE(document.apply(setMethod(document.batch(), method)));
    }
    ASSERT_TRUE(BatchFile::write(path, document.state()));
    const Ran ran = run({"export", path, "--xlsx", "--out", (folder / "m.xlsx").string()});
    EXPECT_EQ(ran.status, 0) << ran.err;
    EXPECT_GT(std::filesystem::file_size(folder / "m.xlsx"), 10'000u);
}

} // namespace
} // namespace nuvat
