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
