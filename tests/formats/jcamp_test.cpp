// JCAMP-DX. The ten ordinates in all forms are the example of McDonald and Wilks, Applied Spectroscopy 42 (1988) 151,
// from memory.
#include "nuvat/formats/jcamp.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

std::string file(const std::string& labels, const std::string& table) {
    return "##TITLE=test\n##JCAMP-DX=4.24\n##DATA TYPE=INFRARED SPECTRUM\n##XUNITS=1/CM\n##YUNITS=ABSORBANCE\n" +
           labels + table + "\n##END=\n";
}

std::vector<double> ordinates(const std::string& line, int points) {
    const auto read = readJcamp(file("##FIRSTX=1\n##LASTX=" + std::to_string(points) +
                                         "\n##NPOINTS=" + std::to_string(points) + "\n##XFACTOR=1\n##YFACTOR=1\n",
                                     "##XYDATA=(X++(Y..Y))\n" + line));
    EXPECT_TRUE(read) << read.error().text();
    return read ? read->traces.front().y : std::vector<double>();
}

const std::vector<double> kOrdinates{1, 2, 3, 3, 2, 1, 0, -1, -2, -3};

TEST(Jcamp, ReadsEveryFormOfOrdinates) {
    EXPECT_EQ(ordinates("1 1 2 3 3 2 1 0 -1 -2 -3", 10), kOrdinates); // AFFN
    EXPECT_EQ(ordinates("1+1+2+3+3+2+1+0-1-2-3", 10), kOrdinates);    // packed
    EXPECT_EQ(ordinates("1ABCCBA@abc", 10), kOrdinates);              // squeezed
    EXPECT_EQ(ordinates("1AJJ%jjjjjj", 10), kOrdinates);              // differences
    EXPECT_EQ(ordinates("1AJT%jX", 10), kOrdinates);                  // with duplicates
    EXPECT_EQ(ordinates("1 1.5E+02 -2.5e-1", 2), (std::vector<double>{150, -0.25}));
    EXPECT_EQ(ordinates("1A0S", 1), (std::vector<double>{10})); // a count of one repeats nothing
}

TEST(Jcamp, ChecksTheOrdinateThatALineRepeats) {
    // The second line begins with the last ordinate of the first; it is compared and dropped.
    const std::string table = "##XYDATA=(X++(Y..Y))\n1A0J1\n2B1J1";
    const std::string labels = "##FIRSTX=1\n##LASTX=3\n##NPOINTS=3\n";
    const auto read = readJcamp(file(labels, table));
    ASSERT_TRUE(read) << read.error().text();
    EXPECT_EQ(read->traces.front().y, (std::vector<double>{10, 21, 32}));
    EXPECT_EQ(read->traces.front().x, (std::vector<double>{1, 2, 3}));
    EXPECT_TRUE(read->warnings.empty());
    const auto wrong = readJcamp(file(labels, "##XYDATA=(X++(Y..Y))\n1A0J1\n2B2J1"));
    ASSERT_TRUE(wrong);
    ASSERT_EQ(wrong->warnings.size(), 1u);
    EXPECT_NE(wrong->warnings.front().find("1 of its checks"), std::string::npos);
}

TEST(Jcamp, AMissingOrdinateKeepsItsPlace) {
    const auto read =
        readJcamp(file("##FIRSTX=10\n##LASTX=40\n##NPOINTS=4\n##YFACTOR=0.5\n", "##XYDATA=(X++(Y..Y))\n10 1 ? 3 4"));
    ASSERT_TRUE(read) << read.error().text();
    EXPECT_EQ(read->traces.front().missing, (std::vector<std::size_t>{1}));
    EXPECT_EQ(read->traces.front().y, (std::vector<double>{0.5, 0, 1.5, 2}));
    EXPECT_EQ(read->traces.front().x, (std::vector<double>{10, 20, 30, 40}));
}

TEST(Jcamp, ReadsPairsBlocksAndComments) {
    const auto read = readJcamp("\n##TITLE=all\n##DATA TYPE=LINK\n##BLOCKS=9\n"
                                "##title=first $$ a comment\n##X-Units=\tV\n##yunits= A\n$$ a line\n##NPOINTS=3\n"
                                "##XYPOINTS=(XY..XY)\n0.1, 1; 0.2, 2 $$ two\n0.3 ?\n##END=\n"
                                "##TITLE=peaks\n##NPOINTS=9\n##PEAK TABLE=(XY..XY)\n5,1 6,2\n##END=\n##END=\n##END=\n");
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(read->traces.size(), 2u);
    EXPECT_EQ(read->traces[0].name, "first");
    EXPECT_EQ(read->traces[0].xAxis.unit, "V");
    EXPECT_EQ(read->traces[0].x, (std::vector<double>{0.1, 0.2, 0.3}));
    EXPECT_EQ(read->traces[0].missing, (std::vector<std::size_t>{2}));
    EXPECT_TRUE(read->traces[1].isTable);
    EXPECT_EQ(read->traces[1].y, (std::vector<double>{1, 2}));
    ASSERT_EQ(read->warnings.size(), 1u); // nine rows announced, two there
    EXPECT_NE(read->warnings.front().find("announces 9"), std::string::npos);
}

TEST(Jcamp, ReadsThePagesOfNtuples) {
    const std::string head = "##TITLE=cv\n##NTUPLES=VOLTAMMOGRAM\n##VAR_NAME=POTENTIAL, CURRENT, SWEEP\n"
                             "##SYMBOL=X, I, N\n##UNITS=V, A, \n##FACTOR=1, 0.001, 1\n##FIRST=0, , 1\n##LAST=2, , 2\n"
                             "##VAR_DIM=3, 3, 2\n";
    const std::string pages = "##PAGE=N=1\n##DATA TABLE=(X++(I..I)), XYDATA\n0+1+2+3\n##PAGE=N=2\n"
                              "##DATA TABLE=(X++(I..I)), XYDATA\n0C%j\n##END NTUPLES=\n##END=\n";
    const auto read = readJcamp(head + pages);
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(read->traces.size(), 2u);
    EXPECT_EQ(read->traces[1].place, "N=2");
    EXPECT_EQ(read->traces[0].yAxis.unit, "A");
    EXPECT_EQ(read->traces[0].x, (std::vector<double>{0, 1, 2}));
    EXPECT_DOUBLE_EQ(read->traces[0].y.at(2), 0.003);
    EXPECT_DOUBLE_EQ(read->traces[1].y.at(2), 0.002);
    const auto without = readJcamp("##TITLE=cv\n##NTUPLES=X\n" + pages);
    ASSERT_FALSE(without);
    EXPECT_EQ(without.error().code, "jcamp.symbols");
}

TEST(Jcamp, RefusesWhatCannotBeRight) {
    const std::string even = "##FIRSTX=1\n##LASTX=3\n";
    const std::string table = "##XYDATA=(X++(Y..Y))\n1 1 2 3";
    const std::vector<std::pair<std::string, std::string>> cases{
        {"x,y\n1,2\n", "jcamp.no-title"},
        {"##TITLE=a\n##END=\n", "jcamp.no-data"},
        {file(even + "##NPOINTS=5\n", table), "jcamp.points"},
        {file(even + "##NPOINTS=2\n", table), "jcamp.points"},
        {file(even + "##NPOINTS=4294967297\n", table), "jcamp.points"},
        {file("##FIRSTX=3\n##LASTX=3\n", table), "jcamp.range"},
        {file("", table), "jcamp.range"},
        {file(even + "##YFACTOR=0,5\n", table), "jcamp.number"},
        {file(even, "##XYDATA=(X++(Y..Y))\n1 1 NaN 3"), "jcamp.number"},
        {file(even, "##XYDATA=(X++(Y..Y))\n1J1"), "jcamp.number"},
        {file(even, "##XYDATA=(X++(Y..Y))\n1As999999999"), "jcamp.number"},
        {file("", "##XYDATA=(XY..XY)\n1 1 2"), "jcamp.pairs"},
        {file("", "##XYDATA=(AB)\n1 1"), "jcamp.form"},
    };
    for (const auto& [text, code] : cases) {
        const auto read = readJcamp(text);
        ASSERT_FALSE(read) << text;
        EXPECT_EQ(read.error().code, code) << text << "\n" << read.error().text();
        EXPECT_FALSE(read.error().advice.empty());
    }
}

TEST(Jcamp, SaysWhenItsEndIsMissing) {
    const auto read = readJcamp("##TITLE=a\n##FIRSTX=1\n##LASTX=2\n##XYDATA=(X++(Y..Y))\n1 1 2\n");
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(read->warnings.size(), 1u);
    EXPECT_NE(read->warnings.front().find("##END"), std::string::npos);
}

} // namespace
} // namespace nuvat
