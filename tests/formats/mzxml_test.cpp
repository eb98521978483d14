// mzXML written here by its schema, version 3.0; the first file holds the pairs 1 to 5 with 6 to 10.
#include "nuvat/formats/any_file.h"
#include "nuvat/formats/mzxml.h"

#include <algorithm>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

/// The pairs (1, 6) to (5, 10) as 64-bit numbers in network order.
constexpr const char* kPairs =
    "P/AAAAAAAABAGAAAAAAAAEAAAAAAAAAAQBwAAAAAAABACAAAAAAAAEAgAAAAAAAAQBAAAAAAAABAIgAAAAAAAEAUAAAA"
    "AAAAQCQAAAAAAAA=";
/// 1.5 and 2.5 as 32-bit numbers in network order: 3FC00000 40200000.
constexpr const char* kTwo = "P8AAAEAgAAA=";

std::string scan(const std::string& attributes, const std::string& peaks, const std::string& below = {}) {
    return "<scan " + attributes + ">" + peaks + below + "</scan>";
}

std::string peaks(const std::string& text, const std::string& attributes) {
    return "<peaks byteOrder=\"network\" " + attributes + ">" + text + "</peaks>";
}

std::string file(const std::string& scans, const std::string& run = "scanCount=\"1\"") {
    return "<?xml version=\"1.0\" encoding=\"ISO-8859-1\"?>\n<mzXML><msRun " + run +
           "><parentFile fileName=\"a.raw\"/><msInstrument><msModel category=\"msModel\" "
           "value=\"M1\"/></msInstrument>" +
           scans + "</msRun><index name=\"scan\"><offset id=\"1\">9</offset></index></mzXML>";
}

const std::string kFive = scan("num=\"1\" peaksCount=\"5\" retentionTime=\"PT1M3.5S\"",
                               peaks(kPairs, "precision=\"64\" contentType=\"m/z-int\""));

TEST(Mzxml, PairsAreReadInNetworkOrder) {
    const auto read = readMzxml(file(kFive));
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(read->traces.size(), 1u);
    const FileTrace& trace = read->traces.front();
    EXPECT_EQ(trace.name, "scan 1");
    EXPECT_EQ(trace.place, "63.5 s");
    EXPECT_EQ(trace.x, (std::vector<double>{1, 2, 3, 4, 5}));
    EXPECT_EQ(trace.y, (std::vector<double>{6, 7, 8, 9, 10}));
    EXPECT_TRUE(read->warnings.empty());
    const auto header =
        std::ranges::find(read->header, std::string("msModel"), &std::pair<std::string, std::string>::first);
    ASSERT_NE(header, read->header.end());
    EXPECT_EQ(header->second, "M1");
    // As any file, whatever it is called.
    NoProgress progress;
    EXPECT_TRUE(readAnyBytes(file(kFive), "a.txt", progress));
}

TEST(Mzxml, ScansBelowScansAndArraysByThemselves) {
    const std::string arrays =
        peaks(kTwo, "precision=\"32\" contentType=\"m/z\"") + peaks(kTwo, "precision=\"32\" contentType=\"intensity\"");
    const auto read =
        readMzxml(file(scan("num=\"1\" peaksCount=\"1\"", peaks(kTwo, "precision=\"32\" pairOrder=\"m/z-int\""),
                            scan("num=\"2\" peaksCount=\"2\"", arrays)),
                       "scanCount=\"7\""));
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(read->traces.size(), 2u) << "in the order in which they begin";
    EXPECT_EQ(read->traces[0].x, std::vector<double>{1.5});
    EXPECT_EQ(read->traces[0].y, std::vector<double>{2.5});
    EXPECT_EQ(read->traces[1].x, (std::vector<double>{1.5, 2.5}));
    EXPECT_EQ(read->traces[1].y, (std::vector<double>{1.5, 2.5}));
    ASSERT_EQ(read->warnings.size(), 1u) << "the count of the file is a hint";
}

TEST(Mzxml, WhatIsWrongIsSaidWithItsScan) {
    const auto codeOf = [](const std::string& text) {
        const auto read = readMzxml(text);
        return read ? std::string("ok") : read.error().code + ": " + read.error().message;
    };
    const auto with = [&](const std::string& count, const std::string& attributes) {
        return file(scan("num=\"4\" peaksCount=\"" + count + "\"", peaks(kPairs, attributes)));
    };
    EXPECT_EQ(codeOf(with("500000000", "precision=\"64\"")).substr(0, 19), "mzxml.peaks: Scan 4");
    EXPECT_EQ(codeOf(with("4", "precision=\"64\"")).substr(0, 19), "mzxml.peaks: Scan 4");
    EXPECT_EQ(codeOf(with("-1", "precision=\"64\"")).substr(0, 11), "mzxml.peaks");
    EXPECT_NE(codeOf(with("5", "precision=\"64\" contentType=\"TOF\"")).find("TOF"), std::string::npos);
    EXPECT_NE(codeOf(with("5", "precision=\"64\" compressionType=\"rar\"")).find("rar"), std::string::npos);
    EXPECT_EQ(codeOf(with("5", "precision=\"64\" compressionType=\"zlib\"")).substr(0, 11), "mzxml.peaks");
    EXPECT_EQ(codeOf(with("5", "precision=\"12\"")).substr(0, 11), "mzxml.peaks");
    EXPECT_EQ(codeOf(file("")).substr(0, 11), "mzxml.peaks");
    EXPECT_EQ(codeOf(file(kFive).substr(0, 300)).substr(0, 9), "mzxml.xml");
    EXPECT_EQ(codeOf("").substr(0, 9), "mzxml.xml");
    EXPECT_EQ(codeOf(file(scan("num=\"1\" peaksCount=\"3\"", ""))).substr(0, 11), "mzxml.peaks") << "no peaks at all";
}

} // namespace
} // namespace nuvat
