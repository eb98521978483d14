// potency, combine, decide, control-percent, best and polish by the command line: the digits are those of core (see
// tests/reference/planning_test.cpp), here are the keys, the columns and what is refused.
#include "support/reference.h"
#include "support/run_command.h"

#include <fstream>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using Json = nlohmann::json;

class PlanningCommands : public testing::Test {
protected:
    std::string write(const std::string& name, const std::string& text) const {
        std::ofstream(m_folder / name) << text;
        return (m_folder / name).string();
    }
    static Json answer(std::vector<std::string> arguments, int status = 0) {
        const auto ran = test::run(std::move(arguments));
        EXPECT_EQ(ran.status, status) << ran.err << ran.out;
        return ran.out.empty() ? Json() : Json::parse(ran.out);
    }
    static std::string reference(const std::string& name) { return test::referenceFile(name).string(); }

    test::TemporaryFolder m_folder;
};

TEST_F(PlanningCommands, Potency) {
    const std::vector<std::string> call{"potency",   "--in",        reference("potency_parallel.csv"),
                                        "--group",   "preparation", "--reference",
                                        "reference", "--x",         "dose",
                                        "--y",       "response"};
    const Json json = answer(call);
    EXPECT_EQ(json["status"], "ok");
    EXPECT_EQ(json["test"], "test");
    EXPECT_NEAR(json["potency"], 1.2899443246261288, 1e-10);
    EXPECT_NEAR(json["parallelism"]["F"], 1.4621214444244448, 1e-8);
    EXPECT_NEAR(json["parameters"]["c"], 12.267820674479902, 1e-8);
    EXPECT_EQ(json["df"], 43);
    auto with = [&](std::vector<std::string> more) {
        more.insert(more.begin(), call.begin(), call.end());
        return more;
    };
    EXPECT_EQ(answer(with({"--alpha", "0.3"}))["status"], "not-parallel")
        << "p is 0.24; the potency is given all the same";
    // 1/s2 and 1/y weigh both preparations by one scale.
    const Json weighted = answer(with({"--weight", "1/y", "--weight-floor", "1e-6"}));
    EXPECT_NEAR(weighted["potency"], 1.29, 0.05);
    EXPECT_NE(weighted["potency"], json["potency"]);
    EXPECT_NEAR(answer(with({"--weight", "1/s2"}))["potency"], 1.29, 0.08);
    EXPECT_EQ(answer(with({"--weight", "variance"}), 2), Json());
    EXPECT_EQ(answer({"potency", "--in", reference("potency_parallel.csv"), "--group", "preparation", "--reference",
                      "none", "--x", "dose", "--y", "response"},
                     1)["code"],
              "potency.no-reference");
    const std::string three = write("three.csv", "group,x,y\nr,1,1\nr,2,2\na,1,2\na,2,3\nb,1,3\nb,2,4\n");
    EXPECT_EQ(answer({"potency", "--in", three, "--reference", "r", "--model", "line"}, 1)["code"], "potency.several");
    EXPECT_NEAR(answer({"potency", "--in", three, "--reference", "r", "--model", "line", "--test", "b"})["potency"], 4,
                1e-12);
}

TEST_F(PlanningCommands, CombineCountsLinesFromOne) {
    const std::string file =
        write("d.csv", "f;c;u\n50;34,2;0,8\n10;61;1,5\n250;8,05;0,2\n1250;1,57;0,06\n6250;0,21;0,05\n");
    const Json json =
        answer({"combine", "--in", file, "--factor", "f", "--value", "c", "--se", "u", "--range", "0.5:100"});
    EXPECT_EQ(json["used"], (Json{1, 2, 3, 4}));
    EXPECT_EQ(json["reported"], (Json{3, 4}));
    EXPECT_EQ(json["agree"], false);
    EXPECT_NEAR(json["chiSquared"], 1475.679090151391, 1e-8);
    EXPECT_EQ(json["warnings"].size(), 1u);
    EXPECT_TRUE(answer({"combine", "--in", file, "--factor", "f", "--value", "c", "--se", "u", "--range",
                        "200:300"})["reported"]
                    .is_null());
    EXPECT_EQ(answer({"combine", "--in", file}, 2), Json());
}

TEST_F(PlanningCommands, Decide) {
    const std::string file = write("v.csv", "value,u,df\n8.9,0.4,9\n10.3,0.35,9\n31,1,9\n");
    const Json json =
        answer({"decide", "--in", file, "--se", "u", "--df", "df", "--limit", "10,25", "--names", "low,middle,high"});
    EXPECT_EQ(json["values"][0]["byInterval"], "low");
    EXPECT_EQ(json["values"][1]["byValue"], "middle");
    EXPECT_EQ(json["values"][1]["byInterval"], "not decided");
    EXPECT_EQ(json["values"][1]["reaches"], (Json{"low", "middle"}));
    EXPECT_EQ(json["values"][2]["limits"][1]["guardedAbove"], true);
    EXPECT_EQ(json["counts"], (Json{{"low", 1}, {"middle", 1}, {"high", 1}}));
    const std::string negatives =
        write("n.csv", "od\n0.061\n0.072\n0.055\n0.083\n0.066\n0.07\n0.058\n0.077\n0.064\n0.069\n");
    const std::string samples = write("s.csv", "value,u\n0.0832,0.004\n0.31,0.012\n");
    const Json index = answer({"decide", "--in", samples, "--se", "u", "--negatives", negatives, "--grey", "0.9:1.1"});
    EXPECT_NEAR(index["cutOff"]["value"], 0.0932390753524675, 1e-14);
    EXPECT_EQ(index["values"][0]["byValue"], "negative");
    EXPECT_EQ(index["values"][0]["reaches"], (Json{"negative", "borderline"}));
    EXPECT_EQ(index["values"][1]["byInterval"], "positive");
    EXPECT_EQ(answer({"decide", "--in", file, "--limit", "25,10"}, 2), Json());
    EXPECT_EQ(answer({"decide", "--in", file, "--limit", "10", "--names", "one"}, 2), Json());
    EXPECT_EQ(answer({"decide", "--in", file}, 2), Json());
    EXPECT_EQ(answer({"decide", "--in", write("bad.csv", "value,u\n1,-1\n"), "--se", "u", "--limit", "2"}, 1)["code"],
              "decide.negative");
}

TEST_F(PlanningCommands, ControlPercentBestAndPolish) {
    const Json control = answer({"control-percent", "--in", reference("percent_of_control.csv")});
    EXPECT_NEAR(control["samples"][0]["percent"], 49.04452602842888, 1e-9);
    EXPECT_NEAR(control["samples"][0]["inhibition"], 50.95547397157112, 1e-9);
    EXPECT_NEAR(control["samples"][1]["interval"][1], 103.83498064061008, 1e-7);
    EXPECT_EQ(answer({"control-percent", "--in", reference("percent_of_control.csv"), "--blank", "none"}, 1)["code"],
              "control.too-few");
    const std::string file = write("b.csv", "y\n1.021\n1.034\n0.874\n1.019\n1.047\n");
    const Json best = answer({"best", "--in", file, "--n", "3"});
    EXPECT_EQ(best["kept"], (Json{1, 2, 4}));
    EXPECT_EQ(best["leftOut"], (Json{3, 5}));
    EXPECT_EQ(answer({"best", "--in", file, "--n", "6"}, 1)["code"], "best.too-few");
    const Json polish = answer({"polish", "--in", reference("median_polish_plate.csv")});
    EXPECT_EQ(polish["iterations"], 3);
    EXPECT_NEAR(polish["scores"][2][5], 40.472965875273964, 1e-9);
    EXPECT_EQ(answer({"polish", "--iterations", "500", "--in", reference("median_polish_plate.csv")})["iterations"], 4);
    EXPECT_EQ(answer({"polish", "--in", file}, 1)["status"], "error");
}

// Common practice: a stock of 10 for levels 0, 0.5, 1, 2 and 10 is diluted by 20, 10, 5 and 1.
TEST_F(PlanningCommands, PlanOfStandards) {
    const Json direct = answer({"plan", "--stock", "10", "--levels", "0,0.5,1,2,10", "--volume", "1000"});
    std::vector<Json> factors;
    for (const Json& level : direct["levels"]) {
        factors.push_back(level["factor"]);
    }
    EXPECT_EQ(factors, (std::vector<Json>{nullptr, 20.0, 10.0, 5.0, 1.0}));
    EXPECT_EQ(direct["levels"][1]["stockVolume"], 50.0);
    EXPECT_EQ(direct["levels"][0]["diluentVolume"], 1000.0);
    EXPECT_EQ(direct["stockNeeded"], 1350.0);
    const Json serial = answer({"plan", "--stock", "900", "--top", "300", "--divide-by", "3", "--count", "8",
                                "--serial", "--left", "300", "--least", "20"});
    EXPECT_EQ(serial["levels"].size(), 8u);
    EXPECT_EQ(serial["levels"][2]["from"], "level 2");
    EXPECT_NEAR(serial["levels"][7]["factor"], 900.0 / 300 * 2187, 1e-9);
    const Json above = answer({"plan", "--stock", "2", "--levels", "2.5", "--volume", "10"});
    EXPECT_EQ(above["levels"][0]["stockVolume"], nullptr);
    EXPECT_EQ(above["levels"][0]["warnings"].size(), 1u);
    const Json wide = answer({"plan", "--stock", "1000", "--levels", "10", "--volume", "1000", "--least", "20"});
    EXPECT_EQ(wide["levels"][0]["steps"][1]["from"], "step 1");
    EXPECT_EQ(answer({"plan", "--stock", "10", "--levels", "1"}, 2), Json());
    EXPECT_EQ(answer({"plan", "--stock", "10", "--top", "1", "--volume", "1"}, 2), Json());
    EXPECT_EQ(answer({"plan", "--stock", "0", "--levels", "1", "--volume", "1"}, 1)["code"], "plan.stock");
}

} // namespace
} // namespace nuvat
