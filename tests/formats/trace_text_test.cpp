// Traces in columns of text.
#include "nuvat/formats/any_file.h"
#include "nuvat/formats/trace_text.h"

#include <gtest/gtest.h>
#include <sstream>

namespace nuvat {
namespace {

Result<FileContent> read(const std::string& text) {
    std::istringstream stream(text);
    NoProgress progress;
    return readTraceText(stream, "run.csv", progress);
}

FileContent content(const std::string& text) {
    auto out = read(text);
    EXPECT_TRUE(out) << (out ? "" : out.error().message);
    return out ? *out : FileContent{};
}

TEST(TraceText, OneXAndSeveralY) {
    const auto got = content("time_s,detector_1_mV,detector_2_mV\n0.0,1,10\n0.5,2,20\n1.0,3,30\n");
    ASSERT_EQ(got.traces.size(), 2u);
    EXPECT_EQ(got.traces[0].xAxis.name, "time");
    EXPECT_EQ(got.traces[0].xAxis.unit, "s");
    EXPECT_EQ(got.traces[1].name, "detector_2");
    EXPECT_EQ(got.traces[1].yAxis.unit, "mV");
    EXPECT_EQ(got.traces[1].x, (std::vector<double>{0, 0.5, 1}));
    EXPECT_EQ(got.traces[1].y, (std::vector<double>{10, 20, 30}));
}

TEST(TraceText, MetadataUnitsAndDecimalCommas) {
    const auto got =
        content("Sample: spike 3\nMethod;isocratic\nTime;Signal\n(min);(mAU)\n0,1;1,5\n0,2;2,5\n0,3;3,5\n");
    ASSERT_EQ(got.traces.size(), 1u);
    EXPECT_EQ(got.traces[0].xAxis.unit, "min");
    EXPECT_EQ(got.traces[0].yAxis.unit, "mAU");
    EXPECT_EQ(got.traces[0].y, (std::vector<double>{1.5, 2.5, 3.5}));
    ASSERT_EQ(got.header.size(), 2u);
    EXPECT_EQ(got.header[0], (std::pair<std::string, std::string>{"Sample", "spike 3"}));
    EXPECT_EQ(got.header[1], (std::pair<std::string, std::string>{"Method", "isocratic"}));
}

TEST(TraceText, PairsOfColumns) {
    const auto got = content("time 1,signal 1,time 2,signal 2\n0,1,0.1,5\n1,2,1.1,6\n2,3,2.1,7\n3,4,,\n");
    ASSERT_EQ(got.traces.size(), 2u);
    EXPECT_EQ(got.traces[0].x.size(), 4u);
    EXPECT_EQ(got.traces[1].x, (std::vector<double>{0.1, 1.1, 2.1}));
    EXPECT_EQ(got.traces[1].y, (std::vector<double>{5, 6, 7}));
    EXPECT_EQ(got.traces[1].name, "signal 2");
}

TEST(TraceText, SeveralRunsUnderEachOther) {
    const auto got = content("run A\ntime,signal\n0,1\n1,2\n2,3\nrun B\ntime,signal\n0,4\n1,5\n2,6\n");
    ASSERT_EQ(got.traces.size(), 2u);
    EXPECT_EQ(got.traces[0].place, "run A");
    EXPECT_EQ(got.traces[1].place, "run B");
    EXPECT_EQ(got.traces[1].y, (std::vector<double>{4, 5, 6}));
}

TEST(TraceText, WithoutHeadingsAndWithRemarks) {
    const auto got = content("# potentiostat\n0.1 1\n0.2 2\n// a pause\n0.3 3\n");
    ASSERT_EQ(got.traces.size(), 1u);
    EXPECT_EQ(got.traces[0].name, "column 2");
    EXPECT_EQ(got.traces[0].x, (std::vector<double>{0.1, 0.2, 0.3}));
}

TEST(TraceText, TheXNeedNotBeTheFirst) {
    const auto got = content("current,potential\n5,0.3\n7,0.2\n6,0.1\n");
    ASSERT_EQ(got.traces.size(), 1u);
    EXPECT_EQ(got.traces[0].xAxis.name, "potential");
}

TEST(TraceText, WhatIsNoNumberIsAMissingPoint) {
    const auto got = content("time,signal\n0,1\n1,OVER\n2,3\n3,\n4,5\n");
    ASSERT_EQ(got.traces.size(), 1u);
    EXPECT_EQ(got.traces[0].missing, (std::vector<std::size_t>{1, 3}));
    ASSERT_EQ(got.warnings.size(), 1u);
    EXPECT_NE(got.warnings[0].find("line 3"), std::string::npos) << got.warnings[0];
}

TEST(TraceText, ValuesDoNotSlide) {
    const auto short_ = read("a,b,c\n1,2,3\n2,3\n3,4,5\n");
    ASSERT_FALSE(short_);
    EXPECT_EQ(short_.error().code, "import.ragged-row");
    EXPECT_NE(short_.error().message.find("line 3"), std::string::npos);
    EXPECT_EQ(read("a,b\n1,2\n2,3,4\n3,4\n").error().code, "import.ragged-row");
    EXPECT_EQ(read("only words here\nand here\n").error().code, "import.no-columns");
    std::string wide = "c0";
    std::string row = "0";
    for (int i = 1; i < 3000; ++i) {
        wide += ",c" + std::to_string(i);
        row += "," + std::to_string(i);
    }
    EXPECT_EQ(read(wide + "\n" + row + "\n").error().code, "import.too-many-columns");
}

TEST(AnyFile, TellsPlatesListsAndTracesApart) {
    const auto kind = [](const std::string& bytes) {
        NoProgress progress;
        const auto out = readAnyBytes(bytes, "a.csv", progress);
        if (!out) {
            return out.error().code;
        }
        const auto* plates = std::get_if<std::vector<PlateImport>>(&*out);
        return std::string(!plates ? "traces" : plates->front().isRunList ? "list" : "plate");
    };
    EXPECT_EQ(kind("time_s,signal\n0,1\n1,2\n2,3\n"), "traces");
    EXPECT_EQ(kind("sample,A\nblank,0.1\nS1,0.2\nS2,0.3\n"), "list");
    EXPECT_EQ(kind(",1,2\nA,0.1,0.2\nB,0.3,0.4\n"), "plate");
    std::string log = "clock,elapsed,temperature\n";
    for (int i = 0; i < 20; ++i) {
        log += "13:40:" + std::to_string(10 + i) + "," + std::to_string(i) + ".5,21." + std::to_string(i % 7) + "\n";
    }
    EXPECT_EQ(kind(log), "traces");
    EXPECT_EQ(kind("Time,Signal\n0,1\n\xEF\xBB\xBFTime,Signal\n1,2\n"), "import.glued");
}

} // namespace
} // namespace nuvat
