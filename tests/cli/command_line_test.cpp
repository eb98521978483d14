#include "nuvat/batch/evaluation.h"
#include "nuvat/core/base/number.h"
#include "nuvat/store/batch_file.h"
#include "nuvat/workflow/session.h"
#include "support/reference.h"
#include "support/run_command.h"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <sstream>

namespace nuvat {
namespace {

using test::Ran;
using test::run;

TEST(CommandLine, EvaluatesToTheSameDigitsAsTheLibrary) {
    const test::TemporaryFolder folder;
    const std::string path = (folder / "demo.nuvat").string();
    ASSERT_EQ(run({"demo", "--out", path}).status, 0);
    const Ran ran = run({"evaluate", path, "--json"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    const auto json = nlohmann::json::parse(ran.out); // nothing but JSON on standard output
    const AnalyteEvaluation evaluation = evaluateAnalyte(demoBatch({})->document->batch());
    EXPECT_EQ(json["fit"]["parameters"]["c"].get<double>(), evaluation.fit.parameters[2]); // bit for bit
    EXPECT_EQ(json["fit"]["se"]["b"].get<double>(), evaluation.fit.se[1]);
    ASSERT_EQ(json["results"].size(), evaluation.results.size());
    EXPECT_EQ(json["results"][5]["result"].get<double>(), *evaluation.results[5].result);
    EXPECT_EQ(json["verdict"], "review");
    EXPECT_TRUE(json["results"][2]["result"].is_null()); // U01 is below the range: no number
    const Ran plain = run({"evaluate", path});           // JSON is what a program asks for
    EXPECT_EQ(plain.status, 0);
    EXPECT_EQ(plain.out, ran.out);
}

TEST(CommandLine, WritesResultsAsCsv) {
    const test::TemporaryFolder folder;
    const std::string path = (folder / "demo.nuvat").string();
    ASSERT_EQ(run({"demo", "--out", path}).status, 0);
    const Ran ran = run({"evaluate", path, "--csv"});
    EXPECT_EQ(ran.status, 0);
    EXPECT_TRUE(ran.out.starts_with("place,sample,"));
    EXPECT_TRUE(ran.err.empty());
}

TEST(CommandLine, SaysWhenTheDataDoNotAllowIt) {
    const test::TemporaryFolder folder;
    ASSERT_TRUE(BatchFile::write(folder / "empty.nuvat", DocumentState{}));
    const Ran ran = run({"evaluate", (folder / "empty.nuvat").string(), "--json"});
    EXPECT_EQ(ran.status, 1);
    EXPECT_EQ(nlohmann::json::parse(ran.out)["fit"]["status"], "not-enough-data");
    const Ran missing = run({"evaluate", (folder / "missing.nuvat").string(), "--csv"});
    EXPECT_EQ(missing.status, 1);
    EXPECT_TRUE(missing.out.empty());
    EXPECT_NE(missing.err.find("store.not-found"), std::string::npos);
}

TEST(FitCommand, GivesTheReferencesDigits) {
    const std::string data = test::referenceFile("dnase_run01.csv").string();
    const Ran ran = run({"fit", "--in", data, "--model", "4pl", "--weight", "1/y", "--read", "0.5,1.5,9"});
    ASSERT_EQ(ran.status, 0) << ran.err;
    const auto json = nlohmann::json::parse(ran.out);
    const auto reference = test::referenceJson("dnase_run01.json");
    for (const auto& want : reference["fits"]) {
        if (want["model"] != "4PL" || want["weights"] != "1/y") {
            continue;
        }
        EXPECT_NEAR(json["parameters"]["c"].get<double>() / want["parameters"]["C"].get<double>(), 1, 1e-8);
        EXPECT_NEAR(json["se"]["d"].get<double>() / want["se"]["D"].get<double>(), 1, 1e-8);
        EXPECT_NEAR(json["sse"].get<double>() / want["weighted_sse"].get<double>(), 1, 1e-8);
        for (const auto& read : want["inverse_predictions"]) {
            if (read["y0"] == 0.5 && read["replicates_m"] == 1) {
                EXPECT_NEAR(json["readOffs"][0]["x"].get<double>() / read["x0"].get<double>(), 1, 1e-8);
                EXPECT_NEAR(json["readOffs"][0]["low"].get<double>() / read["delta_lower95"].get<double>(), 1, 1e-8);
            }
        }
    }
    EXPECT_EQ(json["status"], "ok");
    EXPECT_EQ(json["parameterOrder"], (std::vector<std::string>{"a", "b", "c", "d"}));
    EXPECT_EQ(json["standards"].size(), 16u);
    EXPECT_EQ(json["readOffs"][2]["status"], "above-curve");
    EXPECT_TRUE(json["readOffs"][2]["x"].is_null());
}

TEST(FitCommand, LeavesOutWhatIsNotIncluded) {
    const test::TemporaryFolder folder;
    std::ofstream(folder / "d.csv") << "conc;resp;ok\n1;2,1;1\n2;4,0;1\n3;99;0\n4;8,1;yes\n5;9,9;1\n";
    std::ofstream(folder / "r.csv") << "resp\n6.0\n7.0\n";
    const Ran ran =
        run({"fit", "--in", (folder / "d.csv").string(), "--x", "conc", "--y", "resp", "--include", "ok", "--model",
             "line", "--read-file", (folder / "r.csv").string(), "--m", "2", "--confidence", "0.9"});
    ASSERT_EQ(ran.status, 0) << ran.err;
    const auto json = nlohmann::json::parse(ran.out);
    EXPECT_EQ(json["n"], 4);
    EXPECT_EQ(json["standards"].size(), 5u);
    EXPECT_FALSE(json["standards"][2]["used"].get<bool>());
    EXPECT_EQ(json["readOffs"].size(), 2u);
    EXPECT_NEAR(json["parameters"]["b"].get<double>(), 1.97, 0.05);
}

TEST(FitCommand, SaysWhyNot) {
    const test::TemporaryFolder folder;
    std::ofstream(folder / "two.csv") << "x,y\n1,2\n2,4\n";
    const Ran few = run({"fit", "--in", (folder / "two.csv").string(), "--model", "4pl"});
    EXPECT_EQ(few.status, 1);
    EXPECT_EQ(nlohmann::json::parse(few.out)["status"], "not-enough-data");
    std::ofstream(folder / "bad.csv") << "x,y\n1,2\n2,four\n";
    const Ran bad = run({"fit", "--in", (folder / "bad.csv").string(), "--model", "line"});
    EXPECT_EQ(bad.status, 1);
    EXPECT_NE(bad.err.find("line 3, cell 2: \"four\" is not a number"), std::string::npos) << bad.err;
    EXPECT_NE(run({"fit", "--in", (folder / "two.csv").string(), "--x", "conc"}).err.find("no column \"conc\""),
              std::string::npos);
    for (const std::vector<std::string>& call :
         std::vector<std::vector<std::string>>{{"fit"},
                                               {"fit", "--in"},
                                               {"fit", "--in", "a", "--model", "6pl"},
                                               {"fit", "--in", "a", "--weight", "2"},
                                               {"fit", "--in", "a", "--read", "1,x"},
                                               {"fit", "--in", "a", "--confidence", "95"},
                                               {"fit", "--in", "a", "--colour", "red"}}) {
        EXPECT_EQ(run(call).status, 2);
    }
}

TEST(FitCommand, KnowsEveryModelWeightAndInterval) {
    const std::string data = test::referenceFile("dnase_run01.csv").string();
    for (const char* model :
         {"line", "line0", "line-fixed", "quadratic", "cubic", "loglog", "points", "spline", "4pl", "5pl"}) {
        for (const char* weight : {"none", "1/x", "1/x2", "1/y", "1/y2", "1/s2"}) {
            const Ran ran =
                run({"fit", "--in", data, "--model", model, "--weight", weight, "--read", "0.5", "--diagnostics"});
            const auto json = nlohmann::json::parse(ran.out);
            EXPECT_EQ(json["model"], model);
            EXPECT_EQ(json["weight"], weight);
            EXPECT_EQ(ran.status, json["status"] == "ok" ? 0 : 1) << ran.err;
            EXPECT_EQ(json["message"].get<std::string>().empty(), json["status"] == "ok");
        }
    }
    for (const char* interval : {"propagation", "log-propagation", "inversion", "profile", "bootstrap"}) {
        const auto json = nlohmann::json::parse(
            run({"fit", "--in", data, "--model", "4pl", "--interval", interval, "--read", "0.8"}).out);
        const auto& read = json["readOffs"][0];
        EXPECT_LT(read["low"].get<double>(), read["x"].get<double>()) << interval;
        EXPECT_GT(read["high"].get<double>(), read["x"].get<double>()) << interval;
    }
    EXPECT_EQ(run({"fit", "--in", data, "--model", "4pl", "--interval", "fieller"}).status, 2);
    EXPECT_EQ(run({"fit", "--in", data, "--model", "line", "--interval", "profile"}).status, 2);
}

// The standards' own SDs in a column: replicate_levels_line (synthetic, 50-digit arithmetic; see its JSON).
TEST(FitCommand, TakesStandardDeviationsFromAColumn) {
    const auto reference = test::referenceJson("replicate_levels_line.json");
    for (const auto& want : reference["fits"]) {
        if (want["weights"] != "1/s^2" || want["model"] != "line") {
            continue;
        }
        const auto json =
            nlohmann::json::parse(run({"fit", "--in", test::referenceFile("replicate_levels_line.csv").string(),
                                       "--model", "line", "--weight", "1/s2", "--s", "s"})
                                      .out);
        EXPECT_NEAR(json["parameters"]["b"].get<double>() / want["parameters"]["b1"].get<double>(), 1, 1e-10);
        EXPECT_NEAR(json["se"]["a"].get<double>() / want["se"]["b0"].get<double>(), 1, 1e-10);
        return;
    }
    FAIL() << "the reference has no such fit";
}

TEST(FitCommand, HoldsFixesLevelsAndMeans) {
    const std::string data = test::referenceFile("dnase_run01_3par.csv").string();
    const auto held = nlohmann::json::parse(run({"fit", "--in", data, "--model", "4pl", "--hold", "a=0"}).out);
    EXPECT_EQ(held["held"], std::vector<std::string>{"a"});
    EXPECT_EQ(held["p"], 3);
    EXPECT_EQ(held["parameters"]["a"], 0);
    EXPECT_NEAR(held["parameters"]["d"].get<double>(), 2.3451793, 1e-6); // R 4.2.2, example of nls: 2.3452
    const auto means = nlohmann::json::parse(run({"fit", "--in", data, "--model", "4pl", "--fit-to", "means"}).out);
    EXPECT_EQ(means["n"], 8);
    EXPECT_EQ(means["standards"].size(), 16u);
    const auto fixed = nlohmann::json::parse(run({"fit", "--in", data, "--model", "line-fixed", "--fixed", "0,0.02",
                                                  "--weight", "1/y", "--weight-from", "level"})
                                                 .out);
    EXPECT_NEAR(fixed["parameters"]["a"].get<double>(), 0.02, 1e-12);
    EXPECT_EQ(fixed["weightFrom"], "level");
    for (const std::vector<std::string>& call :
         std::vector<std::vector<std::string>>{{"fit", "--in", data, "--model", "4pl", "--hold", "b=1"},
                                               {"fit", "--in", data, "--model", "line", "--hold", "a=1"},
                                               {"fit", "--in", data, "--model", "4pl", "--hold", "a"},
                                               {"fit", "--in", data, "--fixed", "1,2"},
                                               {"fit", "--in", data, "--weight-from", "nowhere"},
                                               {"fit", "--in", data, "extra"}}) {
        EXPECT_EQ(run(call).status, 2);
    }
}

TEST(FitCommand, AveragesReplicatesAndDilutes) {
    const test::TemporaryFolder folder;
    std::ofstream(folder / "r.csv") << "sample,y\nU1,0.5\nU2,1.1\nU1,0.6\n";
    const std::string data = test::referenceFile("dnase_run01.csv").string();
    const auto call = [&](const char* average) {
        return nlohmann::json::parse(
            run({"fit", "--in", data, "--model", "4pl", "--read-file", (folder / "r.csv").string(), "--read-sample",
                 "sample", "--replicates-average", average, "--factor", "10", "--factor-relative-se", "0.02"})
                .out);
    };
    const auto ofConcentrations = call("concentration");
    ASSERT_EQ(ofConcentrations["samples"].size(), 2u);
    const auto& u1 = ofConcentrations["samples"][0];
    EXPECT_EQ(u1["m"], 2);
    EXPECT_NEAR(
        u1["x"].get<double>(),
        (ofConcentrations["readOffs"][0]["x"].get<double>() + ofConcentrations["readOffs"][2]["x"].get<double>()) / 2,
        1e-12);
    EXPECT_NEAR(u1["result"]["x"].get<double>(), 10 * u1["x"].get<double>(), 1e-12);
    EXPECT_NEAR(u1["result"]["se"].get<double>(), std::hypot(10 * u1["se"].get<double>(), 0.2 * u1["x"].get<double>()),
                1e-9); // GUM 5.1.2
    EXPECT_NE(call("response")["samples"][0]["x"], u1["x"]);
}

TEST(FitCommand, SaysThatAZeroStandardHasNoInverseConcentration) {
    const auto json = nlohmann::json::parse(run({"fit", "--in", test::referenceFile("zero_standard_line.csv").string(),
                                                 "--model", "line", "--weight", "1/x"})
                                                .out);
    ASSERT_EQ(json["warnings"].size(), 1u);
    EXPECT_NE(json["warnings"][0].get<std::string>().find("zero standard"), std::string::npos);
}

TEST(CompareCommand, RanksAndExplains) {
    const std::string data = test::referenceFile("dnase_run01.csv").string();
    const Ran ran = run({"compare", "--in", data});
    ASSERT_EQ(ran.status, 0) << ran.err;
    const auto json = nlohmann::json::parse(ran.out);
    EXPECT_EQ(json["best"]["model"], "4pl");
    EXPECT_EQ(json["ranking"][0]["rank"], 1);
    EXPECT_NE(json["ranking"][0]["sentence"].get<std::string>().find("levels within limits"), std::string::npos);
    const auto few =
        nlohmann::json::parse(run({"compare", "--in", data, "--model", "line,4pl", "--weight", "none"}).out);
    EXPECT_EQ(few["ranking"].size(), 2u);
    EXPECT_EQ(run({"compare", "--in", data, "--model", "9pl"}).status, 2);
    EXPECT_EQ(run({"compare"}).status, 2);
}

TEST(DetectCommand, GivesEveryMethodThatTheDataAllow) {
    const std::string data = test::referenceFile("detection_ten_levels.csv").string();
    const Ran ran =
        run({"detect", "--in", data, "--blanks", test::referenceFile("detection_ten_levels_blanks.csv").string(),
             "--low", test::referenceFile("detection_ten_levels_low_samples.csv").string()});
    ASSERT_EQ(ran.status, 0) << ran.err;
    const auto want = test::referenceJson("detection_ten_levels.json")["expected"];
    int defined = 0;
    const auto all = nlohmann::json::parse(ran.out);
    for (const auto& one : all["limits"]) {
        defined += one["status"] == "ok" ? 1 : 0;
        if (one["method"] == "ich-residual-sd") {
            EXPECT_NEAR(one["lod"].get<double>() / want["ich_q2"]["residual_sd"]["detection_limit"].get<double>(), 1,
                        1e-9);
        } else if (one["method"] == "mdl") {
            EXPECT_NEAR(one["lod"].get<double>() / want["mdl_low_level_spikes"]["mdl_concentration"].get<double>(), 1,
                        1e-9);
        }
    }
    EXPECT_EQ(defined, 10); // all but the SD that rises, for which there are no replicates
    // Without blanks the methods that need them say so.
    const auto bare = nlohmann::json::parse(run({"detect", "--in", data}).out);
    for (const auto& one : bare["limits"]) {
        if (one["method"] == "ep17") {
            EXPECT_EQ(one["status"], "not-defined");
            EXPECT_NE(one["message"].get<std::string>().find("blanks"), std::string::npos);
        }
    }
    EXPECT_EQ(run({"detect", "--in", data, "--alpha", "0.7"}).status, 2);
}

// NIST StRD Misra1a, start 1, and Nelson's kind of response: a transformed column.
TEST(SolveCommand, FitsAFormulaOfOnesOwn) {
    const std::string data = test::referenceFile("nonlinear_Misra1a.csv").string();
    const Ran ran = run({"solve", "--formula", "b1*(1-exp(-b2*x))", "--start", "b1=500,b2=0.0001", "--in", data});
    ASSERT_EQ(ran.status, 0) << ran.err;
    const auto json = nlohmann::json::parse(ran.out);
    const auto want = test::referenceJson("nonlinear_Misra1a.json");
    EXPECT_GE(test::correctDigits(json["parameters"]["b1"], want["refined"]["parameters"]["b1"]), 11);
    EXPECT_GE(test::correctDigits(json["se"]["b2"], want["refined"]["sd"]["b2"]), 11);
    EXPECT_EQ(json["df"], 12);
    const auto logs = nlohmann::json::parse(
        run({"solve", "--formula", "a + b*ln(x)", "--response", "ln(y)", "--start", "a=0,b=1", "--in", data}).out);
    const auto named = nlohmann::json::parse(
        run({"solve", "--formula", "ln(y) = a + b*ln(x)", "--start", "a=0,b=1", "--in", data}).out);
    EXPECT_EQ(logs["parameters"], named["parameters"]);
    const auto weighted = nlohmann::json::parse(
        run({"solve", "--formula", "b*x", "--weight", "1/x", "--start", "b=1", "--in", data}).out);
    const auto line = nlohmann::json::parse(run({"fit", "--in", data, "--model", "line0", "--weight", "1/x"}).out);
    EXPECT_NEAR(weighted["parameters"]["b"].get<double>() / line["parameters"]["b"].get<double>(), 1, 1e-12);
    EXPECT_NEAR(weighted["se"]["b"].get<double>() / line["se"]["b"].get<double>(), 1, 1e-10);
}

// NIST StRD Lanczos1, whose residuals are 1e-14 of its responses: certified to 11 digits. Written with decimal commas
// the numbers are the same ones.
TEST(SolveCommand, KeepsTheDigitsOfResidualsThatAreNearlyNothing) {
    const auto want = test::referenceJson("nonlinear_Lanczos1.json");
    const std::string original = test::referenceFile("nonlinear_Lanczos1.csv").string();
    const test::TemporaryFolder folder;
    std::string text = test::contentOf(original);
    std::replace(text.begin(), text.end(), ',', ';');
    std::replace(text.begin(), text.end(), '.', ',');
    std::ofstream(folder / "comma.csv") << text;
    for (const std::string& data : {original, (folder / "comma.csv").string()}) {
        const Ran ran = run({"solve", "--formula", "b1*exp(-b2*x) + b3*exp(-b4*x) + b5*exp(-b6*x)", "--start",
                             "b1=1.2,b2=0.3,b3=5.6,b4=5.5,b5=6.5,b6=7.6", "--in", data});
        ASSERT_EQ(ran.status, 0) << ran.err;
        const auto json = nlohmann::json::parse(ran.out);
        for (const auto& [name, value] : want["certified"]["sd"].items()) {
            EXPECT_GE(test::correctDigits(json["parameters"][name], want["certified"]["parameters"][name]), 9.5);
            EXPECT_GE(test::correctDigits(json["se"][name], value), 9.5) << name;
        }
        EXPECT_GE(test::correctDigits(json["sse"], want["certified"]["residual_ss"]), 9.5);
    }
}

TEST(SolveCommand, SaysWhatIsWrong) {
    const test::TemporaryFolder folder;
    std::ofstream(folder / "d.csv") << "x,y,name\n1,2,a\n2,4.1,b\n3,5.9,c\n4,8.2,d\n";
    const std::string data = (folder / "d.csv").string();
    const auto solve = [&](const std::string& formula, const std::string& start) {
        return run({"solve", "--formula", formula, "--start", start, "--in", data});
    };
    EXPECT_EQ(solve("a*x", "a=1").status, 0); // the column of words is not asked for
    EXPECT_NE(solve("a*x +", "a=1").err.find("formula.syntax"), std::string::npos);
    EXPECT_NE(solve("a*q", "a=1").err.find("formula.unknown-name"), std::string::npos);
    EXPECT_NE(solve("a*name", "a=1").err.find("line 2, cell 3"), std::string::npos);
    EXPECT_EQ(solve("a*x", "a=1,b=2").status, 2); // b is not in the formula
    EXPECT_EQ(solve("a*x", "a").status, 2);
    const Ran undetermined = solve("(a+b)*x", "a=1,b=1");
    EXPECT_EQ(undetermined.status, 1);
    EXPECT_EQ(nlohmann::json::parse(undetermined.out)["status"], "not-determined");
    EXPECT_NE(undetermined.err.find("do not fix"), std::string::npos);
    const Ran nowhere = solve("ln(a*x)", "a=-1");
    EXPECT_EQ(nlohmann::json::parse(nowhere.out)["status"], "not-converged");
    EXPECT_EQ(run({"solve", "--formula", "a*x"}).status, 2);
}

TEST(ApplyAndExport, MakeABatchFromAMethodAndWriteItInEveryFormat) {
    const test::TemporaryFolder folder;
    const std::string method = (folder / "method.nuvat").string();
    ASSERT_EQ(run({"demo", "--out", method}).status, 0);
    const std::string plate = std::string(NUVAT_DEMO_DIR) + "/patulin-elisa/plate-450.csv";
    const std::string batch = (folder / "week-39.nuvat").string();
    const Ran applied = run({"apply", method, plate, "--out", batch});
    ASSERT_EQ(applied.status, 0) << applied.err;
    const auto made = nlohmann::json::parse(run({"export", batch, "--json"}).out);
    EXPECT_EQ(made["batch"]["title"], "week-39");
    EXPECT_NE(made["batch"]["uid"], nlohmann::json::parse(run({"export", method, "--json"}).out)["batch"]["uid"]);
    EXPECT_EQ(made["fit"]["n"], 14); // the exclusion of the other batch does not come along
    EXPECT_EQ(made["analytes"].size(), 1u);
    EXPECT_TRUE(run({"export", batch, "--csv"}).out.starts_with("place,sample,"));
    ASSERT_EQ(run({"export", batch, "--csv", "--out", (folder / "r.csv").string()}).status, 0);
    EXPECT_EQ(test::contentOf(folder / "r.csv"), run({"export", batch, "--csv"}).out);
    ASSERT_EQ(run({"export", batch, "--xlsx", "--out", (folder / "r.xlsx").string()}).status, 0);
    EXPECT_TRUE(test::contentOf(folder / "r.xlsx").starts_with("PK"));
    EXPECT_FALSE(std::filesystem::exists(folder / "r.xlsx.part"));
    EXPECT_TRUE(run({"export", batch, "--layout"}).out.starts_with("carrier,well,role,number"));
    // A method file stands for the batch that it came from.
    const std::string methodFile = (folder / "m.nuvat-method").string(), again = (folder / "again.nuvat").string();
    ASSERT_EQ(run({"export", batch, "--method", "--out", methodFile}).status, 0);
    ASSERT_EQ(run({"apply", methodFile, plate, "--out", again}).status, 0);
    EXPECT_EQ(nlohmann::json::parse(run({"export", again, "--json"}).out)["fit"],
              nlohmann::json::parse(run({"export", batch, "--json"}).out)["fit"]);
    EXPECT_EQ(run({"export", batch, "--xlsx", "--out", "/no/such/folder/r.xlsx"}).status, 1);
    for (const std::vector<std::string>& call :
         std::vector<std::vector<std::string>>{{"export", batch},
                                               {"export", batch, "--xlsx"},
                                               {"export", batch, "--csv", "--json"},
                                               {"apply", method, plate},
                                               {"apply", method, "--out", batch}}) {
        EXPECT_EQ(run(call).status, 2);
    }
    EXPECT_EQ(run({"apply", method, "/no/such/plate.csv", "--out", batch}).status, 1);
}

TEST(StatsCommand, DescribesAColumnAndItsGroups) {
    const Ran ran = run({"stats", "--in", test::referenceFile("anova_SmLs01.csv").string(), "--group", "group"});
    ASSERT_EQ(ran.status, 0) << ran.err;
    const auto json = nlohmann::json::parse(ran.out);
    const auto want = test::referenceJson("anova_SmLs01.json");
    EXPECT_NEAR(json["anova"]["f"].get<double>() / want["certified"]["F"].get<double>(), 1, 1e-10); // NIST StRD SmLs01
    EXPECT_EQ(json["groups"].size(), want["groups"].get<std::size_t>());
    EXPECT_EQ(json["groups"][0]["group"], "1");
    const Ran seven = run({"stats", "--in", test::referenceFile("outlier_seven_values.csv").string()});
    EXPECT_TRUE(nlohmann::json::parse(seven.out)["grubbs"]["outlier"].get<bool>());
    EXPECT_EQ(nlohmann::json::parse(seven.out)["grubbs"]["suspect"], 0.38);
    EXPECT_EQ(nlohmann::json::parse(seven.out)["dixon"]["suspect"], 0.38);
    const auto two = nlohmann::json::parse(
        run({"stats", "--in", test::referenceFile("homogeneity_low_high.csv").string(), "--group", "group"}).out);
    EXPECT_NEAR(two["cochran"]["c"].get<double>(), 0.8665040539829629, 1e-12); // computed, see its JSON
    EXPECT_EQ(run({"stats", "--in"}).status, 2);
    EXPECT_EQ(run({"stats"}).status, 2);
    EXPECT_EQ(run({"stats", "--in", "/no/such/file.csv"}).status, 1);
}

TEST(CommandLine, RefusesAWrongCall) {
    for (const std::vector<std::string>& arguments :
         std::vector<std::vector<std::string>>{{},
                                               {"nonsense"},
                                               {"evaluate"},
                                               {"evaluate", "x.nuvat", "--csv", "--json"},
                                               {"evaluate", "x.nuvat", "--xml"},
                                               {"demo"},
                                               {"report", "x"}}) {
        const Ran ran = run(arguments);
        EXPECT_EQ(ran.status, 2);
        EXPECT_TRUE(ran.out.empty());
        const bool isKnown = !arguments.empty() && arguments[0] != "nonsense"; // the usage follows
        EXPECT_NE(ran.err.find(isKnown ? "\nnuvat-cli " + arguments[0] : "Exit status"), std::string::npos) << ran.err;
    }
    EXPECT_EQ(run({"--help"}).status, 0);
}

// Several batches at once: the start of the program is paid once.
TEST(EvaluateCommand, OfSeveralBatchesGivesThemInTheirOrder) {
    const test::TemporaryFolder folder;
    const std::string first = (folder / "first.nuvat").string();
    const std::string second = (folder / "second.nuvat").string();
    ASSERT_EQ(run({"demo", "--out", first}).status, 0);
    std::filesystem::copy_file(first, second);
    const auto alone = nlohmann::json::parse(run({"evaluate", first}).out);
    const test::Ran both = run({"evaluate", first, (folder / "none.nuvat").string(), second});
    EXPECT_EQ(both.status, 1); // the worst of the three
    const auto all = nlohmann::json::parse(both.out);
    ASSERT_EQ(all.size(), 3u);
    EXPECT_EQ(all[0], alone);
    EXPECT_EQ(all[1].at("code"), "store.not-found");
    EXPECT_EQ(all[2], alone);
    EXPECT_EQ(run({"evaluate", first, second, "--csv"}).status, 2);
}

} // namespace
} // namespace nuvat
