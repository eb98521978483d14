#include "nuvat/core/base/number.h"
#include "nuvat/core/base/well.h"

#include <clocale>
#include <cmath>
#include <gtest/gtest.h>
#include <random>
#include <vector>

namespace nuvat {
namespace {

TEST(ParseNumber, TakesExactlyOneNumber) {
    EXPECT_EQ(parseNumber("1.5"), 1.5);
    EXPECT_EQ(parseNumber("  -0.25\t"), -0.25);
    EXPECT_EQ(parseNumber("+3e-2"), 0.03);
    EXPECT_EQ(parseNumber("\u22121.5"), -1.5); // the real minus sign, as our own tables copy it
    EXPECT_EQ(parseNumber("1,5", {','}), 1.5);
}

TEST(ParseNumber, RefusesEverythingElse) {
    for (const char* text :
         {"", " ", "1.2a", "a1.2", "1 2", "1,5", "nan", "inf", "OVER", "--1", "+-1", "1.2.3", "0x10", "1e999"}) {
        EXPECT_FALSE(parseNumber(text)) << text;
    }
    EXPECT_FALSE(parseNumber("1.5", {','})); // a point in a file with decimal commas is a thousands mark or a mistake
}

TEST(ParseNumber, DoesNotListenToTheLocale) {
    std::setlocale(LC_ALL, "de_DE.UTF-8");
    EXPECT_EQ(parseNumber("1.5"), 1.5);
    EXPECT_EQ(formatNumber(1.5), "1.5");
    std::setlocale(LC_ALL, "C");
}

TEST(ParseCell, TakesThousandsOnlyWhereNothingElseIsPossible) {
    EXPECT_EQ(parseCell("1'234.5"), 1234.5);
    EXPECT_EQ(parseCell("-12 345"), -12345);
    EXPECT_EQ(parseCell("1\u202f234,5", {','}), 1234.5);
    EXPECT_EQ(parseCell("1.234,50", {','}), 1234.5);
    EXPECT_EQ(parseCell("1.234.567", {','}), 1234567);
    EXPECT_EQ(parseCell("1,234,567.8e2"), 123456780);
    EXPECT_EQ(parseCell("1.5"), 1.5);
    for (const char* text :
         {"1,234", "1234,567.8", "1,23,456", "12,34.5", "1'234'56", "1,234.567.8", "1 234 5", "'123", ""}) {
        EXPECT_FALSE(parseCell(text)) << text;
    }
    EXPECT_FALSE(parseCell("1.234", NumberFormat{','}));
}

TEST(FormatNumber, ReadsBackAsTheSameDouble) {
    std::mt19937_64 random(20260914);
    std::uniform_real_distribution<double> exponent(-300, 300);
    for (int i = 0; i < 2000; ++i) {
        const double value = std::pow(10.0, exponent(random)) * (i % 2 == 0 ? 1 : -1);
        EXPECT_EQ(parseNumber(formatNumber(value)), value);
    }
    EXPECT_EQ(formatNumber(std::nan("")), "");
}

TEST(FormatFigures, KeepsTrailingZerosAndRoundsUpCorrectly) {
    EXPECT_EQ(formatFigures(1.5, 4), "1.500");
    EXPECT_EQ(formatFigures(9.996, 3), "10.0");
    EXPECT_EQ(formatFigures(0.00123456, 3), "0.00123");
    EXPECT_EQ(formatFigures(1234567, 3), "1230000");
    EXPECT_EQ(formatFigures(-2.5, 2), "\u22122.5");
    EXPECT_EQ(formatFigures(0, 3), "0.00");
    EXPECT_EQ(formatFigures(1.5e-7, 2), "1.5e\u221207");
}

TEST(FormatDecimals, ShowsNoNegativeZero) {
    EXPECT_EQ(formatDecimals(-0.001, 2), "0.00");
    EXPECT_EQ(formatDecimals(-0.01, 2), "\u22120.01");
}

TEST(FiguresForInterval, ShowTwoFiguresOfTheHalfWidth) {
    EXPECT_EQ(figuresForInterval(33.4, 1.8), 3);   // 33.4 with 1.8
    EXPECT_EQ(figuresForInterval(33.4, 0.018), 5); // 33.400 with 0.018
    EXPECT_EQ(figuresForInterval(33.4, 40), 2);    // never fewer than 2
    EXPECT_EQ(figuresForInterval(33.4, 0), 4);     // no interval: 4
}

TEST(FormatPercent, HasAsManyFiguresAsPeopleNeed) {
    EXPECT_EQ(formatPercent(1.26), "1.3 %");
    EXPECT_EQ(formatPercent(101.7), "102 %");
    EXPECT_EQ(formatPercent(-16.83), "\u221216.8 %");
}

TEST(WellNames, GoThereAndBack) {
    for (int row = 0; row < 32; ++row) {
        for (int column = 0; column < 48; ++column) {
            const auto back = parseWellName(wellName(row, column));
            ASSERT_TRUE(back);
            EXPECT_EQ(*back, (WellPosition{row, column}));
        }
    }
    EXPECT_EQ(wellName(26, 0), "AA1");
    EXPECT_EQ(parseWellName("  a01 "), (WellPosition{0, 0}));
}

TEST(WellNames, RefuseWhatIsNoWell) {
    for (const char* text : {"", "A", "1", "A0", "A49", "ABC1", "A1B", "A-1", "Ä1"}) {
        EXPECT_FALSE(parseWellName(text)) << text;
    }
}

TEST(JoinedNumbers, ReadAsASentence) {
    EXPECT_EQ(joinedNumbers({}), "");
    EXPECT_EQ(joinedNumbers(std::vector<double>{0.45}), "0.45");
    EXPECT_EQ(joinedNumbers(std::vector<double>{0.45, 0.9}), "0.45 and 0.9");
    EXPECT_EQ(joinedNumbers(std::vector<double>{1, 2, 3.5}), "1, 2 and 3.5");
}

} // namespace
} // namespace nuvat
