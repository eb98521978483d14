#include "nuvat/batch/evaluation.h"
#include "nuvat/cli/command_line.h"
#include "nuvat/core/base/number.h"
#include "nuvat/store/batch_file.h"
#include "nuvat/workflow/session.h"
#include "support/reference.h"

#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <sstream>

namespace nuvat {
namespace {

struct Ran {
    int status;
    std::string out;
    std::string err;
};

Ran run(const std::vector<std::string>& arguments) {
    std::ostringstream out;
    std::ostringstream err;
    const int status = runCommandLine(arguments, out, err);
    return {status, out.str(), err.str()};
}

TEST(CommandLine, EvaluatesToTheSameDigitsAsTheLibrary) {
    const test::TemporaryFolder folder;
    const std::string path = (folder / "demo.nuvat").string();
    ASSERT_EQ(run({"demo", "--out", path}).status, 0);
    const Ran ran = run({"evaluate", path, "--json"});
    EXPECT_EQ(ran.status, 0) << ran.err;
    const auto json = nlohmann::json::parse(ran.out); // nothing but JSON on standard output
    const Evaluation evaluation = evaluate(demoBatch({})->document->batch());
    EXPECT_EQ(json["fit"]["parameters"]["c"].get<double>(), evaluation.fit.parameters[2]); // bit for bit
    EXPECT_EQ(json["fit"]["se"]["b"].get<double>(), evaluation.fit.se[1]);
    ASSERT_EQ(json["results"].size(), evaluation.results.size());
    EXPECT_EQ(json["results"][5]["result"].get<double>(), *evaluation.results[5].result);
    EXPECT_EQ(json["verdict"], "review");
    EXPECT_TRUE(json["results"][2]["result"].is_null()); // U01 is below the range: no number
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
    EXPECT_EQ(run({"stats", "--in"}).status, 2);
    EXPECT_EQ(run({"stats"}).status, 2);
    EXPECT_EQ(run({"stats", "--in", "/no/such/file.csv"}).status, 1);
}

TEST(CommandLine, RefusesAWrongCall) {
    for (const std::vector<std::string>& arguments :
         std::vector<std::vector<std::string>>{{},
                                               {"nonsense"},
                                               {"evaluate"},
                                               {"evaluate", "x.nuvat"},
                                               {"evaluate", "x.nuvat", "--xml"},
                                               {"demo"},
                                               {"report", "x"}}) {
        const Ran ran = run(arguments);
        EXPECT_EQ(ran.status, 2);
        EXPECT_TRUE(ran.out.empty());
        EXPECT_NE(ran.err.find("Exit status"), std::string::npos); // the usage follows
    }
    EXPECT_EQ(run({"--help"}).status, 0);
}

} // namespace
} // namespace nuvat
