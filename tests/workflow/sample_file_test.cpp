// Lists of samples from files.
#include "nuvat/workflow/sample_file.h"

#include "support/reference.h"

#include <fstream>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

class SampleFile : public ::testing::Test {
protected:
    std::string read(const std::string& text) {
        std::ofstream(m_folder / "samples.csv", std::ios::binary) << text;
        NoProgress progress;
        const auto got = readSampleNames(m_folder / "samples.csv", progress);
        return got ? *got : got.error().code;
    }
    const test::TemporaryFolder m_folder;
};

TEST_F(SampleFile, ColumnsAreFoundByTheirHeadings) {
    EXPECT_EQ(read("No;Sample;Dilution\n1;Cider 1;5\n2;Cider 2;1 + 9\n3;;\n4;Perry;2,5\n"),
              "Cider 1\t5\nCider 2\t1 + 9\nPerry\t2.5\n");
    EXPECT_EQ(read("name\ttaken\nCider 1\tMay\n"), "Cider 1\n");
}

TEST_F(SampleFile, WithoutHeadingsTheFirstColumnIsTheName) {
    EXPECT_EQ(read("Cider 1;10\nCider 2;20\n"), "Cider 1\t10\nCider 2\t20\n");
    EXPECT_EQ(read("Juice, clear\nJuice, cloudy\nPerry\n"), "Juice, clear\nJuice, cloudy\nPerry\n");
}

TEST_F(SampleFile, WhatHoldsNoNamesIsRefused) {
    EXPECT_EQ(read(""), "samples.none");
    EXPECT_EQ(read("Sample;Dilution\n"), "samples.none");
    NoProgress progress;
    EXPECT_EQ(readSampleNames(m_folder / "missing.csv", progress).error().code, "import.not-found");
}

TEST_F(SampleFile, SheetsAreReadToo) {
    NoProgress progress;
    const auto got = readSampleNames(
        std::filesystem::path(NUVAT_TEST_DIR) / "fixtures" / "spreadsheets" / "libreoffice.xlsx", progress);
    EXPECT_TRUE(got) << got.error().text();
}

} // namespace
} // namespace nuvat
