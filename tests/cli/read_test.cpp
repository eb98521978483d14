// nuvat-cli read: what a file holds.
#include "support/reference.h"
#include "support/run_command.h"

#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace nuvat {
namespace {

using Json = nlohmann::json;
using test::run;

class Read : public ::testing::Test {
protected:
    std::string write(const std::string& name, const std::string& bytes) const {
        const auto path = m_folder / name;
        std::ofstream(path, std::ios::binary) << bytes;
        return path.string();
    }
    test::TemporaryFolder m_folder;
};

TEST_F(Read, ATraceAsItStands) {
    const std::string path = write("a.dx", "##TITLE=spectrum\n##DATA TYPE=UV/VIS SPECTRUM\n##XUNITS=NANOMETERS\n"
                                           "##YUNITS=ABSORBANCE\n##FIRSTX=400\n##LASTX=700\n##NPOINTS=4\n"
                                           "##YFACTOR=0.25\n##XYDATA=(X++(Y..Y))\n400 4 ? 8 2\n##END=\n");
    const auto ran = run({"read", path});
    ASSERT_EQ(ran.status, 0) << ran.err;
    const Json json = Json::parse(ran.out);
    EXPECT_EQ(json["format"], "JCAMP-DX");
    EXPECT_EQ(json["status"], "ok");
    EXPECT_EQ(json["header"]["DATA TYPE"], "UV/VIS SPECTRUM");
    ASSERT_EQ(json["readings"].size(), 1u);
    const Json& trace = json["readings"][0];
    EXPECT_EQ(trace["kind"], "trace");
    EXPECT_EQ(trace["name"], "spectrum");
    EXPECT_EQ(trace["points"], 4);
    EXPECT_EQ(
        trace["x"],
        (Json{
            {"name", ""}, {"unit", "NANOMETERS"}, {"first", 400.0}, {"last", 700.0}, {"min", 400.0}, {"max", 700.0}}));
    EXPECT_EQ(trace["y"], (Json{{"name", ""},
                                {"unit", "ABSORBANCE"},
                                {"first", 1.0},
                                {"last", 0.5},
                                {"min", 0.5},
                                {"max", 2.0},
                                {"sum", 3.5},
                                {"missing", 1}}));
}

TEST_F(Read, APlateWellByWell) {
    const auto ran = run({"read", write("p.csv", "Read at 450 nm\n,1,2,3\nA,0.1,0.2,OVER\nB,0.3,0.4,\n")});
    ASSERT_EQ(ran.status, 0) << ran.err;
    const Json json = Json::parse(ran.out);
    const Json& grid = json["readings"][0];
    EXPECT_EQ(grid["kind"], "grid");
    EXPECT_EQ(grid["name"], "450 nm");
    EXPECT_EQ(grid["rows"], 2);
    EXPECT_EQ(grid["wells"]["A2"], 0.2);
    EXPECT_EQ(grid["wells"]["A3"], "OVER");
    EXPECT_TRUE(grid["wells"]["B3"].is_null());
    EXPECT_FALSE(json["warnings"].empty());
}

TEST_F(Read, RefusesWithACode) {
    const std::vector<std::pair<std::string, std::string>> cases{
        {write("cut.dx", "##TITLE=a\n##FIRSTX=1\n##LASTX=9\n##NPOINTS=9\n##XYDATA=(X++(Y..Y))\n1 1 2\n"),
         "jcamp.points"},
        {write("run.cdf", std::string("CDF\x01", 4) + "rest"), "netcdf.format"},
        {write("run.mzXML", "<?xml version=\"1.0\"?><mzXML></mzXML>"), "mzxml.peaks"},
        {write("run.mzML", "<?xml version=\"1.0\"?><html></html>"), "mzml.root"},
        {write("a.fcs", "FCS3.1    "), "read.not-yet"},
        {(m_folder / "none.csv").string(), "import.not-found"},
        {(m_folder / ".").string(), "import.not-found"}, // a folder
    };
    for (const auto& [path, code] : cases) {
        const auto ran = run({"read", path});
        EXPECT_EQ(ran.status, 1) << path;
        const Json json = Json::parse(ran.out);
        EXPECT_EQ(json["status"], "error");
        EXPECT_EQ(json["code"], code) << json.dump();
        EXPECT_FALSE(json["message"].get<std::string>().empty());
    }
    EXPECT_EQ(run({"read"}).status, 2);
}

} // namespace
} // namespace nuvat
