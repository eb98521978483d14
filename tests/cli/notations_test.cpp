// The command line on files as people have them: other separators, decimal commas, quotation marks, columns of words,
// broken lines; and every kind of wrong call.
#include "nuvat/core/fit/comparison.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/stats/distributions.h"
#include "support/reference.h"
#include "support/run_command.h"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <random>
#include <sstream>

namespace nuvat {
namespace {

using Json = nlohmann::json;

using test::Ran;
using test::run;

class Files : public testing::Test {
protected:
    std::string write(const std::string& name, const std::string& text) {
        const auto path = m_folder / name;
        std::ofstream(path, std::ios::binary) << text;
        return path.string();
    }
    const test::TemporaryFolder m_folder;
};

constexpr const char* kRows[][3] = {
    {"S1", "0.5", "0.071"}, {"S1", "0.5", "0.069"}, {"S2", "1", "0.139"}, {"S2", "1", "0.143"},  {"S3", "2.5", "0.35"},
    {"S3", "2.5", "0.347"}, {"S4", "5", "0.702"},   {"S4", "5", "0.695"}, {"S5", "10", "1.391"}, {"S5", "10", "1.402"}};

std::string table(char separator, char decimal, const std::string& lineEnd, bool isQuoted) {
    const std::string quote = isQuoted ? "\"" : "";
    std::string out = quote + "level" + quote + separator + "x" + separator + "y" + lineEnd;
    for (const auto& row : kRows) {
        for (int k = 0; k < 3; ++k) {
            std::string cell = row[k];
            std::replace(cell.begin(), cell.end(), '.', k > 0 ? decimal : '.');
            out += quote + cell + quote + (k < 2 ? std::string(1, separator) : lineEnd);
        }
    }
    return out;
}

TEST_F(Files, GiveTheSameDigitsInEveryNotation) {
    const std::vector<std::string> notations{
        write("a.csv", table(',', '.', "\n", false)), write("b.csv", table(';', ',', "\r\n", false)),
        write("c.tsv", table('\t', '.', "\r", false)), write("d.csv", table(',', '.', "\n", true)),
        write("e.csv", "\xEF\xBB\xBF" + table(';', '.', "\n\n", true))};
    const std::vector<std::vector<std::string>> calls{
        {"fit", "--model", "quadratic", "--weight", "1/x", "--level", "level", "--read", "0.2,0.9", "--diagnostics"},
        {"compare"},
        {"detect"},
        {"stats", "--y", "y", "--group", "level"},
        {"solve", "--formula", "b0 + b1*x", "--start", "b0=0,b1=1"}};
    for (const auto& call : calls) {
        std::string first;
        for (const std::string& path : notations) {
            std::vector<std::string> arguments = call;
            arguments.insert(arguments.end(), {"--in", path});
            const Ran ran = run(arguments);
            EXPECT_EQ(ran.status, 0) << call.front() << " " << path << ": " << ran.err;
            first = first.empty() ? ran.out : first;
            EXPECT_TRUE(ran.out == first) << call.front() << " " << path;
        }
    }
    // A comma inside quotation marks may part thousands as well as decimals: refused rather than guessed.
    const Ran doubtful = run({"fit", "--in", write("f.csv", "x,y\n\"1,000\",2\n\"2,000\",4\n\"3,000\",6.1\n")});
    EXPECT_EQ(doubtful.status, 1);
    EXPECT_NE(doubtful.err.find("\"1,000\" may be written with a mark for thousands"), std::string::npos)
        << doubtful.err;
}

TEST_F(Files, PrintNumbersThatReadBackAsTheLibrarysDoubles) {
    std::vector<double> x;
    std::vector<double> y;
    for (const auto& row : kRows) {
        x.push_back(std::stod(row[1]));
        y.push_back(std::stod(row[2]));
    }
    const Fit fit = fitCalibration(Model::Line, Weighting::InverseX, x, y);
    const std::string path = write("a.csv", table(',', '.', "\n", false));
    const Json json = Json::parse(run({"fit", "--in", path, "--weight", "1/x", "--read", "0.41"}).out);
    EXPECT_EQ(json["parameters"]["a"].get<double>(), fit.parameters[0]);
    EXPECT_EQ(json["parameters"]["b"].get<double>(), fit.parameters[1]);
    EXPECT_EQ(json["covariance"][0][1].get<double>(), fit.covariance[1]);
    EXPECT_EQ(json["sse"].get<double>(), fit.sse);
    EXPECT_EQ(json["r2"].get<double>(), *fit.rSquared);
    EXPECT_EQ(json["r"].get<double>(), *fit.r);
    EXPECT_EQ(json["aicc"].get<double>(), *fit.aicc);
    const double t = studentFactor(0.95, fit.df);
    EXPECT_EQ(json["interval"]["b"][1].get<double>(), fit.parameters[1] + t * fit.se[1]);
    const ReadOff read = readOff(fit, 0.41);
    EXPECT_EQ(json["readOffs"][0]["x"].get<double>(), *read.x);
    EXPECT_EQ(json["readOffs"][0]["se"].get<double>(), *read.se);
    EXPECT_EQ(json["readOffs"][0]["high"].get<double>(), *read.high);
    const auto weights = fit.normalisedWeights();
    for (std::size_t i = 0; i < x.size(); ++i) {
        const Json& standard = json["standards"][i];
        EXPECT_EQ(standard["weight"].get<double>(), weights[i]);
        EXPECT_EQ(standard["fitted"].get<double>(), response(fit, x[i]));
        EXPECT_EQ(standard["residual"].get<double>(), y[i] - response(fit, x[i]));
    }
    const auto ranked = Json::parse(run({"compare", "--in", path}).out)["ranking"];
    ASSERT_FALSE(ranked.empty());
    for (const Json& candidate : ranked) {
        EXPECT_FALSE(candidate["sentence"].get<std::string>().empty()) << candidate;
    }
}

TEST_F(Files, WithBrokenLinesSayWhereTheyAre) {
    const std::string path = write("broken.csv", "x,y\n1,2\n2,4\n3,six\n4,8\n");
    for (const std::vector<std::string>& call :
         std::vector<std::vector<std::string>>{{"fit"}, {"compare"}, {"detect"}, {"stats"}}) {
        std::vector<std::string> arguments = call;
        arguments.insert(arguments.end(), {"--in", path});
        const Ran ran = run(arguments);
        EXPECT_EQ(ran.status, 1);
        EXPECT_EQ(nlohmann::json::parse(ran.out)["code"], "fit.not-a-number");
        EXPECT_NE(ran.err.find("line 4, cell 2: \"six\" is not a number"), std::string::npos) << ran.err;
        EXPECT_NE(ran.err.find("[fit.not-a-number]"), std::string::npos);
    }
    const Ran solved = run({"solve", "--formula", "b*x", "--start", "b=1", "--in", path});
    EXPECT_EQ(solved.status, 1);
    EXPECT_NE(solved.err.find("line 4, cell 2"), std::string::npos);
    // A column of words that nobody asked for is no obstacle.
    const std::string words = write("words.csv", "who,x,y\nA,1,2\nB,2,4.1\n\"C, late\",3,5.9\nD,4,8\n");
    EXPECT_EQ(run({"fit", "--in", words}).status, 0);
    EXPECT_EQ(run({"solve", "--formula", "b*x", "--start", "b=1", "--in", words}).status, 0);
    const Ran missing = run({"fit", "--in", words, "--x", "conc"});
    EXPECT_EQ(missing.status, 1);
    EXPECT_NE(missing.err.find("has no column \"conc\""), std::string::npos);
    EXPECT_EQ(run({"stats", "--in", words, "--y", "who"}).status, 1);
}

TEST_F(Files, ThatAreNoTablesAreRefusedWithTheirReason) {
    const std::vector<std::pair<std::string, std::string>> cases{
        {write("empty.csv", ""), "import.empty"},
        {write("binary.csv", std::string("x,y\n1\0,2\n", 9)), "import.binary"},
        {write("quote.csv", "x,y\n1,\"2\n"), "import.quote-open"},
        {(m_folder / "missing.csv").string(), "import.not-found"}};
    for (const auto& [path, code] : cases) {
        for (const char* command : {"fit", "compare", "detect", "stats"}) {
            const Ran ran = run({command, "--in", path});
            EXPECT_EQ(ran.status, 1) << command << " " << path;
            const auto json = nlohmann::json::parse(ran.out); // says the same
            EXPECT_EQ(json["status"], "error");
            EXPECT_EQ(json["code"], code);
            EXPECT_NE(ran.err.find(json["message"].get<std::string>() + " [" + code + "]"), std::string::npos)
                << ran.err;
        }
    }
}

// 1e5 lines: read at once, described as the plain formulas describe them.
TEST_F(Files, OfManyLinesAreDescribedAsTheyAre) {
    std::mt19937 random(4);
    std::uniform_int_distribution<int> uniform(0, 9999);
    std::string text = "run;y\n";
    std::vector<double> values;
    for (int i = 0; i < 100'000; ++i) {
        const int value = uniform(random);
        values.push_back(value / 100.0);
        text += (i % 2 == 0 ? "odd;" : "even;") + std::to_string(value / 100) + "," +
                std::string(value % 100 < 10 ? "0" : "") + std::to_string(value % 100) + "\n";
    }
    const Ran ran = run({"stats", "--in", write("long.csv", text), "--y", "y", "--group", "run"});
    ASSERT_EQ(ran.status, 0) << ran.err;
    const Json json = Json::parse(ran.out);
    EXPECT_EQ(json["n"], 100'000);
    long double sum = 0;
    for (const double v : values) {
        sum += v;
    }
    EXPECT_NEAR(json["mean"].get<double>(), static_cast<double>(sum / 100'000), 1e-12);
    std::vector<double> sorted = values;
    std::sort(sorted.begin(), sorted.end());
    EXPECT_EQ(json["median"].get<double>(), sorted[49'999] + (sorted[50'000] - sorted[49'999]) / 2);
    ASSERT_EQ(json["groups"].size(), 2u);
    EXPECT_EQ(json["groups"][0]["group"], "odd"); // in the order of the file
    EXPECT_EQ(json["groups"][0]["n"], 50'000);
}

TEST_F(Files, AreReadByTheWaysOfCallingThatMakeSense) {
    const std::string path = write("a.csv", table(',', '.', "\n", false));
    const std::vector<std::vector<std::string>> wrong{
        {"fit"},
        {"fit", "--in"},
        {"fit", "--in", path, "--model", "6pl"},
        {"fit", "--in", path, "--weight", "1/z"},
        {"fit", "--in", path, "--weight-from", "nowhere"},
        {"fit", "--in", path, "--fit-to", "medians"},
        {"fit", "--in", path, "--interval", "guess"},
        {"fit", "--in", path, "--interval", "profile"},
        {"fit", "--in", path, "--model", "4pl", "--interval", "fieller"},
        {"fit", "--in", path, "--replicates-average", "both"},
        {"fit", "--in", path, "--confidence", "1"},
        {"fit", "--in", path, "--confidence", "0"},
        {"fit", "--in", path, "--confidence", "much"},
        {"fit", "--in", path, "--m", "0"},
        {"fit", "--in", path, "--blank-se", "-1"},
        {"fit", "--in", path, "--simulations", "5"},
        {"fit", "--in", path, "--factor", "0"},
        {"fit", "--in", path, "--read", "1,two"},
        {"fit", "--in", path, "--hold", "a=0"},
        {"fit", "--in", path, "--model", "4pl", "--hold", "c=1"},
        {"fit", "--in", path, "--model", "4pl", "--hold", "a"},
        {"fit", "--in", path, "--fixed", "0,0"},
        {"fit", "--in", path, "--model", "line-fixed", "--fixed", "0"},
        {"fit", "--in", path, "--nonsense", "1"},
        {"fit", path},
        {"compare", "--in", path, "--model", "line,6pl"},
        {"compare", "--in", path, "--weight", "none,1/z"},
        {"compare", "--in", path, "--limit", "0"},
        {"detect", "--in", path, "--k", "0"},
        {"detect", "--in", path, "--precision", "0"},
        {"detect", "--in", path, "--beta", "0.5"},
        {"stats"},
        {"stats", "--in", path, "--alpha", "2"},
        {"solve", "--in", path, "--formula", "b*x"},
        {"solve", "--in", path, "--formula", "b*x", "--start", "b=1,b=2"},
        {"solve", "--in", path, "--formula", "b*x", "--start", "b=1,c=2"},
        {"solve", "--in", path, "--formula", "x*y", "--start", "x=1"},
    };
    for (const auto& arguments : wrong) {
        const Ran ran = run(arguments);
        std::string call;
        for (const std::string& argument : arguments) {
            call += argument + " ";
        }
        EXPECT_EQ(ran.status, 2) << call << ran.err;
        EXPECT_TRUE(ran.out.empty()) << call;
        EXPECT_NE(ran.err.find("[cli.wrong-call]"), std::string::npos) << call << ran.err;
    }
}

} // namespace
} // namespace nuvat
